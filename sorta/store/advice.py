"""Questions outside and what came back. Used by services.advice."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("advice")


@dataclass(frozen=True, kw_only=True)
class LastLetter:
    """The last letter of somebody asked, and what it answers, nearest first."""

    message_id: str
    answers: list[str]


async def add_advice(tx: Tx, values: dict[str, Any]) -> int:
    id: int = await db.fetch_value(tx, SQL.add_advice, {"workspace_id": tx.workspace_id, **values})
    return id


async def get_advice(tx: Tx, id: int) -> dict[str, Any] | None:
    """Its row, locked, and its conversation's before it: whoever wants both takes them in this order."""
    values = {"workspace_id": tx.workspace_id, "id": id}
    await db.execute(tx, SQL.lock_conversation, values)
    rows = await db.fetch_dicts(tx, SQL.get_advice, values)
    return rows[0] if rows else None


async def get_advice_by_token(tx: Tx, token: str) -> int | None:
    id: int | None = await db.fetch_value(
        tx, SQL.get_advice_by_token, {"workspace_id": tx.workspace_id, "token": token}
    )
    return id


async def list_advice(tx: Tx, conversation_id: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id}
    return await db.fetch_dicts(tx, SQL.list_advice, values)


async def list_addresses(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_addresses, {"workspace_id": tx.workspace_id})


async def set_advice(
    tx: Tx,
    id: int,
    *,
    state: str,
    next_at: datetime | None = None,
    tries: int = 0,
    problem: str | None = None,
) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "state": state,
        "next_at": next_at,
        "tries": tries,
        "problem": problem,
    }
    await db.execute(tx, SQL.set_advice, values)


async def delete_unsent(tx: Tx, id: int) -> bool:
    return await db.fetch_value(tx, SQL.delete_unsent, {"workspace_id": tx.workspace_id, "id": id}) is not None


async def list_sendable(tx: Tx, now: datetime) -> list[int]:
    rows = await db.fetch_dicts(tx, SQL.list_sendable, {"workspace_id": tx.workspace_id, "now": now})
    return [row["id"] for row in rows]


async def list_overdue(tx: Tx, now: datetime) -> list[int]:
    rows = await db.fetch_dicts(tx, SQL.list_overdue, {"workspace_id": tx.workspace_id, "now": now})
    return [row["id"] for row in rows]


async def add_answer(tx: Tx, values: dict[str, Any]) -> bool:
    """False when this letter was kept before."""
    given = {"workspace_id": tx.workspace_id, **values}
    return await db.fetch_value(tx, SQL.add_answer, given) is not None


async def get_thread(tx: Tx, conversation_id: int, to_address: str) -> LastLetter | None:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id, "to_address": to_address}
    return await db.fetch_one(tx, LastLetter, SQL.get_thread, values)


async def list_domains(tx: Tx) -> list[str]:
    rows = await db.fetch_dicts(tx, SQL.list_domains, {"workspace_id": tx.workspace_id})
    return [row["domain"] for row in rows]


async def set_domains(tx: Tx, domains: Sequence[str]) -> None:
    await db.execute(tx, SQL.set_domains, {"workspace_id": tx.workspace_id, "domains": list(domains)})
