"""When a report is mailed: always the chosen day and hour on the wall, also where the clocks change."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Invalid
from sorta.core.sharing import PARTS, Mailing, check_parts

ZONES = ["Europe/Berlin", "America/St_Johns", "Australia/Lord_Howe", "Pacific/Auckland", "America/Santiago"]


@given(
    zone=st.sampled_from(ZONES).map(ZoneInfo),
    after=st.datetimes(datetime(2026, 1, 1), datetime(2027, 12, 31), timezones=st.just(UTC)),
    mailing=st.one_of(
        st.builds(Mailing, every=st.just("week"), day=st.integers(0, 6), hour=st.integers(0, 23)),
        st.builds(Mailing, every=st.just("month"), day=st.integers(1, 28), hour=st.integers(0, 23)),
    ),
)
def test_it_is_the_first_such_hour_after_an_instant(zone: ZoneInfo, after: datetime, mailing: Mailing) -> None:
    found = mailing.get_next(after, zone)
    assert after < found <= after + timedelta(days=32)
    local = found.astimezone(zone)
    assert mailing.day == (local.weekday() if mailing.every == "week" else local.day)
    # An hour that the clocks skip is the one they skip to.
    assert local.hour in (mailing.hour, mailing.hour + 1)
    # None of the quarters of an hour in between is one of them.
    step = after.replace(minute=0, second=0, microsecond=0) + timedelta(hours=1)
    while step < found:
        at = step.astimezone(zone)
        is_day = mailing.day == (at.weekday() if mailing.every == "week" else at.day)
        assert not (is_day and at.hour == mailing.hour and at.minute == 0 and at.fold == 0), at
        step += timedelta(minutes=15 if found - step < timedelta(days=1) else 60)


@pytest.mark.parametrize(
    ("every", "day", "hour"), [("week", 7, 8), ("week", -1, 8), ("month", 0, 8), ("month", 29, 8), ("week", 1, 24)]
)
def test_days_and_hours_that_there_are_not_are_refused(every: str, day: int, hour: int) -> None:
    with pytest.raises(Invalid):
        Mailing(every=every, day=day, hour=hour)  # type: ignore[arg-type]


def test_parts_stand_in_their_order() -> None:
    assert check_parts(["member", "days"]) == ["days", "member"]
    assert check_parts(PARTS) == list(PARTS)
    with pytest.raises(Invalid, match="no part names"):
        check_parts(["names"])
