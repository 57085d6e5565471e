"""Rules, their versions, what they did, and trials. Used by services.rules, services.ruling and services.trials."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("rules")


@dataclass(frozen=True, kw_only=True)
class HeardRow:
    """A message of the past as rules see it."""

    id: int
    conversation_id: int
    person_id: int
    kind: str
    network: str
    account_id: int
    body: str
    arrived_at: datetime
    language: str | None
    sentiment: float | None
    reads_as: list[str] | None
    evidence: dict[str, Any] | None
    rating: int | None
    has_attachment: bool
    post_id: int | None
    reach: int | None
    standing: int | None
    automatic: bool
    on_ad: bool
    own_handle: str
    person_tags: list[int]
    first_message: bool
    answered: bool
    blocked: bool


async def list_rules(conn: Conn, workspace_id: int, since: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_rules, {"workspace_id": workspace_id, "since": since})


async def list_active(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_active, {"workspace_id": workspace_id})


async def get_rule(conn: Conn, workspace_id: int, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(conn, SQL.get_rule, {"workspace_id": workspace_id, "id": id})
    return rows[0] if rows else None


async def add_rule(
    conn: Conn, workspace_id: int, *, body: Mapping[str, Any], on: bool, member_id: int, now: datetime
) -> int:
    values = {
        "workspace_id": workspace_id,
        "body": Jsonb(body),
        "switched_on": on,
        "member_id": member_id,
        "now": now,
    }
    id: int = await db.fetch_value(conn, SQL.add_rule, values)
    await _keep_version(conn, workspace_id, id, member_id, now)
    return id


async def set_rule(
    conn: Conn,
    workspace_id: int,
    id: int,
    *,
    body: Mapping[str, Any],
    on: bool,
    answers: bool,
    member_id: int,
    now: datetime,
) -> None:
    """With `answers` it answers again, counted from now."""
    values = {
        "workspace_id": workspace_id,
        "id": id,
        "body": Jsonb(body),
        "switched_on": on,
        "member_id": member_id,
        "now": now,
        "answers": answers,
    }
    await db.execute(conn, SQL.set_rule, values)
    await _keep_version(conn, workspace_id, id, member_id, now)


async def stop_answers(conn: Conn, workspace_id: int, id: int, reason: str, now: datetime) -> bool:
    """Let a rule that answered too often answer no more; False when that was done before."""
    values = {"workspace_id": workspace_id, "id": id, "reason": reason, "now": now}
    if await db.fetch_value(conn, SQL.stop_answers, values) is None:
        return False
    await touch_rules(conn, workspace_id)
    return True


async def _keep_version(conn: Conn, workspace_id: int, id: int, member_id: int, now: datetime) -> None:
    values = {"workspace_id": workspace_id, "id": id, "member_id": member_id, "now": now}
    await db.execute(conn, SQL.add_version, values)
    await touch_rules(conn, workspace_id)


async def touch_rules(conn: Conn, workspace_id: int) -> None:
    await db.execute(conn, SQL.touch_rules, {"workspace_id": workspace_id})


async def list_versions(conn: Conn, workspace_id: int, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_versions, {"workspace_id": workspace_id, "id": id})


async def remove_rule(conn: Conn, workspace_id: int, id: int, *, member_id: int, now: datetime) -> bool:
    values = {"workspace_id": workspace_id, "id": id, "member_id": member_id, "now": now}
    found = await db.fetch_value(conn, SQL.remove_rule, values) is not None
    if found:
        await touch_rules(conn, workspace_id)
    return found


async def set_order(conn: Conn, workspace_id: int, ids: Sequence[int]) -> None:
    await db.execute(conn, SQL.set_order, {"workspace_id": workspace_id, "ids": list(ids)})


async def list_groups_of(conn: Conn, workspace_id: int) -> dict[int, frozenset[int]]:
    """Account groups by account."""
    rows = await db.fetch_dicts(conn, SQL.list_groups_of, {"workspace_id": workspace_id})
    found: dict[int, set[int]] = {}
    for row in rows:
        found.setdefault(row["account_id"], set()).add(row["id"])
    return {account: frozenset(groups) for account, groups in found.items()}


async def list_hit_conversations(conn: Conn, workspace_id: int, rule_id: int, since: datetime, limit: int) -> list[int]:
    """The conversations that a rule was met in since, the latest first."""
    values = {"workspace_id": workspace_id, "rule_id": rule_id, "since": since, "limit": limit}
    return [row["conversation_id"] for row in await db.fetch_dicts(conn, SQL.list_hit_conversations, values)]


async def get_example(conn: Conn, workspace_id: int, conversation_id: int) -> dict[str, Any] | None:
    """The last message of theirs in a conversation, and what a rule can ask of it."""
    values = {"workspace_id": workspace_id, "conversation_id": conversation_id}
    rows = await db.fetch_dicts(conn, SQL.get_example, values)
    return rows[0] if rows else None


async def add_hits(conn: Conn, workspace_id: int, hits: Sequence[Mapping[str, Any]]) -> None:
    await db.execute(conn, SQL.add_hits, {"workspace_id": workspace_id, "hits": Jsonb(list(hits))})


async def count_answers(
    conn: Conn,
    workspace_id: int,
    *,
    rule_id: int,
    conversation_id: int,
    person_id: int,
    day_ago: datetime,
    lately: datetime,
    now: datetime,
) -> dict[str, int] | None:
    """None when the rule answers no more."""
    values = {
        "workspace_id": workspace_id,
        "rule_id": rule_id,
        "conversation_id": conversation_id,
        "person_id": person_id,
        "day_ago": day_ago,
        "lately": lately,
        "now": now,
    }
    await db.execute(conn, SQL.lock_person, values)
    if not await db.fetch_value(conn, SQL.lock_rule, values):
        return None
    return (await db.fetch_dicts(conn, SQL.count_answers, values))[0]


async def get_author(
    conn: Conn, workspace_id: int, *, conversation_id: int, person_id: int, present: datetime
) -> dict[str, bool]:
    values = {"workspace_id": workspace_id, "conversation_id": conversation_id, "person_id": person_id}
    return (await db.fetch_dicts(conn, SQL.get_author, {**values, "present": present}))[0]


async def list_stoppable(conn: Conn, workspace_id: int, conversation_id: int) -> list[dict[str, Any]]:
    values = {"workspace_id": workspace_id, "conversation_id": conversation_id}
    return await db.fetch_dicts(conn, SQL.list_stoppable, values)


async def add_answer(
    conn: Conn,
    workspace_id: int,
    *,
    rule_id: int,
    conversation_id: int,
    person_id: int,
    message_id: int,
    now: datetime,
) -> None:
    values = {
        "workspace_id": workspace_id,
        "rule_id": rule_id,
        "conversation_id": conversation_id,
        "person_id": person_id,
        "message_id": message_id,
        "now": now,
    }
    await db.execute(conn, SQL.add_answer, values)


async def list_review(conn: Conn, workspace_id: int, limit: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_review, {"workspace_id": workspace_id, "limit": limit})


async def count_review(conn: Conn, workspace_id: int) -> int:
    return int(await db.fetch_value(conn, SQL.count_review, {"workspace_id": workspace_id}))


async def get_hit(conn: Conn, workspace_id: int, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(conn, SQL.get_hit, {"workspace_id": workspace_id, "id": id})
    return rows[0] if rows else None


async def set_reviewed(
    conn: Conn, workspace_id: int, ids: Sequence[int], *, member_id: int, verdict: str, now: datetime
) -> None:
    """Those that somebody has looked at already keep what was said of them."""
    values = {"workspace_id": workspace_id, "ids": list(ids), "member_id": member_id, "verdict": verdict, "now": now}
    await db.execute(conn, SQL.set_reviewed, values)


async def look_again(conn: Conn, workspace_id: int, id: int, member_id: int) -> bool:
    """Whether it is the member's own verdict, and was that it stays."""
    values = {"workspace_id": workspace_id, "id": id, "member_id": member_id}
    return await db.fetch_value(conn, SQL.look_again, values) is not None


