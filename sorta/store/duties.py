"""What the clock does, when it was last done, and what went wrong. Used by services.duties."""

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime

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


Place = tuple[int, int]
"""Where a duty is done: a workspace, and an account of it, or 0."""


@dataclass(frozen=True, kw_only=True)
class Ended:
    """How a duty ended; `problem` is None where it succeeded."""

    workspace_id: int
    name: str
    target: int
    began_at: datetime
    now: datetime
    took_ms: int
    problem: str | None


async def claim_duties(
    conn: Conn, places: Sequence[Place], *, name: str, now: datetime, not_since: datetime, lease_until: datetime
) -> list[Place]:
    """Those of the places where it is begun with this. Outside of a workspace only the worker's role sees all of them."""
    values = {
        "workspaces": [workspace_id for workspace_id, _ in places],
        "targets": [target for _, target in places],
        "name": name,
        "now": now,
        "not_since": not_since,
        "lease_until": lease_until,
    }
    return [(row["workspace_id"], row["target"]) for row in await db.fetch_dicts(conn, SQL.claim_duties, values)]


async def end_duties(conn: Conn, ended: Sequence[Ended]) -> None:
    rows = [{**asdict(one), "began_at": one.began_at.isoformat(), "now": one.now.isoformat()} for one in ended]
    await db.execute(conn, SQL.end_duties, {"ended": json.dumps(rows)})


async def list_duties(tx: Tx) -> list[DutyRow]:
    return await db.fetch_all(tx, DutyRow, SQL.list_duties, {"workspace_id": tx.workspace_id})


async def set_came_by(conn: Conn, name: str, every: float, now: datetime) -> None:
    await db.execute(conn, SQL.set_came_by, {"name": name, "every": every, "now": now})


async def get_behind(conn: Conn, now: datetime) -> float | None:
    behind: float | None = await db.fetch_value(conn, SQL.get_behind, {"now": now})
    return behind
