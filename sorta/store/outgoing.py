"""Holding what goes out of a workspace. Used by services.outgoing."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("outgoing")


async def get_outgoing(conn: Conn, workspace_id: int) -> dict[str, Any]:
    return (await db.fetch_dicts(conn, SQL.get_outgoing, {"workspace_id": workspace_id}))[0]


async def set_hold(conn: Conn, workspace_id: int, at: datetime | None, by: int | None, reason: str | None) -> None:
    await db.execute(conn, SQL.set_hold, {"workspace_id": workspace_id, "at": at, "by": by, "reason": reason})
