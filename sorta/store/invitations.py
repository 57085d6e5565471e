"""Links by which somebody comes in. Used by services.invitations."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("invitations")


async def has_members(conn: Conn, *, lock: bool = False) -> bool:
    """Whether anybody has an account; with `lock` nobody gets the first one until the transaction ends."""
    if lock:
        await db.execute(conn, SQL.lock_first, {})
    return bool(await db.fetch_value(conn, SQL.has_members, {}))


async def set_pending(tx: Tx, values: Mapping[str, Any]) -> int:
    return int(await db.fetch_value(tx, SQL.set_pending, {"workspace_id": tx.workspace_id, **values}))


async def count_pending(tx: Tx) -> int:
    return int(await db.fetch_value(tx, SQL.count_pending, {"workspace_id": tx.workspace_id}))


async def list_pending(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_pending, {"workspace_id": tx.workspace_id})


async def cancel(tx: Tx, id: int, now: datetime) -> str | None:
    """Whose it was, when it was pending."""
    email: str | None = await db.fetch_value(tx, SQL.cancel, {"workspace_id": tx.workspace_id, "id": id, "now": now})
    return email


async def find(conn: Conn, token_hash: bytes, now: datetime) -> dict[str, Any] | None:
    """In a transaction of no workspace: the one invitation of a link."""
    await conn.execute("select set_config('app.invitation', %s, true)", [token_hash.hex()])
    return await db.fetch_dict(conn, SQL.find, {"token_hash": token_hash, "now": now})


async def take(conn: Conn, token_hash: bytes, member_id: int, now: datetime) -> None:
    """After `find`, in its transaction."""
    await db.execute(conn, SQL.take, {"token_hash": token_hash, "member_id": member_id, "now": now})


async def claim_letter(tx: Tx, now: datetime, lease_until: datetime) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "now": now, "lease_until": lease_until}
    return await db.fetch_dict(tx, SQL.claim_letter, values)


async def set_mailed(tx: Tx, id: int, *, state: str, problem: str | None, next_at: datetime | None) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "state": state, "problem": problem, "next_at": next_at}
    await db.execute(tx, SQL.set_mailed, values)
