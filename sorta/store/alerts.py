"""What members are told, and how they want to be told. Used by services.alerts and services.ruling."""

from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.core.alerting import Habits, Wants, Watch
from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("alerts")


async def list_wants(
    tx: Tx, members: Sequence[int], occasion: str, conversation_id: int | None, now: datetime
) -> list[dict[str, Any]]:
    values = {
        "workspace_id": tx.workspace_id,
        "members": list(members),
        "occasion": occasion,
        "conversation_id": conversation_id,
        "now": now,
    }
    return await db.fetch_dicts(tx, SQL.list_wants, values)


async def add_alerts(
    tx: Tx,
    *,
    given: Sequence[dict[str, Any]],
    occasion: str,
    words: str,
    conversation_id: int | None,
    key: str,
    now: datetime,
) -> list[int]:
    """Those who were told; who knows already is left out. `given`: {member, here, device, ways: {way: when it leaves}}."""
    values = {
        "workspace_id": tx.workspace_id,
        "given": Jsonb(list(given)),
        "occasion": occasion,
        "words": words,
        "conversation_id": conversation_id,
        "key": key,
        "now": now,
    }
    return [row["member_id"] for row in await db.fetch_dicts(tx, SQL.add_alerts, values)]


async def list_members_with(tx: Tx, permission: str) -> list[int]:
    rows = await db.fetch_dicts(tx, SQL.list_members_with, {"workspace_id": tx.workspace_id, "permission": permission})
    return [row["member_id"] for row in rows]


async def list_alerts(tx: Tx, member_id: int, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "limit": limit}
    return await db.fetch_dicts(tx, SQL.list_alerts, values)


async def count_unread(tx: Tx, member_id: int) -> int:
    return int(await db.fetch_value(tx, SQL.count_unread, {"workspace_id": tx.workspace_id, "member_id": member_id}))


async def set_read(tx: Tx, member_id: int, id: int | None, now: datetime) -> None:
    await db.execute(tx, SQL.set_read, {"workspace_id": tx.workspace_id, "member_id": member_id, "id": id, "now": now})


async def list_to_send(
    tx: Tx, way: str, now: datetime, since: datetime, refused_before: datetime, limit: int
) -> list[int]:
    """The members for whom something is to leave by a way."""
    values = {
        "workspace_id": tx.workspace_id,
        "way": way,
        "now": now,
        "since": since,
        "refused_before": refused_before,
        "limit": limit,
    }
    return [row["member_id"] for row in await db.fetch_dicts(tx, SQL.list_to_send, values)]


async def claim(
    tx: Tx,
    way: str,
    member_id: int,
    *,
    now: datetime,
    since: datetime,
    lease_until: datetime,
    limit: int,
) -> list[dict[str, Any]]:
    """What leaves together for a member; nobody else takes it until the lease is over."""
    values = {
        "workspace_id": tx.workspace_id,
        "way": way,
        "member_id": member_id,
        "now": now,
        "since": since,
        "lease_until": lease_until,
        "limit": limit,
    }
    return await db.fetch_dicts(tx, SQL.claim, values)


async def set_sent(
    tx: Tx,
    way: str,
    ids: Sequence[int],
    at: datetime | None,
    problem: str | None,
    again: datetime | None,
) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "way": way,
        "ids": list(ids),
        "at": at,
        "problem": problem,
        "again": again,
    }
    await db.execute(tx, SQL.set_sent, values)


async def set_mail_refused(conn: Conn, member_id: int, reason: str | None, at: datetime | None) -> None:
    await db.execute(conn, SQL.set_mail_refused, {"member_id": member_id, "reason": reason, "at": at})


async def set_text_refused(conn: Conn, member_id: int, reason: str | None, at: datetime | None) -> None:
    await db.execute(conn, SQL.set_text_refused, {"member_id": member_id, "reason": reason, "at": at})


async def list_choices(tx: Tx, member_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_choices, {"workspace_id": tx.workspace_id, "member_id": member_id})


async def set_choice(tx: Tx, member_id: int, occasion: str, wants: Wants) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "occasion": occasion, **asdict(wants)}
    await db.execute(tx, SQL.set_choice, values)


async def forget_choices(tx: Tx, member_id: int) -> None:
    await db.execute(tx, SQL.forget_choices, {"workspace_id": tx.workspace_id, "member_id": member_id})


async def list_defaults(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_defaults, {"workspace_id": tx.workspace_id})


async def set_default(tx: Tx, occasion: str, wants: Wants) -> None:
    await db.execute(tx, SQL.set_default, {"workspace_id": tx.workspace_id, "occasion": occasion, **asdict(wants)})


async def get_habits(tx: Tx, member_id: int) -> dict[str, Any]:
    rows = await db.fetch_dicts(tx, SQL.get_habits, {"workspace_id": tx.workspace_id, "member_id": member_id})
    return rows[0]


async def set_habits(tx: Tx, member_id: int, habits: Habits) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, **asdict(habits)}
    await db.execute(tx, SQL.set_habits, values)


async def list_due_follow_ups(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_due_follow_ups, {"workspace_id": tx.workspace_id, "now": now})


async def list_names(tx: Tx) -> list[tuple[int, str]]:
    rows = await db.fetch_dicts(tx, SQL.list_names, {"workspace_id": tx.workspace_id})
    return [(row["member_id"], row["name"]) for row in rows]


async def list_late(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_late, {"workspace_id": tx.workspace_id, "now": now})


async def begin_phone(
    conn: Conn, member_id: int, phone: str, code_hash: bytes, *, now: datetime, until: datetime, a_day_ago: datetime
) -> int:
    """How many codes were sent to the member within a day."""
    values = {
        "member_id": member_id,
        "phone": phone,
        "code_hash": code_hash,
        "now": now,
        "until": until,
        "a_day_ago": a_day_ago,
    }
    return int(await db.fetch_value(conn, SQL.begin_phone, values))


async def count_phone_try(conn: Conn, member_id: int, now: datetime) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(conn, SQL.count_phone_try, {"member_id": member_id, "now": now})
    return rows[0] if rows else None


async def set_phone(conn: Conn, member_id: int, phone: str | None) -> None:
    await db.execute(conn, SQL.set_phone, {"member_id": member_id, "phone": phone})


async def list_watches(tx: Tx, member_id: int | None = None) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_watches, {"workspace_id": tx.workspace_id, "member_id": member_id})


async def add_watch(tx: Tx, watch: Watch) -> int:
    values = {
        "workspace_id": tx.workspace_id,
        "member_id": watch.member,
        "accounts": sorted(watch.accounts),
        "kinds": sorted(watch.kinds),
        "words": list(watch.words),
    }
    return int(await db.fetch_value(tx, SQL.add_watch, values))


async def delete_watch(tx: Tx, member_id: int, id: int) -> bool:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "id": id}
    return await db.execute(tx, SQL.delete_watch, values) > 0
