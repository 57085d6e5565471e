"""What workspaces' own reading is learned from, and what was learned. Used by services.own_reading."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("own_reading")


async def list_told(conn: Conn, workspace_id: int, limit: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_told, {"workspace_id": workspace_id, "limit": limit})


async def get_in_use(conn: Conn, workspace_id: int) -> tuple[int, str] | None:
    """Its number, and the hash of the texts it was learned with."""
    rows = await db.fetch_dicts(conn, SQL.get_in_use, {"workspace_id": workspace_id})
    return (rows[0]["id"], rows[0]["based_on"]) if rows else None


async def get_weights(conn: Conn, workspace_id: int, id: int) -> bytes | None:
    """None when it is in use no more."""
    found: bytes | None = await db.fetch_value(conn, SQL.get_weights, {"workspace_id": workspace_id, "id": id})
    return found


async def get_latest(conn: Conn, workspace_id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(conn, SQL.get_latest, {"workspace_id": workspace_id})
    return rows[0] if rows else None


async def add_learned(
    conn: Conn,
    workspace_id: int,
    *,
    based_on: str,
    said: int,
    compared: Mapping[str, Any],
    weights: bytes | None,
    now: datetime,
) -> int:
    """One that was learned; in use from now on when its weights are given."""
    values = {
        "workspace_id": workspace_id,
        "based_on": based_on,
        "said": said,
        "state": "no_better" if weights is None else "in_use",
        "compared": Jsonb(compared),
        "weights": weights,
        "now": now,
    }
    id: int = await db.fetch_value(conn, SQL.add_learned, values)
    return id


async def end_in_use(conn: Conn, workspace_id: int, *, state: str, member_id: int | None, now: datetime) -> bool:
    """False when none is in use."""
    values = {"workspace_id": workspace_id, "state": state, "member_id": member_id, "now": now}
    return await db.fetch_value(conn, SQL.end_in_use, values) is not None


async def list_bodies(conn: Conn, workspace_id: int, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_bodies, {"workspace_id": workspace_id, "ids": list(ids)})
