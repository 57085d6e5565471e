"""Deleting what is out of use, a batch at a time. Used by services.retention."""

from datetime import datetime

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("retention")


async def delete_batch(conn: Conn, workspace_id: int | None, name: str, before: datetime, limit: int) -> int:
    """Delete up to `limit` rows of a kind, named by its statement, that are older than `before`; how many."""
    values = {"workspace_id": workspace_id, "before": before, "limit": limit}
    return await db.execute(conn, SQL.statements[name], values)
