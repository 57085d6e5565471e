"""Every pair of acts on one conversation at the same moment, over seeded interleavings: no deadlock, no act lost, and the
conversation is what its trail says.

One order of locks makes it so: the conversation before whatever hangs on it. Both acts stumble before each of their
statements by a seeded while, so that they meet in the middle."""

import asyncio
import itertools
import os
import random
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

import psycopg
import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import SortaError
from sorta.core.facts import SettledAs
from sorta.core.ports import Moderation, Outcome, Postponed, TokenExpired
from sorta.core.targets import Priority
from sorta.services import (
    acts,
    advice,
    answers,
    approvals,
    cases,
    delivery,
    desk,
    hours,
    moderation,
    policies,
    profiles,
    scheduling,
)
from sorta.services.checking import find_differences
from sorta.services.house import House, Scope
from sorta.store import scheduled as store
from sorta.store.db import Conflict
from tests.services.test_advice import PostBox, answer, ask, deliver
from tests.services.test_cases import hand_over, ours, tell
from tests.services.test_sorting import message_of
from tests.world import SECRET, World

pytestmark = pytest.mark.anyio
#: A pair of acts is one interleaving; each block runs its share of all pairs.
BLOCKS = 4


@dataclass
class Scene:
    """One conversation with everything that can hang on one at once."""

    world: World
    n: int
    id: int
    external_id: str
    message: int
    other: int
    at: datetime
    box: PostBox
    #: What hangs on it: acts in the trail that can be undone, and the rows themselves.
    asked_seq: int
    advice: int
    handed_seq: int
    case: int
    answer_seq: int
    last_seq: int
    scheduled: int | None
    proposal: int | None
    dice: random.Random
    #: What the network says, when not what it would by itself.
    outcome: Outcome | None = None

    @property
    def house(self) -> House:
        return self.world.house

    def by(self, name: str) -> Scope:
        return self.world.scopes[name]

    async def seen(self) -> int:
        seq: int = (await self.world.row(self.id))["seq"]
        return seq


async def set_scene(world: World, box: PostBox, n: int, dice: random.Random) -> Scene:
    """A reply on its way, an answer that waits (for its time, or for consent), a question outside, a case."""
    now, house = world.now, world.house
    parent = (await world.publish())["object"]["id"]
    said = await world.say("The ray has a cut", handle=f"p{n}", parent=parent)
    await world.take(said)
    id = (await world.find(said["object"]["id"])).conversation_id
    other = await world.hear("Hello", handle=f"q{n}")
    asked_seq = await ask(world, id)
    handed_seq = await hand_over(world, id)
    given: dict[str, Any] = {"public": True, "text": f"words {n}", "settle": False, "now": now}
    answer_seq = await answers.reply(house, world.scopes["noor"], id, seen_seq=handed_seq, **given)
    given["seen_seq"] = answer_seq
    proposal = last_seq = None
    if n % 2:
        proposal = await approvals.propose(house, world.scopes["ilse"], id, **given)
    else:
        last_seq = await scheduling.schedule(house, world.scopes["mara"], id, send_at=world.after(seconds=30), **given)
    async with house.db.transact(world.workspace_id) as tx:
        (asked,) = await advice.list_of(tx, id)
        scheduled = await store.get_waiting(tx, id)
    (case,) = await ours(world, conversation_id=id)
    return Scene(
        world=world,
        n=n,
        id=id,
        external_id=said["object"]["id"],
        message=(await message_of(world, id))["id"],
        other=other,
        at=dice.choice([world.after(seconds=5), world.after(seconds=40)]),
        box=box,
        asked_seq=asked_seq,
        advice=asked["id"],
        handed_seq=handed_seq,
        case=case["id"],
        answer_seq=answer_seq,
        last_seq=last_seq or answer_seq,
        scheduled=scheduled and scheduled["id"],
        proposal=proposal,
        dice=dice,
    )


Act = Callable[[Scene], Awaitable[Any]]


async def _reply(s: Scene) -> None:
    given: dict[str, Any] = {"public": True, "text": "more words", "seen_seq": await s.seen(), "settle": True}
    await answers.reply(s.house, s.by("noor"), s.id, now=s.at, **given)


