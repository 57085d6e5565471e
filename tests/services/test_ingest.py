"""Each thing once, in whatever order it comes; what cannot be read is kept aside and blocks nobody."""

import asyncio
import itertools
import json
from collections.abc import Sequence
from typing import Any

import pytest

from sorta.core.errors import NotFound
from sorta.core.facts import SettledAs
from sorta.core.ports import MessageSeen, Seen
from sorta.services import acts, ingest, intake
from sorta.services.checking import find_differences
from sorta.services.house import House
from sorta.store import accounts, trail
from sorta.store.accounts import Account
from tests.world import World

pytestmark = pytest.mark.anyio


async def list_aside(world: World) -> list[dict[str, Any]]:
    async with world.house.db.transact(world.workspace_id) as tx:
        return await accounts.list_aside(tx)


async def count(world: World, table: str) -> int:
    async with world.house.db.transact(world.workspace_id) as tx:
        row = await (await tx.execute(f"select count(*) from {table}")).fetchone()
    return row[0]


async def test_a_comment_becomes_a_conversation(world: World) -> None:
    id = await world.hear("Who do I talk to?", at=world.after(minutes=-3))
    row = await world.row(id)
    assert (row["person_name"], row["kind"], row["public"], row["preview"]) == (
        "Petra",
        "comment",
        True,
        "Who do I talk to?",
    )
    assert (row["move"], row["awaiting_since"]) == ("unsorted", world.after(minutes=-3))
    assert row["due"] == world.after(minutes=-3 + 480)


async def test_threading(world: World) -> None:
    """docs/trade.md 2: one conversation per person and post; private, one per person; a mention's thread stays one."""
    post = await world.publish()
    other = await world.publish(title="Another")
    first = await world.hear("one", parent=post["object"]["id"])
    assert await world.hear("two", parent=post["object"]["id"]) == first
    assert await world.hear("three", parent=other["object"]["id"]) != first
    assert await world.hear("four", parent=post["object"]["id"], handle="jonas") != first
    private = await world.hear("p1", kind="private", network="hushline")
    assert await world.hear("p2", kind="private", network="hushline") == private
    mention = await world.say("m", kind="mention", network="quillet")
    await world.take(mention, network="quillet")
    further = await world.hear("m2", kind="reply", network="quillet", parent=mention["object"]["id"])
    assert further == (await world.find(mention["object"]["id"], "quillet")).conversation_id


async def test_the_same_twice_changes_nothing(world: World) -> None:
    activity = await world.say("Once")
    for _ in range(3):
        await world.take(activity, activity)
    id = (await world.find(activity["object"]["id"])).conversation_id
    assert await world.kinds(id) == ["arrived"]
    assert (await world.row(id))["messages"] == 1


async def test_every_order_of_saying_editing_and_removing_ends_the_same(world: World) -> None:
    """Create, two edits and a deletion in all 24 orders, each delivered twice."""
    endings = set()
    for n, order in enumerate(itertools.permutations(range(4))):
        activity = await world.say("First words", handle=f"p{n}")
        id = activity["object"]["id"]
        await world.control("clocks", clocks={"commonfold": world.after(minutes=1).isoformat()})
        one = await world.control("edit", id=id, text="Second words")
        await world.control("clocks", clocks={"commonfold": world.after(minutes=2).isoformat()})
        two = await world.control("edit", id=id, text="Third words")
        await world.control("clocks", clocks={"commonfold": world.after(minutes=3).isoformat()})
        gone = await world.control("remove", id=id)
        for step in order:
            await world.take([activity, one, two, gone][step], now=world.after(minutes=5))
            await world.take([activity, one, two, gone][step], now=world.after(minutes=5))
        found = await world.find(id)
        row = await world.row(found.conversation_id)
        assert found.removed_at is not None, order
        endings.add((row["move"], row["awaiting_since"]))
    assert endings == {("their_move", None)}
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_a_row_shows_their_latest_message_whichever_is_edited(world: World) -> None:
    """Also where two of them said the same: an older one that becomes another changes nothing of what the queue shows."""
    first = await world.say("Where is the seal?", kind="private", network="hushline")
    second = await world.say("Where is the seal?", kind="private", network="hushline", at=world.after(minutes=1))
    for one in (first, second):
        await world.take(one, network="hushline", now=world.after(minutes=2))
    id = (await world.find(second["object"]["id"], network="hushline")).conversation_id
    for said, at, shows in ((first, 3, "Where is the seal?"), (second, 4, "Never mind")):
        await world.control("clocks", clocks={"hushline": world.after(minutes=at).isoformat()})
        edit = await world.control("edit", id=said["object"]["id"], text="Never mind", network="hushline")
        await world.take(edit, network="hushline", now=world.after(minutes=at))
        assert (await world.row(id))["preview"] == shows
    assert await find_differences(world.house, world.workspace_id, world.after(minutes=5)) == {}


