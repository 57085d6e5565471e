"""Exactly once, over hundreds of seeded runs: the worker dies and the database's connection is cut at every step of a
delivery, the network loses answers, and approval stands before some of the answers. What was approved, or needed
nobody, is outside exactly once; what was not approved is never there."""

import contextlib
import os
import random
from collections import Counter
from datetime import datetime, timedelta
from functools import partial
from typing import Any

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.ports import Outcome
from sorta.services import acts, answers, approvals, delivery, policies
from sorta.services.checking import find_differences
from sorta.services.house import Unavailable
from sorta.store import outbox
from tests.world import World

pytestmark = pytest.mark.anyio
#: In as many runs each way of dying comes up.
RUNS = 20
BLOCKS = int(os.environ.get("SORTA_DEATHS", "20")) // RUNS


class Killed(BaseException):
    """The worker is gone, in the middle of a step."""


class Chaos:
    """Breaks a step of delivery by a throw of dice."""

    def __init__(self, world: World, monkeypatch: pytest.MonkeyPatch) -> None:
        self.world, self.dice, self.broken = world, random.Random(0), Counter[str]()
        network = world.house.networks["commonfold"]
        self.send, self.claim = network.send, outbox.claim_outgoing
        monkeypatch.setattr(network, "send", self.send_or_not)
        monkeypatch.setattr(outbox, "claim_outgoing", self.claim_or_not)
        for name in ("set_outgoing", "set_delivered"):
            monkeypatch.setattr(outbox, name, partial(self.record_or_not, getattr(outbox, name)))

    def hits(self, step: str, chance: float) -> bool:
        hit = self.dice.random() < chance
        self.broken[step] += hit
        return hit

    async def cut(self, conn: Any) -> None:
        """End the connection that is being used, as the database's side of it would."""
        await conn.execute("select pg_terminate_backend(pg_backend_pid())")

    async def claim_or_not(self, conn: Any, *given: Any) -> Any:
        if self.hits("cut before the claim", 0.06):
            await self.cut(conn)
        claimed = await self.claim(conn, *given)
        if self.hits("cut after the claim", 0.06):
            await self.cut(conn)
        if claimed is not None and self.hits("killed in the claim", 0.06):
            raise Killed
        return claimed

    async def send_or_not(self, *given: Any) -> Outcome:
        if self.hits("killed before sending", 0.1):
            raise Killed
        outcome = await self.send(*given)
        if self.hits("killed after sending", 0.15):
            raise Killed
        if self.hits("answer lost", 0.15):
            return delivery.Postponed(reason="the answer was lost", maybe_out=True)
        return outcome

    async def record_or_not(self, record: Any, conn: Any, *given: Any, **more: Any) -> Any:
        if self.hits("cut before recording", 0.1):
            await self.cut(conn)
        done = await record(conn, *given, **more)
        if self.hits("cut after recording", 0.1):
            await self.cut(conn)
        if self.hits("killed in recording", 0.1):
            raise Killed
        return done


async def deliver_all(world: World, at: datetime, *, together: bool) -> int:
    """What waits, one after the other or as much at once as may be; how many were tried."""
    if not together:
        return await delivery.deliver_due(world.house, world.workspace_id, at)
    async with world.house.db.transact(world.workspace_id) as tx:
        due = await outbox.list_deliverable(tx, at, at - world.house.lease, most=4)
    await delivery.deliver_together(world.house, world.workspace_id, [(at, id) for id in due])
    return len(due)


async def run_once(world: World, chaos: Chaos, seed: int, now: datetime) -> tuple[list[str], list[str]]:
    """One run: what has to be outside once at its end, and what never may be. Answers of one's own, called back, approved or
    not by an editing approver, and approved, called back and decided again."""
    chaos.dice = dice = random.Random(seed)
    must, never = [], []
    for n in range(4):
        said = await world.say("hi", handle=f"p{seed}.{n}", at=now)
        await world.take(said, now=now)
        id = (await world.find(said["object"]["id"])).conversation_id
        text, seen = f"answer {seed}.{n}", (await world.row(id))["seq"]
        given = {"public": True, "text": text, "seen_seq": seen, "settle": False, "now": now}
        if n == 0:
            await answers.reply(world.house, world.scopes["mara"], id, **given)
            must.append(text)
            continue
        if n == 1:
            # Called back in its grace: it never was.
            seq = await answers.reply(world.house, world.scopes["mara"], id, **given)
            at = now + timedelta(seconds=dice.choice([1, 9]))
            await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=at)
            never.append(text)
            continue
        proposal = await approvals.propose(world.house, world.scopes["ilse"], id, **given)
        end = dice.choice(["approved", "edited", "back", "withdrawn", "left"])
        seen = (await world.row(id))["seq"]
        noor = world.scopes["noor"]
        if n == 3:
            # Approved, perhaps in other words, called back in its grace, and then decided once more.
            first = dice.choice([None, f"{text}, hastily"])
            seq = await approvals.approve(world.house, noor, proposal, seen_seq=seen, text=first, now=now)
            assert seq is not None
            await acts.undo(world.house, noor, id, seq=seq, now=now + timedelta(seconds=dice.choice([1, 9])))
            never.append(f"{text}, hastily")
            seen = (await world.row(id))["seq"]
        if end == "approved":
            await approvals.approve(world.house, noor, proposal, seen_seq=seen, text=None, now=now)
            must.append(text)
        elif end == "edited":
            await approvals.approve(world.house, noor, proposal, seen_seq=seen, text=f"{text}, edited", now=now)
            must.append(f"{text}, edited")
            never.append(text)
        else:
            if end == "back":
                await approvals.send_back(world.house, noor, proposal, reason="no", now=now)
            elif end == "withdrawn":
                await approvals.withdraw(world.house, world.scopes["ilse"], proposal, now)
            never.append(text)
    for step in range(60):
        at = now + timedelta(seconds=11 + 61 * step)
        await world.control("mischief/commonfold", fail=int(dice.random() < 0.1))
        with contextlib.suppress(Killed, Unavailable):
            if await deliver_all(world, at, together=dice.random() < 0.5) == 0:
                break
    await world.control("mischief/commonfold", fail=0)
    return must, never


@pytest.mark.parametrize("block", range(BLOCKS))
async def test_whatever_dies_and_whenever(world: World, block: int, monkeypatch: pytest.MonkeyPatch) -> None:
    author = PolicyBody(name="Responders", when=PolicyWhen(roles=("responder",)), roles=("owner",))
    await policies.add_policy(world.house, world.scopes["mara"], author, on=True, now=world.now)
    chaos = Chaos(world, monkeypatch)
    for run in range(RUNS):
        seed = block * RUNS + run
        must, never = await run_once(world, chaos, seed, world.after(hours=2 * run))
        said = [t["content"] for t in await world.things() if t["content"].startswith(f"answer {seed}.")]
        assert sorted(said) == sorted(must), f"seed {seed}"
        assert not set(said) & set(never), f"seed {seed}"
    assert len(chaos.broken) == 9
    assert all(chaos.broken.values()), chaos.broken
    assert await find_differences(world.house, world.workspace_id, world.now) == {}
