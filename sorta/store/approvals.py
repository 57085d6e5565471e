"""Policies, and replies that wait for consent. Used by services.approvals."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("approvals")


async def list_policies(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_policies, {"workspace_id": tx.workspace_id})


async def add_policy(tx: Tx, *, body: Mapping[str, Any], on: bool, member_id: int, now: datetime) -> int:
    values = {"workspace_id": tx.workspace_id, "body": Jsonb(body), "on": on, "member_id": member_id, "now": now}
    id: int = await db.fetch_value(tx, SQL.add_policy, values)
    return id


async def set_policy(tx: Tx, id: int, *, body: Mapping[str, Any], on: bool, member_id: int, now: datetime) -> bool:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "body": Jsonb(body),
        "on": on,
        "member_id": member_id,
        "now": now,
    }
    return await db.fetch_value(tx, SQL.set_policy, values) is not None


async def remove_policy(tx: Tx, id: int, *, member_id: int, now: datetime) -> str | None:
    """The policy's name, None when there is none."""
    values = {"workspace_id": tx.workspace_id, "id": id, "member_id": member_id, "now": now}
    name: str | None = await db.fetch_value(tx, SQL.remove_policy, values)
    return name


async def get_asked(tx: Tx, conversation_id: int) -> dict[str, Any]:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id}
    rows = await db.fetch_dicts(tx, SQL.get_asked, values)
    return rows[0] if rows else {"reads_as": None, "reach": None}


async def add_proposal(tx: Tx, given: Mapping[str, Any]) -> int:
    values = {
        **given,
        "workspace_id": tx.workspace_id,
        "needs": Jsonb(given["needs"]),
        "extras": Jsonb(given["extras"]),
    }
    id: int = await db.fetch_value(tx, SQL.add_proposal, values)
    return id


async def get_proposal(tx: Tx, id: int) -> dict[str, Any] | None:
    """Its row, locked, and its conversation's before it: whoever wants both takes them in this order."""
    values = {"workspace_id": tx.workspace_id, "id": id}
    await db.execute(tx, SQL.lock_conversation, values)
    rows = await db.fetch_dicts(tx, SQL.get_proposal, values)
    return rows[0] if rows else None


async def set_proposal(tx: Tx, row: Mapping[str, Any]) -> None:
    values = {**row, "workspace_id": tx.workspace_id, "needs": Jsonb(row["needs"]), "consents": Jsonb(row["consents"])}
    values["asked"] = Jsonb(row["asked"])
    await db.execute(tx, SQL.set_proposal, values)


async def list_waiting(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_waiting, {"workspace_id": tx.workspace_id})


async def get_latest(tx: Tx, conversation_id: int) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id}
    rows = await db.fetch_dicts(tx, SQL.get_latest, values)
    return rows[0] if rows else None


async def list_needed(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_needed, {"workspace_id": tx.workspace_id})


async def list_to_ask_anew(tx: Tx, now: datetime) -> list[int]:
    rows = await db.fetch_dicts(tx, SQL.list_to_ask_anew, {"workspace_id": tx.workspace_id, "now": now})
    return [row["id"] for row in rows]


async def list_away(tx: Tx, now: datetime) -> set[int]:
    rows = await db.fetch_dicts(tx, SQL.list_away, {"workspace_id": tx.workspace_id, "now": now})
    return {row["member_id"] for row in rows}


async def get_share(tx: Tx) -> int:
    share: int = await db.fetch_value(tx, SQL.get_share, {"workspace_id": tx.workspace_id})
    return share


async def set_share(tx: Tx, share: int) -> None:
    await db.execute(tx, SQL.set_share, {"workspace_id": tx.workspace_id, "share": share})


async def list_sent(tx: Tx, since: datetime, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "since": since, "limit": limit}
    return await db.fetch_dicts(tx, SQL.list_sent, values)
