"""Somebody leaves: out at once, nothing of theirs lost, nothing comes back to them, their name stays readable."""

from typing import Any

import pytest

from sorta.core.errors import Invalid, NotAllowed, NotFound, SignInRefused
from sorta.core.permissions import Role
from sorta.services import acts, desk, leaving, organisation, roles, scheduling, sign_in
from sorta.services.checking import find_differences
from sorta.store import desk as desk_store
from sorta.store import sorting
from tests.services.test_acts import reply
from tests.services.test_approvals import add_policy, list_outside, propose
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio


async def let_go(world: World, who: str = "ilse", by: str = "noor", **heirs: Any) -> int:
    given = {"to_owner": None, "to_team": None, "now": world.now, **heirs}
    return await leaving.let_go(world.house, world.scopes[by], world.scopes[who].member_id, **given)


async def give(world: World, id: int, who: str = "ilse") -> None:
    member = world.scopes[who].member_id
    await acts.assign(world.house, world.scopes["noor"], id, owner_id=member, note=None, now=world.now)


async def enter(world: World, who: str) -> str:
    email = f"{who}@brinewick.example"
    given = await sign_in.sign_in(world.house, email=email, password=PASSWORD, came_from="x", now=world.now)
    return given.token


async def test_they_are_out_at_once_and_their_work_goes_to_another(world: World) -> None:
    await add_policy(world, public=True, words=("refund*",))
    ilse, mara = world.scopes["ilse"], world.scopes["mara"]
    open_one, waits, later, done = [await world.hear("Hello?", handle=f"h{n}") for n in range(4)]
    for id in (open_one, waits, later, done):
        await give(world, id)
    await propose(world, waits, text="A refund comes")
    row = await world.row(later)
    given = {"public": True, "seen_seq": row["seq"], "settle": False, "now": world.now}
    await scheduling.schedule(world.house, ilse, later, text="Good morning", send_at=world.after(hours=9), **given)
    await reply(world, done, "Yes.", who="ilse", settle=True)
    token = await enter(world, "ilse")
    work = await leaving.preview(world.house, world.scopes["noor"], ilse.member_id)
    assert {k: work[k] for k in ("open", "proposals", "scheduled")} == {"open": 3, "proposals": 1, "scheduled": 1}

    assert await let_go(world, to_owner=mara.member_id) == 3
    with pytest.raises(SignInRefused):
        await sign_in.get_scope(world.house, token, world.workspace_id, world.now)
    with pytest.raises(NotFound):
        await sign_in.get_scope(world.house, await enter(world, "ilse"), world.workspace_id, world.now)
    for id in (open_one, waits, later):
        row = await world.row(id)
        assert row["owner_id"] == mara.member_id
        assert "assigned" in await world.kinds(id)
    assert (await world.row(waits))["move"] == "our_move"
    # What waited for approval or its time does not go, and colleagues have the words.
    assert await scheduling.send_due(world.house, world.workspace_id, world.after(hours=10)) == 0
    assert await list_outside(world) == ["Yes."]
    for id, words in ((waits, "A refund comes"), (later, "Good morning")):
        async with world.house.db.transact(world.workspace_id) as tx:
            (draft,) = await desk_store.list_shared_drafts(tx, mara.member_id, id)
        assert draft["body"] == words
    # What was settled keeps its owner, for the past; when it comes back it goes the same way.
    assert (await world.row(done))["owner_id"] == ilse.member_id
    await acts.reopen(world.house, mara, done, now=world.after(hours=1))
    assert await leaving.pass_on(world.house, world.workspace_id, world.after(hours=1)) == 1
    assert (await world.row(done))["owner_id"] == mara.member_id
    assert await leaving.pass_on(world.house, world.workspace_id, world.after(hours=1)) == 0
    assert await find_differences(world.house, world.workspace_id, world.after(hours=1)) == {}
    # Nobody gives them anything; their name is known all the same.
    with pytest.raises(Invalid):
        await give(world, open_one)
    told = {m["id"]: m for m in await desk.list_members(world.house, mara)}
    assert (told[ilse.member_id]["name"], told[ilse.member_id]["left_at"]) == ("Ilse Person", world.now)
    assert not told[ilse.member_id]["may_sort"]


