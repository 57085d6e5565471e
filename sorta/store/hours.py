"""Working hours and targets of workspaces, and dues counted anew. Used by services.hours."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("hours")


async def get_hours(tx: Tx) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_hours, {"workspace_id": tx.workspace_id})
    return rows[0] if rows else None


async def set_hours(
    tx: Tx,
    *,
    zone: str,
    week: Sequence[str],
    special: Mapping[str, str],
    targets: Mapping[str, Mapping[str, int]],
    member_id: int | None,
    now: datetime,
) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "zone": zone,
        "week": Jsonb(list(week)),
        "special": Jsonb(dict(special)),
        "targets": Jsonb({k: dict(v) for k, v in targets.items()}),
        "member_id": member_id,
        "now": now,
    }
    await db.execute(tx, SQL.set_zone, values)
    await db.execute(tx, SQL.set_hours, values)
    await db.execute(tx, SQL.keep_promise, values)


async def list_promises(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_promises, {"workspace_id": tx.workspace_id})


async def set_progress(tx: Tx, progress: Mapping[str, int] | None) -> None:
    values = {"workspace_id": tx.workspace_id, "progress": None if progress is None else Jsonb(dict(progress))}
    await db.execute(tx, SQL.set_progress, values)


async def count_awaiting(tx: Tx) -> int:
    return int(await db.fetch_value(tx, SQL.count_awaiting, {"workspace_id": tx.workspace_id}))


async def list_awaiting(tx: Tx, after: int, limit: int, lane: int, lanes: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "after": after, "limit": limit, "lane": lane, "lanes": lanes}
    return await db.fetch_dicts(tx, SQL.list_awaiting, values)


async def set_dues(tx: Tx, dues: Sequence[tuple[int, datetime, int, datetime]]) -> int:
    """Dues as (conversation, awaiting since, priority, due); the number of rows that were still so."""
    ids, sinces, priorities, instants = zip(*dues, strict=True)
    values = {
        "workspace_id": tx.workspace_id,
        "ids": list(ids),
        "sinces": list(sinces),
        "priorities": list(priorities),
        "dues": list(instants),
    }
    return await db.execute(tx, SQL.set_dues, values)
