"""What an operator watches, counted when it is asked for. Used by services.metrics."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("metrics")


async def count_outgoing(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.count_outgoing, {"workspace_id": tx.workspace_id})


async def count_unmailed(tx: Tx, since: datetime, now: datetime) -> int:
    values = {"workspace_id": tx.workspace_id, "since": since, "now": now}
    return int(await db.fetch_value(tx, SQL.count_unmailed, values))


async def count_jobs(conn: Conn, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.count_jobs, {"now": now})


async def get_database(conn: Conn) -> dict[str, Any]:
    (row,) = await db.fetch_dicts(conn, SQL.get_database, {})
    return row
