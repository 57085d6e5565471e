"""A reply that is not outside yet is no answer: said in time, to whom it concerns, and mended by itself."""

import pytest

from sorta.core.errors import MovedOn, TooLate
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor
from sorta.services import accounts as account_service
from sorta.services import acts, alerts, answers, approvals, delivery, desk, outgoing, overview
from sorta.services.checking import find_differences
from tests.services.test_acts import reply
from tests.services.test_approvals import add_policy, propose
from tests.world import World

pytestmark = pytest.mark.anyio


async def go(world: World, **span: float) -> None:
    await delivery.deliver_due(world.house, world.workspace_id, world.after(**span))


async def look(world: World, **span: float) -> int:
    """The clock's look at what is late."""
    return await delivery.mark_late(world.house, world.workspace_id, world.after(**span))


async def told(world: World, name: str) -> list[tuple[str, str]]:
    found = await alerts.list_alerts(world.house, world.scopes[name], 20)
    return [(a["occasion"], a["words"]) for a in found["alerts"]]


async def waiting(world: World) -> list[dict]:
    return (await overview.count_waiting(world.house, world.scopes["mara"], world.now))["stuck"]


async def test_an_expired_token_is_said_at_once_and_all_goes_out_with_a_new_one(world: World) -> None:
    id = await world.hear("Is the ray well?")
    due = (await world.row(id))["due"]
    await reply(world, id, "She is.", settle=True)
    row = await world.row(id)
    assert (row["move"], row["due"], len(row["answering"])) == ("settled", None, 1)
    renewed = (await world.control("expire", network="commonfold", page="brinewick"))["token"]
    await go(world, seconds=11)
    row = await world.row(id)
    assert (row["move"], row["due"], row["settled_as"]) == ("our_move", due, None)
    (shown,) = desk.read_rows(await desk.list_rows_by_id(world.house, world.scopes["mara"], [id], "due"))
    assert (shown["on_its_way"], "access token" in shown["stuck"]) == (True, True)
    (one,) = await waiting(world)
    assert (one["network"], one["answers"], one["is_paused"]) == ("Commonfold", 1, True)
    assert [o for o, _ in await told(world, "mara")] == ["not_out"]
    (owners,) = await told(world, "noor")
    assert owners[0] == "account"
    assert "new token in Setup" in owners[1]
    assert await look(world, seconds=12) == 0
    await account_service.set_token(world.house, world.scopes["noor"], world.accounts["commonfold"].id, renewed)
    await go(world, seconds=20)
    row = await world.row(id)
    assert (row["move"], row["settled_as"], row["answering"]) == ("settled", "answered", [])
    assert await waiting(world) == []
    assert await world.kinds(id) == ["arrived", "replied", "stuck", "delivered"]
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_a_hold_is_no_answer_either_and_nobody_is_told_of_an_account(world: World) -> None:
    id = await world.hear("hi")
    await reply(world, id)
    await outgoing.hold(world.house, world.scopes["noor"], "A mix-up", world.now)
    assert await look(world, seconds=9) == 0
    assert await look(world, seconds=11) == 1
    assert (await world.row(id))["move"] == "our_move"
    assert [o for o, _ in await told(world, "mara")] == ["not_out"]
    assert await told(world, "noor") == []
    assert await waiting(world) == []
    await outgoing.release(world.house, world.scopes["noor"], world.after(seconds=60))
    await go(world, seconds=60)
    assert (await world.row(id))["move"] == "their_move"


async def test_a_silent_network_is_said_after_the_first_try_again(world: World) -> None:
    id = await world.hear("hi")
    await reply(world, id)
    await world.control("mischief/commonfold", fail=3)
    await go(world, seconds=11)
    assert (await world.row(id))["move"] == "their_move"
    await go(world, seconds=14)
    assert (await world.row(id))["move"] == "our_move"
    (owners,) = await told(world, "noor")
    assert "tried again by itself" in owners[1]
    await go(world, seconds=25)
    await go(world, minutes=2)
    assert (await world.row(id))["move"] == "their_move"
    assert await world.kinds(id) == ["arrived", "replied", "stuck", "delivered"]


async def test_when_no_worker_takes_it_up_it_is_said_too(world: World) -> None:
    id = await world.hear("hi")
    await reply(world, id)
    assert await look(world, seconds=24) == 0
    assert await look(world, seconds=26) == 1
    assert await look(world, seconds=40) == 0
    assert (await world.row(id))["move"] == "our_move"


async def test_one_that_cannot_be_outside_can_still_be_taken_back(world: World) -> None:
    id = await world.hear("hi")
    seq = await reply(world, id, "Wrong words")
    await world.control("expire", network="commonfold", page="brinewick")
    await go(world, seconds=11)
    back = await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(hours=3))
    assert back is not None
    assert back.text == "Wrong words"
    assert (await world.row(id))["move"] == "unsorted"
    assert await waiting(world) == []


async def test_one_whose_answer_was_lost_cannot(world: World) -> None:
    """The network may have it: nothing is claimed that nobody knows."""
    id = await world.hear("hi")
    seq = await reply(world, id)
    await world.control("mischief/commonfold", fail=1)
    await go(world, seconds=11)
    with pytest.raises(TooLate, match="may have it"):
        await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(seconds=12))


async def test_a_refusal_takes_back_what_rested_on_the_answer_and_its_author_is_told(world: World) -> None:
    for act in ("settle", "park"):
        id = await world.hear("hi", handle=f"who_{act}")
        await reply(world, id)
        if act == "settle":
            await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.ANSWERED, now=world.now)
        else:
            await acts.park(world.house, world.scopes["mara"], id, choice=ParkFor.NEXT_WEEK, until=None, now=world.now)
        await world.control("mischief/commonfold", refuse=1)
        await go(world, seconds=11)
        row = await world.row(id)
        assert (row["move"], row["settled_as"], row["parked_until"]) == ("our_move", None, None)
    assert [o for o, _ in await told(world, "mara")] == ["not_out", "not_out"]


