"""Days that are played again. Used by services.replays."""

from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("replays")


async def add_replay(conn: Conn, workspace_id: int, *, member_id: int, asked: Any, now: datetime) -> int:
    values = {"workspace_id": workspace_id, "member_id": member_id, "asked": Jsonb(asked), "now": now}
    return int(await db.fetch_value(conn, SQL.add_replay, values))


async def is_playing(conn: Conn, workspace_id: int, member_id: int) -> bool:
    """Nobody begins another until the transaction ends."""
    values = {"workspace_id": workspace_id, "member_id": member_id}
    await db.execute(conn, SQL.lock_member, values)
    return bool(await db.fetch_value(conn, SQL.is_playing, values))


async def forget_oldest(conn: Conn, workspace_id: int, most: int) -> None:
    await db.execute(conn, SQL.forget_oldest, {"workspace_id": workspace_id, "most": most})


async def list_replays(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_replays, {"workspace_id": workspace_id})


async def get_replay(conn: Conn, workspace_id: int, id: int) -> dict[str, Any] | None:
    return await db.fetch_dict(conn, SQL.get_replay, {"workspace_id": workspace_id, "id": id})


async def set_progress(conn: Conn, workspace_id: int, id: int, done: int, total: int) -> bool:
    """False when nobody wants it any more."""
    values = {"workspace_id": workspace_id, "id": id, "done": done, "total": total}
    return await db.fetch_value(conn, SQL.set_progress, values) is not None


async def set_result(conn: Conn, workspace_id: int, id: int, result: Any) -> bool:
    values = {"workspace_id": workspace_id, "id": id, "result": Jsonb(result)}
    return await db.fetch_value(conn, SQL.set_result, values) is not None


async def set_problem(conn: Conn, workspace_id: int, id: int, problem: str) -> None:
    await db.execute(conn, SQL.set_problem, {"workspace_id": workspace_id, "id": id, "problem": problem})


async def delete_replay(conn: Conn, workspace_id: int, member_id: int, id: int) -> bool:
    values = {"workspace_id": workspace_id, "member_id": member_id, "id": id}
    return await db.fetch_value(conn, SQL.delete_replay, values) is not None


async def list_silent(conn: Conn, workspace_id: int, silent_for: float) -> list[int]:
    values = {"workspace_id": workspace_id, "silent_for": silent_for}
    return [row["id"] for row in await db.fetch_dicts(conn, SQL.list_silent, values)]


async def count_waits(conn: Conn, workspace_id: int, begins: datetime, ends: datetime) -> int:
    values = {"workspace_id": workspace_id, "begins": begins, "ends": ends}
    return int(await db.fetch_value(conn, SQL.count_waits, values))
