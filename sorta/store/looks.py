"""Workspaces' pictures. Used by services.looks."""

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("looks")


async def get_picture(tx: Tx) -> bytes | None:
    found = await db.fetch_value(tx, SQL.get_picture, {"workspace_id": tx.workspace_id})
    return None if found is None else bytes(found)


async def set_picture(tx: Tx, image: bytes, sha256: str) -> None:
    await db.execute(tx, SQL.set_picture, {"workspace_id": tx.workspace_id, "image": image, "sha256": sha256})


async def remove_picture(tx: Tx) -> bool:
    """Whether there was one."""
    return await db.execute(tx, SQL.remove_picture, {"workspace_id": tx.workspace_id}) > 0
