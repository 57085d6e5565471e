"""The horizon strip and the pace line: hand-worked, and by properties."""

import itertools
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.horizon import AHEAD, QUARTER, count_dues, get_pace, get_start_of, list_slots
from sorta.core.targets import Band, get_band
from sorta.core.working_time import WeeklyHours, read_spans

BERLIN = ZoneInfo("Europe/Berlin")
HOURS = WeeklyHours(zone=BERLIN, week=(read_spans("9-17"),) * 5 + (read_spans(""),) * 2)
FRIDAY = datetime(2026, 11, 20, 13, 58, tzinfo=BERLIN)


def test_eight_working_hours_with_the_weekend_folded() -> None:
    slots = list_slots(HOURS, FRIDAY)
    closed = [s for s in slots if not s.is_open]
    assert slots[0].starts == datetime(2026, 11, 20, 13, 45, tzinfo=BERLIN)
    assert len(closed) == 1
    assert closed[0].starts == datetime(2026, 11, 20, 17, 0, tzinfo=BERLIN)
    assert closed[0].ends == datetime(2026, 11, 23, 9, 0, tzinfo=BERLIN)
    assert len(slots) - 1 == AHEAD // 15
    assert slots[-1].ends == datetime(2026, 11, 23, 13, 45, tzinfo=BERLIN)


def test_dues_fall_into_their_quarter_and_those_beyond_are_left_out() -> None:
    slots = list_slots(HOURS, FRIDAY)
    dues = [(FRIDAY + timedelta(minutes=2), 3), (FRIDAY + timedelta(minutes=3), 1), (FRIDAY + timedelta(days=9), 1)]
    counts = count_dues(slots, dues)
    assert counts[1] == {3: 1, 1: 1}
    assert sum(sum(c.values()) for c in counts) == 2


def test_the_pace_of_two_hours_else_of_today_else_nothing() -> None:
    later = get_pace(HOURS, FRIDAY, open_work=12, lately=(24, 120.0), today=(30, 298.0))
    assert (later.over, later.clear_at) == ("two_hours", FRIDAY + timedelta(minutes=60))
    today = get_pace(HOURS, FRIDAY, open_work=10, lately=(2, 120.0), today=(30, 300.0))
    assert (today.over, today.clear_at) == ("today", FRIDAY + timedelta(minutes=100))
    nothing = get_pace(HOURS, FRIDAY, open_work=10, lately=(2, 120.0), today=(2, 300.0))
    assert (nothing.over, nothing.clear_at) == (None, None)
    over_night = get_pace(HOURS, FRIDAY, open_work=242, lately=(120, 120.0), today=(0, 0.0))
    assert over_night.clear_at == datetime(2026, 11, 23, 10, 0, tzinfo=BERLIN)


def test_two_working_hours_ago_on_a_monday_morning() -> None:
    monday = datetime(2026, 11, 23, 10, 0, tzinfo=BERLIN)
    since = get_start_of(HOURS, monday, 120)
    assert abs(since - datetime(2026, 11, 20, 16, 0, tzinfo=BERLIN)) <= timedelta(seconds=1)


@given(st.integers(0, 525_600))
def test_slots_follow_each_other_without_a_gap_through_the_year(minutes: int) -> None:
    now = datetime(2026, 1, 1, tzinfo=UTC) + timedelta(minutes=minutes)
    slots = list_slots(HOURS, now)
    assert all(a.ends == b.starts for a, b in itertools.pairwise(slots))
    assert slots[0].starts <= now < slots[0].ends
    assert all(s.ends - s.starts == QUARTER for s in slots if s.is_open)


def _list_changes(zone: ZoneInfo, year: int) -> list[datetime]:
    """The instants at which a zone's clock changes, by its offsets hour by hour: found, not listed."""
    hours = [datetime(year, 1, 1, tzinfo=UTC) + timedelta(hours=n) for n in range(366 * 24)]
    return [b for a, b in itertools.pairwise(hours) if a.astimezone(zone).utcoffset() != b.astimezone(zone).utcoffset()]


NIGHTS = [
    (name, at)
    for name in ("Europe/Berlin", "America/New_York", "Australia/Sydney", "Australia/Lord_Howe", "America/Santiago",
                 "Africa/Casablanca", "Asia/Beirut", "America/St_Johns")
    for year in (2026, 2027)
    for at in _list_changes(ZoneInfo(name), year)
]  # fmt: skip


@pytest.mark.parametrize(("name", "at"), NIGHTS, ids=lambda v: str(v))
def test_in_a_night_in_which_clocks_change_slots_and_bands_are_instants(name: str, at: datetime) -> None:
    """Counted minute by minute on UTC; the local clock runs an hour twice, or not at all."""
    zone = ZoneInfo(name)
    always = WeeklyHours(zone=zone, week=(read_spans("0-24"),) * 7)
    for hours in (always, WeeklyHours(zone=zone, week=(read_spans("22-6"),) * 7)):
        for minutes in (-215, -35, 10, 95):
            now = (at + timedelta(minutes=minutes)).astimezone(zone)
            slots = list_slots(hours, now)
            assert slots[0].starts <= now.astimezone(UTC) < slots[0].ends
            assert all(a.ends == b.starts for a, b in itertools.pairwise(slots))
            open_slots = [s for s in slots if s.is_open]
            assert all((s.ends.timestamp() - s.starts.timestamp()) == 900 for s in open_slots)
            step = timedelta(minutes=1)
            minutes_open = sum(hours.is_open(s.starts + n * step) for s in open_slots for n in range(15))
            assert AHEAD <= minutes_open < AHEAD + 15
            due = (now.astimezone(UTC) + timedelta(minutes=59)).astimezone(zone)
            later = (now.astimezone(UTC) + timedelta(minutes=61)).astimezone(zone)
            midnight = (now.astimezone(UTC) + timedelta(days=1)).astimezone(zone)
            assert get_band(due, now, midnight) is Band.WITHIN_HOUR
            assert get_band(later, now, midnight) is Band.LATER_TODAY
            counts = count_dues(list_slots(always, now), [(due, 1), (later, 1), (due, 1)])
            placed = [n for n, found in enumerate(counts) for _ in range(sum(found.values()))]
            first = list_slots(always, now)[0].starts
            wanted = [int((d.timestamp() - first.timestamp()) // 900) for d in (due, due, later)]
            assert placed == wanted


def test_so_many_working_minutes_ago_in_the_night_the_clocks_go_back() -> None:
    always = WeeklyHours(zone=BERLIN, week=(read_spans("0-24"),) * 7)
    now = datetime(2026, 10, 25, 3, 30, tzinfo=BERLIN)
    since = get_start_of(always, now, 120)
    assert abs((now.astimezone(UTC) - since).total_seconds() - 7200) <= 1
