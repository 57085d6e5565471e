"""Workspaces: made empty or as a copy, by Owners; put away and brought back; what waits in each."""

from typing import Any

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.permissions import Permission, Role
from sorta.core.rules import AddTags, Conditions, GiveTo, HasWords, RuleBody
from sorta.core.texts import SavedReplyBody
from sorta.services import delivery, hours, links, outgoing, policies, roles, rules, sign_in, sorting, texts, workspaces
from sorta.services.house import Scope
from sorta.store import sorting as sorting_store
from tests.services.test_acts import reply
from tests.services.test_delivery import go, outside
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio


async def make(world: World, who: str = "noor", **more: Any) -> workspaces.Made:
    given = {"name": "Night", "time_zone": "Europe/Lisbon", "copy": False, "now": world.now, **more}
    return await workspaces.make(world.house, world.scopes[who], **given)


async def enter(world: World, who: str) -> str:
    email = f"{who}@brinewick.example"
    return (await sign_in.sign_in(world.house, email=email, password=PASSWORD, came_from="x", now=world.now)).token


async def test_who_makes_one_is_its_owner_and_nobody_else_is_in_it(world: World) -> None:
    made = await make(world)
    scope = await sign_in.get_scope(world.house, await enter(world, "noor"), made.id, world.now)
    assert (scope.role.key, scope.zone.key) == ("owner", "Europe/Lisbon")
    assert len((await roles.list_roles(world.house, scope))["roles"]) == 5
    with pytest.raises(NotFound):
        await sign_in.get_scope(world.house, await enter(world, "mara"), made.id, world.now)
    for who in ("mara", "ilse", "lise"):
        with pytest.raises(NotAllowed):
            await make(world, who)
    for wrong in ({"name": " "}, {"name": "x" * 61}, {"name": "a\0b"}, {"time_zone": "Mars/Olympus"}):
        with pytest.raises(Invalid):
            await make(world, **wrong)


async def test_a_copy_begins_as_the_other_is_set_up_and_says_what_it_is_without(world: World) -> None:
    noor, now = world.scopes["noor"], world.now
    async with world.house.db.transact(world.workspace_id) as tx:
        tag = await sorting_store.add_tag(tx, "Lost")
        team = await sorting_store.add_team(tx, "Evening", [noor.member_id])
    key = await roles.add_role(world.house, noor, name="Night desk", permissions=[Permission.SEE, Permission.SORT])
    await links.set_kept(world.house, noor, "map", "https://brinewick.example/map", now)
    account = world.accounts["quillet"].id
    await texts.add_saved_reply(world.house, noor, SavedReplyBody(name="Map", text="Here: {link:map}"), now)
    limited = SavedReplyBody(name="Quillet only", text="Hello", accounts=(account,))
    await texts.add_saved_reply(world.house, noor, limited, now)
    for name, when in (("Lost", PolicyWhen(tags=(tag,))), ("One account", PolicyWhen(accounts=(account,)))):
        body = PolicyBody(name=name, when=when, roles=(Role.OWNER,))
        await policies.add_policy(world.house, noor, body, on=True, now=now)
    for name, action in (("To evening", GiveTo(team=team)), ("To Mara", GiveTo(member=world.scopes["mara"].member_id))):
        body_of = RuleBody(
            name=name, when=Conditions(parts=(HasWords(words=("lost",)),)), then=(AddTags(tags=(tag,)), action)
        )
        await rules.add_rule(world.house, noor, body_of, on=True, now=now)
    week = ["09:00-17:00"] * 5 + [""] * 2
    before = await hours.get_hours(world.house, noor, now)
    await hours.set_hours(world.house, noor, zone="Europe/Copenhagen", week=week, special={}, targets=before["targets"], now=now, sure=True)  # fmt: skip

    made = await make(world, copy=True)
    there = Scope(workspace_id=made.id, member_id=noor.member_id, name="noor", role=noor.role, zone=noor.zone, csrf="")
    assert {"Night desk"} <= {r["name"] for r in (await roles.list_roles(world.house, there))["roles"]}
    assert key in {r["key"] for r in (await roles.list_roles(world.house, there))["roles"]}
    directory = await sorting.get_directory(world.house, there)
    assert [t["name"] for t in directory["tags"]] == ["Lost"]
    assert [(t["name"], list(t["members"])) for t in directory["teams"]] == [("Evening", [])]
    told = await rules.list_rules(world.house, there, now)
    assert [(r["body"]["name"], r["switched_on"]) for r in told["rules"]] == [("To evening", False)]
    assert [p["body"]["name"] for p in await policies.list_policies(world.house, there)] == ["Lost"]
    replies = await texts.list_saved_replies(world.house, there, archived=False)
    assert [r["body"]["name"] for r in replies] == ["Map", "Quillet only"]
    worked = await hours.get_hours(world.house, there, now)
    source = await hours.get_hours(world.house, noor, now)
    assert (worked["week"], worked["targets"], worked["time_zone"]) == (
        source["week"],
        source["targets"],
        "Europe/Lisbon",
    )
    assert worked["week"][0] == "09:00-17:00"
    said = " ".join(made.left_out)
    assert "“To Mara” was left out" in said
    assert "“One account” was left out" in said
    assert "“Quillet only” was for some accounts only" in said
    assert made.copied == {"roles": 5, "tags": 1, "teams": 1, "links": 1, "saved replies": 2, "policies": 1, "rules": 1}


