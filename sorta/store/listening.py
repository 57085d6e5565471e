"""Saved words searched for on networks, and translations. Used by services.listening and services.translating."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("listening")


async def list_listening(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_listening, {"workspace_id": tx.workspace_id})


async def add_listening(tx: Tx, words: str, account_id: int, member_id: int, now: datetime) -> int:
    values = {
        "workspace_id": tx.workspace_id,
        "words": words,
        "account_id": account_id,
        "member_id": member_id,
        "now": now,
    }
    return int(await db.fetch_value(tx, SQL.add_listening, values))


async def delete_listening(tx: Tx, id: int) -> bool:
    return await db.execute(tx, SQL.delete_listening, {"workspace_id": tx.workspace_id, "id": id}) > 0


async def set_asked(tx: Tx, id: int, *, cursor: str | None, problem: str | None, found: int, now: datetime) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "cursor": cursor,
        "problem": problem,
        "found": found,
        "now": now,
    }
    await db.execute(tx, SQL.set_asked, values)


async def get_translatable(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_translatable, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def get_translation(tx: Tx, id: int, language: str) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "id": id, "language": language}
    rows = await db.fetch_dicts(tx, SQL.get_translation, values)
    return rows[0] if rows else None


async def add_translation(tx: Tx, id: int, values: dict[str, Any]) -> None:
    """`values` are language, body, what, rough, engine, member_id and now."""
    await db.execute(tx, SQL.add_translation, {"workspace_id": tx.workspace_id, "id": id, **values})
