"""Acts: each an event, each undone for ten seconds, none beyond the role."""

from datetime import UTC

import pytest

from sorta.core.answers import Extras
from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import Impossible, Invalid, MovedOn, NeedsApproval, NotAllowed, NotFound, TooLate
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor
from sorta.core.targets import Priority
from sorta.services import accounts, acts, answers, approvals, delivery, desk, groups, intake, policies
from sorta.services.checking import find_differences
from sorta.services.house import seen_by
from tests.world import SECRET, World

pytestmark = pytest.mark.anyio


async def reply(world: World, id: int, text: str = "Hello", *, who: str = "mara", public: bool = True, **more) -> int:
    row = await world.row(id)
    values = {"seen_seq": row["seq"], "settle": False, "now": world.now, **more}
    return await answers.reply(world.house, world.scopes[who], id, public=public, text=text, **values)


async def test_each_act_moves_and_is_undone(world: World) -> None:
    mara = world.scopes["mara"]
    house = world.house
    doings = [
        (lambda id: acts.assign(house, mara, id, owner_id=mara.member_id, note=" look ", now=world.now), "our_move"),
        (lambda id: acts.prioritise(house, mara, id, priority=Priority.URGENT, now=world.now), "our_move"),
        (lambda id: acts.add_note(house, mara, id, text="x", now=world.now), "our_move"),
        (lambda id: acts.keep(house, mara, id, now=world.now), "our_move"),
        (lambda id: acts.park(house, mara, id, choice=ParkFor.TOMORROW, until=None, now=world.now), "parked"),
        (lambda id: acts.settle(house, mara, id, how=SettledAs.JUNK, now=world.now), "settled"),
        (lambda id: reply(world, id), "their_move"),
    ]
    for n, (do, move) in enumerate(doings):
        id = await world.hear("hi", handle=f"p{n}")
        before = await world.row(id)
        seq = await do(id)
        assert (await world.row(id))["move"] == move
        back = await acts.undo(house, mara, id, seq=seq, now=world.after(seconds=9))
        after = await world.row(id)
        assert (back.text if back else None) == ("Hello" if move == "their_move" else None)
        same = ("move", "sorted", "owner_id", "priority", "due", "settled_as", "parked_until", "unanswered")
        assert {k: after[k] for k in same} == {k: before[k] for k in same}
    assert await find_differences(house, world.workspace_id, world.now) == {}


async def test_priority_moves_the_due(world: World) -> None:
    id = await world.hear("hi")
    await acts.prioritise(world.house, world.scopes["mara"], id, priority=Priority.URGENT, now=world.now)
    assert (await world.row(id))["due"] == world.after(minutes=30)


async def test_undo_has_its_limits(world: World) -> None:
    id = await world.hear("hi")
    mara, ilse = world.scopes["mara"], world.scopes["ilse"]
    seq = await acts.keep(world.house, mara, id, now=world.now)
    with pytest.raises(TooLate, match="Only who did it"):
        await acts.undo(world.house, ilse, id, seq=seq, now=world.now)
    with pytest.raises(Invalid, match="no act"):
        await acts.undo(world.house, mara, id, seq=1, now=world.now)
    await acts.undo(world.house, mara, id, seq=seq, now=world.after(days=9))
    with pytest.raises(TooLate, match="already"):
        await acts.undo(world.house, mara, id, seq=seq, now=world.now)


async def test_a_reply_on_its_way_cannot_be_taken_back(world: World) -> None:
    id = await world.hear("hi")
    seq = await reply(world, id)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11))
    with pytest.raises(TooLate, match="stands outside"):
        await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(seconds=12))
    assert (await world.row(id))["move"] == "their_move"


async def test_an_undone_reply_never_goes_out(world: World) -> None:
    id = await world.hear("hi")
    seq = await reply(world, id)
    await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(seconds=5))
    assert await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=5)) == 0
    assert "Hello" not in [t["content"] for t in await world.things()]


