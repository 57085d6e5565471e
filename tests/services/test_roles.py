"""Own roles, who has which, and the ways in which somebody might try to come to more."""

import asyncio
from dataclasses import replace

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import Invalid, NotAllowed, NotFound, SortaError
from sorta.core.permissions import STARTING, Permission, Role
from sorta.services import acts, approvals, policies, roles
from sorta.services.house import Scope
from sorta.services.reads import Reads
from tests.world import World

pytestmark = pytest.mark.anyio
NIGHT = [Permission.SEE, Permission.SORT, Permission.MODERATE]


async def held(world: World) -> dict[int, str]:
    """What each member is, by the role's name."""
    found = await roles.list_roles(world.house, world.scopes["noor"])
    return {m: r["name"] for r in found["roles"] for m in r["members"]}


async def scope_of(world: World, name: str) -> Scope:
    """Somebody's scope as the next request would find it."""
    scope = world.scopes[name]
    async with world.house.db.transact(world.workspace_id) as tx:
        return replace(scope, role=(await roles.list_held_roles(Reads(tx)))[scope.member_id])


async def test_an_own_role_is_made_given_changed_and_removed(world: World) -> None:
    house, noor, ilse = world.house, world.scopes["noor"], world.scopes["ilse"]
    key = await roles.add_role(house, noor, name="Night shift", permissions=NIGHT)
    await roles.give_role(house, noor, ilse.member_id, key)
    assert (await held(world))[ilse.member_id] == "Night shift"
    now = await scope_of(world, "ilse")
    with pytest.raises(NotAllowed, match="Night shift"):
        now.check(Permission.REPLY_PUBLICLY)
    await roles.set_role(house, noor, key, name="Nights", permissions=[Permission.REPLY_PUBLICLY])
    (await scope_of(world, "ilse")).check(Permission.REPLY_PUBLICLY)
    with pytest.raises(NotAllowed):
        await acts.keep(house, await scope_of(world, "ilse"), await world.hear("hi"), now=world.now)
    with pytest.raises(Invalid, match="Somebody is a Nights"):
        await roles.remove_role(house, noor, key)
    await roles.give_role(house, noor, ilse.member_id, Role.RESPONDER)
    await roles.remove_role(house, noor, key)
    assert "Nights" not in {r["name"] for r in (await roles.list_roles(house, noor))["roles"]}


async def test_a_lead_comes_to_nothing_an_owner_has(world: World) -> None:
    house, mara, noor = world.house, world.scopes["mara"], world.scopes["noor"]
    everything = list(Permission)
    with pytest.raises(NotAllowed, match="manage accounts"):
        await roles.add_role(house, mara, name="More", permissions=everything)
    with pytest.raises(NotAllowed):
        await roles.give_role(house, mara, mara.member_id, Role.OWNER)
    with pytest.raises(NotAllowed):
        await roles.give_role(house, mara, noor.member_id, Role.OBSERVER)
    with pytest.raises(NotAllowed):
        await roles.set_role(house, mara, Role.LEAD, name="Lead", permissions=everything)
    for who in ("ilse", "ana", "lise"):
        with pytest.raises(NotAllowed):
            await roles.add_role(house, world.scopes[who], name="x", permissions=[])
        with pytest.raises(NotAllowed):
            await roles.give_role(house, world.scopes[who], world.scopes[who].member_id, Role.OWNER)
    assert (await held(world))[mara.member_id] == "Lead"


async def test_the_last_owner_stays_also_when_two_leave_at_once(world: World) -> None:
    house, noor, mara = world.house, world.scopes["noor"], world.scopes["mara"]
    with pytest.raises(Invalid, match="at least one Owner"):
        await roles.give_role(house, noor, noor.member_id, Role.LEAD)
    await roles.give_role(house, noor, mara.member_id, Role.OWNER)
    now = await scope_of(world, "mara")
    outcomes = await asyncio.gather(
        roles.give_role(house, noor, noor.member_id, Role.LEAD),
        roles.give_role(house, now, mara.member_id, Role.LEAD),
        return_exceptions=True,
    )
    assert sum(isinstance(one, SortaError) for one in outcomes) == 1
    assert list((await held(world)).values()).count("Owner") == 1


async def test_what_a_role_cannot_become(world: World) -> None:
    house, noor, mara = world.house, world.scopes["noor"], world.scopes["mara"]
    with pytest.raises(Invalid, match="may do everything"):
        await roles.set_role(house, noor, Role.OWNER, name="Owner", permissions=[Permission.SEE])
    with pytest.raises(Invalid, match="lock yourself out"):
        await roles.set_role(house, mara, Role.LEAD, name="Lead", permissions=[Permission.SEE])
    with pytest.raises(Invalid, match="called lead already"):
        await roles.add_role(house, noor, name="lead", permissions=[])
    with pytest.raises(Invalid, match="starting role stays"):
        await roles.remove_role(house, noor, Role.TRAINEE)
    for key in ("own-nothing", "lead' or 1=1"):
        with pytest.raises(NotFound):
            await roles.give_role(house, noor, mara.member_id, key)
    with pytest.raises(NotFound):
        await roles.give_role(house, noor, world.scopes["otto"].member_id, Role.LEAD)


async def test_a_role_that_a_policy_names_stays(world: World) -> None:
    house, noor = world.house, world.scopes["noor"]
    key = await roles.add_role(house, noor, name="Vets", permissions=[Permission.APPROVE])
    body = PolicyBody(name="Animals", when=PolicyWhen(public=True), roles=(key,))
    await policies.add_policy(house, noor, body, on=True, now=world.now)
    with pytest.raises(Invalid, match="Animals"):
        await roles.remove_role(house, noor, key)
    with pytest.raises(Invalid, match="role that is not here"):
        await policies.add_policy(house, noor, replace(body, roles=("own-9",)), on=True, now=world.now)


async def test_who_has_an_own_role_that_approves_is_asked(world: World) -> None:
    house, noor, ilse = world.house, world.scopes["noor"], world.scopes["ilse"]
    key = await roles.add_role(house, noor, name="Vets", permissions=[Permission.APPROVE])
    await roles.give_role(house, noor, ilse.member_id, key)
    body = PolicyBody(name="Animals", when=PolicyWhen(public=True), roles=(key,))
    await policies.add_policy(house, noor, body, on=True, now=world.now)
    id = await world.hear("the ray is hurt")
    await approvals.propose(
        house, world.scopes["mara"], id, public=True, text="We look.", seen_seq=1, settle=False, now=world.now
    )
    waiting = await approvals.list_approvals(house, await scope_of(world, "ilse"))
    assert [w["conversation_id"] for w in waiting if w["mine"]] == [id]


async def test_a_new_workspace_has_the_starting_roles(world: World) -> None:
    found = (await roles.list_roles(world.house, world.scopes["otto"]))["roles"]
    assert {r["key"]: set(r["permissions"]) for r in found} == {r.key: r.grants for r in STARTING.values()}
