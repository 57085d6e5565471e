"""Targets, bands, parking and retry: instants in, instants out."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Invalid
from sorta.core.parking import ParkFor, check_exact, get_parked_until
from sorta.core.retry import GIVE_UP_AFTER, PAUSES, GiveUp, TryAgain, decide_retry
from sorta.core.targets import Audience, Band, Priority, Promise, Targets, get_audience, get_band, get_due
from sorta.core.working_time import RoundTheClock, get_local_midnight_after

BERLIN = ZoneInfo("Europe/Berlin")
NEW_YORK = ZoneInfo("America/New_York")
T = datetime(2026, 11, 20, 12, tzinfo=UTC)


def test_round_the_clock_is_exact_across_a_clock_change() -> None:
    """docs/references.md 1, row 'NY round the clock': 2026-03-08 00:00 + 1380 working minutes is 03-09 00:00-04:00."""
    end = RoundTheClock().add_working_minutes(datetime(2026, 3, 8, tzinfo=NEW_YORK), 1380)
    assert end.isoformat() == "2026-03-09T00:00:00-04:00"


@given(
    st.datetimes(datetime(2020, 1, 1), datetime(2035, 1, 1), timezones=st.sampled_from([UTC, BERLIN, NEW_YORK])),
    st.integers(0, 100_000),
    st.integers(0, 100_000),
)
def test_adding_then_measuring_gives_back_and_adds_up(start: datetime, a: int, b: int) -> None:
    hours = RoundTheClock()
    assert hours.working_minutes_between(start, hours.add_working_minutes(start, a)) == pytest.approx(a)
    assert hours.add_working_minutes(hours.add_working_minutes(start, a), b) == hours.add_working_minutes(start, a + b)


def test_naive_instants_are_refused() -> None:
    with pytest.raises(ValueError, match="names no instant"):
        RoundTheClock().add_working_minutes(datetime(2026, 1, 1), 5)


def test_due_is_by_priority_and_audience() -> None:
    due = [get_due(T, p, Audience.PUBLIC, Promise()) for p in Priority]
    assert due == [T + timedelta(minutes=m) for m in (960, 480, 120, 30)]
    assert get_due(None, Priority.URGENT, Audience.PUBLIC, Promise()) is None
    slow = {a: dict.fromkeys(Priority, 60 if a is Audience.REVIEW else 10) for a in Audience}
    promise = Promise(targets=Targets(minutes=slow))
    assert get_due(T, Priority.HIGH, get_audience("review", public=True), promise) == T + timedelta(minutes=60)
    assert get_due(T, Priority.HIGH, get_audience("private_message", public=False), promise) == T + timedelta(
        minutes=10
    )
    assert get_audience("comment", public=True) is Audience.PUBLIC


@pytest.mark.parametrize(
    "minutes", [{}, {Audience.PUBLIC: {Priority.LOW: 1}}, {a: dict.fromkeys(Priority, 0) for a in Audience}]
)
def test_targets_must_be_whole(minutes) -> None:
    with pytest.raises(Invalid):
        Targets(minutes=minutes)


@pytest.mark.parametrize(
    ("minutes", "band"),
    [
        (-1, Band.LATE),
        (0, Band.WITHIN_HOUR),
        (59, Band.WITHIN_HOUR),
        (60, Band.LATER_TODAY),
        (11 * 60, Band.AFTER_TODAY),
    ],
)
def test_bands(minutes: int, band: Band) -> None:
    midnight = get_local_midnight_after(T.astimezone(BERLIN))
    assert midnight.astimezone(UTC) == datetime(2026, 11, 20, 23, tzinfo=UTC)
    assert get_band(T + timedelta(minutes=minutes), T, midnight) is band
    assert get_band(None, T, midnight) is Band.NOT_DUE


@pytest.mark.parametrize(
    ("choice", "now", "expected"),
    [
        (ParkFor.THREE_HOURS, datetime(2026, 3, 29, 0, 30, tzinfo=BERLIN), "2026-03-29T04:30:00+02:00"),
        (ParkFor.TOMORROW, datetime(2026, 10, 24, 18, tzinfo=BERLIN), "2026-10-25T09:00:00+01:00"),
        (ParkFor.NEXT_WEEK, datetime(2026, 12, 28, 8, tzinfo=BERLIN), "2027-01-04T09:00:00+01:00"),
        (ParkFor.NEXT_MONTH, datetime(2026, 1, 31, 8, tzinfo=BERLIN), "2026-02-28T09:00:00+01:00"),
        (ParkFor.NEXT_MONTH, datetime(2026, 12, 5, 8, tzinfo=BERLIN), "2027-01-05T09:00:00+01:00"),
    ],
)
def test_parking_choices_by_the_wall_clock(choice: ParkFor, now: datetime, expected: str) -> None:
    assert get_parked_until(choice, now).isoformat() == expected


@pytest.mark.parametrize("minutes", [-1, 0, 60 * 24 * 367])
def test_an_exact_time_lies_ahead_and_within_a_year(minutes: int) -> None:
    with pytest.raises(Invalid) as refused:
        check_exact(T + timedelta(minutes=minutes), T)
    assert refused.value.field == "until"


@given(st.integers(1, 40), st.one_of(st.none(), st.floats(0, 5000)))
def test_pauses_grow_and_obey_the_network(attempts: int, retry_after: float | None) -> None:
    decided = decide_retry(attempts=attempts, queued_at=T, now=T, retry_after=retry_after, reason="r")
    assert isinstance(decided, TryAgain)
    pause = (decided.at - T).total_seconds()
    assert pause >= max(PAUSES[min(attempts, len(PAUSES)) - 1], retry_after or 0)
    assert list(PAUSES) == sorted(PAUSES)


def test_after_two_days_it_returns_to_its_author() -> None:
    decided = decide_retry(attempts=50, queued_at=T - GIVE_UP_AFTER, now=T, retry_after=None, reason="busy")
    assert decided == GiveUp(reason="Given up after 50 tries: busy")
