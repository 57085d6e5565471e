"""Account groups: their accounts and members, and who does not see what. Used by services."""

from collections.abc import Sequence
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("groups")


async def list_groups(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_groups, {"workspace_id": tx.workspace_id})


async def lock_groups(tx: Tx) -> list[int]:
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.lock_groups, {"workspace_id": tx.workspace_id})]


async def add_group(tx: Tx, name: str, accounts: Sequence[int]) -> int:
    values = {"workspace_id": tx.workspace_id, "name": name, "accounts": list(accounts)}
    id: int = await db.fetch_value(tx, SQL.add_group, values)
    return id


async def set_group(tx: Tx, id: int, name: str, accounts: Sequence[int]) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "name": name, "accounts": list(accounts)}
    await db.execute(tx, SQL.set_group, values)


async def set_members(tx: Tx, id: int, members: Sequence[int]) -> None:
    await db.execute(tx, SQL.set_members, {"workspace_id": tx.workspace_id, "id": id, "members": list(members)})


async def set_groups_of(tx: Tx, member_id: int, groups: Sequence[int]) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "groups": list(groups)}
    await db.execute(tx, SQL.set_groups_of, values)


async def delete_group(tx: Tx, id: int) -> None:
    await db.execute(tx, SQL.delete_group, {"workspace_id": tx.workspace_id, "id": id})


async def list_naming(tx: Tx, id: int) -> list[dict[str, Any]]:
    """What names a group, as (what, name)."""
    return await db.fetch_dicts(tx, SQL.list_naming, {"workspace_id": tx.workspace_id, "id": id})


async def list_blind(tx: Tx, account_id: int | None = None) -> dict[int, frozenset[int]]:
    """Of each account, or of one, the members who do not see it; an account that all see is not named."""
    found: dict[int, set[int]] = {}
    for row in await db.fetch_dicts(tx, SQL.list_blind, {"workspace_id": tx.workspace_id, "account_id": account_id}):
        found.setdefault(row["account_id"], set()).add(row["member_id"])
    return {account: frozenset(members) for account, members in found.items()}


async def is_seen_by(tx: Tx, member_id: int, account_id: int) -> bool:
    """Whether a member sees an account; nobody who does not work here sees any."""
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "account_id": account_id}
    return bool(await db.fetch_value(tx, SQL.is_seen_by, values))


async def list_out_of_sight(tx: Tx, limit: int) -> list[dict[str, Any]]:
    """Open conversations whose owner does not see them."""
    return await db.fetch_dicts(tx, SQL.list_out_of_sight, {"workspace_id": tx.workspace_id, "limit": limit})


async def list_group_members(tx: Tx, account_id: int) -> dict[int, set[int]]:
    """The groups that hold an account, each with its members, also those that who asks is not in."""
    found: dict[int, set[int]] = {}
    for row in await db.fetch_dicts(
        tx, SQL.list_group_members, {"workspace_id": tx.workspace_id, "account_id": account_id}
    ):
        found.setdefault(row["group_id"], set()).add(row["member_id"])
    return found
