"""What goes on from public to private is one matter; thanks for what is settled ask for nothing; ended cases end."""

from datetime import timedelta

import pytest

from sorta.core.answers import Extras
from sorta.core.facts import SettledAs
from sorta.services import acts, cases, delivery, desk
from sorta.services.checking import find_differences
from tests.services.test_acts import reply
from tests.services.test_cases import hand_over, ours, pass_on, tell
from tests.world import World

pytestmark = pytest.mark.anyio
NETWORK = "commonfold"


async def ask_in_private(world: World, *, settle: bool = False, **more: object) -> tuple[int, int]:
    """A comment, ours and tagged, answered in private; what they write back there. The public and the private number."""
    mara = world.scopes["mara"]
    public = await world.hear("My pass does not open the gate", network=NETWORK)
    await acts.assign(world.house, mara, public, owner_id=world.scopes["ilse"].member_id, note=None, now=world.now)
    await reply(world, public, "Which number is on it?", public=False, settle=settle)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=1))
    private = await world.hear("48-1930", network=NETWORK, kind="private", at=world.after(minutes=5), **more)
    return public, private


async def test_the_private_answer_comes_to_whoever_asked_with_the_question_and_both_link(world: World) -> None:
    public, private = await ask_in_private(world)
    row = await world.row(private)
    assert (row["move"], row["owner_id"]) == ("our_move", world.scopes["ilse"].member_id)
    assert row["linked"] == [public]
    assert (await world.row(public))["linked"] == [private]
    sheet = await desk.get_sheet(world.house, world.scopes["mara"], private, world.after(minutes=6))
    (link,) = sheet["linked"]
    assert [(m["inbound"], m["public"], m["body"]) for m in link["messages"]] == [
        (True, True, "My pass does not open the gate"),
        (False, False, "Which number is on it?"),
    ]
    back = await desk.get_sheet(world.house, world.scopes["mara"], public, world.after(minutes=6))
    assert [(x["id"], x["public"], x["move"]) for x in back["linked"]] == [(private, False, "our_move")]
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_it_is_linked_once_and_what_has_an_owner_keeps_them(world: World) -> None:
    public, private = await ask_in_private(world)
    noor = world.scopes["noor"].member_id
    await acts.assign(world.house, world.scopes["mara"], private, owner_id=noor, note=None, now=world.after(minutes=6))
    await world.hear("and my other pass too", network=NETWORK, kind="private", at=world.after(minutes=7))
    assert (await world.row(private))["linked"] == [public]
    assert (await world.kinds(private)).count("linked") == 1
    # Another comment, another private question: one matter more, and it stays with who has the open one.
    second = await world.hear("Also, is the cafe open?", network=NETWORK, at=world.after(minutes=8))
    await reply(world, second, "Which one?", public=False, now=world.after(minutes=9))
    await world.hear("The one by the seals", network=NETWORK, kind="private", at=world.after(minutes=12))
    row = await world.row(private)
    assert (row["linked"], row["owner_id"]) == ([public, second], noor)
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_a_settled_private_conversation_takes_the_owner_of_the_new_matter(world: World) -> None:
    mara = world.scopes["mara"]
    private = await world.hear("hello", network=NETWORK, kind="private", at=world.now - timedelta(days=40))
    await acts.assign(world.house, mara, private, owner_id=world.scopes["noor"].member_id, note=None, now=world.now)
    await acts.settle(world.house, mara, private, how=SettledAs.ANSWERED, now=world.now)
    _, same = await ask_in_private(world)
    assert same == private
    row = await world.row(private)
    assert (row["move"], row["owner_id"]) == ("our_move", world.scopes["ilse"].member_id)


async def test_what_was_called_back_or_is_long_ago_links_nothing(world: World) -> None:
    public = await world.hear("My pass does not open the gate", network=NETWORK)
    seq = await reply(world, public, "Which number?", public=False)
    await acts.undo(world.house, world.scopes["mara"], public, seq=seq, now=world.after(seconds=5))
    private = await world.hear("hello", network=NETWORK, kind="private", at=world.after(minutes=5))
    assert (await world.row(private))["linked"] == []
    assert (await world.row(private))["move"] == "unsorted"
    other = await world.hear("Is it open?", network=NETWORK, handle="rolf")
    await reply(world, other, "Ask me", public=False)
    late = await world.hear("hello", network=NETWORK, kind="private", handle="rolf", at=world.after(days=31))
    assert (await world.row(late))["linked"] == []


