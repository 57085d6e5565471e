"""Workspaces' pictures. Used by services.looks."""

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("looks")


async def get_picture(conn: Conn, workspace_id: int) -> bytes | None:
    found = await db.fetch_value(conn, SQL.get_picture, {"workspace_id": workspace_id})
    return None if found is None else bytes(found)


async def set_picture(conn: Conn, workspace_id: int, image: bytes, sha256: str) -> None:
    await db.execute(conn, SQL.set_picture, {"workspace_id": workspace_id, "image": image, "sha256": sha256})


async def remove_picture(conn: Conn, workspace_id: int) -> bool:
    """Whether there was one."""
    return await db.execute(conn, SQL.remove_picture, {"workspace_id": workspace_id}) > 0
