"""Days that are played again. Used by services.replays."""

from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("replays")


async def add_replay(tx: Tx, *, member_id: int, asked: Any, now: datetime) -> int:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "asked": Jsonb(asked), "now": now}
    return int(await db.fetch_value(tx, SQL.add_replay, values))


async def is_playing(tx: Tx, member_id: int) -> bool:
    """Nobody begins another until the transaction ends."""
    values = {"workspace_id": tx.workspace_id, "member_id": member_id}
    await db.execute(tx, SQL.lock_member, values)
    return bool(await db.fetch_value(tx, SQL.is_playing, values))


async def forget_oldest(tx: Tx, most: int) -> None:
    await db.execute(tx, SQL.forget_oldest, {"workspace_id": tx.workspace_id, "most": most})


async def list_replays(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_replays, {"workspace_id": tx.workspace_id})


async def get_replay(tx: Tx, id: int) -> dict[str, Any] | None:
    return await db.fetch_dict(tx, SQL.get_replay, {"workspace_id": tx.workspace_id, "id": id})


async def set_progress(tx: Tx, id: int, done: int, total: int) -> bool:
    """False when nobody wants it any more."""
    values = {"workspace_id": tx.workspace_id, "id": id, "done": done, "total": total}
    return await db.fetch_value(tx, SQL.set_progress, values) is not None


async def set_result(tx: Tx, id: int, result: Any) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "result": Jsonb(result)}
    return await db.fetch_value(tx, SQL.set_result, values) is not None


async def set_problem(tx: Tx, id: int, problem: str) -> None:
    await db.execute(tx, SQL.set_problem, {"workspace_id": tx.workspace_id, "id": id, "problem": problem})


async def delete_replay(tx: Tx, member_id: int, id: int) -> bool:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "id": id}
    return await db.fetch_value(tx, SQL.delete_replay, values) is not None


async def list_silent(tx: Tx, silent_for: float) -> list[int]:
    values = {"workspace_id": tx.workspace_id, "silent_for": silent_for}
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_silent, values)]


async def count_waits(tx: Tx, begins: datetime, ends: datetime) -> int:
    values = {"workspace_id": tx.workspace_id, "begins": begins, "ends": ends}
    return int(await db.fetch_value(tx, SQL.count_waits, values))
