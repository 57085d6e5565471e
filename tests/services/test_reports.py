"""Reports over the real store: what is counted, the list behind each figure, filters as things stood, who may see them."""

import csv
import io
from collections.abc import AsyncIterator
from datetime import timedelta
from typing import Any

import openpyxl
import pytest

from sorta.api.schemas.desk import ListedMove
from sorta.api.schemas.reports import read_behind
from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.facts import Move, SettledAs
from sorta.core.periods import Named
from sorta.core.reports import FIGURES, Chosen
from sorta.core.spells import Phase
from sorta.core.staffing import find_people
from sorta.core.waits import Counting
from sorta.services import acts, answers, delivery, desk, report_export, report_staffing, reports
from sorta.services.filters import ANY_MOVE
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


async def test_what_waited_at_a_days_end_is_taken_apart_by_where_it_stood_and_each_opens_its_list(world: World) -> None:
    ids = await furnish(world)
    await acts.park(
        world.house, world.scopes["mara"], ids[7], until=world.after(days=3), choice="exact", now=world.after(hours=3)
    )
    ids += [await world.hear("And on Sundays?", handle=f"s{n}") for n in range(3)]
    await acts.assign(world.house, world.scopes["mara"], ids[8], owner_id=None, note=None, now=world.after(hours=3))
    scope, now = world.scopes["mara"], world.after(days=2)
    sums = set()
    for filters in ({}, {"kind": ["comment"]}, {"priority": [3]}, {"tag": [0]}):
        ask = Ask(period=Named.DAYS_7, filters=filters)
        standing = await reports.list_standing(world.house, scope, ask, now)
        told = (await reports.get_report(world.house, scope, ask, now))["days"]
        assert standing["days"] == told["days"]
        by_day = zip(*(row["open_at_end"] for row in standing["rows"]), strict=True)
        assert [None if None in day else sum(day) for day in by_day] == told["open_at_end"]
        for row in standing["rows"]:
            for day, number in enumerate(row["open_at_end"]):
                if number is not None:
                    chosen = Chosen(figure="open_at_end", day=day, phase=Phase(row["phase"]))
                    assert len(await reports.list_behind(world.house, scope, ask, chosen, now)) == number
                    sums.add((row["phase"], number))
    assert {("parked", 1), ("ours", 1), ("unsorted", 2)} <= sums


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
    async with world.house.db.transact(world.workspace_id) as tx:
        return [row[0] for row in await (await tx.execute("select id from outbox order by id")).fetchall()]


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
    async with world.house.db.transact(world.other_workspace_id) as tx:
        seen = await (await tx.execute("select count(*) from spell")).fetchone()
    assert seen == (0,)
    assert len(FIGURES) == len(by_name(await tell(world)))


async def read_all(parts: AsyncIterator[bytes]) -> bytes:
    return b"".join([block async for block in parts])


async def test_a_report_leaves_the_house_as_tables_with_real_numbers(world: World) -> None:
    await furnish(world)
    mara, now = world.scopes["mara"], world.after(hours=5)
    ask = Ask(period=Named.DAYS_7, clock=Counting.CLOCK, filters={"kind": ["comment"]})
    sheets = await report_export.list_sheets(world.house, mara, ask, now)
    book = openpyxl.load_workbook(io.BytesIO(await read_all(report_export.stream_workbook(world.house, mara, sheets))))
    assert book.sheetnames[:5] == ["About", "Figures", "Days", "Where it stood", "Hours of the week"]
    about = {row[0].value: row[1].value for row in book["About"].iter_rows(min_row=2)}
    assert about["Time zone of days and times"] == mara.zone.key
    assert about["Only kind"] == "comment"
    figures = {row[0].value: row[1].value for row in book["Figures"].iter_rows(min_row=2)}
    assert figures["Conversations that came in"] == 8
    assert figures["First answer, half within"] == pytest.approx(35 / 60, abs=1e-3)
    rows = list(csv.reader(io.StringIO(report_export.write_sheets_csv(sheets))))
    assert next(r for r in rows if r[:1] == ["Conversations that came in"])[:3] == ["Conversations that came in", "8", "cases"]  # fmt: skip


async def test_the_conversations_behind_a_figure_leave_as_many_and_no_cell_is_a_formula(world: World) -> None:
    await furnish(world)
    await world.hear("hi", handle="z", name='=HYPERLINK("http://x.example")')
    mara, now = world.scopes["mara"], world.after(hours=5)
    chosen, ask = Chosen(figure="came_in"), Ask(period=Named.DAYS_7)
    parts = await report_export.list_conversations(world.house, mara, ask, chosen, now)
    text = (await read_all(report_export.stream_csv(parts))).decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == 9
    assert {row["Person"] for row in rows} >= {'\'=HYPERLINK("http://x.example")'}
    parts = await report_export.list_conversations(world.house, mara, ask, chosen, now)
    book = openpyxl.load_workbook(io.BytesIO(await read_all(report_export.stream_rows(world.house, mara, parts))))
    (sheet,) = book.worksheets
    cells = {cell.column_letter: cell for cell in sheet[10]}
    assert sheet.max_row == 10
    assert sheet.title == f"Times of {mara.zone.key}".replace("/", " ")
    assert (cells["F"].value, cells["F"].data_type) == ('=HYPERLINK("http://x.example")', "s")
    assert cells["H"].is_date


