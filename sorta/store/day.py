"""One member's day: what was done, is due, comes back, and is waited for. Used by services.day."""

from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("day")


async def get_day(
    tx: Tx, member_id: int, *, begins: datetime, ends: datetime, until: datetime, limit: int
) -> dict[str, list[dict[str, Any]]]:
    """All lists of a member's day, each at most `limit` long: done between `begins` and `ends`, due before `ends`, follow-ups
    before `until`."""
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "begins": begins, "ends": ends, "limit": limit}
    queries = {
        "counts": SQL.count_done,
        "done": SQL.list_done,
        "later": SQL.list_later,
        "sent_back": SQL.list_sent_back,
        "awaited": SQL.list_awaited,
    }
    found = {name: await db.fetch_dicts(tx, query, values) for name, query in queries.items()}
    for name, query, before in (
        ("due", SQL.list_due, ends),
        ("returning", SQL.list_returning, ends),
        ("follow_ups", SQL.list_follow_ups, until),
    ):
        found[name] = await db.fetch_dicts(tx, query, {**values, "until": before})
    return found
