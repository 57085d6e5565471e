"""How right the reading is, counted on what members looked at."""

from datetime import timedelta

import pytest

from sorta.core.errors import Invalid, NotAllowed, NotFound, TooLate
from sorta.services import reading
from sorta.services.house import Scope
from tests.world import World

pytestmark = pytest.mark.anyio
SAID = (
    "When do you open on Sunday?", "Still no refund. It has been nine days.", "Thank you so much!", "The train leaves at ten past.",
    "Lovely afternoon, wonderful seals, we were so happy", "Buy followers cheap https://x.example",
)  # fmt: skip


async def look(world: World, scope: Scope, weeks: int = 1):
    return await reading.get_accuracy(world.house, scope, world.now + timedelta(weeks=weeks))


async def test_the_sample_is_of_the_last_whole_week_and_stays_the_same(world: World) -> None:
    mara = world.scopes["mara"]
    for n in range(30):
        await world.hear(f"When do you open on day {n}?", handle=f"p{n}")
    assert (await look(world, mara, weeks=0))["sample"] == 0
    first, again = await look(world, mara), await look(world, mara)
    assert (first["sample"], len(first["to_check"])) == (reading.SAMPLE, reading.SAMPLE)
    assert [r["id"] for r in first["to_check"]] == [r["id"] for r in again["to_check"]]
    assert (await look(world, mara, weeks=2))["sample"] == 0


async def test_right_and_found_are_counted_on_what_was_looked_at_alone(world: World) -> None:
    mara = world.scopes["mara"]
    later = world.now + timedelta(weeks=1)
    for n, text in enumerate(SAID):
        await world.hear(text, handle=f"p{n}")
    before = await look(world, mara)
    assert (before["looked_at"], before["sample"]) == (0, len(SAID))
    for row in before["to_check"]:
        # What the desk says is right, but for the first: that is thanks besides.
        labels = [label for label in row["reads_as"] if label != "not_sure"]
        more = ["thanks"] if row["body"] == SAID[0] else []
        seq = await reading.check_reading(world.house, mara, row["id"], [*labels, *more], later)
        assert (seq is not None) == (bool(more) or "not_sure" in row["reads_as"])
    after = await look(world, mara)
    assert (after["looked_at"], after["to_check"]) == (len(SAID), [])
    by = {one["label"]: one for one in after["labels"]}
    assert (by["thanks"]["right"].hits, by["thanks"]["right"].of) == (1, 1)
    assert (by["thanks"]["found"].hits, by["thanks"]["found"].of) == (1, 2)
    assert by["question"]["right"].hits == by["question"]["right"].of
    assert by["thanks"]["found"].low < 0.5 < by["thanks"]["found"].high
    assert by["thanks"]["found"].is_too_few


async def test_a_message_is_looked_at_once_and_only_one_of_the_sample(world: World) -> None:
    mara = world.scopes["mara"]
    later = world.now + timedelta(weeks=1)
    await world.hear(SAID[0])
    id = (await look(world, mara))["to_check"][0]["id"]
    with pytest.raises(NotFound):
        await reading.check_reading(world.house, mara, id + 99, [], later)
    with pytest.raises(NotFound):
        await reading.check_reading(world.house, mara, id, ["question"], world.now)
    with pytest.raises(Invalid):
        await reading.check_reading(world.house, mara, id, ["poem"], later)
    with pytest.raises(NotAllowed):
        await reading.check_reading(world.house, world.scopes["lise"], id, ["question"], later)
    await reading.check_reading(world.house, mara, id, ["question"], later)
    with pytest.raises(TooLate):
        await reading.check_reading(world.house, mara, id, [], later)
