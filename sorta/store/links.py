"""Links: kept ones by name, short ones, and who opened them. Used by services.links."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("links")


async def list_kept(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_kept, {"workspace_id": tx.workspace_id})


async def set_kept(tx: Tx, *, name: str, target: str, member_id: int, now: datetime) -> int:
    values = {"workspace_id": tx.workspace_id, "name": name, "target": target, "member_id": member_id, "now": now}
    id: int = await db.fetch_value(tx, SQL.set_kept, values)
    return id


async def get_kept(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_kept, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def remove_kept(tx: Tx, id: int) -> bool:
    return await db.fetch_value(tx, SQL.remove_kept, {"workspace_id": tx.workspace_id, "id": id}) is not None


async def add_link(tx: Tx, *, slug: str, target: str, account_id: int, member_id: int | None, now: datetime) -> str:
    values = {"workspace_id": tx.workspace_id, "slug": slug, "target": target, "account_id": account_id}
    kept: str = await db.fetch_value(tx, SQL.add_link, {**values, "member_id": member_id, "now": now})
    return kept


async def find_link(conn: Conn, slug: str) -> dict[str, Any] | None:
    """On a connection of no workspace."""
    async with conn.transaction():
        await conn.execute("select set_config('app.slug', %s, true)", [slug])
        rows = await db.fetch_dicts(conn, SQL.find_link, {"slug": slug})
    return rows[0] if rows else None


async def add_click(tx: Tx, link_id: int, *, apart: str | None, now: datetime) -> None:
    values = {"workspace_id": tx.workspace_id, "link_id": link_id, "apart": apart, "now": now}
    await db.execute(tx, SQL.add_click, values)


async def list_links(tx: Tx, since: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_links, {"workspace_id": tx.workspace_id, "since": since})
