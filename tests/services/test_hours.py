"""Hours and targets of a workspace: what is due follows them, at once for what comes, in the background for the rest."""

from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest

from sorta.core.errors import AskFirst, Invalid, NotAllowed
from sorta.core.parking import ParkFor
from sorta.core.targets import Priority
from sorta.services import acts, desk, hours
from tests.world import World

pytestmark = pytest.mark.anyio
COPENHAGEN = ZoneInfo("Europe/Copenhagen")
TARGETS = {a: {"urgent": 30, "high": 120, "normal": 480, "low": 960} for a in ("public", "private", "review")}
OFFICE = ["9-17"] * 5 + ["10-14", "closed"]
#: A Friday afternoon.
FRIDAY = datetime(2026, 11, 20, 16, 0, tzinfo=COPENHAGEN)


async def set_hours(world: World, who: str = "mara", **more: Any) -> None:
    given: dict[str, Any] = {"zone": "Europe/Copenhagen", "week": OFFICE, "special": {}, "targets": TARGETS}
    await hours.set_hours(world.house, world.scopes[who], **{**given, **more}, now=world.now)


async def test_what_comes_in_is_due_by_the_hours(world: World) -> None:
    await set_hours(world, special={"2026-11-21": "closed"})
    targets = {**TARGETS, "private": {**TARGETS["private"], "normal": 60}}
    await set_hours(world, special={"2026-11-21": "closed"}, targets=targets, sure=True)
    id = await world.hear("hi", handle="a", kind="private", at=FRIDAY)
    assert (await world.row(id))["due"] == datetime(2026, 11, 20, 17, 0, tzinfo=COPENHAGEN)
    id = await world.hear("hello", handle="b", at=FRIDAY)
    assert (await world.row(id))["due"] == datetime(2026, 11, 23, 16, 0, tzinfo=COPENHAGEN)
    assert (await desk.get_sheet(world.house, world.scopes["mara"], id, FRIDAY))["target_minutes"] == 480
    await acts.prioritise(world.house, world.scopes["mara"], id, priority=Priority.HIGH, now=FRIDAY)
    assert (await world.row(id))["due"] == datetime(2026, 11, 23, 10, 0, tzinfo=COPENHAGEN)


async def test_what_is_open_is_counted_anew_and_twice_changes_nothing(world: World, monkeypatch: Any) -> None:
    monkeypatch.setattr(hours, "_AT_ONCE", 3)
    ids = [await world.hear("hi", handle=f"h{n}", at=FRIDAY) for n in range(7)]
    before = [await world.row(id) for id in ids]
    assert {r["due"] for r in before} == {FRIDAY + timedelta(hours=8)}
    await set_hours(world)
    shown = await hours.get_hours(world.house, world.scopes["mara"], FRIDAY)
    assert shown["progress"] == {"done": 0, "total": 7}
    assert await hours.recount_dues(world.house, world.workspace_id) == 7
    after = [await world.row(id) for id in ids]
    assert {r["due"] for r in after} == {datetime(2026, 11, 23, 12, 0, tzinfo=COPENHAGEN)}
    assert [{**r, "due": None} for r in after] == [{**r, "due": None} for r in before]
    assert await hours.recount_dues(world.house, world.workspace_id) == 0
    assert (await hours.get_hours(world.house, world.scopes["mara"], FRIDAY))["progress"] is None


async def test_the_coming_two_weeks_as_they_will_be_counted(world: World) -> None:
    unset = await hours.get_hours(world.house, world.scopes["mara"], FRIDAY)
    assert {d["hours"] for d in unset["ahead"]} == {"00:00-24:00"}
    await set_hours(world, special={"2026-11-24": "9-12"})
    shown = await hours.get_hours(world.house, world.scopes["mara"], FRIDAY)
    assert len(shown["ahead"]) == 14
    assert [d["hours"] for d in shown["ahead"][:5]] == ["09:00-17:00", "10:00-14:00", "closed", "09:00-17:00", "09:00-12:00"]  # fmt: skip
    assert [d["special"] for d in shown["ahead"][:5]] == [False, False, False, False, True]
    assert shown["is_open"]


async def test_parking_comes_back_within_the_hours(world: World) -> None:
    await set_hours(world)
    id = await world.hear("hi", handle="a", at=FRIDAY)
    await acts.park(world.house, world.scopes["mara"], id, choice=ParkFor.THREE_HOURS, until=None, now=FRIDAY)
    assert (await world.row(id))["parked_until"] == datetime(2026, 11, 21, 10, 0, tzinfo=COPENHAGEN)
    await acts.park(world.house, world.scopes["mara"], id, choice=ParkFor.TOMORROW, until=None, now=FRIDAY)
    assert (await world.row(id))["parked_until"] == datetime(2026, 11, 21, 10, 0, tzinfo=COPENHAGEN)


@pytest.mark.parametrize(
    "wrong",
    [
        {"zone": "Moon/Base"},
        {"week": ["9-17"] * 6},
        {"week": ["nine"] * 7},
        {"week": ["closed"] * 7},
        {"week": ["9-12, 11-13"] * 7},
        {"special": {"yesterday": "9-12"}},
        {"targets": {**TARGETS, "review": {"urgent": 0, "high": 1, "normal": 1, "low": 1}}},
        {"targets": {"public": TARGETS["public"]}},
    ],
)
async def test_what_makes_no_sense_is_refused_and_changes_nothing(world: World, wrong: dict[str, Any]) -> None:
    with pytest.raises(Invalid):
        await set_hours(world, **wrong)
    assert (await hours.get_hours(world.house, world.scopes["mara"], FRIDAY))["changed_at"] is None


async def test_a_responder_may_not_set_hours(world: World) -> None:
    with pytest.raises(NotAllowed):
        await set_hours(world, "ilse")


async def test_a_slip_is_asked_about_and_kept_when_it_is_meant(world: World) -> None:
    mara = world.scopes["mara"]
    with pytest.raises(AskFirst, match="through the night, for 16 hours"):
        await set_hours(world, week=["17-9", *OFFICE[1:]])
    assert (await hours.get_hours(world.house, mara, world.now))["week"] == ["00:00-24:00"] * 7
    await set_hours(world, week=["17-9", *OFFICE[1:]], sure=True)
    assert (await hours.get_hours(world.house, mara, world.now))["week"][0] == "17:00-09:00"


async def test_a_calendar_file_is_read_by_the_hours_there_are(world: World) -> None:
    await set_hours(world)
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:x"]
    for uid, more in (("1", "DTSTART:20261224T130000|SUMMARY:Eve"), ("2", "DTSTART;VALUE=DATE:20261225|SUMMARY:Free|TRANSP:TRANSPARENT")):  # fmt: skip
        lines += [
            "BEGIN:VEVENT",
            f"UID:{uid}",
            "DTSTAMP:20260101T000000Z",
            *more.split("|"),
            "DURATION:P1D",
            "END:VEVENT",
        ]
    text = "\r\n".join([*lines, "END:VCALENDAR", ""])
    found = await hours.read_calendar(world.house, world.scopes["mara"], text, FRIDAY)
    assert [(d["day"].isoformat(), d["hours"]) for d in found["dates"]] == [
        ("2026-12-24", "09:00-13:00"),
        ("2026-12-25", "13:00-17:00"),
    ]
    assert [(o["name"], o["why"]) for o in found["left_out"]] == [("Free", "the calendar marks that time as free")]
