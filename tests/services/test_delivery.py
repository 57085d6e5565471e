"""Replies go out exactly once or visibly not at all, whatever network and worker do."""

import contextlib
import random
from datetime import timedelta
from typing import Any

import pytest

from sorta.core.ports import Outcome
from sorta.services import accounts as account_service
from sorta.services import answers, delivery
from sorta.services.checking import find_differences
from sorta.store import trail
from tests.services.test_acts import reply
from tests.world import World

pytestmark = pytest.mark.anyio


async def message(world: World, id: int) -> trail.MessageRow:
    """The last reply in a conversation."""
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await trail.list_messages(tx, id)
    return [m for m in rows if not m.inbound][-1]


async def go(world: World, **span: float) -> int:
    return await delivery.deliver_due(world.house, world.workspace_id, world.after(**span))


async def outside(world: World, network: str = "commonfold") -> list[str]:
    """What our page has said there, oldest first, posts left out."""
    things = await world.things(network)
    return [t["content"] for t in reversed(things) if "inReplyTo" in t and t["attributedTo"]["type"] == "Organization"]


async def test_it_waits_for_the_undo_then_stands_under_the_comment(world: World) -> None:
    id = await world.hear("Who do I talk to?")
    await reply(world, id, "To me.")
    assert await go(world, seconds=9) == 0
    assert (await message(world, id)).delivery == "queued"
    assert await go(world, seconds=11) == 1
    assert (await message(world, id)).delivery == "delivered"
    (said,) = [t for t in await world.things() if t["content"] == "To me."]
    assert said["inReplyTo"]["content"] == "Who do I talk to?"
    assert await world.kinds(id) == ["arrived", "replied", "delivered"]


async def test_the_handle_goes_in_front(world: World) -> None:
    id = await world.hear("hi", kind="mention", network="quillet", handle="tess")
    await reply(world, id, "Yes")
    await go(world, seconds=11)
    assert await outside(world, "quillet") == ["@tess Yes"]


async def test_a_private_answer_to_a_public_comment_stays_private(world: World) -> None:
    id = await world.hear("My booking is 48-1930")
    await reply(world, id, "Refunded.", public=False)
    await go(world, seconds=11)
    (said,) = [t for t in await world.things() if t["content"] == "Refunded."]
    assert all(not isinstance(to, str) for to in said["to"])


@pytest.mark.parametrize(
    ("mischief", "problem"), [({"fail": 1}, "broke"), ({"limit": 1, "retry_after": 30}, "Too many")]
)
async def test_errors_in_passing_are_tried_again(world: World, mischief: dict[str, Any], problem: str) -> None:
    id = await world.hear("hi")
    await reply(world, id)
    await world.control("mischief/commonfold", **mischief)
    await go(world, seconds=11)
    waiting = await message(world, id)
    assert waiting.delivery == "waiting"
    assert problem in (waiting.problem or "")
    pause = mischief.get("retry_after", 2)
    assert waiting.not_before is not None
    assert 0 <= (waiting.not_before - world.after(seconds=11 + pause)).total_seconds() < 1
    assert await go(world, seconds=11 + pause - 1) == 0
    await go(world, seconds=12 + pause)
    assert (await message(world, id)).delivery == "delivered"
    assert await outside(world) == ["Hello"]


async def test_a_final_refusal_returns_with_its_old_due(world: World) -> None:
    id = await world.hear("hi")
    before = await world.row(id)
    await reply(world, id, settle=True)
    await world.control("mischief/commonfold", refuse=1)
    await go(world, seconds=11)
    row = await world.row(id)
    assert (row["move"], row["due"]) == ("our_move", before["due"])
    refused = await message(world, id)
    assert (refused.delivery, refused.problem) == ("refused", "Commonfold: Comments are closed here.")
    assert await go(world, days=3) == 0


async def test_an_expired_token_pauses_the_account_until_it_has_a_new_one(world: World) -> None:
    first, second = await world.hear("one"), await world.hear("two", handle="jonas")
    for id in (first, second):
        await reply(world, id, f"to {id}")
    new = await world.control("expire", network="commonfold", page="brinewick")
    await go(world, seconds=11)
    noor = world.scopes["noor"]
    told = {a["network"]: a["paused_reason"] for a in await account_service.list_accounts(world.house, noor)}
    assert "no longer accepts" in (told["commonfold"] or "")
    assert told["quillet"] is None
    assert await go(world, minutes=5) == 0
    assert (await message(world, first)).delivery == "waiting"
    await account_service.set_token(world.house, noor, world.accounts["commonfold"].id, new["token"])
    assert await go(world, minutes=6) == 2
    assert sorted(await outside(world)) == sorted([f"to {first}", f"to {second}"])


