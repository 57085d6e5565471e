"""The real store against the model of tests/core/model.py: conversations worked on by chance through the services, the network
refusing and failing at random; after every step the row has to say what the model makes of the trail, and the dues what the
promise makes of that.
"""

import os
import random
from contextlib import suppress
from datetime import datetime, timedelta
from typing import Any

import pytest

from sorta.core.errors import SortaError
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor
from sorta.core.targets import DEFAULT_MINUTES, Priority
from sorta.services import accounts, acts, answers, approvals, cases, delivery, outgoing
from sorta.services.checking import find_differences
from sorta.services.events import list_events
from sorta.store import trail
from tests.core.model import Model
from tests.core.test_model import say
from tests.services.test_approvals import add_policy
from tests.services.test_cases import tell
from tests.world import World

pytestmark = pytest.mark.anyio
SEEDS = int(os.environ.get("SORTA_SEEDS", "8"))
STEPS = 26
WHAT = [
    *["write"] * 4, "thank", "late", *["outside"] * 2, *["reply"] * 4, *["reply_settle"] * 3, "propose", *["approve"] * 3, "send_back",
    *["settle"] * 3, "junk", "hand_over", "case", *["park"] * 2, "keep", "reopen", "prioritise", "assign", *["undo"] * 3, "remove",
    *["deliver"] * 6, *["refuse"] * 4, "fail", "expire", "hold", "release", "return",
]  # fmt: skip


class Play:
    """One world with a few conversations that all sorts of things happen to."""

    def __init__(self, world: World, seed: int) -> None:
        self.world, self.chance, self.now = world, random.Random(seed), world.now
        self.things: dict[int, list[dict[str, Any]]] = {}

    async def begin(self) -> None:
        for n in range(3):
            said = await self.world.say("It is broken", handle=f"p{n}", at=self.now)
            await self.world.take(said, now=self.now)
            self.things[(await self.world.find(said["object"]["id"])).conversation_id] = [said]

    async def step(self) -> str:
        self.now += timedelta(minutes=self.chance.choice([0.05, 0.2, 3, 40, 400]))
        what = self.chance.choice(WHAT)
        with suppress(SortaError):
            await self._do(what, self.chance.choice(list(self.things)))
        return what

    async def _do(self, what: str, id: int) -> None:
        world, house, now, chance = self.world, self.world.house, self.now, self.chance
        mara, ws = world.scopes["mara"], world.workspace_id
        row = await world.row(id)
        given: dict[str, Any] = {
            "public": True,
            "text": f"Yes {now:%d %H:%M:%S.%f}",
            "seen_seq": row["seq"],
            "now": now,
        }
        match what:
            case "write" | "thank" | "late":
                at = now - timedelta(hours=1) if what == "late" else now
                more = {
                    "kind": "reply",
                    "parent": self.things[id][0]["object"]["id"],
                    "handle": row["handle"].lstrip("@"),
                }
                said = await world.say("thank you!" if what == "thank" else "Still broken", at=at, **more)
                await world.take(said, now=now)
                self.things[id].append(said)
            case "outside":
                at = now - timedelta(minutes=chance.choice([0, 30]))
                more = {"kind": "reply", "parent": self.things[id][0]["object"]["id"], "handle": "brinewick"}
                await world.take(await world.say("From the app", at=at, **more), now=now)
            case "remove":
                if len(self.things[id]) > 1:
                    gone = self.things[id].pop()
                    await world.take(await world.control("remove", id=gone["object"]["id"]), now=now)
            case "reply" | "reply_settle":
                await answers.reply(house, mara, id, settle=what == "reply_settle", **given)
            case "propose":
                await approvals.propose(house, world.scopes["ilse"], id, settle=chance.random() < 0.5, **given)
            case "approve" | "send_back":
                for waiting in await approvals.list_approvals(house, world.scopes["noor"]):
                    if what == "send_back":
                        await approvals.send_back(house, world.scopes["noor"], waiting["id"], reason="no", now=now)
                    else:
                        seen = (await world.row(waiting["conversation_id"]))["seq"]
                        await approvals.approve(
                            house, world.scopes["noor"], waiting["id"], seen_seq=seen, text=None, now=now
                        )
            case "settle":
                how = chance.choice([SettledAs.ANSWERED, SettledAs.ANSWERED, SettledAs.NO_REPLY_NEEDED])
                await acts.settle(house, mara, id, how=how, now=now)
            case "junk":
                await acts.settle(house, mara, id, how=SettledAs.JUNK, now=now)
            case "hand_over":
                await cases.hand_over(house, mara, id, desk_id=world.desk_id, note=None, now=now)
            case "case":
                for case in (await cases.list_cases(house, mara))["cases"]:
                    await cases.pass_on(house, ws, case["id"], now)
                for n, case in enumerate(await world.cases()):
                    state = chance.choice(["solved", "returned", "open"])
                    hours = (now - world.now) / timedelta(hours=1)
                    await tell(world, case["id"], id=f"evt_{now.timestamp()}_{n}", state=state, hours=hours)
            case "park":
                await acts.park(house, mara, id, choice=chance.choice(list(ParkFor)), until=None, now=now)
            case "return":
                await acts.return_parked(house, ws, now)
            case "keep":
                await acts.keep(house, mara, id, now=now)
            case "reopen":
                await acts.reopen(house, mara, id, now=now)
            case "prioritise":
                await acts.prioritise(house, mara, id, priority=chance.choice(list(Priority)), now=now)
            case "assign":
                await acts.assign(house, mara, id, owner_id=chance.choice([None, mara.member_id]), note=None, now=now)
            case "undo":
                async with house.db.transact(ws) as tx:
                    own = [e.seq for e in await list_events(tx, id) if e.member_id == mara.member_id]
                await acts.undo(house, mara, id, seq=chance.choice(own[-3:] or [1]), now=now)
            case "refuse":
                await world.control("mischief/commonfold", refuse=1)
            case "fail":
                await world.control("mischief/commonfold", fail=chance.choice([1, 3]))
            case "expire":
                async with house.db.transact(ws) as tx:
                    account = world.accounts["commonfold"].id
                    await tx.execute(
                        "update account set paused_reason = 'The token has expired.' where id = %s", [account]
                    )
            case "hold":
                await outgoing.hold(house, mara, "Storm", now)
            case "release":
                await outgoing.release(house, mara, now)
                token = world.get_token("commonfold")
                await accounts.set_token(house, world.scopes["noor"], world.accounts["commonfold"].id, token)
            case "deliver":
                await delivery.deliver_due(house, ws, now)
                await delivery.mark_late(house, ws, now)


