"""What reports read besides spells: conversations behind a figure, reports that are kept, and what else was done. Used by
services.reports.
"""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("reports")


async def list_exported(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    """Conversations as exports show them."""
    return await db.fetch_dicts(tx, SQL.list_exported, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def list_kept(tx: Tx, member_id: int) -> list[dict[str, Any]]:
    """Named reports that a member can open."""
    return await db.fetch_dicts(tx, SQL.list_kept, {"workspace_id": tx.workspace_id, "member_id": member_id})


async def count_kept(tx: Tx, member_id: int) -> int:
    """How many are the member's own."""
    return int(await db.fetch_value(tx, SQL.count_kept, {"workspace_id": tx.workspace_id, "member_id": member_id}))


async def add_kept(tx: Tx, member_id: int, *, name: str, shared: bool, query: str, now: datetime) -> int:
    """Its number."""
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "name": name, "shared": shared, "query": query}
    return int(await db.fetch_value(tx, SQL.add_kept, {**values, "now": now}))


async def delete_kept(tx: Tx, member_id: int, id: int) -> bool:
    """Whether there was one of the member's own."""
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "id": id}
    return await db.execute(tx, SQL.delete_kept, values) > 0


async def list_doings(tx: Tx, begins: datetime, ends: datetime) -> dict[str, Any]:
    """What was done in a period besides waiting and answering: by rules, approvals, saved replies, links, cases; replies."""
    values = {"workspace_id": tx.workspace_id, "begins": begins, "ends": ends}
    return {
        "rules": await db.fetch_dicts(tx, SQL.list_rule_doings, values),
        "approvals": await db.fetch_dicts(tx, SQL.list_approvals, values),
        "saved_replies": await db.fetch_dicts(tx, SQL.list_saved_uses, values),
        "links": await db.fetch_dicts(tx, SQL.list_clicks, values),
        "cases": await db.fetch_dicts(tx, SQL.list_case_doings, values),
        "replies": int(await db.fetch_value(tx, SQL.count_replies, values)),
    }
