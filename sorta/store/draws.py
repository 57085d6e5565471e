"""Prize draws. Used by services.draws."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("draws")


async def add_draw(conn: Conn, workspace_id: int, values: dict[str, Any]) -> int:
    given = {**values, "workspace_id": workspace_id, "rules": Jsonb(values["rules"])}
    id: int = await db.fetch_value(conn, SQL.add_draw, given)
    return id


async def list_draws(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_draws, {"workspace_id": workspace_id})


async def get_draw(conn: Conn, workspace_id: int, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(conn, SQL.get_draw, {"workspace_id": workspace_id, "id": id})
    return rows[0] if rows else None


async def set_drawn(
    conn: Conn,
    workspace_id: int,
    id: int,
    *,
    certificate: dict[str, Any],
    picked: Sequence[int],
    public_value: str | None,
    member_id: int,
    now: datetime,
) -> bool:
    values = {"workspace_id": workspace_id, "id": id, "member_id": member_id, "now": now, "picked": list(picked)}
    values |= {"public_value": public_value}
    return await db.fetch_value(conn, SQL.set_drawn, {**values, "certificate": Jsonb(certificate)}) is not None


async def set_closed(
    conn: Conn, workspace_id: int, id: int, *, listed: dict[str, Any], entries_sha256: str, now: datetime
) -> bool:
    values = {
        "workspace_id": workspace_id,
        "id": id,
        "listed": Jsonb(listed),
        "entries_sha256": entries_sha256,
        "now": now,
    }
    return await db.fetch_value(conn, SQL.set_closed, values) is not None


async def open_seed(conn: Conn, workspace_id: int, id: int) -> str | None:
    seed: str | None = await db.fetch_value(conn, SQL.open_seed, {"workspace_id": workspace_id, "id": id})
    return seed


async def list_to_close(conn: Conn, workspace_id: int, now: datetime) -> list[int]:
    return [r["id"] for r in await db.fetch_dicts(conn, SQL.list_to_close, {"workspace_id": workspace_id, "now": now})]


async def has_open(conn: Conn, workspace_id: int, post_id: int) -> bool:
    return bool(await db.fetch_value(conn, SQL.has_open, {"workspace_id": workspace_id, "post_id": post_id}))


async def list_earlier(conn: Conn, workspace_id: int, post_id: int, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_earlier, {"workspace_id": workspace_id, "post_id": post_id, "id": id})


async def cancel_draw(conn: Conn, workspace_id: int, id: int, now: datetime) -> bool:
    values = {"workspace_id": workspace_id, "id": id, "now": now}
    return await db.fetch_value(conn, SQL.cancel_draw, values) is not None


async def list_said(conn: Conn, workspace_id: int, post_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_said, {"workspace_id": workspace_id, "post_id": post_id})


async def list_notices(conn: Conn, workspace_id: int, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_notices, {"workspace_id": workspace_id, "id": id})


async def add_notice(
    conn: Conn, workspace_id: int, id: int, message_id: int, *, member_id: int, outcome: str, now: datetime
) -> bool:
    values = {"workspace_id": workspace_id, "id": id, "message_id": message_id, "member_id": member_id}
    return await db.fetch_value(conn, SQL.add_notice, {**values, "outcome": outcome, "now": now}) is not None


async def set_notice(conn: Conn, workspace_id: int, id: int, message_id: int, outcome: str) -> None:
    values = {"workspace_id": workspace_id, "id": id, "message_id": message_id, "outcome": outcome}
    await db.execute(conn, SQL.set_notice, values)


async def delete_notice(conn: Conn, workspace_id: int, id: int, message_id: int) -> None:
    await db.execute(conn, SQL.delete_notice, {"workspace_id": workspace_id, "id": id, "message_id": message_id})


async def find_conversations(conn: Conn, workspace_id: int, messages: Sequence[int]) -> dict[int, int]:
    values = {"workspace_id": workspace_id, "messages": list(messages)}
    return {r["message_id"]: r["conversation_id"] for r in await db.fetch_dicts(conn, SQL.find_conversations, values)}


async def list_posts(conn: Conn, workspace_id: int, words: str | None) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_posts, {"workspace_id": workspace_id, "words": words})