async def test_replies_of_one_conversation_keep_their_order(world: World) -> None:
    id = await world.hear("hi")
    await reply(world, id, "first")
    await reply(world, id, "second")
    await world.control("mischief/commonfold", fail=1)
    for seconds in (11, 12, 14, 15, 16):
        await go(world, seconds=seconds)
    assert await outside(world) == ["first", "second"]


async def test_two_days_of_failing_return_it_to_its_author(world: World) -> None:
    id = await world.hear("hi")
    await reply(world, id)
    await world.control("mischief/commonfold", fail=999)
    now = world.after(seconds=11)
    for _ in range(80):
        await delivery.deliver_due(world.house, world.workspace_id, now)
        state = await message(world, id)
        if state.delivery == "refused":
            break
        now = state.not_before
    assert "Given up after" in (state.problem or "")
    assert (await world.row(id))["move"] == "our_move"


class Killed(BaseException):
    """The worker is gone, in the middle of a step."""


@pytest.mark.parametrize("seed", range(12))
async def test_exactly_once_however_often_the_worker_dies(
    world: World, seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Kills between claim and send, between send and record, and inside recording; the network loses answers
    and breaks besides. In the end each reply stands outside exactly once, and rows equal trails."""
    dice = random.Random(seed)
    ids = [await world.hear(f"q{n}", handle=f"p{n}") for n in range(4)]
    for id in ids:
        await reply(world, id, f"answer {id}")
    adapter = world.house.networks["commonfold"]
    send, record = adapter.send, delivery.record_outcomes

    async def send_and_die(*args: Any) -> Outcome:
        roll = dice.random()
        if roll < 0.25:
            raise Killed("before sending")
        outcome = await send(*args)
        if roll < 0.5:
            raise Killed("after sending")
        if roll < 0.6:
            return delivery.Postponed(reason="the answer was lost")
        return outcome

    async def record_and_die(*args: Any) -> None:
        await record(*args)
        if dice.random() < 0.2:
            raise Killed("after recording")

    monkeypatch.setattr(adapter, "send", send_and_die)
    monkeypatch.setattr(delivery, "record_outcomes", record_and_die)
    now = world.after(seconds=11)
    for _ in range(120):
        if dice.random() < 0.2:
            await world.control("mischief/commonfold", fail=1)
        with contextlib.suppress(Killed):
            await delivery.deliver_due(world.house, world.workspace_id, now)
        states = [(await message(world, id)).delivery for id in ids]
        if states == ["delivered"] * len(ids):
            break
        now += timedelta(seconds=61)
    assert states == ["delivered"] * len(ids)
    assert sorted(await outside(world)) == sorted(f"answer {id}" for id in ids)
    assert await find_differences(world.house, world.workspace_id, now) == {}


async def test_an_overtaken_claim_writes_nothing(world: World) -> None:
    """The first worker was only slow: when it comes back after another delivered, its word no longer counts."""
    id = await world.hear("hi")
    await reply(world, id)
    async with world.house.db.transact(world.workspace_id) as tx:
        (due,) = await delivery.outbox.list_deliverable(tx, world.after(seconds=11), world.now, most=9)
        slow = await delivery.outbox.claim_outgoing(tx, due, world.after(seconds=11), world.now)
    assert slow is not None
    assert await go(world, seconds=12) == 0
    assert await go(world, seconds=80) == 1
    late = delivery.Ended(claimed=slow, outcome=delivery.Refused(reason="late"), at=world.now)
    await delivery.record_outcomes(world.house, world.workspace_id, [late])
    assert (await message(world, id)).delivery == "delivered"


async def test_the_job_is_queued_in_the_same_transaction(world: World) -> None:
    id = await world.hear("hi")
    await reply(world, id)
    async with world.house.db.connect() as conn:
        rows = await (
            await conn.execute("select task_name, queueing_lock, scheduled_at from procrastinate_jobs")
        ).fetchall()
    ((name, lock, at),) = rows
    assert (name, at) == (answers.DELIVER, world.after(seconds=10))
    assert lock.startswith("outbox:")
