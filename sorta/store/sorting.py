"""Tags, teams, account groups, saved views, and messages as acts on networks see them. Used by services.sorting."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("sorting")


async def list_tags(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_tags, {"workspace_id": tx.workspace_id})


async def list_own_tags(tx: Tx, member_id: int) -> list[int]:
    """The tags that a member puts on most, of late."""
    rows = await db.fetch_dicts(tx, SQL.list_own_tags, {"workspace_id": tx.workspace_id, "member_id": member_id})
    return [row["tag"] for row in rows]


async def list_merged(tx: Tx) -> dict[int, int]:
    """By tag the one it was merged into."""
    rows = await list_tags(tx)
    return {row["id"]: row["merged_into"] for row in rows if row["merged_into"] is not None}


async def lock_tags(tx: Tx) -> None:
    """Nobody changes a tag until the transaction ends."""
    await db.execute(tx, SQL.lock_tags, {"workspace_id": tx.workspace_id})


async def count_tagged(tx: Tx) -> dict[int, tuple[int, int]]:
    """By tag how many conversations have it, and how many of them are open."""
    rows = await db.fetch_dicts(tx, SQL.count_tagged, {"workspace_id": tx.workspace_id})
    return {row["tag"]: (row["n"], row["open"]) for row in rows}


async def count_tagged_people(tx: Tx) -> dict[int, int]:
    """By tag how many people have it."""
    rows = await db.fetch_dicts(tx, SQL.count_tagged_people, {"workspace_id": tx.workspace_id})
    return {row["tag"]: row["n"] for row in rows}


async def list_naming_tags(tx: Tx) -> list[dict[str, Any]]:
    """What names tags: `what` it is, its `name`, and the `tag`."""
    return await db.fetch_dicts(tx, SQL.list_naming_tags, {"workspace_id": tx.workspace_id})


async def set_tag(tx: Tx, id: int, *, name: str, heading: str, retired: bool, now: datetime) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "name": name,
        "heading": heading,
        "retired": retired,
        "now": now,
    }
    await db.execute(tx, SQL.set_tag, values)


async def merge_tag(tx: Tx, id: int, into: int, now: datetime) -> None:
    """A tag is another from now on, and so are those that were merged into it."""
    await db.execute(tx, SQL.merge_tag, {"workspace_id": tx.workspace_id, "id": id, "into": into, "now": now})


async def list_all_views(tx: Tx) -> list[dict[str, Any]]:
    """Everybody's saved views, which nobody changes until the transaction ends."""
    return await db.fetch_dicts(tx, SQL.list_all_views, {"workspace_id": tx.workspace_id})


async def set_view_query(tx: Tx, id: int, query: dict[str, Any]) -> None:
    await db.execute(tx, SQL.set_view_query, {"workspace_id": tx.workspace_id, "id": id, "query": Jsonb(query)})


async def list_to_merge(tx: Tx, limit: int) -> list[dict[str, Any]]:
    """Conversations that still have a tag that is another by now: `conversation_id`, `tag`, `into_tag`."""
    return await db.fetch_dicts(tx, SQL.list_to_merge, {"workspace_id": tx.workspace_id, "limit": limit})


async def merge_people(tx: Tx, limit: int) -> int:
    """Give people who have a tag that is another by now that one; how many had it."""
    return int(await db.fetch_value(tx, SQL.merge_people, {"workspace_id": tx.workspace_id, "limit": limit}))


async def add_tag(tx: Tx, name: str, heading: str = "") -> int:
    values = {"workspace_id": tx.workspace_id, "name": name, "heading": heading}
    id: int = await db.fetch_value(tx, SQL.add_tag, values)
    return id


async def list_teams(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_teams, {"workspace_id": tx.workspace_id})


async def add_team(tx: Tx, name: str, members: list[int]) -> int:
    values = {"workspace_id": tx.workspace_id, "name": name, "members": members}
    id: int = await db.fetch_value(tx, SQL.add_team, values)
    return id


async def join_teams(tx: Tx, member_id: int, teams: Sequence[int]) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "teams": list(teams)}
    await db.execute(tx, SQL.join_teams, values)


async def list_views(tx: Tx, member_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_views, {"workspace_id": tx.workspace_id, "member_id": member_id})


async def set_view(tx: Tx, member_id: int, name: str, shared: bool, query: dict[str, Any]) -> int:
    values = {
        "workspace_id": tx.workspace_id,
        "member_id": member_id,
        "name": name,
        "shared": shared,
        "query": Jsonb(query),
    }
    id: int = await db.fetch_value(tx, SQL.set_view, values)
    return id


async def delete_view(tx: Tx, member_id: int, id: int) -> bool:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "id": id}
    return await db.fetch_value(tx, SQL.delete_view, values) is not None


async def get_message_target(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_message_target, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def set_moderated(
    tx: Tx,
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
        "workspace_id": tx.workspace_id,
        "id": id,
        "liked": liked,
        "hidden": hidden,
        "reposted": reposted,
        "removed_at": removed_at,
        "removed_by": removed_by,
    }
    await db.execute(tx, SQL.set_moderated, values)
