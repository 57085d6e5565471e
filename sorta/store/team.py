"""Who is there to work and how much they have in hand. Used by services.team and services.ruling."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("team")


async def list_candidates(tx: Tx, team_id: int, person_id: int, account_id: int, now: datetime) -> list[dict[str, Any]]:
    values = {
        "workspace_id": tx.workspace_id,
        "team_id": team_id,
        "person_id": person_id,
        "account_id": account_id,
        "now": now,
    }
    return await db.fetch_dicts(tx, SQL.list_candidates, values)


async def set_turns(tx: Tx, turns: Sequence[tuple[int, int, datetime]]) -> None:
    """Of teams and members when they were given one, in the order of their numbers."""
    teams, members, times = zip(*turns, strict=True)
    values = {"workspace_id": tx.workspace_id, "teams": list(teams), "members": list(members), "times": list(times)}
    await db.execute(tx, SQL.set_turns, values)


async def list_loads(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_loads, {"workspace_id": tx.workspace_id, "now": now})


async def list_work(tx: Tx, present: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_work, {"workspace_id": tx.workspace_id, "present": present})


async def set_availability(tx: Tx, member_id: int, given: Mapping[str, Any]) -> None:
    shift = given["shift"]
    values = {
        **given,
        "workspace_id": tx.workspace_id,
        "member_id": member_id,
        "shift": None if shift is None else Jsonb(shift),
    }
    await db.execute(tx, SQL.set_availability, values)


async def set_team(tx: Tx, id: int, name: str, members: Sequence[int]) -> None:
    """What a team is called, and who is in it and nobody else."""
    values = {"workspace_id": tx.workspace_id, "id": id, "name": name, "members": list(members)}
    await db.execute(tx, SQL.set_team, values)


async def set_way(tx: Tx, team_id: int, way: str) -> bool:
    values = {"workspace_id": tx.workspace_id, "team_id": team_id, "way": way}
    return await db.fetch_value(tx, SQL.set_way, values) is not None
