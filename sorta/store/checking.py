"""What the check command compares with trails. Used by services.checking."""

from collections.abc import Sequence
from typing import Any

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("checking")


async def list_rows(conn: Conn, workspace_id: int, after: int, limit: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_rows, {"workspace_id": workspace_id, "after": after, "limit": limit})


async def list_said(conn: Conn, workspace_id: int, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_said, {"workspace_id": workspace_id, "ids": list(ids)})


async def list_read(conn: Conn, workspace_id: int, ids: Sequence[int]) -> dict[int, dict[str, Any]]:
    """By message."""
    rows = await db.fetch_dicts(conn, SQL.list_read, {"workspace_id": workspace_id, "ids": list(ids)})
    return {row["id"]: row for row in rows}


async def list_other_filing(conn: Conn, workspace_id: int, ids: Sequence[int]) -> list[int]:
    rows = await db.fetch_dicts(conn, SQL.list_other_filing, {"workspace_id": workspace_id, "ids": list(ids)})
    return [row["id"] for row in rows]


async def list_other_counts(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_other_counts, {"workspace_id": workspace_id})