async def test_to_a_team_or_to_nobody_and_what_was_broken_off_is_gone_on_with(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    ids = [await world.hear("Hello?", handle=f"h{n}") for n in range(3)]
    for id in ids:
        await give(world, id)
    ilse = world.scopes["ilse"].member_id
    async with world.house.db.transact(world.workspace_id) as tx:
        team = await sorting.add_team(tx, "Evening", [ilse, world.scopes["mara"].member_id])

    async def broken(*_: object) -> None:
        raise ConnectionError

    with monkeypatch.context() as patch:
        patch.setattr(leaving, "_give_on", broken)
        with pytest.raises(ConnectionError):
            await let_go(world, to_team=team)
    assert (await world.row(ids[0]))["owner_id"] == ilse
    assert await leaving.pass_on(world.house, world.workspace_id, world.now) == 3
    async with world.house.db.transact(world.workspace_id) as tx:
        (kept,) = [t for t in await sorting.list_teams(tx) if t["id"] == team]
    assert kept["members"] == [world.scopes["mara"].member_id]
    assert {(r["owner_id"], r["team_id"]) for r in [await world.row(id) for id in ids]} == {(None, team)}


async def test_an_heir_who_left_too_gets_nothing(world: World) -> None:
    id = await world.hear("Hello?")
    await give(world, id)
    mara = world.scopes["mara"].member_id
    await let_go(world, to_owner=mara)
    await let_go(world, "mara")
    assert (await world.row(id))["owner_id"] is None


async def test_who_may_let_whom_go(world: World) -> None:
    for by in ("ana", "lise"):
        with pytest.raises(NotAllowed):
            await let_go(world, by=by)
        with pytest.raises(NotAllowed):
            await leaving.preview(world.house, world.scopes[by], world.scopes["ilse"].member_id)
    with pytest.raises(NotAllowed, match="does not hold all of that"):
        await let_go(world, "noor", "mara")
    with pytest.raises(Invalid, match="themselves"):
        await let_go(world, "noor")
    with pytest.raises(NotFound):
        await let_go(world, "otto")
    for heirs in ({"to_owner": world.scopes["otto"].member_id}, {"to_owner": world.scopes["ilse"].member_id}, {"to_team": 9}, {"to_owner": 1, "to_team": 1}):  # fmt: skip
        with pytest.raises(Invalid):
            await let_go(world, **heirs)
    # Of two Owners one may let the other go, and the last stays.
    await organisation.set_role(world.house, world.workspace_id, world.scopes["mara"].member_id, Role.OWNER)
    await let_go(world, "mara")
    (owner,) = [r for r in (await roles.list_roles(world.house, world.scopes["noor"]))["roles"] if r["key"] == "owner"]
    assert owner["members"] == [world.scopes["noor"].member_id]


async def test_who_comes_again_is_a_member_as_any_other(world: World) -> None:
    ilse = world.scopes["ilse"].member_id
    await let_go(world)
    await organisation.set_role(world.house, world.workspace_id, ilse, Role.TRAINEE)
    id = await world.hear("Hello?")
    await give(world, id)
    assert await leaving.pass_on(world.house, world.workspace_id, world.now) == 0
    assert (await world.row(id))["owner_id"] == ilse
    assert [m["left_at"] for m in await desk.list_members(world.house, world.scopes["noor"]) if "left_at" in m] == []


async def test_who_works_elsewhere_stays_signed_in_there(world: World) -> None:
    ilse = world.scopes["ilse"].member_id
    await organisation.set_role(world.house, world.other_workspace_id, ilse, Role.RESPONDER)
    token = await enter(world, "ilse")
    await let_go(world)
    assert (await sign_in.get_scope(world.house, token, world.other_workspace_id, world.now)).member_id == ilse
    with pytest.raises(NotFound):
        await sign_in.get_scope(world.house, token, world.workspace_id, world.now)
