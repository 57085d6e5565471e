"""Rules, their versions, what they did, and trials. Used by services.rules, services.ruling and services.trials."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

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


async def list_rules(tx: Tx, since: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_rules, {"workspace_id": tx.workspace_id, "since": since})


async def list_active(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_active, {"workspace_id": tx.workspace_id})


async def get_rule(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_rule, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def add_rule(tx: Tx, *, body: Mapping[str, Any], on: bool, member_id: int, now: datetime) -> int:
    values = {
        "workspace_id": tx.workspace_id,
        "body": Jsonb(body),
        "switched_on": on,
        "member_id": member_id,
        "now": now,
    }
    id: int = await db.fetch_value(tx, SQL.add_rule, values)
    await _keep_version(tx, id, member_id, now)
    return id


async def set_rule(
    tx: Tx,
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
        "workspace_id": tx.workspace_id,
        "id": id,
        "body": Jsonb(body),
        "switched_on": on,
        "member_id": member_id,
        "now": now,
        "answers": answers,
    }
    await db.execute(tx, SQL.set_rule, values)
    await _keep_version(tx, id, member_id, now)


async def stop_answers(tx: Tx, id: int, reason: str, now: datetime) -> bool:
    """Let a rule that answered too often answer no more; False when that was done before."""
    values = {"workspace_id": tx.workspace_id, "id": id, "reason": reason, "now": now}
    if await db.fetch_value(tx, SQL.stop_answers, values) is None:
        return False
    await touch_rules(tx)
    return True


async def _keep_version(tx: Tx, id: int, member_id: int, now: datetime) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "member_id": member_id, "now": now}
    await db.execute(tx, SQL.add_version, values)
    await touch_rules(tx)


async def touch_rules(tx: Tx) -> None:
    await db.execute(tx, SQL.touch_rules, {"workspace_id": tx.workspace_id})


async def list_versions(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_versions, {"workspace_id": tx.workspace_id, "id": id})


async def remove_rule(tx: Tx, id: int, *, member_id: int, now: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "member_id": member_id, "now": now}
    found = await db.fetch_value(tx, SQL.remove_rule, values) is not None
    if found:
        await touch_rules(tx)
    return found


async def set_order(tx: Tx, ids: Sequence[int]) -> None:
    await db.execute(tx, SQL.set_order, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def list_groups_of(tx: Tx) -> dict[int, frozenset[int]]:
    """Account groups by account."""
    rows = await db.fetch_dicts(tx, SQL.list_groups_of, {"workspace_id": tx.workspace_id})
    found: dict[int, set[int]] = {}
    for row in rows:
        found.setdefault(row["account_id"], set()).add(row["id"])
    return {account: frozenset(groups) for account, groups in found.items()}


async def list_hit_conversations(tx: Tx, rule_id: int, since: datetime, limit: int) -> list[int]:
    """The conversations that a rule was met in since, the latest first."""
    values = {"workspace_id": tx.workspace_id, "rule_id": rule_id, "since": since, "limit": limit}
    return [row["conversation_id"] for row in await db.fetch_dicts(tx, SQL.list_hit_conversations, values)]


async def get_example(tx: Tx, conversation_id: int) -> dict[str, Any] | None:
    """The last message of theirs in a conversation, and what a rule can ask of it."""
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id}
    rows = await db.fetch_dicts(tx, SQL.get_example, values)
    return rows[0] if rows else None


async def add_hits(tx: Tx, hits: Sequence[Mapping[str, Any]]) -> None:
    await db.execute(tx, SQL.add_hits, {"workspace_id": tx.workspace_id, "hits": Jsonb(list(hits))})


async def count_answers(
    tx: Tx,
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
        "workspace_id": tx.workspace_id,
        "rule_id": rule_id,
        "conversation_id": conversation_id,
        "person_id": person_id,
        "day_ago": day_ago,
        "lately": lately,
        "now": now,
    }
    await db.execute(tx, SQL.lock_person, values)
    if not await db.fetch_value(tx, SQL.lock_rule, values):
        return None
    return (await db.fetch_dicts(tx, SQL.count_answers, values))[0]


async def get_author(tx: Tx, *, conversation_id: int, person_id: int, present: datetime) -> dict[str, bool]:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id, "person_id": person_id}
    return (await db.fetch_dicts(tx, SQL.get_author, {**values, "present": present}))[0]


async def list_stoppable(tx: Tx, conversation_id: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id}
    return await db.fetch_dicts(tx, SQL.list_stoppable, values)


async def add_answer(
    tx: Tx,
    *,
    rule_id: int,
    conversation_id: int,
    person_id: int,
    message_id: int,
    now: datetime,
) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "rule_id": rule_id,
        "conversation_id": conversation_id,
        "person_id": person_id,
        "message_id": message_id,
        "now": now,
    }
    await db.execute(tx, SQL.add_answer, values)


async def list_review(tx: Tx, limit: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_review, {"workspace_id": tx.workspace_id, "limit": limit})


async def count_review(tx: Tx) -> int:
    return int(await db.fetch_value(tx, SQL.count_review, {"workspace_id": tx.workspace_id}))


async def get_hit(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_hit, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def set_reviewed(tx: Tx, ids: Sequence[int], *, member_id: int, verdict: str, now: datetime) -> None:
    """Those that somebody has looked at already keep what was said of them."""
    values = {"workspace_id": tx.workspace_id, "ids": list(ids), "member_id": member_id, "verdict": verdict, "now": now}
    await db.execute(tx, SQL.set_reviewed, values)


async def look_again(tx: Tx, id: int, member_id: int) -> bool:
    """Whether it is the member's own verdict, and was that it stays."""
    values = {"workspace_id": tx.workspace_id, "id": id, "member_id": member_id}
    return await db.fetch_value(tx, SQL.look_again, values) is not None


async def list_heard(
    tx: Tx, *, since: datetime, until: datetime, after: tuple[datetime, int], limit: int
) -> list[HeardRow]:
    values = {
        "workspace_id": tx.workspace_id,
        "since": since,
        "until": until,
        "after_at": after[0],
        "after_id": after[1],
        "limit": limit,
    }
    return await db.fetch_all(tx, HeardRow, SQL.list_heard, values)


async def count_heard(tx: Tx, since: datetime, until: datetime) -> int:
    values = {"workspace_id": tx.workspace_id, "since": since, "until": until}
    return int(await db.fetch_value(tx, SQL.count_heard, values))


async def add_trial(tx: Tx, *, member_id: int, rules: Any, rule_id: int, days: int, now: datetime) -> int:
    values = {
        "workspace_id": tx.workspace_id,
        "member_id": member_id,
        "rules": Jsonb(rules),
        "rule_id": rule_id,
        "days": days,
        "now": now,
    }
    id: int = await db.fetch_value(tx, SQL.add_trial, values)
    return id


async def get_trial(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_trial, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def set_trial(tx: Tx, id: int, *, state: str, done: int, total: int, result: Any = None) -> bool:
    """False when the trial was cancelled meanwhile."""
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "state": state,
        "done": done,
        "total": total,
        "result": None if result is None else Jsonb(result),
    }
    return await db.fetch_value(tx, SQL.set_trial, values) is not None


async def cancel_trial(tx: Tx, id: int) -> bool:
    return await db.fetch_value(tx, SQL.cancel_trial, {"workspace_id": tx.workspace_id, "id": id}) is not None


async def list_shown(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_shown, {"workspace_id": tx.workspace_id, "ids": list(ids)})
