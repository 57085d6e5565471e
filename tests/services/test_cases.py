"""Hand over: a case at the desk outside exactly once, what joins it, what comes back, and what the desk says."""

import json
import random
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from standardwebhooks import Webhook

from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound, TooLate, Unreadable
from sorta.core.facts import SettledAs
from sorta.core.rules import HandItOver, HasWords
from sorta.services import acts, cases
from sorta.services.checking import find_differences
from tests.services.test_acts import reply
from tests.services.test_ruling import add
from tests.world import SECRET, World

pytestmark = pytest.mark.anyio


async def hand_over(
    world: World, id: int, *, who: str = "mara", note: str | None = "Refund, please", **span: float
) -> int:
    scope = world.scopes[who]
    return await cases.hand_over(world.house, scope, id, desk_id=world.desk_id, note=note, now=world.after(**span))


async def ours(world: World, **filters: Any) -> list[dict[str, Any]]:
    """Our cases, oldest first."""
    return (await cases.list_cases(world.house, world.scopes["mara"], **filters))["cases"][::-1]


async def pass_on(world: World, **span: float) -> bool:
    """Everything that waits, whichever case it is for."""
    every = [
        await cases.pass_on(world.house, world.workspace_id, c["id"], world.after(**span)) for c in await ours(world)
    ]
    return any(every)


async def tell(
    world: World, case: str, *, id: str = "evt_1", secret: str = SECRET, hours: float = 1, **data: Any
) -> None:
    when = datetime.now(UTC)
    said = {"case": case, "by": "Bo", "remark": "", "at": world.after(hours=hours).isoformat(), **data}
    body = json.dumps({"id": id, "type": "case.updated", "data": said})
    headers = {
        "webhook-id": id,
        "webhook-timestamp": str(int(when.timestamp())),
        "webhook-signature": Webhook(secret).sign(id, when, body),
    }
    await cases.take_told(world.house, world.workspace_id, world.desk_id, body.encode(), headers, world.after(hours=3))


async def test_the_desk_gets_the_conversation_once_the_undo_is_over(world: World) -> None:
    id = await world.hear("I want my money back, the queue was 2 hours")
    await reply(world, id, "I am sorry.")
    await hand_over(world, id)
    assert (await world.row(id))["settled_as"] == SettledAs.HANDED_OVER
    assert await pass_on(world, seconds=9) is False
    assert await world.cases() == []
    assert await pass_on(world, seconds=11) is True
    (case,) = await world.cases()
    assert [(m["text"], m["ours"]) for m in case["messages"]] == [
        ("I want my money back, the queue was 2 hours", False),
        ("I am sorry.", True),
    ]
    assert (case["note"], case["by"], case["customer"]["name"]) == ("Refund, please", "Mara Person", "Petra")
    assert case["address"].endswith(f"/w/{world.workspace_id}/desk/{id}")
    (kept,) = await ours(world)
    assert (kept["state"], kept["reference"], kept["unpassed"]) == ("open", case["reference"], 0)
    assert await pass_on(world, seconds=12) is False
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_undone_in_time_nothing_leaves(world: World) -> None:
    id = await world.hear("refund")
    seq = await hand_over(world, id)
    await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(seconds=5))
    assert (await world.row(id))["move"] == "unsorted"
    assert await ours(world) == []
    assert await pass_on(world, seconds=20) is False
    assert await world.cases() == []


async def test_what_is_just_leaving_is_not_taken_back(world: World) -> None:
    """The desk may be opening it at this moment, though nothing was heard of it yet."""
    id = await world.hear("refund")
    seq = await hand_over(world, id)
    with pytest.raises(TooLate, match="desk has it"):
        await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(seconds=10))
    assert len(await ours(world)) == 1


async def test_once_it_has_left_it_cannot_be_undone(world: World) -> None:
    id = await world.hear("refund")
    seq = await hand_over(world, id)
    await pass_on(world, seconds=11)
    with pytest.raises(TooLate, match="desk has it"):
        await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(seconds=11))


