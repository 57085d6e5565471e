"""Answers to be sent later. Used by services.scheduling."""

from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("scheduled")


async def add_scheduled(tx: Tx, values: dict[str, Any]) -> int:
    given = {"workspace_id": tx.workspace_id, **values, "extras": Jsonb(values["extras"])}
    id: int = await db.fetch_value(tx, SQL.add_scheduled, given)
    return id


async def get_scheduled(tx: Tx, id: int) -> dict[str, Any] | None:
    """Its row, locked, and its conversation's before it: whoever wants both takes them in this order."""
    values = {"workspace_id": tx.workspace_id, "id": id}
    await db.execute(tx, SQL.lock_conversation, values)
    rows = await db.fetch_dicts(tx, SQL.get_scheduled, values)
    return rows[0] if rows else None


async def get_waiting(tx: Tx, conversation_id: int) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id}
    rows = await db.fetch_dicts(tx, SQL.get_waiting, values)
    return rows[0] if rows else None


async def set_scheduled(tx: Tx, id: int, *, body: str, send_at: datetime, seen_seq: int) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "body": body, "send_at": send_at, "seen_seq": seen_seq}
    await db.execute(tx, SQL.set_scheduled, values)


async def end_scheduled(tx: Tx, id: int, *, state: str, problem: str | None, now: datetime) -> dict[str, Any] | None:
    """What it was when it ended now; None when it had ended before."""
    values = {"workspace_id": tx.workspace_id, "id": id, "state": state, "problem": problem, "now": now}
    rows = await db.fetch_dicts(tx, SQL.end_scheduled, values)
    return rows[0] if rows else None


async def list_due(tx: Tx, now: datetime) -> list[int]:
    rows = await db.fetch_dicts(tx, SQL.list_due, {"workspace_id": tx.workspace_id, "now": now})
    return [row["id"] for row in rows]


async def list_scheduled(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_scheduled, {"workspace_id": tx.workspace_id, "now": now})
