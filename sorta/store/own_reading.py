"""What workspaces' own reading is learned from, and what was learned. Used by services.own_reading."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("own_reading")


async def list_told(tx: Tx, limit: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_told, {"workspace_id": tx.workspace_id, "limit": limit})


async def get_in_use(tx: Tx) -> tuple[int, str] | None:
    """Its number, and the hash of the texts it was learned with."""
    rows = await db.fetch_dicts(tx, SQL.get_in_use, {"workspace_id": tx.workspace_id})
    return (rows[0]["id"], rows[0]["based_on"]) if rows else None


async def get_weights(tx: Tx, id: int) -> bytes | None:
    """None when it is in use no more."""
    found: bytes | None = await db.fetch_value(tx, SQL.get_weights, {"workspace_id": tx.workspace_id, "id": id})
    return found


async def get_latest(tx: Tx) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_latest, {"workspace_id": tx.workspace_id})
    return rows[0] if rows else None


async def add_learned(
    tx: Tx,
    *,
    based_on: str,
    said: int,
    compared: Mapping[str, Any],
    weights: bytes | None,
    now: datetime,
) -> int:
    """One that was learned; in use from now on when its weights are given."""
    values = {
        "workspace_id": tx.workspace_id,
        "based_on": based_on,
        "said": said,
        "state": "no_better" if weights is None else "in_use",
        "compared": Jsonb(compared),
        "weights": weights,
        "now": now,
    }
    id: int = await db.fetch_value(tx, SQL.add_learned, values)
    return id


async def end_in_use(tx: Tx, *, state: str, member_id: int | None, now: datetime) -> bool:
    """False when none is in use."""
    values = {"workspace_id": tx.workspace_id, "state": state, "member_id": member_id, "now": now}
    return await db.fetch_value(tx, SQL.end_in_use, values) is not None


async def list_bodies(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_bodies, {"workspace_id": tx.workspace_id, "ids": list(ids)})
