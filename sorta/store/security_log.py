"""The security log's rows. Used by services.security_log."""

from collections.abc import Mapping
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("security_log")


async def add_entry(conn: Conn, workspace_id: int | None, member_id: int, kind: str, about: Mapping[str, Any]) -> None:
    values = {"workspace_id": workspace_id, "member_id": member_id, "kind": kind, "about": Jsonb(dict(about))}
    await db.execute(conn, SQL.add_entry, values)


async def list_entries(tx: Tx, before: int | None, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "before": before, "limit": limit}
    return await db.fetch_dicts(tx, SQL.list_entries, values)
