"""Hours in which far more came in than usual. Used by services.unusual."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("unusual")


async def get_false_alarms(tx: Tx) -> float:
    """How many false alarms a month the workspace accepts."""
    return float(await db.fetch_value(tx, SQL.get_false_alarms, {"workspace_id": tx.workspace_id}))


async def set_false_alarms(tx: Tx, false_alarms: float) -> None:
    """How many it accepts from now on."""
    await db.execute(tx, SQL.set_false_alarms, {"workspace_id": tx.workspace_id, "false_alarms": false_alarms})


async def keep_hour(tx: Tx, begins_at: datetime, came: int, expected: float) -> None:
    """An hour that is unusual; what came in it never becomes less."""
    values = {"workspace_id": tx.workspace_id, "begins_at": begins_at, "came": came, "expected": expected}
    await db.execute(tx, SQL.keep_hour, values)


async def list_hours(tx: Tx, since: datetime) -> list[dict[str, Any]]:
    """Those that began since an instant, the latest first: `begins_at`, `came`, `expected`."""
    return await db.fetch_dicts(tx, SQL.list_hours, {"workspace_id": tx.workspace_id, "since": since})
