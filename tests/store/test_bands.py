"""The bands of due stand in the core; what the database makes of a due, where it counts and where it sorts into a table, is the same."""

from collections import Counter
from datetime import UTC, datetime, timedelta

import pytest

from sorta.core.targets import Band, get_band
from sorta.store import desk, overview
from tests.world import World

pytestmark = pytest.mark.anyio
NOW = datetime(2026, 10, 25, 0, 30, tzinfo=UTC)
SMALLEST = timedelta(microseconds=1)


@pytest.mark.parametrize("ends_in", [timedelta(minutes=30), timedelta(hours=1), timedelta(hours=9)])
async def test_the_database_and_the_core_agree_on_each_side_of_each_edge(world: World, ends_in: timedelta) -> None:
    """Also where the day ends within the hour."""
    edges = {"now": NOW, "hour": NOW + timedelta(hours=1), "today": NOW + ends_in}
    dues = [None, *(edge + step * SMALLEST for edge in edges.values() for step in (-1, 0, 1))]
    bands = [get_band(due, NOW, edges["today"]) for due in dues]
    rows = "(select unnest(%(dues)s::timestamptz[]) as due, 'unsorted' as move) c"
    sums, _, _ = desk.SQL.statements["count_bands"].partition("from conversation")
    async with world.house.db.transact(world.workspace_id) as tx:
        sorted_into = f"select {overview.DIMENSIONS['band']} from {rows}"
        found = await (await tx.execute(sorted_into, {**edges, "dues": dues})).fetchall()  # type: ignore[arg-type]
        counted = await (await tx.execute(f"{sums} from {rows} group by move", {**edges, "dues": dues})).fetchone()  # type: ignore[arg-type]
    assert [Band(row[0]) for row in found] == bands
    assert counted is not None
    _, total, *by_band = counted
    assert (total, dict(zip(Band, by_band, strict=True))) == (len(dues), {b: Counter(bands)[b] for b in Band})