async def test_parked_comes_back_at_its_time_or_when_they_write(world: World) -> None:
    mara = world.scopes["mara"]
    post = (await world.publish())["object"]["id"]
    one = await world.hear("one", parent=post)
    two = await world.hear("two", handle="jonas", parent=post)
    for id in (one, two):
        await acts.park(world.house, mara, id, choice=ParkFor.THREE_HOURS, until=None, now=world.now)
    assert await acts.return_parked(world.house, world.workspace_id, world.after(hours=2)) == 0
    await world.hear("well?", handle="jonas", parent=post, at=world.after(hours=2))
    assert (await world.row(two))["move"] == "our_move"
    assert await acts.return_parked(world.house, world.workspace_id, world.after(hours=3)) == 1
    assert (await world.row(one))["move"] == "our_move"
    assert (await world.kinds(one))[-1] == "returned"
    assert await acts.return_parked(world.house, world.workspace_id, world.after(hours=3)) == 0


async def test_the_overlap_guard_refuses_and_says_what_is_new(world: World) -> None:
    post = (await world.publish())["object"]["id"]
    id = await world.hear("one", parent=post)
    seen = (await world.row(id))["seq"]
    await world.hear("wait, it is fine", parent=post)
    with pytest.raises(MovedOn) as refused:
        await reply(world, id, seen_seq=seen)
    assert refused.value.new_seqs == (2,)
    assert await world.kinds(id) == ["arrived", "arrived"]
    await reply(world, id, seen_seq=2)
    with pytest.raises(MovedOn):
        await reply(world, id, who="ilse", seen_seq=2)


async def test_only_what_the_network_can_do(world: World) -> None:
    mention = await world.hear("hi", kind="mention", network="quillet")
    with pytest.raises(Impossible, match="write first"):
        await reply(world, mention, public=False)
    with pytest.raises(Invalid, match="of 300") as refused:
        await reply(world, mention, "x" * 300)
    assert refused.value.field == "text"
    private = await world.hear("hi", kind="private", network="hushline")
    with pytest.raises(Impossible, match="private"):
        await reply(world, private)
    with pytest.raises(Impossible, match="24 hours"):
        await reply(world, private, public=False, now=world.after(hours=25))


async def test_roles_are_held_in_the_services(world: World) -> None:
    id = await world.hear("hi")
    with pytest.raises(NeedsApproval, match="Replies of a Trainee"):
        await reply(world, id, who="ana")
    with pytest.raises(NotAllowed, match="Observer"):
        await reply(world, id, who="lise")
    with pytest.raises(NotAllowed, match="Observer"):
        await acts.keep(world.house, world.scopes["lise"], id, now=world.now)
    await acts.keep(world.house, world.scopes["ana"], id, now=world.now)


async def test_bad_values_say_where(world: World) -> None:
    id = await world.hear("hi")
    mara = world.scopes["mara"]
    with pytest.raises(Invalid, match="does not work in this workspace"):
        await acts.assign(world.house, mara, id, owner_id=world.scopes["otto"].member_id, note=None, now=world.now)
    with pytest.raises(Invalid, match="4000"):
        await acts.add_note(world.house, mara, id, text="x" * 4001, now=world.now)
    with pytest.raises(Invalid, match="Write something"):
        await acts.add_note(world.house, mara, id, text="  ", now=world.now)
    with pytest.raises(Invalid, match="lies ahead"):
        await acts.park(world.house, mara, id, choice=None, until=world.now.astimezone(UTC), now=world.now)
    with pytest.raises(NotFound):
        await acts.keep(world.house, mara, 99999, now=world.now)


async def add_other_page(world: World, network: str = "commonfold") -> int:
    page = await world.control("actors", network=network, handle="nights", name="Brinewick Nights", page=True)
    values = {
        "network": network,
        "name": "Brinewick Nights",
        "handle": "nights",
        "external_id": page["id"],
        "api_url": f"http://outside.test/api/{network}",
        "token": page["token"],
        "hook_secret": SECRET,
    }
    return await accounts.add_account(world.house, world.workspace_id, values)


