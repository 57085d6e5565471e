"""Prize draws. Used by services.draws."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("draws")


async def add_draw(tx: Tx, values: dict[str, Any]) -> int:
    given = {**values, "workspace_id": tx.workspace_id, "rules": Jsonb(values["rules"])}
    id: int = await db.fetch_value(tx, SQL.add_draw, given)
    return id


async def list_draws(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_draws, {"workspace_id": tx.workspace_id})


async def get_draw(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_draw, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def set_drawn(
    tx: Tx,
    id: int,
    *,
    certificate: dict[str, Any],
    picked: Sequence[int],
    public_value: str | None,
    member_id: int,
    now: datetime,
) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "member_id": member_id, "now": now, "picked": list(picked)}
    values |= {"public_value": public_value}
    return await db.fetch_value(tx, SQL.set_drawn, {**values, "certificate": Jsonb(certificate)}) is not None


async def set_closed(tx: Tx, id: int, *, listed: dict[str, Any], entries_sha256: str, now: datetime) -> bool:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "listed": Jsonb(listed),
        "entries_sha256": entries_sha256,
        "now": now,
    }
    return await db.fetch_value(tx, SQL.set_closed, values) is not None


async def open_seed(tx: Tx, id: int) -> str | None:
    seed: str | None = await db.fetch_value(tx, SQL.open_seed, {"workspace_id": tx.workspace_id, "id": id})
    return seed


async def list_to_close(tx: Tx, now: datetime) -> list[int]:
    return [r["id"] for r in await db.fetch_dicts(tx, SQL.list_to_close, {"workspace_id": tx.workspace_id, "now": now})]


async def has_open(tx: Tx, post_id: int) -> bool:
    return bool(await db.fetch_value(tx, SQL.has_open, {"workspace_id": tx.workspace_id, "post_id": post_id}))


async def list_earlier(tx: Tx, post_id: int, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_earlier, {"workspace_id": tx.workspace_id, "post_id": post_id, "id": id})


async def cancel_draw(tx: Tx, id: int, now: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "now": now}
    return await db.fetch_value(tx, SQL.cancel_draw, values) is not None


async def list_said(tx: Tx, post_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_said, {"workspace_id": tx.workspace_id, "post_id": post_id})


async def list_notices(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_notices, {"workspace_id": tx.workspace_id, "id": id})


async def add_notice(tx: Tx, id: int, message_id: int, *, member_id: int, outcome: str, now: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "message_id": message_id, "member_id": member_id}
    return await db.fetch_value(tx, SQL.add_notice, {**values, "outcome": outcome, "now": now}) is not None


async def set_notice(tx: Tx, id: int, message_id: int, outcome: str) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "message_id": message_id, "outcome": outcome}
    await db.execute(tx, SQL.set_notice, values)


async def delete_notice(tx: Tx, id: int, message_id: int) -> None:
    await db.execute(tx, SQL.delete_notice, {"workspace_id": tx.workspace_id, "id": id, "message_id": message_id})


async def find_conversations(tx: Tx, messages: Sequence[int]) -> dict[int, int]:
    values = {"workspace_id": tx.workspace_id, "messages": list(messages)}
    return {r["message_id"]: r["conversation_id"] for r in await db.fetch_dicts(tx, SQL.find_conversations, values)}


async def list_posts(tx: Tx, words: str | None) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_posts, {"workspace_id": tx.workspace_id, "words": words})
