"""Second steps, recovery codes, and where members are signed in. Used by services.second_step and services.sign_in."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("second_step")


@dataclass(frozen=True, kw_only=True)
class Factor:
    secret: str
    confirmed_at: datetime | None
    last_step: int


@dataclass(frozen=True, kw_only=True)
class SessionRow:
    id: int
    created_at: datetime
    seen_at: datetime
    came_from: str
    agent: str
    is_this: bool


async def get_factor(conn: Conn, member_id: int) -> Factor | None:
    return await db.fetch_one(conn, Factor, SQL.get_factor, {"member_id": member_id})


async def has_factor(conn: Conn, member_id: int) -> bool:
    return bool(await db.fetch_value(conn, SQL.has_factor, {"member_id": member_id}))


async def begin(conn: Conn, member_id: int, secret: str, now: datetime) -> bool:
    """False where there is one already."""
    values = {"member_id": member_id, "secret": secret, "now": now}
    return await db.fetch_value(conn, SQL.begin, values) is not None


async def confirm(conn: Conn, member_id: int, step: int, now: datetime) -> None:
    await db.execute(conn, SQL.confirm, {"member_id": member_id, "step": step, "now": now})


async def set_step(conn: Conn, member_id: int, step: int) -> None:
    await db.execute(conn, SQL.set_step, {"member_id": member_id, "step": step})


async def turn_off(conn: Conn, member_id: int) -> None:
    await db.execute(conn, SQL.turn_off, {"member_id": member_id})


async def has_app(conn: Conn, member_id: int) -> bool:
    return bool(await db.fetch_value(conn, SQL.has_app, {"member_id": member_id}))


async def forget_codes(conn: Conn, member_id: int) -> None:
    await db.execute(conn, SQL.forget_codes, {"member_id": member_id})


async def set_codes(conn: Conn, member_id: int, hashes: Sequence[bytes]) -> None:
    await db.execute(conn, SQL.set_codes, {"member_id": member_id, "hashes": list(hashes)})


async def count_codes(conn: Conn, member_id: int) -> int:
    return int(await db.fetch_value(conn, SQL.count_codes, {"member_id": member_id}))


async def use_code(conn: Conn, member_id: int, code_hash: bytes, now: datetime) -> bool:
    """Whether it was one that is left."""
    values = {"member_id": member_id, "code_hash": code_hash, "now": now}
    return await db.fetch_value(conn, SQL.use_code, values) is not None


async def make_whole(conn: Conn, token_hash: bytes, expires_at: datetime) -> bool:
    values = {"token_hash": token_hash, "expires_at": expires_at}
    return await db.fetch_value(conn, SQL.make_whole, values) is not None


async def list_sessions(
    conn: Conn, member_id: int, token_hash: bytes, now: datetime, idle_since: datetime
) -> list[SessionRow]:
    values = {"member_id": member_id, "token_hash": token_hash, "now": now, "idle_since": idle_since}
    return await db.fetch_all(conn, SessionRow, SQL.list_sessions, values)


async def end_session(conn: Conn, member_id: int, id: int, token_hash: bytes) -> bool:
    values = {"member_id": member_id, "id": id, "token_hash": token_hash}
    return await db.fetch_value(conn, SQL.end_session, values) is not None


async def end_others(conn: Conn, member_id: int, token_hash: bytes) -> None:
    await db.execute(conn, SQL.end_others, {"member_id": member_id, "token_hash": token_hash})


async def set_needed(tx: Tx, on: bool) -> None:
    await db.execute(tx, SQL.set_needed, {"workspace_id": tx.workspace_id, "on": on})


async def list_lacking(tx: Tx) -> list[str]:
    return [row["name"] for row in await db.fetch_dicts(tx, SQL.list_lacking, {"workspace_id": tx.workspace_id})]


async def list_secrets(conn: Conn) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_secrets, {})


async def set_secret(conn: Conn, member_id: int, secret: str) -> None:
    await db.execute(conn, SQL.set_secret, {"member_id": member_id, "secret": secret})