async def test_another_account_of_the_network_answers_in_public_and_says_so(world: World) -> None:
    nights = await add_other_page(world)
    id = await world.hear("Is there a late opening?")
    mara = world.scopes["mara"]
    given = {"text": "Yes, on Thursday", "seen_seq": 1, "settle": False, "now": world.now}
    with pytest.raises(Impossible, match="the account that they wrote to"):
        await answers.reply(world.house, mara, id, public=False, extras=Extras(account=nights), **given)
    other = world.accounts["pixfern"].id
    with pytest.raises(Impossible, match="same network"):
        await answers.reply(world.house, mara, id, public=True, extras=Extras(account=other), **given)
    with pytest.raises(NotFound):
        await answers.reply(world.house, mara, id, public=True, extras=Extras(account=999), **given)
    await answers.reply(world.house, mara, id, public=True, extras=Extras(account=nights), **given)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=15))
    [said] = [t for t in await world.things() if t["content"] == "Yes, on Thursday"]
    assert said["attributedTo"]["name"] == "Brinewick Nights"
    sheet = await desk.get_sheet(world.house, mara, id, world.now)
    assert (sheet["messages"][-1]["account_id"], sheet["messages"][-1]["delivery"]) == (nights, "delivered")
    assert [s["name"] for s in sheet["senders"]] == ["Brinewick Aquarium", "Brinewick Nights"]
    [replied] = [e for e in sheet["trail"] if e["kind"] == "replied"]
    assert replied["data"].account == nights
    # What they answer to it belongs to the same conversation, and the other page's feed tells nothing new.
    assert await intake.backfill(world.house, world.workspace_id, nights, world.now) >= 1
    assert (await world.row(id))["messages"] == 2


async def test_a_policy_for_either_account_holds(world: World) -> None:
    nights = await add_other_page(world)
    policy = PolicyBody(name="Nights", when=PolicyWhen(accounts=(nights,)), roles=("owner",))
    await policies.add_policy(world.house, world.scopes["mara"], policy, on=True, now=world.now)
    id = await world.hear("hi")
    given = {"public": True, "text": "Hello", "seen_seq": 1, "settle": False, "now": world.now}
    with pytest.raises(NeedsApproval):
        await answers.reply(world.house, world.scopes["mara"], id, extras=Extras(account=nights), **given)
    proposal = await approvals.propose(world.house, world.scopes["mara"], id, extras=Extras(account=nights), **given)
    [waiting] = await approvals.list_approvals(world.house, world.scopes["noor"])
    assert (waiting["answers_from"], waiting["sign_off"], waiting["written"]) == (nights, "", None)
    # Who does not see the account that answers is told nothing of it, and sees the rest.
    group = await groups.set_group(
        world.house,
        world.scopes["noor"],
        None,
        name="One page",
        held=[world.accounts["commonfold"].id],
        members=[],
        now=world.now,
    )
    ilse = world.scopes["ilse"].member_id
    await groups.set_sight(world.house, world.scopes["noor"], ilse, limited=True, groups=[group], now=world.now)
    await accounts.set_sign_off(world.house, world.scopes["noor"], nights, "– {initials}")
    for who, closes in (("noor", "\n– MA"), ("ilse", "")):
        with seen_by(world.scopes[who].member_id if who == "ilse" else None):
            [waiting] = await approvals.list_approvals(world.house, world.scopes[who])
            assert waiting["sign_off"] == closes
            sheet = await desk.get_sheet(world.house, world.scopes[who], id, world.now)
            assert sheet["proposal"]["sign_off"] == closes
    seq = (await world.row(id))["seq"]
    assert await approvals.approve(world.house, world.scopes["noor"], proposal, seen_seq=seq, text=None, now=world.now)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=15))
    [said] = [t for t in await world.things() if t["content"] == "Hello\n– MA"]
    assert said["attributedTo"]["name"] == "Brinewick Nights"
