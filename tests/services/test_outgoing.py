"""Answers sent later, requests a minute, and what waits with its reason."""

from datetime import datetime
from typing import Any

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import Invalid, NeedsApproval, NotAllowed, NotFound, TooLate
from sorta.core.permissions import Role
from sorta.networks.abilities import TABLE
from sorta.services import acts, delivery, organisation, outgoing, policies, scheduling
from sorta.services.checking import find_differences
from sorta.store import alerts
from tests.services.test_acts import reply
from tests.services.test_delivery import go, outside
from tests.world import World

pytestmark = pytest.mark.anyio


async def later(
    world: World, id: int, text: str = "Good morning", *, who: str = "mara", at: datetime | None = None, **more: Any
) -> int:
    row = await world.row(id)
    values = {"public": True, "seen_seq": row["seq"], "settle": False, "now": world.now, **more}
    when = at or world.after(hours=18)
    return await scheduling.schedule(world.house, world.scopes[who], id, text=text, send_at=when, **values)


async def seen(world: World, **span: float) -> dict[str, Any]:
    return await outgoing.get_outgoing(world.house, world.scopes["mara"], world.after(**span))


async def send(world: World, **span: float) -> int:
    return await scheduling.send_due(world.house, world.workspace_id, world.after(**span))


async def test_it_waits_parked_goes_at_its_time_and_once(world: World) -> None:
    id = await world.hear("When do you open?")
    await later(world, id)
    row = await world.row(id)
    assert (row["move"], row["parked_until"]) == ("parked", world.after(hours=18))
    assert [(s["body"], s["overtaken"]) for s in (await seen(world))["scheduled"]] == [("Good morning", False)]
    assert await send(world, hours=17) == 0
    # The clock brings parked ones back before what was scheduled is sent, or after: either is fine.
    await acts.return_parked(world.house, world.workspace_id, world.after(hours=18))
    assert await send(world, hours=18) == 1
    assert await send(world, hours=18) == 0
    await go(world, hours=18, seconds=11)
    assert await outside(world) == ["Good morning"]
    assert (await world.row(id))["move"] == "their_move"
    assert (await seen(world, hours=19))["scheduled"] == []
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_at_its_time_it_can_still_be_called_back_for_as_long_as_a_reply(world: World) -> None:
    id = await world.hear("When do you open?")
    await later(world, id)
    assert await send(world, hours=18) == 1
    await go(world, hours=18, seconds=5)
    assert await outside(world) == []
    seq = (await world.row(id))["seq"]
    mara = world.scopes["mara"]
    back = await acts.undo(world.house, mara, id, seq=seq, now=world.after(hours=18, seconds=5))
    assert back is not None
    assert back.text == "Good morning"
    await go(world, hours=19)
    assert await outside(world) == []
    assert await find_differences(world.house, world.workspace_id, world.after(hours=19)) == {}


async def test_what_they_write_since_stops_it_and_its_author_is_told(world: World) -> None:
    first = await world.say("When do you open?")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    await later(world, id)
    more = await world.say("Never mind, found it", kind="reply", parent=first["object"]["id"], at=world.after(hours=1))
    await world.take(more, now=world.after(hours=1))
    assert (await world.row(id))["move"] == "our_move"
    assert [s["overtaken"] for s in (await seen(world))["scheduled"]] == [True]
    assert await send(world, hours=18) == 0
    (stopped,) = (await seen(world, hours=18))["scheduled"]
    assert stopped["state"] == "stopped"
    assert "wrote again" in stopped["problem"]
    assert await outside(world) == []
    async with world.house.db.transact(world.workspace_id) as tx:
        told = await alerts.list_alerts(tx, world.scopes["mara"].member_id, 10)
    assert [a["occasion"] for a in told] == ["stopped"]
    assert (await world.row(id))["move"] == "our_move"


async def test_looked_at_again_it_goes_after_all(world: World) -> None:
    first = await world.say("When do you open?")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    await later(world, id)
    more = await world.say("On Sunday I mean", kind="reply", parent=first["object"]["id"], at=world.after(hours=1))
    await world.take(more, now=world.after(hours=1))
    (one,) = (await seen(world))["scheduled"]
    values = {"text": "At ten on Sundays", "send_at": world.after(hours=20), "now": world.after(hours=2)}
    seq = (await world.row(id))["seq"]
    await scheduling.change(world.house, world.scopes["mara"], one["id"], seen_seq=seq, **values)
    assert (await world.row(id))["parked_until"] == world.after(hours=20)
    assert await send(world, hours=18) == 0
    assert await send(world, hours=20) == 1
    await go(world, hours=20, seconds=11)
    assert await outside(world) == ["At ten on Sundays"]


