"""What members are told, and how they want to be told. Used by services.alerts and services.ruling."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("alerts")


async def add_alerts(
    conn: Conn,
    workspace_id: int,
    *,
    members: Sequence[int],
    occasion: str,
    words: str,
    conversation_id: int | None,
    key: str,
    by_mail: bool,
    now: datetime,
) -> list[int]:
    """Those who were told; who knows already is left out."""
    values = {
        "workspace_id": workspace_id,
        "members": list(members),
        "occasion": occasion,
        "words": words,
        "conversation_id": conversation_id,
        "key": key,
        "by_mail": by_mail,
        "now": now,
    }
    return [row["member_id"] for row in await db.fetch_dicts(conn, SQL.add_alerts, values)]


async def list_members_with(conn: Conn, workspace_id: int, permission: str) -> list[int]:
    rows = await db.fetch_dicts(conn, SQL.list_members_with, {"workspace_id": workspace_id, "permission": permission})
    return [row["member_id"] for row in rows]


async def list_alerts(conn: Conn, workspace_id: int, member_id: int, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": workspace_id, "member_id": member_id, "limit": limit}
    return await db.fetch_dicts(conn, SQL.list_alerts, values)


async def count_unread(conn: Conn, workspace_id: int, member_id: int) -> int:
    return int(await db.fetch_value(conn, SQL.count_unread, {"workspace_id": workspace_id, "member_id": member_id}))


async def set_read(conn: Conn, workspace_id: int, member_id: int, id: int | None, now: datetime) -> None:
    await db.execute(conn, SQL.set_read, {"workspace_id": workspace_id, "member_id": member_id, "id": id, "now": now})


async def list_to_mail(
    conn: Conn, workspace_id: int, now: datetime, since: datetime, refused_before: datetime, limit: int
) -> list[int]:
    values = {
        "workspace_id": workspace_id,
        "now": now,
        "since": since,
        "refused_before": refused_before,
        "limit": limit,
    }
    return [row["id"] for row in await db.fetch_dicts(conn, SQL.list_to_mail, values)]


async def claim_mail(
    conn: Conn, workspace_id: int, id: int, now: datetime, lease_until: datetime
) -> dict[str, Any] | None:
    values = {"workspace_id": workspace_id, "id": id, "now": now, "lease_until": lease_until}
    rows = await db.fetch_dicts(conn, SQL.claim_mail, values)
    return rows[0] if rows else None


async def set_mailed(
    conn: Conn, workspace_id: int, id: int, at: datetime | None, problem: str | None, again: datetime | None
) -> None:
    values = {"workspace_id": workspace_id, "id": id, "at": at, "problem": problem, "again": again}
    await db.execute(conn, SQL.set_mailed, values)


async def set_mail_refused(conn: Conn, member_id: int, reason: str | None, at: datetime | None) -> None:
    await db.execute(conn, SQL.set_mail_refused, {"member_id": member_id, "reason": reason, "at": at})


async def list_choices(conn: Conn, workspace_id: int, member_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_choices, {"workspace_id": workspace_id, "member_id": member_id})


async def set_choice(
    conn: Conn, workspace_id: int, member_id: int, *, occasion: str, in_app: bool, by_mail: bool, minutes: int
) -> None:
    values = {
        "workspace_id": workspace_id,
        "member_id": member_id,
        "occasion": occasion,
        "in_app": in_app,
        "by_mail": by_mail,
        "minutes": minutes,
    }
    await db.execute(conn, SQL.set_choice, values)


async def list_late(conn: Conn, workspace_id: int, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_late, {"workspace_id": workspace_id, "now": now})