async def test_an_older_edit_does_not_overwrite_a_newer_one(world: World) -> None:
    activity = await world.say("First")
    id = activity["object"]["id"]
    await world.control("clocks", clocks={"commonfold": world.after(minutes=1).isoformat()})
    older = await world.control("edit", id=id, text="Second")
    await world.control("clocks", clocks={"commonfold": world.after(minutes=2).isoformat()})
    newer = await world.control("edit", id=id, text="Third")
    await world.take(activity, newer, older)
    found = await world.find(id)
    assert found.body == "Third"
    async with world.house.db.transact(world.workspace_id) as tx:
        events = await (await tx.execute("select data from trail where kind = 'edited'")).fetchall()
    assert [e[0]["before"] for e in events] == ["First"]
    assert (await world.row(found.conversation_id))["preview"] == "Third"


async def test_a_further_message_reopens_what_was_settled_with_its_owner(world: World) -> None:
    post = (await world.publish())["object"]["id"]
    id = await world.hear("one", parent=post)
    mara = world.scopes["mara"]
    await acts.assign(world.house, mara, id, owner_id=mara.member_id, note=None, now=world.now)
    await acts.settle(world.house, mara, id, how=SettledAs.ANSWERED, now=world.now)
    assert await world.hear("two", parent=post, at=world.after(minutes=9)) == id
    row = await world.row(id)
    assert (row["move"], row["owner_id"], row["awaiting_since"]) == ("our_move", mara.member_id, world.after(minutes=9))


async def test_junk_of_a_blocked_person_stays_settled(world: World) -> None:
    post = (await world.publish())["object"]["id"]
    id = await world.hear("fish jail", parent=post)
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.JUNK, now=world.now)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update person set blocked = true")
    await world.hear("fish jail again", parent=post)
    assert (await world.row(id))["move"] == "settled"
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_our_page_answering_on_the_network_itself_makes_it_their_move(world: World) -> None:
    activity = await world.say("Are you open?")
    await world.take(activity)
    body = {
        "network": "commonfold",
        "kind": "reply",
        "handle": "brinewick",
        "name": "Brinewick Aquarium",
        "page": "brinewick",
    }
    mine = await world.control("say", **body, parent=activity["object"]["id"], text="Until five.", tell=False)
    await world.take(mine)
    id = (await world.find(activity["object"]["id"])).conversation_id
    assert (await world.row(id))["move"] == "their_move"
    assert await world.kinds(id) == ["arrived", "answered_outside"]


async def test_many_at_once_from_many_sides(world: World) -> None:
    """Eight deliveries of the same ten messages at the same time: ten messages, no deadlock, rows equal trails."""
    post = (await world.publish())["object"]["id"]
    activities = [await world.say(f"n{n}", handle=f"h{n % 4}", parent=post) for n in range(10)]

    async def deliver(turn: int) -> None:
        for activity in activities[turn:] + activities[:turn]:
            await world.take(activity)

    await asyncio.gather(*(deliver(turn) for turn in range(8)))
    assert await count(world, "message") == 10
    assert await count(world, "conversation") == 4
    assert await count(world, "person") == 4
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_reactions_count_once_and_make_no_conversation(world: World) -> None:
    post = await world.publish()
    like = await world.control("like", network="commonfold", id=post["object"]["id"], handle="petra", name="Petra")
    await world.take(like, like)
    assert (await count(world, "reaction"), await count(world, "conversation")) == (1, 0)


@pytest.mark.parametrize(
    ("body", "reason"),
    [("{nonsense", "not JSON"), ('{"type": "Arrive", "id": "x"}', "Arrive is not a kind"), ("[]", "not an object")],
)
async def test_what_cannot_be_read_is_kept_aside_once(world: World, body: str, reason: str) -> None:
    door = intake.Intake(world.house)
    await door.take(world.accounts["commonfold"], body, world.now)
    await door.take(world.accounts["commonfold"], body, world.now)
    (kept,) = await list_aside(world)
    assert reason in kept["reason"]
    assert kept["body"] == body


async def test_those_that_wait_for_each_other_keep_the_times_at_which_they_came(world: World) -> None:
    """Of a network whose clock is ahead, so that a message is as old as its delivery."""
    said = [await world.say(f"m{n}", handle=f"g{n}", at=world.after(hours=1)) for n in range(5)]
    door, came = intake.Intake(world.house), [world.after(seconds=30 * n) for n in range(5)]
    account = world.accounts["commonfold"]
    await asyncio.gather(*(door.take(account, json.dumps(a), at) for a, at in zip(said, came, strict=True)))
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await tx.execute("select m.sent_at, m.arrived_at, t.at from message m join trail t on t.conversation_id = m.conversation_id and t.seq = 1 order by m.body")  # fmt: skip
        assert await rows.fetchall() == [(at, at, at) for at in came]


async def test_one_that_cannot_be_stored_does_not_hold_up_those_beside_it(world: World) -> None:
    """NUL is valid JSON and no PostgreSQL text: kept aside, while its neighbours of the same moment come in."""
    good = [await world.say(f"good {n}", handle=f"g{n}") for n in range(3)]
    bad = await world.say("bad", handle="b")
    bad["object"]["content"] = "bad \x00 text"
    door = intake.Intake(world.house)
    bodies = [json.dumps(a) for a in (good[0], bad, good[1], good[2])]
    await asyncio.gather(*(door.take(world.accounts["commonfold"], b, world.now) for b in bodies))
    assert await count(world, "message") == 3
    (kept,) = await list_aside(world)
    assert "could not be stored" in kept["reason"]
    assert await intake.try_aside_again(world.house, world.workspace_id, kept["id"], world.now) is not None