async def test_what_they_write_within_the_window_joins_and_later_opens_another(world: World) -> None:
    first = await world.say("refund", at=world.now)
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    await hand_over(world, id)
    await pass_on(world, seconds=11)
    more = {"kind": "reply", "parent": first["object"]["id"]}
    for hours, text in ((30, "still waiting"), (90, "and still")):
        activity = await world.say(text, at=world.after(hours=hours), **more)
        await world.take(activity, now=world.after(hours=hours))
        await pass_on(world, hours=hours, seconds=1)
        assert (await world.row(id))["settled_as"] == SettledAs.HANDED_OVER
    (case,) = await world.cases()
    assert [m["text"] for m in case["messages"]] == ["refund", "still waiting", "and still"]
    late = await world.say("hello?", at=world.after(hours=90 + 73), **more)
    await world.take(late, now=world.after(hours=90 + 73))
    assert (await world.row(id))["move"] == "our_move"
    await hand_over(world, id, hours=90 + 74)
    await pass_on(world, hours=90 + 75)
    assert [len(c["messages"]) for c in await world.cases()] == [3, 4]
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_handed_over_again_by_hand_it_joins_the_case_there_is(world: World) -> None:
    id = await world.hear("refund")
    await hand_over(world, id)
    await pass_on(world, seconds=11)
    await acts.reopen(world.house, world.scopes["mara"], id, now=world.after(minutes=1))
    await reply(world, id, "They will call you.", now=world.after(minutes=2))
    seq = await hand_over(world, id, minutes=3)
    await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(minutes=3))
    assert [c["messages"] for c in await ours(world)] == [1]
    await hand_over(world, id, minutes=4)
    await pass_on(world, minutes=5)
    (case,) = await world.cases()
    assert len(case["messages"]) == 2


async def test_refused_it_is_our_move_again_and_who_handed_it_over_is_told(world: World) -> None:
    id = await world.hear("refund")
    await hand_over(world, id, who="ilse")
    await world.control("mischief/desk", refuse=1)
    await pass_on(world, seconds=11)
    row = await world.row(id)
    assert (row["move"], row["settled_as"]) == ("our_move", None)
    assert (await ours(world))[0]["state"] == "refused"
    assert "takes nothing about this" in (await ours(world))[0]["problem"]
    async with world.house.db.transact(world.workspace_id) as tx:
        found = await tx.execute("select member_id, words from alert")
        assert [(m, "would not take" in w) for m, w in await found.fetchall()] == [
            (world.scopes["ilse"].member_id, True)
        ]
    with pytest.raises(Impossible):
        await cases.try_again(world.house, world.scopes["mara"], (await ours(world))[0]["id"], world.after(hours=1))


async def test_the_desk_speaks_and_it_shows_once(world: World) -> None:
    id = await world.hear("refund")
    await hand_over(world, id)
    await pass_on(world, seconds=11)
    (case,) = await world.cases()
    for _ in range(2):
        await tell(world, case["id"], state="waiting", remark="Which day was it?")
    (kept,) = await ours(world)
    assert kept["state"] == "waiting"
    assert [r["text"] for r in kept["remarks"]] == ["Which day was it?"]
    assert (await world.kinds(id)).count("case_told") == 1
    await tell(world, case["id"], id="evt_0", state="open", hours=0.5)
    assert (await ours(world))[0]["state"] == "waiting", "older news came later"
    await tell(world, case["id"], id="evt_2", state="returned", remark="Not ours", hours=2)
    row = await world.row(id)
    assert (row["move"], row["settled_as"]) == ("our_move", None)
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_only_the_desk_is_heard_and_only_in_its_words(world: World) -> None:
    id = await world.hear("refund")
    await hand_over(world, id)
    await pass_on(world, seconds=11)
    (case,) = await world.cases()
    with pytest.raises(NotAllowed):
        await tell(world, case["id"], state="solved", secret="whsec_" + "A" * 32)
    with pytest.raises(NotFound):
        await tell(world, "case_9", state="solved")
    for wrong in (
        {"state": "refused"},
        {"state": "lost"},
        {"at": "soon"},
        {"at": "2026-03-02T10:00:00"},
        {"remark": "\0"},
    ):
        with pytest.raises(Unreadable):
            await tell(world, case["id"], **{"state": "solved", **wrong})
    assert (await ours(world))[0]["state"] == "open"