async def test_who_may_not_export_takes_nothing_out(world: World) -> None:
    await furnish(world)
    for who in ("lise", "ilse"):
        with pytest.raises(NotAllowed):
            await report_export.list_sheets(world.house, world.scopes[who], Ask(), world.now)
        with pytest.raises(NotAllowed):
            await report_export.list_conversations(
                world.house, world.scopes[who], Ask(), Chosen(figure="came_in"), world.now
            )


async def test_reports_are_kept_under_a_name_ones_own_and_shared(world: World) -> None:
    mara, lise, query = world.scopes["mara"], world.scopes["lise"], "period=7_days&kind=review"
    own = await reports.keep(world.house, mara, name=" Mine ", shared=False, query=query, now=world.now)
    again = await reports.keep(world.house, mara, name="mine", shared=True, query="period=today", now=world.now)
    assert own == again
    (kept,) = await reports.list_kept(world.house, lise)
    assert (kept["name"], kept["query"], kept["mine"]) == ("mine", "period=today", False)
    with pytest.raises(NotFound):
        await reports.forget(world.house, lise, own)
    await reports.forget(world.house, mara, own)
    assert await reports.list_kept(world.house, mara) == []
    for name in ("", "x" * 61):
        with pytest.raises(Invalid):
            await reports.keep(world.house, mara, name=name, shared=False, query="", now=world.now)


@pytest.mark.parametrize(
    "address", ["", "figure=kept&period=moon", "figure=kept&cell=900", "figure=kept&x=1", "figure=kept&since=2026"]
)
def test_an_address_that_is_none_is_refused_with_what_is_wrong(address: str) -> None:
    with pytest.raises(Invalid, match="cannot be read"):
        read_behind(address)


async def test_an_hour_needs_whom_its_arrivals_need_against_who_works_then(world: World) -> None:
    await furnish(world)
    scope, now, ask = world.scopes["mara"], world.after(hours=5), Ask(period=Named.TODAY)
    found = await report_staffing.get_staffing(world.house, scope, ask, within=10, share=0.9, handling=None, now=now)
    assert (found["source"], found["handling"]) == ("assumed", 240)
    local = world.now.astimezone(scope.zone)
    cell = found["hours"][local.weekday() * 24 + local.hour]
    assert cell["arrivals"] == 8
    assert cell["needed"] == find_people(8 * 240 / 3600, 240, 600, 0.9)
    # Everybody who may reply; who has no shift works whenever the workspace does.
    assert cell["on_shift"] == 4
    slow = await report_staffing.get_staffing(world.house, scope, ask, within=10, share=0.9, handling=60, now=now)
    assert slow["hours"][local.weekday() * 24 + local.hour]["needed"] > cell["needed"]
    with pytest.raises(NotAllowed):
        await report_staffing.get_staffing(
            world.house, world.scopes["ilse"], ask, within=10, share=0.9, handling=None, now=now
        )


async def test_what_else_was_done_is_counted_in_its_period(world: World) -> None:
    await furnish(world)
    scope, ask = world.scopes["mara"], Ask(period=Named.TODAY)
    found = await reports.list_doings(world.house, scope, ask, world.after(hours=2))
    assert found["replies"] == 6
    id = await world.hear("One more?", handle="undone")
    seen = (await world.row(id))["seq"]
    seq = await answers.reply(
        world.house, scope, id, text="Yes.", public=True, seen_seq=seen, settle=False, now=world.after(hours=2)
    )
    await acts.undo(world.house, scope, id, seq=seq, now=world.after(hours=2, seconds=2))
    assert (await reports.list_doings(world.house, scope, ask, world.after(hours=3)))["replies"] == 6
    earlier = await reports.list_doings(world.house, scope, Ask(period=Named.LAST_MONTH), world.after(hours=3))
    assert earlier == {"rules": [], "approvals": [], "saved_replies": [], "links": [], "cases": [], "replies": 0}
    with pytest.raises(NotAllowed):
        await reports.list_doings(world.house, world.scopes["ana"], ask, world.now)


def test_a_list_stands_at_any_move_or_at_all() -> None:
    assert {one.value for one in ListedMove} == {ANY_MOVE, *(move.value for move in Move)}
