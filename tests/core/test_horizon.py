"""The horizon strip and the pace line: hand-worked, and by properties."""

import itertools
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from sorta.core.horizon import AHEAD, QUARTER, count_dues, get_pace, get_start_of, list_slots
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
