"""Saved replies and their use. Used by services.texts."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("texts")


async def list_saved_replies(tx: Tx, *, archived: bool = False) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "archived": archived}
    return await db.fetch_dicts(tx, SQL.list_saved_replies, values)


async def get_languages(tx: Tx) -> dict[str, str | None]:
    rows = await db.fetch_dicts(tx, SQL.get_languages, {"workspace_id": tx.workspace_id})
    return {str(row["id"]): row["language"] for row in rows}


async def get_saved_reply(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_saved_reply, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def add_saved_reply(tx: Tx, *, body: Mapping[str, Any], member_id: int, now: datetime) -> int:
    values = {"workspace_id": tx.workspace_id, "body": Jsonb(body), "member_id": member_id, "now": now}
    id: int = await db.fetch_value(tx, SQL.add_saved_reply, values)
    return id


async def set_saved_reply(tx: Tx, id: int, *, body: Mapping[str, Any], member_id: int, now: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "body": Jsonb(body), "member_id": member_id, "now": now}
    return await db.fetch_value(tx, SQL.set_saved_reply, values) is not None


async def set_archived(tx: Tx, id: int, *, on: bool, member_id: int, now: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "on": on, "member_id": member_id, "now": now}
    return await db.fetch_value(tx, SQL.set_archived, values) is not None


async def has_shortcut(tx: Tx, id: int, shortcut: str) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "shortcut": shortcut}
    return bool(await db.fetch_value(tx, SQL.has_shortcut, values))


async def list_users(tx: Tx, id: int, since: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_users, {"workspace_id": tx.workspace_id, "id": id, "since": since})


async def add_use(tx: Tx, id: int, *, message_id: int, answered_id: int, member_id: int | None, now: datetime) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "message_id": message_id, "answered_id": answered_id}
    await db.execute(tx, SQL.add_use, {**values, "member_id": member_id, "now": now})


async def count_learned(tx: Tx) -> int:
    count: int = await db.fetch_value(tx, SQL.count_learned, {"workspace_id": tx.workspace_id})
    return count


async def list_learned(tx: Tx, most: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_learned, {"workspace_id": tx.workspace_id, "most": most})


async def list_answered_otherwise(tx: Tx, most: int) -> list[str]:
    """Messages that members answered without a saved reply."""
    rows = await db.fetch_dicts(tx, SQL.list_answered_otherwise, {"workspace_id": tx.workspace_id, "most": most})
    return [row["body"] for row in rows]


async def get_asked(tx: Tx, conversation_id: int) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id}
    rows = await db.fetch_dicts(tx, SQL.get_asked, values)
    return rows[0] if rows else None
