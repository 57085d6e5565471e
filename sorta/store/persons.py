"""People: points and standing, profiles, tags, blocks. Used by ingest, the desk and the acts."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("persons")


async def add_points(tx: Tx, given: Sequence[tuple[int, float, datetime]]) -> None:
    """Points as (person, points, instant)."""
    values = {
        "workspace_id": tx.workspace_id,
        "persons": [person for person, _, _ in given],
        "points": [float(points) for _, points, _ in given],
        "ats": [at for _, _, at in given],
    }
    await db.execute(tx, SQL.add_points, values)


async def list_new_standings(tx: Tx, now: datetime) -> list[tuple[int, int]]:
    """The people whose standing is another than it was, with the new one, by number."""
    rows = await db.fetch_dicts(tx, SQL.list_new_standings, {"workspace_id": tx.workspace_id, "now": now})
    return [(row["id"], row["standing"]) for row in rows]


async def set_standings(tx: Tx, standings: Sequence[tuple[int, int]]) -> None:
    """Locks the people's open conversations first, then the people: the order of intake."""
    ids = [id for id, _ in standings]
    await db.execute(tx, SQL.lock_open_of, {"workspace_id": tx.workspace_id, "ids": ids})
    values = {"workspace_id": tx.workspace_id, "ids": ids, "standings": [standing for _, standing in standings]}
    await db.execute(tx, SQL.set_standings, values)


async def get_person(tx: Tx, id: int, now: datetime) -> dict[str, Any]:
    rows = await db.fetch_dicts(tx, SQL.get_person, {"workspace_id": tx.workspace_id, "id": id, "now": now})
    return rows[0]


async def list_unlooked(tx: Tx, limit: int) -> list[tuple[int, str]]:
    rows = await db.fetch_dicts(tx, SQL.list_unlooked, {"workspace_id": tx.workspace_id, "limit": limit})
    return [(row["id"], row["handle"]) for row in rows]


async def set_looks(tx: Tx, looks: Sequence[tuple[int, str, str]]) -> None:
    """Each a handle's number, how it is written, and what that looks like."""
    ids, handles, said = ([one[n] for one in looks] for n in range(3))
    await db.execute(
        tx, SQL.set_looks, {"workspace_id": tx.workspace_id, "ids": ids, "handles": handles, "looks": said}
    )


async def list_alike(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_alike, {"workspace_id": tx.workspace_id, "id": id})


async def list_identities(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_identities, {"workspace_id": tx.workspace_id, "id": id})


async def list_other_conversations(tx: Tx, person_id: int, conversation_id: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "id": person_id, "conversation_id": conversation_id}
    return await db.fetch_dicts(tx, SQL.list_other_conversations, values)


async def set_tagged(tx: Tx, id: int, tag_id: int, *, on: bool) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "tag_id": tag_id}
    await db.execute(tx, SQL.add_person_tag if on else SQL.delete_person_tag, values)


async def set_blocked(tx: Tx, id: int, *, blocked: bool) -> None:
    await db.execute(tx, SQL.set_blocked, {"workspace_id": tx.workspace_id, "id": id, "blocked": blocked})
