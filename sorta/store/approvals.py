"""Policies, and replies that wait for consent. Used by services.approvals."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("approvals")


async def list_policies(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_policies, {"workspace_id": workspace_id})


async def add_policy(
    conn: Conn, workspace_id: int, *, body: Mapping[str, Any], on: bool, member_id: int, now: datetime
) -> int:
    values = {"workspace_id": workspace_id, "body": Jsonb(body), "on": on, "member_id": member_id, "now": now}
    id: int = await db.fetch_value(conn, SQL.add_policy, values)
    return id


async def set_policy(
    conn: Conn, workspace_id: int, id: int, *, body: Mapping[str, Any], on: bool, member_id: int, now: datetime
) -> bool:
    values = {"workspace_id": workspace_id, "id": id, "body": Jsonb(body), "on": on, "member_id": member_id, "now": now}
    return await db.fetch_value(conn, SQL.set_policy, values) is not None


async def remove_policy(conn: Conn, workspace_id: int, id: int, *, member_id: int, now: datetime) -> str | None:
    """The policy's name, None when there is none."""
    values = {"workspace_id": workspace_id, "id": id, "member_id": member_id, "now": now}
    name: str | None = await db.fetch_value(conn, SQL.remove_policy, values)
    return name


async def get_asked(conn: Conn, workspace_id: int, conversation_id: int) -> dict[str, Any]:
    values = {"workspace_id": workspace_id, "conversation_id": conversation_id}
    rows = await db.fetch_dicts(conn, SQL.get_asked, values)
    return rows[0] if rows else {"reads_as": None, "reach": None}


async def add_proposal(conn: Conn, workspace_id: int, given: Mapping[str, Any]) -> int:
    values = {
        **given,
        "workspace_id": workspace_id,
        "needs": Jsonb(given["needs"]),
        "extras": Jsonb(given["extras"]),
    }
    id: int = await db.fetch_value(conn, SQL.add_proposal, values)
    return id


async def get_proposal(conn: Conn, workspace_id: int, id: int) -> dict[str, Any] | None:
    """Its row, locked, and its conversation's before it: whoever wants both takes them in this order."""
    values = {"workspace_id": workspace_id, "id": id}
    await db.execute(conn, SQL.lock_conversation, values)
    rows = await db.fetch_dicts(conn, SQL.get_proposal, values)
    return rows[0] if rows else None


async def set_proposal(conn: Conn, workspace_id: int, row: Mapping[str, Any]) -> None:
    values = {**row, "workspace_id": workspace_id, "needs": Jsonb(row["needs"]), "consents": Jsonb(row["consents"])}
    values["asked"] = Jsonb(row["asked"])
    await db.execute(conn, SQL.set_proposal, values)


async def list_waiting(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_waiting, {"workspace_id": workspace_id})


async def get_latest(conn: Conn, workspace_id: int, conversation_id: int) -> dict[str, Any] | None:
    values = {"workspace_id": workspace_id, "conversation_id": conversation_id}
    rows = await db.fetch_dicts(conn, SQL.get_latest, values)
    return rows[0] if rows else None


async def list_needed(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_needed, {"workspace_id": workspace_id})


async def list_to_ask_anew(conn: Conn, workspace_id: int, now: datetime) -> list[int]:
    rows = await db.fetch_dicts(conn, SQL.list_to_ask_anew, {"workspace_id": workspace_id, "now": now})
    return [row["id"] for row in rows]


async def list_away(conn: Conn, workspace_id: int, now: datetime) -> set[int]:
    rows = await db.fetch_dicts(conn, SQL.list_away, {"workspace_id": workspace_id, "now": now})
    return {row["member_id"] for row in rows}


async def get_share(conn: Conn, workspace_id: int) -> int:
    share: int = await db.fetch_value(conn, SQL.get_share, {"workspace_id": workspace_id})
    return share


async def set_share(conn: Conn, workspace_id: int, share: int) -> None:
    await db.execute(conn, SQL.set_share, {"workspace_id": workspace_id, "share": share})


async def list_sent(conn: Conn, workspace_id: int, since: datetime, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": workspace_id, "since": since, "limit": limit}
    return await db.fetch_dicts(conn, SQL.list_sent, values)
