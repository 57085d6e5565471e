"""Open work counted by two things at once, the live feed, and what waits. Used by services.overview."""

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Any, LiteralString

from sorta.store import db
from sorta.store.db import Tx
from sorta.store.desk import compose, narrow

SQL = db.Statements("overview")

#: What rows and columns can be, each as a text; what a conversation has none of is an empty text.
DIMENSIONS: dict[str, LiteralString] = {
    "account": "c.account_id::text",
    "kind": "c.kind",
    "tag": "coalesce(t.value::text, '')",
    "owner": "coalesce(c.owner_id::text, '')",
    "team": "coalesce(c.team_id::text, '')",
    "priority": "c.priority::text",
    "move": "c.move",
    "band": "case when c.due is null then 'not_due' when c.due < %(now)s then 'late' when c.due < %(hour)s then 'within_hour' when c.due < %(today)s then 'later_today' else 'after_today' end",
    "sentiment": "coalesce(c.sentiment_band::text, '')",
}
_TAGS: LiteralString = (
    "left join filing t on t.workspace_id = %(workspace_id)s and t.conversation_id = c.id and t.under = 'tag'"
)


def make_cross(row: str, column: str, names: Iterable[str]) -> LiteralString:
    """The statement of a cross-tab of two dimensions through these filters of the desk."""
    query = SQL.cross.replace("{row}", DIMENSIONS[row]).replace("{column}", DIMENSIONS[column])
    return query.replace("{which}", compose(names)).replace("{tags}", _TAGS if "tag" in (row, column) else "")


async def count_cross(
    tx: Tx,
    member_id: int,
    *,
    row: str,
    column: str,
    filters: Mapping[str, Any],
    edges: Mapping[str, datetime],
) -> list[dict[str, Any]]:
    asked = narrow(filters)
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, **edges, **asked}
    return await db.fetch_dicts(tx, make_cross(row, column, asked), values)


async def list_feed(tx: Tx, before: datetime, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "before": before, "limit": limit}
    return await db.fetch_dicts(tx, SQL.list_feed, values)


async def count_waiting(tx: Tx, member_id: int, now: datetime) -> dict[str, Any]:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "now": now}
    return (await db.fetch_dicts(tx, SQL.count_waiting, values))[0]


async def list_dues(tx: Tx, until: datetime) -> list[tuple[datetime, int]]:
    """(due, priority) of what is open and ours, up to an instant."""
    rows = await db.fetch_dicts(tx, SQL.list_dues, {"workspace_id": tx.workspace_id, "until": until})
    return [(row["due"], row["priority"]) for row in rows]


async def count_finished(tx: Tx, lately: datetime, today: datetime) -> dict[str, int]:
    values = {"workspace_id": tx.workspace_id, "lately": lately, "today": today}
    return (await db.fetch_dicts(tx, SQL.count_finished, values))[0]
