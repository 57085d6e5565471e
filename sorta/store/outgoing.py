"""Holding what goes out of a workspace. Used by services.outgoing."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("outgoing")


async def get_hold(tx: Tx) -> dict[str, Any]:
    return (await db.fetch_dicts(tx, SQL.get_hold, {"workspace_id": tx.workspace_id}))[0]


async def hold(tx: Tx, at: datetime, by: int, reason: str) -> bool:
    """False when it is held already."""
    values = {"workspace_id": tx.workspace_id, "at": at, "by": by, "reason": reason}
    return await db.fetch_value(tx, SQL.hold, values) is not None


async def release(tx: Tx) -> None:
    await db.execute(tx, SQL.release, {"workspace_id": tx.workspace_id})


async def list_waiting(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_waiting, {"workspace_id": tx.workspace_id, "now": now})


async def list_refused(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_refused, {"workspace_id": tx.workspace_id, "now": now})


async def try_now(tx: Tx, id: int, now: datetime) -> int | None:
    """The account it goes through, where it waits."""
    account: int | None = await db.fetch_value(tx, SQL.try_now, {"workspace_id": tx.workspace_id, "id": id, "now": now})
    return account


async def list_letters(tx: Tx, given_up_since: datetime, **sees: Any) -> list[dict[str, Any]]:
    """What does not go out by a network and has not been taken. `sees` are `member_id` and what they may see besides."""
    values = {"workspace_id": tx.workspace_id, "given_up_since": given_up_since, **sees}
    return await db.fetch_dicts(tx, SQL.list_letters, values)


async def try_letters(tx: Tx, now: datetime, **sees: Any) -> int:
    """How many of them may go at once."""
    return int(await db.fetch_value(tx, SQL.try_letters, {"workspace_id": tx.workspace_id, "now": now, **sees}))