async def test_taken_back_the_words_return(world: World) -> None:
    id = await world.hear("hi")
    seq = await later(world, id)
    mara = world.scopes["mara"]
    back = await acts.undo(world.house, mara, id, seq=seq, now=world.after(seconds=5))
    assert back is not None
    assert back.text == "Good morning"
    assert (await world.row(id))["move"] == "unsorted"
    await later(world, id)
    (one,) = (await seen(world))["scheduled"]
    with pytest.raises(NotAllowed, match="Only its author"):
        await scheduling.cancel(world.house, world.scopes["ilse"], one["id"], world.now)
    assert (await scheduling.cancel(world.house, mara, one["id"], world.after(hours=1))).text == "Good morning"
    assert (await world.row(id))["move"] == "our_move"
    with pytest.raises(TooLate):
        await scheduling.cancel(world.house, mara, one["id"], world.after(hours=1))
    assert await send(world, hours=18) == 0
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_what_cannot_be_scheduled(world: World) -> None:
    id = await world.hear("hi")
    for at in (world.now, world.after(days=200), world.after(hours=1).replace(tzinfo=None)):
        with pytest.raises(Invalid) as told:
            await later(world, id, at=at)
        assert told.value.field == "send_at"
    with pytest.raises(NeedsApproval):
        await later(world, id, who="ana")
    with pytest.raises(NotAllowed):
        await later(world, id, who="lise")
    await later(world, id)
    with pytest.raises(TooLate, match="already"):
        await later(world, id, who="ilse")
    with pytest.raises(NotFound):
        await scheduling.cancel(world.house, world.scopes["otto"], 1, world.now)


async def test_what_its_author_may_no_more_and_what_needs_approval_by_now_stops(world: World) -> None:
    first, second = await world.hear("hi"), await world.hear("a refund?", handle="rolf")
    await later(world, first, who="ilse")
    await later(world, second, "You get a refund")
    await organisation.set_role(world.house, world.workspace_id, world.scopes["ilse"].member_id, Role.OBSERVER)
    body = PolicyBody(name="Money", when=PolicyWhen(words=("refund",)), roles=("owner",))
    await policies.add_policy(world.house, world.scopes["mara"], body, on=True, now=world.now)
    assert await send(world, hours=18) == 0
    why = {s["conversation_id"]: s["problem"] for s in (await seen(world, hours=18))["scheduled"]}
    assert "may not reply publicly" in why[first]
    assert "needs approval by now: Money" in why[second]
    assert await outside(world) == []


async def test_an_account_asks_its_network_no_more_than_the_network_takes(world: World) -> None:
    limit = TABLE["quillet"].per_minute
    for n in range(limit + 3):
        id = await world.hear("hi", kind="mention", network="quillet", handle=f"p{n}")
        await reply(world, id, f"Hello {n}")
    await go(world, seconds=11)
    assert len(await outside(world, "quillet")) == limit
    waiting = (await seen(world, seconds=12))["waiting"]
    assert [w["why"] for w in waiting] == ["limit"] * 3
    await go(world, seconds=60)
    assert len(await outside(world, "quillet")) == limit
    await go(world, seconds=72)
    assert len(await outside(world, "quillet")) == limit + 3


async def test_what_waits_says_why_and_can_be_tried_at_once(world: World) -> None:
    id, other = await world.hear("hi"), await world.hear("ho", network="pixfern", kind="mention")
    await reply(world, id, "One")
    await reply(world, id, "Two")
    await world.control("mischief/commonfold", fail=1)
    await go(world, seconds=11)
    first, second = (await seen(world, seconds=12))["waiting"]
    assert {first["why"], second["why"]} == {"again", "behind"}
    again = first if first["why"] == "again" else second
    assert "broke" in again["problem"]
    await outgoing.try_now(world.house, world.scopes["ilse"], again["id"], world.after(seconds=12))
    await go(world, seconds=12)
    assert await outside(world) == ["One", "Two"]
    with pytest.raises(NotFound):
        await outgoing.try_now(world.house, world.scopes["ilse"], again["id"], world.after(seconds=13))
    await reply(world, other, "Three")
    await world.control("expire", network="pixfern", page="brinewick")
    await go(world, seconds=30)
    (paused,) = (await seen(world, seconds=31))["waiting"]
    assert (paused["why"], bool(paused["paused_reason"])) == ("paused", True)
    await reply(world, id, "Four")
    await world.control("mischief/commonfold", refuse=1)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=50))
    (refused,) = (await seen(world, seconds=51))["refused"]
    assert (refused["body"], refused["problem"]) == ("Four", "Commonfold: Comments are closed here.")