async def compare(world: World, id: int, now: datetime) -> dict[str, tuple[Any, Any]]:
    """What of a row is not what the model makes of its trail: (row, model) by name."""
    row = await world.row(id)
    model = Model()
    async with world.house.db.transact(world.workspace_id) as tx:
        events = await list_events(tx, id)
        messages = await trail.list_messages(tx, id)
    for event in events:
        model.add(event)
    told = model.tell()
    since = min(told.waiting.values(), default=None)
    # The test's world works round the clock.
    due = since and since + timedelta(minutes=DEFAULT_MINUTES[Priority(told.priority)])
    pairs = {
        # The row was written when something last happened: what was parked until then may be over by now.
        "move": (row["move"], told.get_move(max(e.at for e in events)) if row["move"] != "parked" else "parked"),
        "settled": (row["settled_as"], told.settled),
        "since": (row["awaiting_since"], since),
        "due": (row["due"], due),
        "priority": (row["priority"], told.priority),
        "owner": (row["owner_id"], told.owner),
        "parked": (row["parked_until"], told.parked),
        "proposal": (row["proposal_waiting"], told.proposal),
        "on its way": (bool(row["answering"]), bool(model.list_under_way() | model.list_stuck())),
        "messages": (row["messages"], sum(m.delivery != "withdrawn" for m in messages)),
    }
    return {name: pair for name, pair in pairs.items() if pair[0] != pair[1]}


@pytest.mark.parametrize("part", range(4))
async def test_the_row_says_what_the_model_makes_of_the_trail(world: World, part: int) -> None:
    await add_policy(world, roles=("responder",))
    for seed in range(part * SEEDS // 4, (part + 1) * SEEDS // 4):
        play = Play(world, seed)
        play.now = world.after(days=20 * seed)
        await play.begin()
        done = []
        for _ in range(STEPS):
            done.append(await play.step())
            for id in play.things:
                wrong = await compare(world, id, play.now)
                if wrong:
                    async with world.house.db.transact(world.workspace_id) as tx:
                        events = await list_events(tx, id)
                    pytest.fail(f"seed {seed}: {done[-6:]} {wrong}\n" + "\n".join(map(say, events)))
        await play._do("release", next(iter(play.things)))
        await world.control("mischief/commonfold", refuse=0, fail=0)
    assert await find_differences(world.house, world.workspace_id, world.now) == {}