async def _change(s: Scene) -> None:
    seen = await s.seen()
    if s.scheduled is not None:
        given: dict[str, Any] = {"text": "other words", "send_at": s.world.after(hours=1), "seen_seq": seen}
        await scheduling.change(s.house, s.by("mara"), s.scheduled, now=s.at, **given)
    elif s.proposal is not None:
        await approvals.change(s.house, s.by("ilse"), s.proposal, text="other words", seen_seq=seen, now=s.at)


async def _withdraw(s: Scene) -> None:
    if s.scheduled is not None:
        await scheduling.cancel(s.house, s.by("mara"), s.scheduled, s.at)
    elif s.proposal is not None:
        await approvals.withdraw(s.house, s.by("ilse"), s.proposal, s.at)


async def _decide(s: Scene) -> None:
    if s.proposal is None:
        await scheduling.send_due(s.house, s.world.workspace_id, s.at)
        return
    seen = await s.seen()
    await approvals.approve(s.house, s.by("noor"), s.proposal, seen_seq=seen, text=None, now=s.at)


async def _send_back(s: Scene) -> None:
    if s.proposal is None:
        await acts.undo(s.house, s.by("mara"), s.id, seq=s.last_seq, now=s.at)
    else:
        await approvals.send_back(s.house, s.by("noor"), s.proposal, reason="no", now=s.at)


async def _hear_again(s: Scene) -> None:
    said = await s.world.say("And again", handle=f"p{s.n}", parent=s.external_id, at=s.at)
    await s.world.take(said, now=s.at)


async def _told(s: Scene) -> None:
    async with s.house.db.transact(s.world.workspace_id) as tx:
        found = await (await tx.execute("select external_id from support_case where id = %s", [s.case])).fetchone()
    if found is not None and found[0] is not None:
        await tell(s.world, found[0], id=f"evt_{s.n}", state=s.dice.choice(["solved", "returned"]), remark="so")


async def _pass_on(s: Scene) -> None:
    await cases.pass_on(s.house, s.world.workspace_id, s.case, s.at)


async def _answered(s: Scene) -> None:
    if s.box.letters:
        await deliver(s.world, bytes(answer(s.box.letters[-1])), at=s.at)


async def _join(s: Scene) -> None:
    ours, theirs = (await s.world.row(s.id))["person_id"], (await s.world.row(s.other))["person_id"]
    await profiles.join(s.house, s.by("mara"), ours, theirs, s.at)


def _deliver(outcome: Outcome | None) -> Act:
    async def do(s: Scene) -> None:
        s.outcome = outcome
        await delivery.deliver_due(s.house, s.world.workspace_id, s.at)

    return do


