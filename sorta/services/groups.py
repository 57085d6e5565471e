"""Account groups: named sets of accounts with the members who look after them, and who is limited to theirs. Used by the API, the clock, acts."""

from collections.abc import Collection, Sequence
from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid, NotFound
from sorta.core.events import Assigned
from sorta.core.groups import MOST_GROUPS, check_group, crosses_groups
from sorta.core.permissions import Permission, Role, check_within
from sorta.core.security import Happening
from sorta.services.house import House, Scope
from sorta.services.roles import list_roles_of, pick_role
from sorta.services.security_log import note
from sorta.services.trail import Open, writing
from sorta.store import accounts, people
from sorta.store import groups as store
from sorta.store.db import Tx
from sorta.store.live import tell

#: Conversations that are given back in one go of the clock.
AT_ONCE = 500


async def list_groups(house: House, scope: Scope) -> list[dict[str, Any]]:
    """The groups with their accounts and members; who is limited sees their own."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.list_groups(tx)


async def make_group(
    house: House, workspace_id: int, name: str, held: Collection[int], members: Collection[int] = ()
) -> int:
    """A new group; its number."""
    async with house.db.transact(workspace_id) as tx:
        id = await store.add_group(tx, name, sorted(held))
        await store.set_members(tx, id, sorted(members))
    return id


async def set_group(
    house: House,
    scope: Scope,
    id: int | None,
    *,
    name: str,
    held: Collection[int],
    members: Collection[int],
    now: datetime,
) -> int:
    """A new group (`id` None), or what one is called, holds, and who looks after it, from now on; its number.

    Work that its owner no longer sees goes back to nobody. Raises Invalid, NotFound, NotAllowed.
    """
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        await people.lock_roles(tx)
        await store.lock_groups(tx)
        groups = await store.list_groups(tx)
        if id is not None and id not in {g["id"] for g in groups}:
            raise NotFound("There is no such account group in this workspace.")
        if id is None and len(groups) >= MOST_GROUPS:
            raise Invalid(f"A workspace has at most {MOST_GROUPS} account groups.", "name")
        said = check_group(name, [g["name"] for g in groups if g["id"] != id])
        if not set(held) <= {a.id for a in await accounts.list_accounts(tx)}:
            raise Invalid("The group names an account that is not here.", "accounts")
        if not set(members) <= {m.id for m in await people.list_members(tx)}:
            raise Invalid("The group names a member who does not work here.", "members")
        kind = Happening.GROUP_ADDED if id is None else Happening.GROUP_CHANGED
        if id is None:
            id = await store.add_group(tx, said, sorted(set(held)))
        else:
            await store.set_group(tx, id, said, sorted(set(held)))
        await store.set_members(tx, id, sorted(set(members)))
        await note(tx, scope, kind, said, group=id)
        await _tell(tx)
    await give_back(house, scope.workspace_id, now)
    return id


async def remove_group(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Forget a group; its accounts stay. Raises NotFound, NotAllowed, Invalid while a rule or saved reply names it."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        await store.lock_groups(tx)
        found = [g for g in await store.list_groups(tx) if g["id"] == id]
        if not found:
            raise NotFound("There is no such account group in this workspace.")
        naming = await store.list_naming(tx, id)
        if naming:
            raise Invalid(f"The {naming[0]['what']} “{naming[0]['name']}” names it. Change that first.", "id")
        await store.delete_group(tx, id)
        await note(tx, scope, Happening.GROUP_REMOVED, found[0]["name"])
        await _tell(tx)
    await give_back(house, scope.workspace_id, now)


async def set_sight(
    house: House, scope: Scope, member_id: int, *, limited: bool, groups: Sequence[int], now: datetime
) -> None:
    """Whether a member sees the accounts of their groups only, and which groups those are, from now on.

    Raises NotFound, NotAllowed when they may more than one does oneself, Invalid for oneself, an Owner, or groups not here.
    """
    scope.check(Permission.MANAGE_MEMBERS)
    if limited and member_id == scope.member_id:
        raise Invalid("Nobody limits themselves: ask somebody else who manages members.", "limited")
    async with house.db.transact(scope.workspace_id) as tx:
        held = await people.lock_roles(tx)
        if member_id not in held:
            raise NotFound("There is no such member in this workspace.")
        check_within(scope.role, pick_role(await list_roles_of(tx), held[member_id]))
        await place(tx, member_id, held[member_id], limited=limited, groups=groups)
        name = (await people.list_names(tx))[member_id]
        names = [g["name"] for g in await store.list_groups(tx) if g["id"] in groups]
        seen = f"the accounts of {', '.join(names) or 'no group'}" if limited else "every account"
        await note(tx, scope, Happening.LIMITED, f"{name} sees {seen}", to=member_id, limited=limited, groups=groups)
        await _tell(tx)
    await give_back(house, scope.workspace_id, now)


async def _tell(tx: Tx) -> None:
    """What members may do and what they see are others now."""
    for kind in ("roles", "everything"):
        await tell(tx, kind)


def check_limit(role: str, *, limited: bool) -> None:
    """Raise Invalid for an Owner, who sees everything."""
    if limited and role == Role.OWNER:
        raise Invalid("An Owner sees every account. Give them another role first.", "limited")


async def check_groups(tx: Tx, groups: Collection[int]) -> None:
    """Raise Invalid unless all of them are groups of the workspace."""
    if not set(groups) <= {g["id"] for g in await store.list_groups(tx)}:
        raise Invalid("There is no such account group in this workspace.", "groups")


async def place(tx: Tx, member_id: int, role: str, *, limited: bool, groups: Collection[int]) -> None:
    """A member with what they see. Raises Invalid for an Owner, or for groups not here."""
    check_limit(role, limited=limited)
    await check_groups(tx, groups)
    await people.set_limited(tx, member_id, limited=limited)
    await store.set_groups_of(tx, member_id, sorted(set(groups)))


async def check_passing(tx: Tx, conversation: Open, giver: int, taker: int, reason: str | None) -> None:
    """Raise Invalid when who gets a conversation does not see it, or is of other groups of its account than who has it and no reason is given."""
    account = conversation.row["account_id"]
    if not await store.is_seen_by(tx, taker, account):
        name = (await people.list_names(tx)).get(taker, "That member")
        raise Invalid(f"{name} does not see this account: none of their groups holds it.", "owner_id")
    groups = await store.list_group_members(tx, account)
    from_whom = giver if conversation.facts.owner is None else conversation.facts.owner
    if reason is None and crosses_groups(groups, from_whom, taker):
        raise Invalid("This goes to another group’s members: say why, in the note.", "note")


async def give_back(house: House, workspace_id: int, now: datetime) -> int:
    """Open conversations whose owner does not see them any more go back to nobody, each in a transaction of its own; how many were looked at.
    Also a duty of the clock: a settled one keeps its owner, and reopens."""
    async with house.db.transact(workspace_id) as tx:
        found = await store.list_out_of_sight(tx, AT_ONCE)
    for one in found:
        async with writing(house, workspace_id, now) as ledger:
            conversation = await ledger.get(one["id"])
            owner, account = conversation.facts.owner, conversation.row["account_id"]
            if owner is None or owner != one["owner_id"] or await store.is_seen_by(ledger.tx, owner, account):
                continue
            words = f"{one['name']} does not see this account any more."
            ledger.add(conversation, Assigned(owner=None, team=conversation.facts.team, note=words))
    return len(found)
