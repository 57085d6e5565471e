"""Account groups: their accounts and members, and who does not see what. Used by services."""

from collections.abc import Sequence
from typing import Any

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("groups")


async def list_groups(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_groups, {"workspace_id": workspace_id})


async def lock_groups(conn: Conn, workspace_id: int) -> list[int]:
    return [row["id"] for row in await db.fetch_dicts(conn, SQL.lock_groups, {"workspace_id": workspace_id})]


async def add_group(conn: Conn, workspace_id: int, name: str, accounts: Sequence[int]) -> int:
    values = {"workspace_id": workspace_id, "name": name, "accounts": list(accounts)}
    id: int = await db.fetch_value(conn, SQL.add_group, values)
    return id


async def set_group(conn: Conn, workspace_id: int, id: int, name: str, accounts: Sequence[int]) -> None:
    values = {"workspace_id": workspace_id, "id": id, "name": name, "accounts": list(accounts)}
    await db.execute(conn, SQL.set_group, values)


async def set_members(conn: Conn, workspace_id: int, id: int, members: Sequence[int]) -> None:
    await db.execute(conn, SQL.set_members, {"workspace_id": workspace_id, "id": id, "members": list(members)})


async def set_groups_of(conn: Conn, workspace_id: int, member_id: int, groups: Sequence[int]) -> None:
    values = {"workspace_id": workspace_id, "member_id": member_id, "groups": list(groups)}
    await db.execute(conn, SQL.set_groups_of, values)


async def delete_group(conn: Conn, workspace_id: int, id: int) -> None:
    await db.execute(conn, SQL.delete_group, {"workspace_id": workspace_id, "id": id})


async def list_naming(conn: Conn, workspace_id: int, id: int) -> list[dict[str, Any]]:
    """What names a group, as (what, name)."""
    return await db.fetch_dicts(conn, SQL.list_naming, {"workspace_id": workspace_id, "id": id})


async def list_blind(conn: Conn, workspace_id: int, account_id: int | None = None) -> dict[int, frozenset[int]]:
    """Of each account, or of one, the members who do not see it; an account that all see is not named."""
    found: dict[int, set[int]] = {}
    for row in await db.fetch_dicts(conn, SQL.list_blind, {"workspace_id": workspace_id, "account_id": account_id}):
        found.setdefault(row["account_id"], set()).add(row["member_id"])
    return {account: frozenset(members) for account, members in found.items()}


async def is_seen_by(conn: Conn, workspace_id: int, member_id: int, account_id: int) -> bool:
    """Whether a member sees an account; nobody who does not work here sees any."""
    values = {"workspace_id": workspace_id, "member_id": member_id, "account_id": account_id}
    return bool(await db.fetch_value(conn, SQL.is_seen_by, values))


async def list_out_of_sight(conn: Conn, workspace_id: int, limit: int) -> list[dict[str, Any]]:
    """Open conversations whose owner does not see them."""
    return await db.fetch_dicts(conn, SQL.list_out_of_sight, {"workspace_id": workspace_id, "limit": limit})


async def list_group_members(conn: Conn, workspace_id: int, account_id: int) -> dict[int, set[int]]:
    """The groups that hold an account, each with its members, also those that who asks is not in."""
    found: dict[int, set[int]] = {}
    for row in await db.fetch_dicts(
        conn, SQL.list_group_members, {"workspace_id": workspace_id, "account_id": account_id}
    ):
        found.setdefault(row["group_id"], set()).add(row["member_id"])
    return found
