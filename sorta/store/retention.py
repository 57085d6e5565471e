"""Deleting what is out of use, a batch at a time. Used by services.retention."""

from datetime import datetime

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("retention")


async def delete_batch(conn: Conn, workspace_id: int | None, name: str, before: datetime, limit: int) -> int:
    """Delete up to `limit` rows of a kind, named by its statement, that are older than `before`; how many."""
    values = {"workspace_id": workspace_id, "before": before, "limit": limit}
    return await db.execute(conn, SQL.statements[name], values)


async def list_choices(tx: Tx) -> dict[str, int | None]:
    """Days by kind; None is for good."""
    rows = await db.fetch_dicts(tx, SQL.list_choices, {"workspace_id": tx.workspace_id})
    return {row["name"]: row["days"] for row in rows}


async def set_choice(tx: Tx, name: str, days: int | None) -> None:
    await db.execute(tx, SQL.set_choice, {"workspace_id": tx.workspace_id, "name": name, "days": days})


async def list_people(tx: Tx, before: datetime, limit: int) -> list[int]:
    values = {"workspace_id": tx.workspace_id, "before": before, "limit": limit}
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_people, values)]