#: Everything that is done to a conversation, with what it leaves in the trail, where it always leaves one thing.
ACTS: dict[str, tuple[Act, str | None]] = {
    "reply": (_reply, "replied"),
    "undo the reply": (lambda s: acts.undo(s.house, s.by("noor"), s.id, seq=s.answer_seq, now=s.at), "undone"),
    "undo the question": (lambda s: acts.undo(s.house, s.by("mara"), s.id, seq=s.asked_seq, now=s.at), "undone"),
    "undo the hand-over": (lambda s: acts.undo(s.house, s.by("mara"), s.id, seq=s.handed_seq, now=s.at), "undone"),
    "change what waits": (_change, None),
    "withdraw what waits": (_withdraw, None),
    "decide what waits": (_decide, None),
    "send back what waits": (_send_back, None),
    "ask the next approver": (lambda s: approvals.ask_next(s.house, s.world.workspace_id, s.world.after(days=2)), None),
    "deliver": (_deliver(None), None),
    "deliver in vain": (_deliver(Postponed(reason="Not now", silent=True)), None),
    "deliver to a closed door": (_deliver(TokenExpired(reason="The token has ended")), None),
    "say that it is late": (lambda s: delivery.mark_late(s.house, s.world.workspace_id, s.world.after(hours=2)), None),
    "settle": (
        lambda s: acts.settle(s.house, s.by("ilse"), s.id, how=SettledAs.NO_REPLY_NEEDED, now=s.at),
        "settled",
    ),
    "assign": (
        lambda s: acts.assign(s.house, s.by("mara"), s.id, owner_id=s.by("ilse").member_id, note=None, now=s.at),
        "assigned",
    ),
    "prioritise": (
        lambda s: acts.prioritise(s.house, s.by("mara"), s.id, priority=Priority.URGENT, now=s.at),
        "prioritised",
    ),
    "tag the person": (lambda s: acts.tag_person(s.house, s.by("mara"), s.id, name="vip", on=True, now=s.at), "person_tagged"),
    "block": (
        lambda s: moderation.moderate(s.house, s.by("mara"), s.message, what=Moderation.BLOCK, now=s.at),
        "moderated",
    ),
    "hand over again": (
        lambda s: cases.hand_over(s.house, s.by("ilse"), s.id, desk_id=s.world.desk_id, note=None, now=s.at),
        "handed_over",
    ),
    "pass on": (_pass_on, None),
    "the desk speaks": (_told, None),
    "ask outside": (lambda s: advice.send_due(s.house, s.world.workspace_id, s.at), None),
    "stop waiting for advice": (lambda s: advice.stop_waiting(s.house, s.by("mara"), s.advice, s.at), "advice_withdrawn"),
    "advice comes": (_answered, None),
    "they write again": (_hear_again, None),
    "join the person": (_join, None),
    "take standings": (lambda s: desk.keep_counts(s.house, s.world.workspace_id, s.at), None),
    "count dues anew": (lambda s: hours.recount_dues(s.house, s.world.workspace_id), None),
}  # fmt: skip
PAIRS = list(itertools.combinations_with_replacement(ACTS, 2))
random.Random(14).shuffle(PAIRS)
#: `make fuzz` runs all of them, and with other dice.
COUNT = int(os.environ.get("SORTA_PAIRS", "60"))


@pytest.mark.parametrize("block", range(BLOCKS))
async def test_no_two_acts_lock_each_other_out_and_none_is_lost(
    world: World, block: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    box, dice = PostBox(), random.Random(COUNT + block)
    world.house = replace(world.house, post=box, mail_secret=SECRET)
    await advice.set_domains(world.house, world.scopes["noor"], ["clinic.example"])
    body = PolicyBody(name="Responders", when=PolicyWhen(roles=("responder",)), roles=("owner", "lead"))
    await policies.add_policy(world.house, world.scopes["mara"], body, on=True, now=world.now)
    stumbling, deadlocks = False, list[str]()
    execute, send = psycopg.AsyncCursor.execute, world.house.networks["commonfold"].send
    scene: Scene

    async def stumble(self: Any, *given: Any, **more: Any) -> Any:
        if stumbling:
            await asyncio.sleep(dice.random() * 0.004)
        try:
            return await execute(self, *given, **more)
        except psycopg.errors.DeadlockDetected as error:
            deadlocks.append(str(error.diag.context))
            raise

    async def send_or_not(*given: Any) -> Outcome:
        return await send(*given) if scene.outcome is None else scene.outcome

    monkeypatch.setattr(psycopg.AsyncCursor, "execute", stumble)
    monkeypatch.setattr(world.house.networks["commonfold"], "send", send_or_not)
    for n in range(block, min(COUNT, len(PAIRS)), BLOCKS):
        pair = PAIRS[n]
        scene = await set_scene(world, box, n, dice)
        before = await world.kinds(scene.id)
        stumbling = True
        done = await asyncio.gather(*(ACTS[name][0](scene) for name in pair), return_exceptions=True)
        scene.outcome = None
        stumbling = False
        assert deadlocks == [], f"{n}: {pair}"
        for one in done:
            assert not isinstance(one, BaseException) or isinstance(one, SortaError | Conflict), f"{n}: {pair}: {one!r}"
        after = await world.kinds(scene.id)
        assert after[: len(before)] == before
        new = after[len(before) :]
        for kind in {ACTS[name][1] for name in pair} - {None}:
            said = sum(
                ACTS[name][1] == kind and not isinstance(one, BaseException)
                for name, one in zip(pair, done, strict=True)
            )
            assert new.count(kind) >= said, f"{n}: {pair}: {kind} is not in the trail: {new}"
    assert await find_differences(world.house, world.workspace_id, world.now) == {}
