"""The histories of tests/core/test_model.py written into the real store, many at a time, and read back: each row has to say what
the model makes of the history, and its trail has to fold to the row."""

import os
import random
from datetime import timedelta
from typing import Any

import pytest

from sorta.core.moves import apply, replay
from sorta.services.trail import Ledger, read_facts
from sorta.store import trail
from tests.core.model import Model
from tests.core.test_model import LENGTH, PARTS, Story, compare
from tests.world import World

pytestmark = pytest.mark.anyio
RUNS = int(os.environ.get("SORTA_MODEL_RUNS", "2000")) // PARTS
AT_ONCE = 250


def make_row(world: World, id: int, person: int) -> dict[str, Any]:
    """A conversation that nothing has happened in yet."""
    at = world.now.isoformat()
    return {
        "id": id, "account_id": world.accounts["commonfold"].id, "person_id": person, "post_id": None,
        "thread_key": f"model:{id}", "kind": "comment", "public": True, "network": "commonfold", "person_name": "Petra",
        "handle": "petra", "preview": "Hm", "messages": 0, "created_at": at, "last_at": at, "last_inbound_at": at,
        "last_inbound_seq": 0, "first_contact": False, "standing": None,
    }  # fmt: skip


@pytest.mark.parametrize("part", range(PARTS))
async def test_the_row_read_back_says_what_the_model_says(world: World, part: int) -> None:
    person = (await world.row(await world.hear("Hm")))["person_id"]
    async with world.house.db.transact(world.workspace_id) as tx:
        for name in ("one", "two"):
            await tx.execute("insert into tag (workspace_id, name) values (%s, %s) on conflict do nothing", [world.workspace_id, name])  # fmt: skip
    for first in range(0, RUNS, AT_ONCE):
        stories: dict[int, tuple[Story, Model]] = {}
        async with world.house.db.transact(world.workspace_id) as tx:
            ledger = Ledger(world.house, tx, world.now)
            for run in range(first, min(RUNS, first + AT_ONCE)):
                # Other histories than the core's own test has.
                chance = random.Random(f"store {part} {run}")
                story, model, id = Story(chance), Model(), 1_000_000 + part * RUNS + run
                opened = ledger.take(make_row(world, id, person), is_new=True)
                for _ in range(chance.randint(4, LENGTH)):
                    event = story.next()
                    model.add(event)
                    ledger.add(opened, event.what, at=event.at, member_id=event.member_id)
                    story.facts = replay(story.events) if event.kind == "undone" else apply(story.facts, event)
                    opened.facts = story.facts
                stories[id] = story, model
            await ledger.write()
        async with world.house.db.transact(world.workspace_id) as tx:
            for id, (story, model) in stories.items():
                row = await trail.get_conversation(tx, id)
                assert row is not None
                facts = read_facts(row)
                assert facts == story.facts, id
                assert not compare(facts, model, story.at + timedelta(minutes=1)), id
                assert (row["awaiting_since"], row["settled_as"]) == (min(model.tell().waiting.values(), default=None), model.tell().settled)  # fmt: skip
