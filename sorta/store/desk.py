"""What the desk shows and remembers per member: queue, counts, drafts, presence, find. Used by services.desk."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, LiteralString

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("desk")

#: The orders of the queue: (order by, condition for what comes after a cursor).
_ORDERS: dict[str, tuple[LiteralString, LiteralString]] = {
    "due": (
        "sort_due, sort_rank, id",
        "and (sort_due, sort_rank, id) > (%(due)s::timestamptz, %(rank)s::smallint, %(id)s::bigint)",
    ),
    "newest": (
        "last_at desc, id desc",
        "and (last_at, id) < (%(last_at)s::timestamptz, %(id)s::bigint)",
    ),
}
_LIST = {
    (order, deep): SQL.list_rows.replace("{order}", by).replace(
        "{which}", f"move = %(move)s {after}" if deep else "move = %(move)s"
    )
    for order, (by, after) in _ORDERS.items()
    for deep in (False, True)
}

_LIST_BY_ID = SQL.list_rows.replace("{order}", "id").replace("{which}", "id = any(%(ids)s)")


@dataclass(frozen=True, kw_only=True)
class MoveCount:
    move: str
    total: int
    late: int
    within_hour: int
    later_today: int
    after_today: int
    not_due: int


@dataclass(frozen=True, kw_only=True)
class Draft:
    mode: str
    body: str


@dataclass(frozen=True, kw_only=True)
class Presence:
    member_id: int
    conversation_id: int
    doing: str


async def list_rows(
    conn: Conn,
    workspace_id: int,
    member_id: int,
    *,
    move: str,
    order: str,
    after: dict[str, Any] | None,
    limit: int,
) -> str:
    """A page of the queue as JSON text: twice as fast here as through objects."""
    values = {"workspace_id": workspace_id, "member_id": member_id, "move": move, "limit": limit, **(after or {})}
    text: str = await db.fetch_value(conn, _LIST[order, after is not None], values)
    return text


async def list_rows_by_id(conn: Conn, workspace_id: int, member_id: int, ids: list[int]) -> str:
    """These conversations as they are now, as JSON text."""
    values = {"workspace_id": workspace_id, "member_id": member_id, "ids": ids, "limit": len(ids)}
    text: str = await db.fetch_value(conn, _LIST_BY_ID, values)
    return text


async def count_moves(
    conn: Conn, workspace_id: int, *, now: datetime, hour: datetime, today: datetime
) -> list[MoveCount]:
    values = {"workspace_id": workspace_id, "now": now, "hour": hour, "today": today}
    return await db.fetch_all(conn, MoveCount, SQL.count_moves, values)


async def set_read(conn: Conn, workspace_id: int, member_id: int, conversation_id: int, seq: int) -> None:
    values = {
        "workspace_id": workspace_id,
        "member_id": member_id,
        "conversation_id": conversation_id,
        "seq": seq,
    }
    await db.execute(conn, SQL.set_read, values)


async def set_draft(
    conn: Conn, workspace_id: int, member_id: int, conversation_id: int, mode: str, body: str, now: datetime
) -> None:
    values = {
        "workspace_id": workspace_id,
        "member_id": member_id,
        "conversation_id": conversation_id,
        "mode": mode,
        "body": body,
        "now": now,
    }
    await db.execute(conn, SQL.set_draft, values)


async def get_draft(conn: Conn, workspace_id: int, member_id: int, conversation_id: int) -> Draft | None:
    values = {"workspace_id": workspace_id, "member_id": member_id, "conversation_id": conversation_id}
    return await db.fetch_one(conn, Draft, SQL.get_draft, values)


async def delete_draft(conn: Conn, workspace_id: int, member_id: int, conversation_id: int) -> None:
    values = {"workspace_id": workspace_id, "member_id": member_id, "conversation_id": conversation_id}
    await db.execute(conn, SQL.delete_draft, values)


async def set_presence(
    conn: Conn, workspace_id: int, member_id: int, conversation_id: int, doing: str, now: datetime, notice: str
) -> None:
    values = {
        "workspace_id": workspace_id,
        "member_id": member_id,
        "conversation_id": conversation_id,
        "doing": doing,
        "now": now,
        "notice": notice,
    }
    await db.execute(conn, SQL.set_presence, values)


async def delete_presence(conn: Conn, workspace_id: int, member_id: int, notice: str) -> None:
    values = {"workspace_id": workspace_id, "member_id": member_id, "notice": notice}
    await db.execute(conn, SQL.delete_presence, values)


async def list_presence(conn: Conn, workspace_id: int, since: datetime) -> list[Presence]:
    values = {"workspace_id": workspace_id, "since": since}
    return await db.fetch_all(conn, Presence, SQL.list_presence, values)


async def find_people(conn: Conn, workspace_id: int, pattern: str, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": workspace_id, "pattern": pattern, "limit": limit}
    return await db.fetch_dicts(conn, SQL.find_people, values)


async def find_messages(conn: Conn, workspace_id: int, query: str, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": workspace_id, "query": query, "limit": limit}
    return await db.fetch_dicts(conn, SQL.find_messages, values)


async def get_person(conn: Conn, workspace_id: int, id: int) -> dict[str, Any]:
    rows = await db.fetch_dicts(conn, SQL.get_person, {"workspace_id": workspace_id, "id": id})
    return rows[0]


async def list_identities(conn: Conn, workspace_id: int, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_identities, {"workspace_id": workspace_id, "id": id})


async def list_other_conversations(
    conn: Conn, workspace_id: int, person_id: int, conversation_id: int
) -> list[dict[str, Any]]:
    values = {"workspace_id": workspace_id, "id": person_id, "conversation_id": conversation_id}
    return await db.fetch_dicts(conn, SQL.list_other_conversations, values)
