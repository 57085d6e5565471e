"""How well each account is connected. Used by services.health."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("health")


async def get_health(
    tx: Tx, *, since: datetime, until: datetime, long_ago: datetime
) -> tuple[list[dict[str, Any]], list[dict[str, Any]], list[dict[str, Any]]]:
    """The accounts as they stand, what came to each in each hour from `since` on, and over all of that time; the last events are
    looked for since `long_ago`."""
    values = {"workspace_id": tx.workspace_id, "since": since, "until": until, "long_ago": long_ago}
    return (
        await db.fetch_dicts(tx, SQL.list_accounts, values),
        await db.fetch_dicts(tx, SQL.list_hours, values),
        await db.fetch_dicts(tx, SQL.list_lags, values),
    )
