"""Reports over the real store: what is counted, the list behind each figure, filters as things stood, who may see them."""

from datetime import timedelta
from typing import Any

import pytest

from sorta.core.errors import NotAllowed
from sorta.core.facts import SettledAs
from sorta.core.periods import Named
from sorta.core.reports import FIGURES, Chosen, Counting
from sorta.services import acts, answers, delivery, desk, reports
from sorta.services.reports import Ask
from tests.world import World

pytestmark = pytest.mark.anyio


async def answer(world: World, id: int, who: str = "mara", **after: float) -> None:
    await answers.reply(
        world.house,
        world.scopes[who],
        id,
        text="Yes.",
        public=True,
        seen_seq=(await world.row(id))["seq"],
        settle=False,
        now=world.after(**after),
    )


async def tell(world: World, ask: Ask | None = None, who: str = "mara", **after: float) -> dict[str, Any]:
    now = world.after(**(after or {"hours": 5}))
    return await reports.get_report(world.house, world.scopes[who], ask or Ask(period=Named.DAYS_7), now)


def by_name(report: dict[str, Any]) -> dict[str, dict[str, Any]]:
    return {figure["name"]: figure for figure in report["figures"]}


async def furnish(world: World) -> list[int]:
    """Eight that came in: six answered after 10 to 60 minutes, one settled as junk, one still open."""
    ids = [await world.hear("Are you open?", handle=f"h{n}") for n in range(8)]
    for n, id in enumerate(ids[:6], 1):
        await acts.assign(world.house, world.scopes["mara"], id, owner_id=None, note=None, now=world.after(minutes=1))
        await answer(world, id, "mara" if n % 2 else "ilse", minutes=10 * n)
    await acts.settle(world.house, world.scopes["ilse"], ids[6], how=SettledAs.JUNK, now=world.after(minutes=5))
    await acts.tag(world.house, world.scopes["mara"], ids[0], name="Tickets", on=True, now=world.after(hours=2))
    await acts.tag(world.house, world.scopes["mara"], ids[7], name="Tickets", on=True, now=world.after(hours=2))
    return ids


async def test_what_came_in_and_how_soon_it_was_answered(world: World) -> None:
    ids = await furnish(world)
    report = await tell(world, Ask(period=Named.DAYS_7, clock=Counting.CLOCK))
    found = by_name(report)
    assert found["came_in"]["value"] == 8
    assert (found["answered"]["hits"], found["answered"]["cases"]) == (6, 7)
    assert found["first_half"]["value"] == 35 * 60
    assert found["first_nine"]["value"] == 55 * 60
    assert (found["kept"]["hits"], found["kept"]["cases"]) == (6, 6)
    assert found["without_reply"]["value"] == 1
    assert report["days"]["open_at_end"][-1] is None
    tomorrow = await tell(world, Ask(period=Named.DAYS_7), days=1)
    assert tomorrow["days"]["open_at_end"][-2] == 1
    members = {row["key"]: row["answers"] for b in report["breakdowns"] if b["by"] == "member" for row in b["rows"]}
    assert members == {str(world.scopes["mara"].member_id): 3, str(world.scopes["ilse"].member_id): 3, "0": 0}
    tags = [row for b in report["breakdowns"] if b["by"] == "tag" for row in b["rows"]]
    # Tagged after it was answered, the first one counts as it stood; the last one is open and counts as it stands.
    assert [(row["came_in"], row["answers"]) for row in tags] == [(1, 0)]
    assert ids


async def test_a_figure_and_its_list_are_as_many_whatever_it_is(world: World) -> None:
    await furnish(world)
    scope, now = world.scopes["mara"], world.after(hours=5)
    for filters in ({}, {"member": [scope.member_id]}, {"kind": ["comment"]}, {"public": True}, {"priority": [1]}):
        ask = Ask(period=Named.DAYS_7, filters=filters)
        report = await reports.get_report(world.house, scope, ask, now)
        for figure in report["figures"]:
            found = await reports.list_behind(world.house, scope, ask, Chosen(figure=figure["name"]), now)
            assert len(found) == figure["conversations"], (figure["name"], filters)
            rows = await desk.list_ids(world.house, scope, filters={"move": "any", "ids": found or [0]}, now=now)
            assert sorted(id for id, _ in rows) == found


@pytest.mark.parametrize(
    ("filters", "came_in"),
    [
        ({"account": [0]}, 0),
        ({"network": ["commonfold"]}, 8),
        ({"network": ["pixfern"]}, 0),
        ({"kind": ["comment"]}, 8),
        ({"public": False}, 0),
        ({"priority": [3]}, 0),
        ({"language": ["en"]}, 8),
        ({"team": [0]}, 0),
        ({"group": [0]}, 0),
        ({"person_tag": [0]}, 0),
        ({"sentiment": [-1]}, 0),
    ],
)
async def test_filters_choose_what_is_counted(world: World, filters: dict[str, Any], came_in: int) -> None:
    await furnish(world)
    report = await tell(world, Ask(period=Named.DAYS_7, filters=filters))
    assert by_name(report)["came_in"]["value"] == came_in


async def test_a_refused_answer_is_taken_out_of_the_figures_again(world: World) -> None:
    id = await world.hear("Are you open?")
    await answer(world, id, minutes=10)
    assert by_name(await tell(world))["answers"]["value"] == 1
    await world.control("mischief/commonfold", refuse=9)
    await delivery.deliver(world.house, world.workspace_id, (await list_outbox(world))[0], world.after(minutes=11))
    assert by_name(await tell(world))["answers"]["value"] == 0


async def list_outbox(world: World) -> list[int]:
    async with world.house.db.transact(world.workspace_id) as conn:
        return [row[0] for row in await (await conn.execute("select id from outbox order by id")).fetchall()]


async def test_only_who_may_sees_reports_and_their_lists(world: World) -> None:
    for who in ("mara", "noor", "lise"):
        assert (await tell(world, who=who))["figures"]
    for who in ("ilse", "ana"):
        with pytest.raises(NotAllowed):
            await tell(world, who=who)
        with pytest.raises(NotAllowed):
            await reports.list_behind(
                world.house, world.scopes[who], Ask(), Chosen(figure="came_in"), world.now + timedelta(hours=1)
            )


async def test_another_workspace_is_not_counted(world: World) -> None:
    await furnish(world)
    async with world.house.db.transact(world.other_workspace_id) as conn:
        seen = await (await conn.execute("select count(*) from spell")).fetchone()
    assert seen == (0,)
    assert len(FIGURES) == len(by_name(await tell(world)))
