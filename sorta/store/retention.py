"""Deleting what is out of use, a batch at a time. Used by services.retention."""

from datetime import datetime

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("retention")


async def delete_batch(conn: Conn, workspace_id: int | None, name: str, before: datetime, limit: int) -> int:
    """Delete up to `limit` rows of a kind, named by its statement, that are older than `before`; how many."""
    values = {"workspace_id": workspace_id, "before": before, "limit": limit}
    return await db.execute(conn, SQL.statements[name], values)


async def list_choices(conn: Conn, workspace_id: int) -> dict[str, int | None]:
    """Days by kind; None is for good."""
    rows = await db.fetch_dicts(conn, SQL.list_choices, {"workspace_id": workspace_id})
    return {row["name"]: row["days"] for row in rows}


async def set_choice(conn: Conn, workspace_id: int, name: str, days: int | None) -> None:
    await db.execute(conn, SQL.set_choice, {"workspace_id": workspace_id, "name": name, "days": days})


async def list_people(conn: Conn, workspace_id: int, before: datetime, limit: int) -> list[int]:
    values = {"workspace_id": workspace_id, "before": before, "limit": limit}
    return [row["id"] for row in await db.fetch_dicts(conn, SQL.list_people, values)]