async def test_kept_aside_can_be_tried_again_once_the_reason_is_mended(world: World) -> None:
    activity = await world.say("late")
    async with world.house.db.transact(world.workspace_id) as tx:
        args = (world.accounts["commonfold"].id, world.now, "webhook", "a fault of ours")
        await accounts.add_aside(tx, *args, json.dumps(activity))
    (kept,) = await list_aside(world)
    assert await intake.try_aside_again(world.house, world.workspace_id, kept["id"], world.now) is None
    assert await list_aside(world) == []
    assert (await world.find(activity["object"]["id"])).body == "late"
    with pytest.raises(NotFound):
        await intake.try_aside_again(world.house, world.workspace_id, kept["id"], world.now)


async def test_backfill_fills_the_hole_and_knows_the_rest(world: World) -> None:
    """120 messages over three pages, ten of them known by webhook already; a second run finds nothing new."""
    post = (await world.publish())["object"]["id"]
    told = [await world.say(f"n{n}", handle=f"h{n}", parent=post) for n in range(120)]
    for activity in told[50:60]:
        await world.take(activity)
    account = world.accounts["commonfold"]
    assert await intake.backfill(world.house, world.workspace_id, account.id, world.now) == 121
    assert await count(world, "message") == 120
    assert await intake.backfill(world.house, world.workspace_id, account.id, world.now) == 0
    late = await world.say("late", handle="late", parent=post)
    assert await intake.backfill(world.house, world.workspace_id, account.id, world.now) == 1
    assert (await world.find(late["object"]["id"])).body == "late"


async def test_what_came_by_webhook_is_not_read_again(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    """What it reads as is asked once; an edit of it that came in between is taken all the same."""
    post = (await world.publish())["object"]["id"]
    here, edited, new = [await world.say(text, handle="h", parent=post) for text in ("first", "second", "third")]
    await world.take(here, edited)
    await world.control("clocks", clocks={"commonfold": world.after(minutes=1).isoformat()})
    await world.control("edit", id=edited["object"]["id"], text="second, edited")
    asked: list[str] = []
    whole = ingest.take_in

    async def note(house: House, account: Account, seens: Sequence[Seen], *rest: Any) -> int:
        asked.extend(seen.body for seen in seens if isinstance(seen, MessageSeen))
        return await whole(house, account, seens, *rest)

    monkeypatch.setattr(intake, "take_in", note)
    account = world.accounts["commonfold"]
    await intake.backfill(world.house, world.workspace_id, account.id, world.after(minutes=2))
    assert asked == ["third"]
    assert [(await world.find(a["object"]["id"])).body for a in (here, edited, new)] == [
        "first",
        "second, edited",
        "third",
    ]


async def test_messages_that_came_together_are_each_of_their_own_time(world: World) -> None:
    """Taken in at once, as after a hole or where history is told."""
    post = (await world.publish())["object"]["id"]
    said = [await world.say(f"n{n}", handle=f"h{n}", parent=post, at=world.after(minutes=n)) for n in range(3)]
    account = world.accounts["commonfold"]
    seens = [intake.read_activity(world.house, account, a) for a in said]
    came = {a["object"]["id"]: world.after(minutes=n, seconds=5) for n, a in enumerate(said)}
    await ingest.take_in(world.house, account, seens, world.after(minutes=9), came=came)
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (await tx.execute("select external_id, arrived_at from message")).fetchall()
        known = await trail.list_known(tx, account.id, [*came, "never said"])
    assert dict(rows) == came
    assert {id: one.id for id, one in known.items()} == {id: (await world.find(id)).id for id in came}


async def test_a_network_that_cannot_be_reached_puts_only_itself_off(world: World) -> None:
    await world.control("expire", network="commonfold", page="brinewick")
    said = await world.say("hello", kind="private", network="hushline")
    await intake.backfill_all(world.house, world.workspace_id, world.now)
    assert (await world.find(said["object"]["id"], "hushline")).body == "hello"


async def test_who_comes_with_many_lets_others_in_between(world: World) -> None:
    """Many are read beside the loop, a few at a time; one or two short ones are read at once."""
    read: list[int] = []
    do = world.house.reading.do

    async def count(work: Any, *args: Any) -> Any:
        read.append(len(args[-1]))
        return await do(work, *args)

    world.house.reading.do = count  # type: ignore[method-assign]
    account = world.accounts["commonfold"]

    async def say(words: str, count: int) -> list[Seen]:
        said = [await world.say(f"{words} {n}", handle=f"h{n}") for n in range(count)]
        return [intake.read_activity(world.house, account, a) for a in said]

    assert await ingest.take_in(world.house, account, await say("many", 40), world.now) == 40
    assert read == [16, 16, 8]
    assert await ingest.take_in(world.house, account, await say("alone", 1), world.now) == 1
    assert read == [16, 16, 8]