async def test_what_cannot_be_handed_over(world: World) -> None:
    id = await world.hear("refund")
    with pytest.raises(NotAllowed):
        await hand_over(world, id, who="lise")
    with pytest.raises(Invalid) as told:
        await hand_over(world, id, note="x" * 2001)
    assert told.value.field == "note"
    with pytest.raises(NotFound):
        await cases.hand_over(world.house, world.scopes["mara"], id, desk_id=999, note=None, now=world.now)
    with pytest.raises(NotFound):
        await cases.hand_over(world.house, world.scopes["otto"], id, desk_id=world.desk_id, note=None, now=world.now)


async def test_a_rule_hands_over_what_just_came_in(world: World) -> None:
    await add(world, HandItOver(desk=world.desk_id), when=(HasWords(words=("refund",)),), name="Refunds")
    id = await world.hear("a refund, please")
    assert (await world.row(id))["settled_as"] == SettledAs.HANDED_OVER
    await pass_on(world, seconds=1)
    (case,) = await world.cases()
    assert (case["by"], [m["text"] for m in case["messages"]]) == ("Rule: Refunds", ["a refund, please"])
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


@pytest.mark.parametrize("seed", range(12))
async def test_whatever_is_lost_the_desk_has_each_message_once(world: World, seed: int) -> None:
    chance = random.Random(seed)
    ids = [await world.hear(f"refund {n}", handle=f"p{n}") for n in range(3)]
    for id in ids:
        await hand_over(world, id)
    at = timedelta(seconds=11)
    for _ in range(40):
        await world.control("mischief/desk", lose=chance.choice([0, 1, 1, 2]), fail=chance.choice([0, 0, 1]))
        await pass_on(world, seconds=at.total_seconds())
        at += timedelta(minutes=chance.choice([1, 10, 30]))
        if all(c["unpassed"] == 0 and c["next_at"] is None for c in await ours(world)):
            break
    assert sorted(m["text"] for c in await world.cases() for m in c["messages"]) == ["refund 0", "refund 1", "refund 2"]
    assert len(await world.cases()) == 3


async def test_what_a_dead_worker_left_is_queued_again(world: World) -> None:
    id = await world.hear("refund")
    await hand_over(world, id)
    assert await cases.pass_on_due(world.house, world.workspace_id, world.after(seconds=5)) == 0
    assert await cases.pass_on_due(world.house, world.workspace_id, world.after(seconds=11)) == 1


async def test_the_list_goes_through_its_filters(world: World) -> None:
    first, second = await world.hear("refund for rain"), await world.hear("lost hat", handle="rolf")
    await hand_over(world, first)
    await hand_over(world, second, who="ilse")
    await pass_on(world, seconds=11)
    assert [c["conversation_id"] for c in await ours(world, mine=True)] == [first]
    assert [c["conversation_id"] for c in await ours(world, words="HAT")] == [second]
    assert [c["conversation_id"] for c in await ours(world, conversation_id=second)] == [second]
    assert await ours(world, states=["solved"]) == []
    assert (await cases.list_cases(world.house, world.scopes["mara"]))["counts"]["open"] == 2
    assert (await cases.list_cases(world.house, world.scopes["otto"]))["cases"] == []


async def test_the_window_is_set_by_who_manages_accounts(world: World) -> None:
    house = world.house
    await cases.set_desk(house, world.scopes["noor"], world.desk_id, name=" Box  office ", follow_hours=24)
    for name, hours, field in (("", 24, "name"), ("x", -1, "follow_hours")):
        with pytest.raises(Invalid) as told:
            await cases.set_desk(house, world.scopes["noor"], world.desk_id, name=name, follow_hours=hours)
        assert told.value.field == field
    with pytest.raises(NotAllowed):
        await cases.set_desk(house, world.scopes["ilse"], world.desk_id, name="x", follow_hours=1)
    await hand_over(world, await world.hear("refund"))
    assert (await ours(world))[0]["desk_name"] == "Box office"
