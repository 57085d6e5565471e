"""What an operator watches, counted when it is asked for. Used by services.metrics."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("metrics")


async def count_outgoing(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.count_outgoing, {"workspace_id": workspace_id})


async def count_unmailed(conn: Conn, workspace_id: int, since: datetime, now: datetime) -> int:
    values = {"workspace_id": workspace_id, "since": since, "now": now}
    return int(await db.fetch_value(conn, SQL.count_unmailed, values))


async def count_jobs(conn: Conn, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.count_jobs, {"now": now})


async def get_database(conn: Conn) -> dict[str, Any]:
    (row,) = await db.fetch_dicts(conn, SQL.get_database, {})
    return row
