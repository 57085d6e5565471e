"""The guided start: steps are done by what is there, passed over and taken up again; rules to begin with can be added by anybody who may."""

import pytest

from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.permissions import Permission
from sorta.core.ready_rules import READY
from sorta.core.rules import check_body
from sorta.services import hours, invitations, rules, starting, workspaces
from sorta.services.house import Scope
from tests.world import World

pytestmark = pytest.mark.anyio


async def make(world: World) -> Scope:
    noor = world.scopes["noor"]
    made = await workspaces.make(world.house, noor, name="New", time_zone="Europe/Lisbon", copy=False, now=world.now)
    return Scope(workspace_id=made.id, member_id=noor.member_id, name="noor", role=noor.role, zone=noor.zone, csrf="")


async def done(world: World, scope: Scope) -> list[str]:
    return [one["key"] for one in await starting.get_start(world.house, scope) if one["done"]]


async def test_a_step_is_done_when_what_it_is_about_is_there(world: World) -> None:
    scope, now = await make(world), world.now
    assert [one["key"] for one in await starting.get_start(world.house, scope)] == [key for key, _ in starting.STEPS]
    assert await done(world, scope) == []
    looks = {"languages": ["en"], "colour": None}
    await workspaces.set_about(world.house, scope, name="New", description="Something.", **looks)  # type: ignore[arg-type]
    before = await hours.get_hours(world.house, scope, now)
    await hours.set_hours(world.house, scope, zone="Europe/Lisbon", week=before["week"], special={}, targets=before["targets"], now=now, sure=True)  # fmt: skip
    await starting.add_ready(world.house, scope, ["spam"], now)
    await invitations.invite(world.house, scope, "una@tidewater.example", invitations.Place(role="lead"), now)
    assert await done(world, scope) == ["about", "hours", "rules", "colleagues"]
    assert "account" in await done(world, world.scopes["noor"])


async def test_a_step_is_passed_over_and_taken_up_again_by_owners(world: World) -> None:
    scope = await make(world)
    for _ in range(2):
        await starting.skip(world.house, scope, "account", on=True)
    steps = {one["key"]: one for one in await starting.get_start(world.house, scope)}
    assert (steps["account"]["skipped"], steps["hours"]["skipped"]) == (True, False)
    await starting.skip(world.house, scope, "account", on=False)
    assert not any(one["skipped"] for one in await starting.get_start(world.house, scope))
    with pytest.raises(NotFound):
        await starting.skip(world.house, scope, "anything", on=True)
    with pytest.raises(NotAllowed):
        await starting.skip(world.house, world.scopes["mara"], "account", on=True)


async def test_rules_to_begin_with_are_rules_put_nothing_outside_and_come_once(world: World) -> None:
    scope, now = await make(world), world.now
    keys = [ready.key for ready in READY]
    for ready in READY:
        assert check_body(ready.body) == ready.body
        assert {action.type for action in ready.body.then} <= {"priority", "settle"}
    assert await starting.add_ready(world.house, scope, [keys[2], keys[0]], now) == 2
    assert await starting.add_ready(world.house, scope, keys, now) == len(keys) - 2
    assert await starting.add_ready(world.house, scope, keys, now) == 0
    told = await rules.list_rules(world.house, scope, now)
    assert {row["body"]["name"] for row in told["rules"]} == {ready.body.name for ready in READY}
    assert all(row["switched_on"] for row in told["rules"])
    assert all(one["is_here"] for one in await starting.list_ready(world.house, scope, now))
    with pytest.raises(Invalid):
        await starting.add_ready(world.house, scope, ["none"], now)
    for who in ("ilse", "lise"):
        assert Permission.MANAGE_RULES not in world.scopes[who].role.grants
        with pytest.raises(NotAllowed):
            await starting.add_ready(world.house, world.scopes[who], ["spam"], now)
