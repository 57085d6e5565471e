"""What the check command compares with trails. Used by services.checking."""

from collections.abc import Sequence
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("checking")


async def list_rows(tx: Tx, after: int, limit: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_rows, {"workspace_id": tx.workspace_id, "after": after, "limit": limit})


async def list_said(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_said, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def list_read(tx: Tx, ids: Sequence[int]) -> dict[int, dict[str, Any]]:
    """By message."""
    rows = await db.fetch_dicts(tx, SQL.list_read, {"workspace_id": tx.workspace_id, "ids": list(ids)})
    return {row["id"]: row for row in rows}


async def list_other_filing(tx: Tx, ids: Sequence[int]) -> list[int]:
    rows = await db.fetch_dicts(tx, SQL.list_other_filing, {"workspace_id": tx.workspace_id, "ids": list(ids)})
    return [row["id"] for row in rows]


async def list_other_counts(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_other_counts, {"workspace_id": tx.workspace_id})