async def test_ending_it_names_what_was_seen(world: World) -> None:
    """Settling as junk over a fresh answer, or a fresh message, asks; settling as answered over an answer does not."""
    mara, ilse = world.scopes["mara"], world.scopes["ilse"]
    post = (await world.publish())["object"]["id"]
    for how, asks in ((SettledAs.JUNK, True), (SettledAs.NO_REPLY_NEEDED, True), (SettledAs.ANSWERED, False)):
        id = await world.hear("hi", handle=f"one_{how}", parent=post)
        seen = (await world.row(id))["seq"]
        await reply(world, id, who="ilse")
        if not asks:
            await acts.settle(world.house, mara, id, how=how, now=world.now, seen_seq=seen)
            continue
        with pytest.raises(MovedOn, match="a colleague or a rule answered") as held:
            await acts.settle(world.house, mara, id, how=how, now=world.now, seen_seq=seen)
        assert held.value.new_seqs == (seen + 1,)
        await acts.settle(world.house, mara, id, how=how, now=world.now, seen_seq=seen + 1)
    id = await world.hear("hi", handle="two", parent=post)
    seen = (await world.row(id))["seq"]
    await world.hear("and one thing more", handle="two", parent=post)
    for call in (
        acts.settle(world.house, mara, id, how=SettledAs.ANSWERED, now=world.now, seen_seq=seen),
        acts.park(world.house, mara, id, choice=ParkFor.TOMORROW, until=None, now=world.now, seen_seq=seen),
    ):
        with pytest.raises(MovedOn, match="they wrote again"):
            await call
    assert (await world.row(id))["move"] == "unsorted"
    # What one did oneself, and what does not change what was said, holds nothing up.
    await acts.add_note(world.house, mara, id, text="n", now=world.now)
    await acts.add_note(world.house, ilse, id, text="m", now=world.now)
    await acts.settle(world.house, mara, id, how=SettledAs.JUNK, now=world.now, seen_seq=seen + 1)


async def test_settling_withdraws_an_answer_that_waits_for_approval_and_says_so(world: World) -> None:
    await add_policy(world)
    id = await world.hear("Hello")
    proposal = await propose(world, id, text="Words worth keeping")
    assert await told(world, "noor") != []
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.JUNK, now=world.now)
    assert (await world.row(id))["proposal_waiting"] is False
    assert await world.kinds(id) == ["arrived", "proposed", "withdrawn", "settled"]
    with pytest.raises(TooLate):
        await approvals.approve(world.house, world.scopes["noor"], proposal, seen_seq=4, text=None, now=world.now)
    assert "needs no approval any more" in (await told(world, "noor"))[0][1]
    assert "withdrawn" in (await told(world, "ilse"))[0][1]
    sheet = await desk.get_sheet(world.house, world.scopes["ilse"], id, world.now)
    assert [(d["mode"], d["body"]) for d in sheet["drafts"]] == [("public", "Words worth keeping")]
    await world.hear("Still there?")
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_a_rules_answer_can_be_stopped_in_its_grace(world: World) -> None:
    from sorta.core.rules import AnswerWith
    from tests.services.test_ruling import add

    await add(world, AnswerWith(language="any", text="Thank you for writing"))
    id = await world.hear("hi")
    await go(world, seconds=9)
    sheet = await desk.get_sheet(world.house, world.scopes["ilse"], id, world.now)
    (line,) = [e for e in sheet["trail"] if e["kind"] == "replied"]
    assert (line["is_act"], line["undo_obstacle"]) == (True, None)
    assert await acts.undo(world.house, world.scopes["ilse"], id, seq=line["seq"], now=world.after(seconds=5)) is None
    await go(world, minutes=1)
    assert not [t for t in await world.things() if t["content"] == "Thank you for writing"]
    assert (await world.row(id))["move"] == "unsorted"


async def test_the_trail_says_of_each_act_whether_it_can_be_taken_back(world: World) -> None:
    mara, ilse = world.scopes["mara"], world.scopes["ilse"]
    id = await world.hear("hi")
    await acts.prioritise(world.house, mara, id, priority=3, now=world.now)  # type: ignore[arg-type]
    await acts.assign(world.house, ilse, id, owner_id=ilse.member_id, note=None, now=world.now)
    await acts.prioritise(world.house, mara, id, priority=2, now=world.now)  # type: ignore[arg-type]
    await answers.reply(world.house, mara, id, public=True, text="Yes", seen_seq=4, settle=False, now=world.now)
    await go(world, seconds=11)
    await acts.keep(world.house, mara, id, now=world.after(seconds=20))
    sheet = await desk.get_sheet(world.house, mara, id, world.now)
    said = {e["kind"] + str(e["seq"]): e["undo_obstacle"] for e in sheet["trail"] if e["is_act"]}
    assert said == {
        "prioritised2": "It was changed again since.",
        "assigned3": "Only who did it can take it back.",
        "prioritised4": None,
        "replied5": "It stands outside. Delete the message there to take it away.",
        "kept7": None,
    }
    for seq, can in ((2, False), (3, False), (4, True), (5, False), (7, True)):
        if can:
            await acts.undo(world.house, mara, id, seq=seq, now=world.after(days=2))
        else:
            with pytest.raises(TooLate):
                await acts.undo(world.house, mara, id, seq=seq, now=world.after(days=2))
    observer = await desk.get_sheet(world.house, world.scopes["lise"], id, world.now)
    assert not any(e["is_act"] for e in observer["trail"])
