"""What the clock does, when it was last done, and what went wrong. Used by services.duties."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("duties")


@dataclass(frozen=True, kw_only=True)
class DutyRow:
    name: str
    target: int
    began_at: datetime
    succeeded_at: datetime | None
    took_ms: int | None
    failed_at: datetime | None
    problem: str | None
    failures: int
    account_name: str | None
    network: str | None = None


async def claim_duty(
    tx: Tx,
    *,
    name: str,
    target: int,
    now: datetime,
    not_since: datetime,
    lease_until: datetime,
) -> bool:
    values = {
        "workspace_id": tx.workspace_id,
        "name": name,
        "target": target,
        "now": now,
        "not_since": not_since,
        "lease_until": lease_until,
    }
    return await db.fetch_value(tx, SQL.claim_duty, values) is not None


async def set_ended(tx: Tx, values: dict[str, Any], problem: str | None) -> None:
    """`values` are name, target, began_at, now and took_ms."""
    query = SQL.set_succeeded if problem is None else SQL.set_failed
    await db.execute(tx, query, {"workspace_id": tx.workspace_id, "problem": problem, **values})


async def list_duties(tx: Tx) -> list[DutyRow]:
    return await db.fetch_all(tx, DutyRow, SQL.list_duties, {"workspace_id": tx.workspace_id})


async def set_came_by(conn: Conn, name: str, every: float, now: datetime) -> None:
    await db.execute(conn, SQL.set_came_by, {"name": name, "every": every, "now": now})


async def get_behind(conn: Conn, now: datetime) -> float | None:
    behind: float | None = await db.fetch_value(conn, SQL.get_behind, {"now": now})
    return behind
