"""Reading what was said before an account was connected. Used by services.earlier and services.accounts."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("earlier")


async def add_run(
    tx: Tx,
    account_id: int,
    *,
    since: datetime,
    until: datetime,
    stays_open: bool,
    member_id: int,
    now: datetime,
) -> int | None:
    """Its number; None where one is under way."""
    values = {
        "workspace_id": tx.workspace_id,
        "account_id": account_id,
        "since": since,
        "until": until,
        "stays_open": stays_open,
        "member_id": member_id,
        "now": now,
    }
    id: int | None = await db.fetch_value(tx, SQL.add_run, values)
    return id


async def list_runs(tx: Tx, account_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_runs, {"workspace_id": tx.workspace_id, "account_id": account_id})


async def stop_run(tx: Tx, account_id: int, id: int, now: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "account_id": account_id, "id": id, "now": now}
    return await db.fetch_value(tx, SQL.stop_run, values) is not None


async def claim_run(tx: Tx, now: datetime, lease_until: datetime) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "now": now, "lease_until": lease_until}
    rows = await db.fetch_dicts(tx, SQL.claim_run, values)
    return rows[0] if rows else None


async def set_progress(
    tx: Tx,
    id: int,
    *,
    cursor: str,
    seen: int,
    taken: int,
    expected: int | None,
    over: bool,
    next_at: datetime,
    now: datetime,
) -> bool:
    """False when it was stopped meanwhile."""
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "cursor": cursor,
        "seen": seen,
        "taken": taken,
        "expected": expected,
        "over": over,
        "next_at": next_at,
        "now": now,
    }
    return await db.fetch_value(tx, SQL.set_progress, values) is not None


async def set_problem(tx: Tx, id: int, problem: str, again: datetime) -> None:
    await db.execute(
        tx, SQL.set_problem, {"workspace_id": tx.workspace_id, "id": id, "problem": problem, "again": again}
    )


async def begin_reading(tx: Tx, id: int, now: datetime) -> None:
    await db.execute(tx, SQL.begin_reading, {"workspace_id": tx.workspace_id, "id": id, "now": now})
