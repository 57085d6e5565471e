"""Points in the database are worth what the core says: `core.standing` is the oracle, on random points and instants."""

import random
from datetime import UTC, datetime, timedelta

import pytest

from sorta.core import standing
from tests.world import World

pytestmark = pytest.mark.anyio
NOW = datetime(2026, 11, 20, 12, tzinfo=UTC)


def roll(chance: random.Random) -> tuple[float, datetime]:
    return chance.choice([1, 3, 4, 5, 6, 8]), NOW - timedelta(seconds=chance.randint(0, 20_000_000))


async def test_what_points_are_worth_later(world: World) -> None:
    chance = random.Random("decayed")
    given = [(*roll(chance), NOW - timedelta(seconds=chance.randint(-9_000_000, 20_000_000))) for _ in range(300)]
    async with world.house.db.transact(world.workspace_id) as tx:
        found = await (
            await tx.execute(
                "select decayed(p, since, at) from unnest(%s::float8[], %s::timestamptz[], %s::timestamptz[]) as g(p, since, at)",
                [list(column) for column in zip(*given, strict=True)],
            )
        ).fetchall()
    assert [row[0] for row in found] == pytest.approx([standing.decay(*one) for one in given], rel=1e-9)


async def test_points_add_up_in_whatever_order_they_come(world: World) -> None:
    chance = random.Random("added")
    persons = [(await world.row(await world.hear("hi", handle=f"p{n}")))["person_id"] for n in range(4)]
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update person set points = 0, points_at = null")
        sums: dict[int, tuple[float, datetime | None]] = dict.fromkeys(persons, (0.0, None))
        for _ in range(40):
            some = [(chance.choice(persons), *roll(chance)) for _ in range(chance.randint(1, 5))]
            columns = [list(column) for column in zip(*some, strict=True)]
            await tx.execute("select add_points(%s, %s::bigint[], %s::real[], %s::timestamptz[])", [world.workspace_id, *columns])  # fmt: skip
            for person, points, at in some:
                sums[person] = standing.add_points(*sums[person], points, at)
        found = dict(await (await tx.execute("select id, points from person where id = any(%s)", [persons])).fetchall())  # fmt: skip
    assert found == {id: pytest.approx(points, rel=1e-4) for id, (points, _) in sums.items()}
