"""A member's day: what they did and took back, owe, come back to, and wait for; whose day who may see."""

from datetime import timedelta
from typing import Any

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.services import acts, approvals, day, policies, profiles, scheduling
from tests.world import World

pytestmark = pytest.mark.anyio


async def look(world: World, who: str = "mara", whose: str | None = None, **after: float) -> dict[str, Any]:
    member = None if whose is None else world.scopes[whose].member_id
    return await day.get_day(world.house, world.scopes[who], member, world.after(**(after or {"minutes": 30})))


async def test_what_was_done_today_is_counted_and_what_was_undone_is_not(world: World) -> None:
    mara = world.scopes["mara"]
    ids = [await world.hear("Are you open?", handle=f"h{n}") for n in range(3)]
    await acts.settle(world.house, mara, ids[0], how=SettledAs.JUNK, now=world.after(minutes=1))
    seq = await acts.settle(world.house, mara, ids[1], how=SettledAs.JUNK, now=world.after(minutes=2))
    await acts.undo(world.house, mara, ids[1], seq=seq, now=world.after(minutes=3))
    await acts.settle(world.house, world.scopes["ilse"], ids[2], how=SettledAs.JUNK, now=world.after(minutes=4))
    found = await look(world)
    assert [(c["kind"], c["n"]) for c in found["counts"]] == [("settled", 1)]
    assert [(d["conversation_id"], d["move"], d["kinds"]) for d in found["done"]] == [(ids[0], "settled", ["settled"])]
    assert found["done_total"] == 1
    # On the next day nothing has been done yet; the day begins at midnight where the workspace is.
    assert (await look(world, hours=10, minutes=59))["done_total"] == 1
    assert (await look(world, hours=11, minutes=1))["done_total"] == 0


async def test_what_is_due_comes_back_and_is_waited_for(world: World) -> None:
    house, mara, ilse = world.house, world.scopes["mara"], world.scopes["ilse"]
    ids = [await world.hear("Are you open?", handle=f"h{n}") for n in range(4)]
    for id in ids[:3]:
        await acts.assign(house, mara, id, owner_id=ilse.member_id, note=None, now=world.now)
    await acts.park(house, ilse, ids[1], choice=None, until=world.after(hours=2), now=world.now)
    policy = PolicyBody(name="Responders", when=PolicyWhen(roles=("responder",)), roles=("owner",))
    await policies.add_policy(house, mara, policy, on=True, now=world.now)
    proposal = await approvals.propose(
        house, ilse, ids[2], public=True, text="Yes.", seen_seq=(await world.row(ids[2]))["seq"], settle=False, now=world.now
    )  # fmt: skip
    person = (await world.row(ids[0]))["person_id"]
    for words, days in (("Ask again", 2), ("Much later", 9)):
        await profiles.add_follow_up(house, ilse, person, words=words, due_at=world.after(days=days), member_id=None, now=world.now)  # fmt: skip
    found = await look(world, "ilse")
    assert [d["conversation_id"] for d in found["due"]] == [ids[0]]
    assert found["due_total"] == 1
    assert [r["conversation_id"] for r in found["returning"]] == [ids[1]]
    assert [f["words"] for f in found["follow_ups"]] == ["Ask again"]
    assert [(a["what"], a["conversation_id"], a["words"]) for a in found["awaited"]] == [("approval", ids[2], "Yes.")]
    assert found["sent_back"] == []
    await approvals.send_back(
        house, world.scopes["noor"], proposal, reason="Kinder, please", now=world.after(minutes=5)
    )
    found = await look(world, "ilse")
    assert found["awaited"] == []
    assert [(s["conversation_id"], s["words"]) for s in found["sent_back"]] == [(ids[2], "Kinder, please")]
    # What is put up again was not left lying.
    await approvals.propose(
        house, ilse, ids[2], public=True, text="Yes, gladly.", seen_seq=(await world.row(ids[2]))["seq"], settle=False,
        now=world.after(minutes=6),
    )  # fmt: skip
    found = await look(world, "ilse")
    assert (found["sent_back"], len(found["awaited"])) == ([], 1)


async def test_an_answer_that_goes_out_later_stands_there(world: World) -> None:
    id = await world.hear("Are you open?")
    await scheduling.schedule(
        world.house, world.scopes["mara"], id, public=True, text="At eight.", seen_seq=(await world.row(id))["seq"], settle=False,
        now=world.now, send_at=world.after(hours=3),
    )  # fmt: skip
    assert [(one["conversation_id"], one["words"]) for one in (await look(world))["later"]] == [(id, "At eight.")]


async def test_anothers_day_is_for_who_sees_reports(world: World) -> None:
    assert (await look(world, "mara", "ilse"))["member"]["member_id"] == world.scopes["ilse"].member_id
    assert (await look(world, "ilse", "ilse"))["member"]["member_id"] == world.scopes["ilse"].member_id
    with pytest.raises(NotAllowed):
        await look(world, "ilse", "mara")
    for whose in (10**6, world.scopes["otto"].member_id):
        with pytest.raises(NotFound):
            await day.get_day(world.house, world.scopes["mara"], whose, world.now + timedelta(hours=1))