async def test_put_away_nobody_opens_it_nothing_leaves_and_all_is_there_when_it_comes_back(world: World) -> None:
    noor, token = world.scopes["noor"], await enter(world, "noor")
    id = await world.hear("When do you open?")
    await reply(world, id, "At nine.")
    with pytest.raises(NotAllowed):
        await workspaces.archive(world.house, world.scopes["mara"], world.now)
    await workspaces.archive(world.house, noor, world.now)
    for who in ("noor", "mara"):
        with pytest.raises(NotFound):
            await sign_in.get_scope(world.house, await enter(world, who), world.workspace_id, world.now)
    assert await sign_in.list_workspaces(world.house, noor.member_id) == []
    assert world.workspace_id not in await workspaces.list_working_ids(world.house)
    assert world.workspace_id in await workspaces.list_all_workspace_ids(world.house)
    # Also what was queued before does not leave.
    assert await delivery.deliver_due(world.house, world.workspace_id, world.after(hours=1)) == 0
    assert await outside(world) == []
    (mine,) = await workspaces.list_mine(world.house, noor.member_id)
    assert mine["archived_at"] == world.now
    assert await workspaces.list_mine(world.house, world.scopes["mara"].member_id) == []
    for who in ("mara", "otto"):
        with pytest.raises(NotFound):
            await workspaces.bring_back(world.house, world.scopes[who].member_id, world.workspace_id)
    await workspaces.bring_back(world.house, noor.member_id, world.workspace_id)
    assert (await sign_in.get_scope(world.house, token, world.workspace_id, world.now)).role.key == "owner"
    told = await outgoing.get_outgoing(world.house, noor, world.after(hours=1))
    assert told["held_reason"] == "the workspace was archived"
    await outgoing.release(world.house, noor, world.after(hours=1))
    await go(world, hours=1)
    assert await outside(world) == ["At nine."]


async def test_what_waits_in_each_is_told_to_who_works_there(world: World) -> None:
    made = await make(world)
    for n in range(3):
        await world.hear("Hello?", handle=f"h{n}")
    told = await workspaces.list_mine(world.house, world.scopes["noor"].member_id)
    assert [(w["id"], w["waiting"], w["is_owner"]) for w in told] == [(world.workspace_id, 3, True), (made.id, 0, True)]
    assert [w["waiting"] for w in await workspaces.list_mine(world.house, world.scopes["mara"].member_id)] == [3]


async def test_what_it_is_called_and_is_about(world: World) -> None:
    noor = world.scopes["noor"]
    other = {"languages": ["da", "en"], "colour": " #14564A", "send_settles": True}
    await workspaces.set_about(world.house, noor, name="  Aquarium   by night ", description="Open till two.", **other)  # type: ignore[arg-type]
    assert await workspaces.get_about(world.house, noor) == {
        "name": "Aquarium by night",
        "description": "Open till two.",
        "languages": ["da", "en"],
        "colour": "#14564a",
        "picture": None,
        "send_settles": True,
        "is_owner": True,
    }
    with pytest.raises(Invalid, match="400"):
        await workspaces.set_about(world.house, noor, name="x", description="y" * 401, **other)  # type: ignore[arg-type]
    with pytest.raises(NotAllowed):
        await workspaces.set_about(world.house, world.scopes["mara"], name="x", description="", **other)  # type: ignore[arg-type]
