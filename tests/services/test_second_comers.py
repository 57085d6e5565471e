"""Who comes second is told of the first; a person can be blocked whatever is left of their words; dues move and are told once."""

import asyncio
from datetime import timedelta
from typing import Any

import pytest

from sorta.core.errors import ChangedElsewhere, SortaError, TooLate
from sorta.core.ports import Moderation
from sorta.core.rules import Anything, Conditions, RuleBody, SetPriority
from sorta.core.targets import Priority
from sorta.services import acts, alerts, delivery, desk, hours, moderation, outgoing, rules
from sorta.store import hours as hours_store
from sorta.store.db import Tx
from tests.services.test_hours import OFFICE, TARGETS
from tests.services.test_sorting import message_of
from tests.world import World

pytestmark = pytest.mark.anyio


async def at_once(*calls: Any) -> list[SortaError | None]:
    """Run them together; what each was refused with."""
    done = await asyncio.gather(*calls, return_exceptions=True)
    for one in done:
        assert not isinstance(one, BaseException) or isinstance(one, SortaError), repr(one)
    return [one if isinstance(one, SortaError) else None for one in done]


async def test_of_two_holds_the_later_is_told_of_the_earlier(world: World) -> None:
    refused = await at_once(
        outgoing.hold(world.house, world.scopes["mara"], "Storm", world.now),
        outgoing.hold(world.house, world.scopes["noor"], "Fire", world.now),
    )
    (told,) = [r for r in refused if r is not None]
    held = (await outgoing.get_outgoing(world.house, world.scopes["mara"], world.now))["held_reason"]
    assert isinstance(told, ChangedElsewhere)
    assert f"holds it already: {held}" in told.message


async def test_of_two_orders_the_later_is_told_that_it_was_changed(world: World) -> None:
    mara, noor = world.scopes["mara"], world.scopes["noor"]
    ids = [
        await rules.add_rule(
            world.house,
            mara,
            RuleBody(
                name=f"Rule {n}", when=Conditions(parts=(Anything(),)), then=(SetPriority(priority=Priority.LOW),)
            ),
            on=False,
            now=world.now,
        )
        for n in range(3)
    ]
    a, b, c = ids
    refused = await at_once(
        rules.set_order(world.house, mara, [b, a, c], world.now, was=ids),
        rules.set_order(world.house, noor, [c, a, b], world.now, was=ids),
    )
    assert sum(isinstance(r, ChangedElsewhere) for r in refused) == 1
    now = [r["id"] for r in (await rules.list_rules(world.house, mara, world.now))["rules"]]
    assert now == ([b, a, c] if refused[0] is None else [c, a, b])


async def test_of_three_blocks_two_are_told_who_asked_first(world: World) -> None:
    id = await world.hear("fish jail", handle="troll")
    message = (await message_of(world, id))["id"]
    names = ("mara", "noor", "ilse")
    refused = await at_once(
        *(
            moderation.moderate(world.house, world.scopes[n], message, what=Moderation.BLOCK, now=world.now)
            for n in names
        )
    )
    told = [r for r in refused if r is not None]
    assert len(told) == 2
    first = names[refused.index(None)].capitalize()
    assert all(isinstance(r, TooLate) and f"{first} Person asked for that" in r.message for r in told)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11))
    with pytest.raises(TooLate, match="so already"):
        await moderation.moderate(
            world.house, world.scopes["mara"], message, what=Moderation.BLOCK, now=world.after(minutes=1)
        )
    assert (await world.kinds(id)).count("moderated") == 1


async def test_who_has_no_words_left_here_can_still_be_blocked(world: World) -> None:
    id = await world.hear("fish jail", handle="troll")
    message, mara = (await message_of(world, id))["id"], world.scopes["mara"]
    await moderation.moderate(world.house, mara, message, what=Moderation.DELETE, now=world.now)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11))
    assert (await message_of(world, id))["removed_at"] is not None
    await moderation.moderate(world.house, mara, message, what=Moderation.BLOCK, now=world.after(minutes=1))
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=2))
    assert (await desk.get_sheet(world.house, mara, id, world.now))["person"]["blocked"]


async def test_dues_move_as_they_are_counted_and_nobody_is_told_twice(world: World, monkeypatch: Any) -> None:
    seen: list[int] = []
    keep = hours_store.set_progress

    async def set_progress(tx: Tx, progress: dict[str, int] | None) -> None:
        if progress is not None:
            seen.append(progress["done"])
        await keep(tx, progress)

    ids = [await world.hear("hi", handle=f"p{n}") for n in range(90)]
    ilse = world.scopes["ilse"]
    await acts.assign(world.house, world.scopes["mara"], ids[0], owner_id=ilse.member_id, note=None, now=world.now)
    due = (await world.row(ids[0]))["due"]
    assert await alerts.tell_late(world.house, world.workspace_id, due + timedelta(minutes=1)) == 1
    monkeypatch.setattr(hours_store, "set_progress", set_progress)
    targets = {**TARGETS, "public": {**TARGETS["public"], "normal": 400}}
    await hours.set_hours(
        world.house,
        world.scopes["mara"],
        zone="Europe/Copenhagen",
        week=OFFICE,
        special={},
        targets=targets,
        now=world.now,
    )
    assert await hours.recount_dues(world.house, world.workspace_id) == 90
    assert len(set(seen)) >= 3, "progress stood still"
    assert seen == sorted(seen)
    later = (await world.row(ids[0]))["due"]
    assert later != due
    assert await alerts.tell_late(world.house, world.workspace_id, later + timedelta(minutes=1)) == 0
