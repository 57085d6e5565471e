"""Roles of a workspace and who has which. Used by the API, signing in and consent."""

import uuid
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import (
    STARTING,
    WORDS,
    HeldRole,
    Permission,
    Role,
    check_owner_stays,
    check_role,
    check_within,
    limit_role,
)
from sorta.core.security import Happening
from sorta.services.house import House, Scope
from sorta.services.reads import Reads
from sorta.services.security_log import note
from sorta.store import approvals, groups, identity, people
from sorta.store.db import Tx
from sorta.store.live import tell


def read_role(key: str, name: str, permissions: Sequence[str], *, limited: bool = False) -> HeldRole:
    """A role from what is stored of it, or as it is held by a member who is limited to groups."""
    role = HeldRole(key=key, name=name, grants=frozenset(Permission(p) for p in permissions))
    return limit_role(role) if limited else role


def read_member_role(member: people.MemberRow) -> HeldRole:
    """What a member may do."""
    return read_role(member.role, member.role_name, member.permissions, limited=member.limited)


async def list_held_roles(reads: Reads, accounts: Collection[int] = ()) -> dict[int, HeldRole]:
    """What each member of a workspace is there, of those who see all of these accounts."""
    blind = await reads.get(groups.list_blind) if accounts else {}
    unseen = frozenset(m for account in accounts for m in blind.get(account, ()))
    return {m.id: read_member_role(m) for m in await reads.get(people.list_members) if m.id not in unseen}


async def list_roles_of(tx: Tx) -> dict[str, HeldRole]:
    """The roles of a workspace by their keys."""
    return {r["key"]: read_role(**r) for r in await people.list_roles(tx)}


async def list_roles(house: House, scope: Scope) -> dict[str, Any]:
    """All roles with what they hold and who has them, and all permissions in words."""
    async with house.db.transact(scope.workspace_id) as tx:
        roles = await list_roles_of(tx)
        members = await people.list_members(tx)
        manages = Permission.MANAGE_MEMBERS in scope.role.grants
        about = await people.list_about(tx) if manages else []
    return {
        "about": about,
        "roles": [
            {
                "key": role.key,
                "name": role.name,
                "is_own": role.key not in set(Role),
                "permissions": sorted(role.grants),
                "members": [m.id for m in members if m.role == role.key],
            }
            for role in roles.values()
        ],
        "permissions": [{"key": p, "words": WORDS[p]} for p in Permission],
        "mine": scope.role.key,
    }


def pick_role(roles: Mapping[str, HeldRole], key: str) -> HeldRole:
    """One of them. Raises NotFound."""
    if key not in roles:
        raise NotFound("There is no such role in this workspace.")
    return roles[key]


def _check_name_is_free(roles: Mapping[str, HeldRole], name: str, key: str) -> None:
    if any(r.name.lower() == name.lower() and r.key != key for r in roles.values()):
        raise Invalid(f"There is a role called {name} already.", "name")


async def add_starting_roles(tx: Tx) -> None:
    """What a new workspace begins with."""
    for role in STARTING.values():
        await people.add_role(tx, key=role.key, name=role.name, permissions=sorted(role.grants))


async def add_role(house: House, scope: Scope, *, name: str, permissions: Sequence[Permission]) -> str:
    """A role of the workspace's own; its key. Raises Invalid, NotAllowed when it holds more than one's own."""
    scope.check(Permission.MANAGE_MEMBERS)
    said, grants = check_role(name, permissions)
    made = HeldRole(key=f"own-{uuid.uuid4().hex[:12]}", name=said, grants=grants)
    check_within(scope.role, made)
    async with house.db.transact(scope.workspace_id) as tx:
        await people.lock_roles(tx)
        _check_name_is_free(await list_roles_of(tx), said, made.key)
        await people.add_role(tx, key=made.key, name=said, permissions=sorted(grants))
        await note(tx, scope, Happening.ROLE_ADDED, said, permissions=sorted(grants))
        await tell(tx, "roles")
    return made.key


async def set_role(house: House, scope: Scope, key: str, *, name: str, permissions: Sequence[Permission]) -> None:
    """What a role is called and holds, for all who have it. The Owner's holds everything and is not changed.

    Raises Invalid, NotFound, NotAllowed when it holds, or would hold, more than one's own.
    """
    scope.check(Permission.MANAGE_MEMBERS)
    said, grants = check_role(name, permissions)
    async with house.db.transact(scope.workspace_id) as tx:
        await people.lock_roles(tx)
        roles = await list_roles_of(tx)
        before = pick_role(roles, key)
        if key == Role.OWNER:
            raise Invalid("An Owner may do everything; that cannot be changed.", "permissions")
        check_within(scope.role, before, HeldRole(key=key, name=said, grants=grants))
        if key == scope.role.key and Permission.MANAGE_MEMBERS not in grants:
            raise Invalid("You would lock yourself out: your own role has to go on managing members.", "permissions")
        _check_name_is_free(roles, said, key)
        await people.change_role(tx, key=key, name=said, permissions=sorted(grants))
        changed = {"permissions": sorted(grants), "before": sorted(before.grants)}
        await note(tx, scope, Happening.ROLE_CHANGED, said, **changed)
        await tell(tx, "roles")


async def remove_role(house: House, scope: Scope, key: str) -> None:
    """Forget a role of one's own that nobody has and no policy names. Raises Invalid, NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        held = await people.lock_roles(tx)
        role = pick_role(await list_roles_of(tx), key)
        check_within(scope.role, role)
        if key in set(Role):
            raise Invalid("A starting role stays; change what it holds.", "key")
        if key in held.values():
            raise Invalid(f"Somebody is a {role.name} still. Give them another role first.", "key")
        named = [p["body"]["name"] for p in await approvals.list_policies(tx) if _names(p, key)]
        if named:
            raise Invalid(f"The policy “{named[0]}” names it. Change that first.", "key")
        given_by = [g.name for g in await identity.list_groups(tx) if g.role == key]
        if given_by:
            raise Invalid(f"The provider’s group {given_by[0]} gives it. Remove that first.", "key")
        await people.delete_role(tx, key)
        await note(tx, scope, Happening.ROLE_REMOVED, role.name)
        await tell(tx, "roles")


def _names(policy: Mapping[str, Any], key: str) -> bool:
    body = policy["body"]
    return key in body.get("roles", ()) or key in body["when"].get("roles", ())


async def give_role(house: House, scope: Scope, member_id: int, key: str) -> None:
    """What a member is from now on.

    Raises NotFound, NotAllowed when they are or would be more than one is oneself, Invalid when no Owner would be left.
    """
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        held = await people.lock_roles(tx)
        roles = await list_roles_of(tx)
        if member_id not in held:
            raise NotFound("There is no such member in this workspace.")
        check_within(scope.role, pick_role(roles, held[member_id]), pick_role(roles, key))
        check_owner_stays(held, member_id, key)
        await people.set_role(tx, member_id, key)
        name = (await people.list_names(tx))[member_id]
        given = {"to": member_id, "role": key, "before": held[member_id]}
        await note(tx, scope, Happening.ROLE_GIVEN, f"{name} is {roles[key].name} now", **given)
        await tell(tx, "roles")