async def test_thanks_for_what_is_settled_leave_it_settled(world: World) -> None:
    first = await world.say("The gate is stuck")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    mara = world.scopes["mara"]
    await acts.settle(world.house, mara, id, how=SettledAs.ANSWERED, now=world.now)
    more = {"kind": "reply", "parent": first["object"]["id"]}
    await world.take(await world.say("Great, thank you so much!", at=world.after(minutes=2), **more), now=world.after(minutes=2))  # fmt: skip
    row = await world.row(id)
    assert (row["move"], row["due"], row["messages"]) == ("settled", None, 2)
    assert row["thanked"] is not None
    assert row["preview"] == "Great, thank you so much!"
    rows = desk.read_rows(await desk.list_rows(world.house, mara, filters={"move": "settled"}, order="due", cursor=None, limit=9, now=world.now))  # fmt: skip
    assert rows[0]["thanked"] is True
    # A member says otherwise, and takes that back.
    seq = await acts.reopen(world.house, mara, id, now=world.after(minutes=3))
    assert (await world.row(id))["move"] == "our_move"
    assert (await world.row(id))["awaiting_since"] == world.after(minutes=2)
    await acts.undo(world.house, mara, id, seq=seq, now=world.after(minutes=3))
    assert (await world.row(id))["thanked"] == row["thanked"]
    # They say something else: that waits, since it came.
    await world.take(await world.say("Thanks, but it is stuck again", at=world.after(minutes=4), **more), now=world.after(minutes=4))  # fmt: skip
    row = await world.row(id)
    assert (row["move"], row["thanked"], row["awaiting_since"]) == ("our_move", None, world.after(minutes=4))
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_thanks_rewritten_into_something_else_wait(world: World) -> None:
    first = await world.say("The gate is stuck")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.ANSWERED, now=world.now)
    thanks = await world.say("thanks", kind="reply", parent=first["object"]["id"], at=world.after(minutes=2))
    await world.take(thanks, now=world.after(minutes=2))
    edit = {**thanks, "id": "x:edit", "type": "Update"}
    edit["object"] = {
        **thanks["object"],
        "content": "thanks for nothing",
        "updated": world.after(minutes=3).isoformat(),
    }
    edit["updated"] = edit["published"] = world.after(minutes=3).isoformat()
    await world.take(edit, now=world.after(minutes=3))
    row = await world.row(id)
    assert (row["move"], row["thanked"]) == ("our_move", None)
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_thanks_while_they_wait_are_a_message_like_any(world: World) -> None:
    first = await world.say("The gate is stuck")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    await world.take(await world.say("thanks!", kind="reply", parent=first["object"]["id"]))
    row = await world.row(id)
    assert (row["move"], row["thanked"], len(row["unanswered"])) == ("unsorted", None, 2)


async def test_after_a_solved_case_what_they_write_is_ours_with_the_case_beside_it(world: World) -> None:
    first = await world.say("refund")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    await hand_over(world, id)
    await pass_on(world, seconds=11)
    (case,) = await world.cases()
    await tell(world, case["id"], state="solved", remark="Paid out")
    more = {"kind": "reply", "parent": first["object"]["id"]}
    at = world.after(hours=4)
    await world.take(await world.say("it is still broken", at=at, **more), now=at)
    row = await world.row(id)
    assert (row["move"], row["awaiting_since"]) == ("our_move", at)
    assert [c["state"] for c in await ours(world, conversation_id=id)] == ["solved"]
    # The desk takes it up again: what comes now joins it.
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.ANSWERED, now=world.after(hours=4))
    await tell(world, case["id"], id="evt_9", state="open", hours=2)
    at = world.after(hours=5)
    await world.take(await world.say("which form?", at=at, **more), now=at)
    assert (await world.row(id))["settled_as"] == SettledAs.HANDED_OVER
    assert len(await ours(world)) == 1
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_what_joined_before_we_heard_that_it_was_solved_comes_back(world: World) -> None:
    first = await world.say("refund")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    await hand_over(world, id)
    await pass_on(world, seconds=11)
    at = world.after(hours=2)
    await world.take(await world.say("it is still broken", at=at, kind="reply", parent=first["object"]["id"]), now=at)
    await pass_on(world, hours=2, minutes=1)
    (case,) = await world.cases()
    await tell(world, case["id"], state="solved", hours=1)
    row = await world.row(id)
    assert (row["move"], row["awaiting_since"], len(row["unanswered"])) == ("our_move", at, 1)
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_a_case_given_back_waits_since_they_wrote(world: World) -> None:
    first = await world.say("refund")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    due = (await world.row(id))["due"]
    await hand_over(world, id)
    await pass_on(world, seconds=11)
    (case,) = await world.cases()
    await tell(world, case["id"], state="returned", remark="Not ours")
    row = await world.row(id)
    assert (row["move"], row["awaiting_since"], row["due"], row["messages"]) == ("our_move", world.now, due, 1)


async def test_a_window_made_shorter_opens_no_case_by_nobody(world: World) -> None:
    first = await world.say("refund")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    await hand_over(world, id)
    await pass_on(world, seconds=11)
    await cases.set_desk(world.house, world.scopes["noor"], world.desk_id, name="Ticket office", follow_hours=1)
    at = world.after(hours=30)
    await world.take(await world.say("hello?", at=at, kind="reply", parent=first["object"]["id"]), now=at)
    assert (await world.row(id))["move"] == "our_move"
    assert len(await ours(world)) == 1


async def test_a_private_answer_of_another_person_links_nothing(world: World) -> None:
    public = await world.hear("My pass does not open the gate", network=NETWORK)
    await reply(world, public, "Which number is on it?", public=False, extras=Extras())
    stranger = await world.hear("hello", network=NETWORK, kind="private", handle="rolf", at=world.after(minutes=5))
    assert (await world.row(stranger))["linked"] == []
