"""Tags, teams, account groups, saved views, and messages as acts on networks see them. Used by services.sorting."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("sorting")


async def list_tags(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_tags, {"workspace_id": workspace_id})


async def add_tag(conn: Conn, workspace_id: int, name: str) -> int:
    id: int = await db.fetch_value(conn, SQL.add_tag, {"workspace_id": workspace_id, "name": name})
    return id


async def list_teams(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_teams, {"workspace_id": workspace_id})


async def add_team(conn: Conn, workspace_id: int, name: str, members: list[int]) -> int:
    values = {"workspace_id": workspace_id, "name": name, "members": members}
    id: int = await db.fetch_value(conn, SQL.add_team, values)
    return id


async def join_teams(conn: Conn, workspace_id: int, member_id: int, teams: Sequence[int]) -> None:
    values = {"workspace_id": workspace_id, "member_id": member_id, "teams": list(teams)}
    await db.execute(conn, SQL.join_teams, values)


async def list_views(conn: Conn, workspace_id: int, member_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_views, {"workspace_id": workspace_id, "member_id": member_id})


async def set_view(
    conn: Conn, workspace_id: int, member_id: int, name: str, shared: bool, query: dict[str, Any]
) -> int:
    values = {
        "workspace_id": workspace_id,
        "member_id": member_id,
        "name": name,
        "shared": shared,
        "query": Jsonb(query),
    }
    id: int = await db.fetch_value(conn, SQL.set_view, values)
    return id


async def delete_view(conn: Conn, workspace_id: int, member_id: int, id: int) -> bool:
    values = {"workspace_id": workspace_id, "member_id": member_id, "id": id}
    return await db.fetch_value(conn, SQL.delete_view, values) is not None


async def get_message_target(conn: Conn, workspace_id: int, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(conn, SQL.get_message_target, {"workspace_id": workspace_id, "id": id})
    return rows[0] if rows else None


async def set_moderated(
    conn: Conn,
    workspace_id: int,
    id: int,
    *,
    liked: bool | None = None,
    hidden: bool | None = None,
    reposted: bool | None = None,
    removed_at: datetime | None = None,
    removed_by: int | None = None,
) -> None:
    """None leaves as it is."""
    values = {
        "workspace_id": workspace_id,
        "id": id,
        "liked": liked,
        "hidden": hidden,
        "reposted": reposted,
        "removed_at": removed_at,
        "removed_by": removed_by,
    }
    await db.execute(conn, SQL.set_moderated, values)
