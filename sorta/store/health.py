"""How well each account is connected. Used by services.health."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("health")


async def get_health(
    conn: Conn, workspace_id: int, *, since: datetime, until: datetime, long_ago: datetime
) -> tuple[list[dict[str, Any]], list[dict[str, Any]], list[dict[str, Any]]]:
    """The accounts as they stand, what came to each in each hour from `since` on, and over all of that time; the last events are
    looked for since `long_ago`."""
    values = {"workspace_id": workspace_id, "since": since, "until": until, "long_ago": long_ago}
    return (
        await db.fetch_dicts(conn, SQL.list_accounts, values),
        await db.fetch_dicts(conn, SQL.list_hours, values),
        await db.fetch_dicts(conn, SQL.list_lags, values),
    )
