"""What messages read as, and corrections of it. Used by services.reading and services.sorting."""

from collections.abc import Collection, Sequence
from datetime import date, datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("reading")
_SET = {"sentiment": SQL.set_sentiment, "reads_as": SQL.set_reads_as, "language": SQL.set_language}


async def list_sample(tx: Tx, *, week: date, since: datetime, until: datetime, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "week": week, "since": since, "until": until, "limit": limit}
    return await db.fetch_dicts(tx, SQL.list_sample, values)


async def add_check(
    tx: Tx,
    id: int,
    *,
    week: date,
    was: Sequence[str],
    labels: Sequence[str],
    member_id: int,
    at: datetime,
) -> bool:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "week": week,
        "was": list(was),
        "labels": list(labels),
        "member_id": member_id,
        "at": at,
    }
    return await db.fetch_value(tx, SQL.add_check, values) is not None


async def list_checks(tx: Tx, since: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_checks, {"workspace_id": tx.workspace_id, "since": since})


async def count_corrections(tx: Tx, since: datetime) -> dict[str, int]:
    rows = await db.fetch_dicts(tx, SQL.count_corrections, {"workspace_id": tx.workspace_id, "since": since})
    return {row["field"]: row["corrected"] for row in rows}


async def list_corrections(tx: Tx, limit: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_corrections, {"workspace_id": tx.workspace_id, "limit": limit})


async def get_reading(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_reading, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def is_latest(tx: Tx, id: int) -> bool:
    return bool(await db.fetch_value(tx, SQL.is_latest, {"workspace_id": tx.workspace_id, "id": id}))


async def set_correction(
    tx: Tx,
    id: int,
    field: str,
    was: Any,
    value: Any,
    corrected: Collection[str],
    member_id: int,
    at: datetime,
) -> None:
    """The member's word replaces what was read; the first reading is kept for counting. `corrected` are all the fields of the
    message that a member has said."""
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "field": field,
        "was": _write(was),
        "now": _write(value),
        "value": value,
        "corrected": Jsonb({"corrected": sorted(corrected)}),
        "member_id": member_id,
        "at": at,
    }
    await db.execute(tx, _SET[field], values)
    await db.execute(tx, SQL.set_correction, values)


def _write(value: Any) -> str | None:
    """A value as corrections are kept: labels with spaces between, the rest as it is."""
    return " ".join(value) if isinstance(value, list) else None if value is None else str(value)