async def list_heard(
    conn: Conn, workspace_id: int, *, since: datetime, until: datetime, after: tuple[datetime, int], limit: int
) -> list[HeardRow]:
    values = {
        "workspace_id": workspace_id,
        "since": since,
        "until": until,
        "after_at": after[0],
        "after_id": after[1],
        "limit": limit,
    }
    return await db.fetch_all(conn, HeardRow, SQL.list_heard, values)


async def count_heard(conn: Conn, workspace_id: int, since: datetime, until: datetime) -> int:
    values = {"workspace_id": workspace_id, "since": since, "until": until}
    return int(await db.fetch_value(conn, SQL.count_heard, values))


async def add_trial(
    conn: Conn, workspace_id: int, *, member_id: int, rules: Any, rule_id: int, days: int, now: datetime
) -> int:
    values = {
        "workspace_id": workspace_id,
        "member_id": member_id,
        "rules": Jsonb(rules),
        "rule_id": rule_id,
        "days": days,
        "now": now,
    }
    id: int = await db.fetch_value(conn, SQL.add_trial, values)
    return id


async def get_trial(conn: Conn, workspace_id: int, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(conn, SQL.get_trial, {"workspace_id": workspace_id, "id": id})
    return rows[0] if rows else None


async def set_trial(
    conn: Conn, workspace_id: int, id: int, *, state: str, done: int, total: int, result: Any = None
) -> bool:
    """False when the trial was cancelled meanwhile."""
    values = {
        "workspace_id": workspace_id,
        "id": id,
        "state": state,
        "done": done,
        "total": total,
        "result": None if result is None else Jsonb(result),
    }
    return await db.fetch_value(conn, SQL.set_trial, values) is not None


async def cancel_trial(conn: Conn, workspace_id: int, id: int) -> bool:
    return await db.fetch_value(conn, SQL.cancel_trial, {"workspace_id": workspace_id, "id": id}) is not None


async def list_shown(conn: Conn, workspace_id: int, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_shown, {"workspace_id": workspace_id, "ids": list(ids)})
