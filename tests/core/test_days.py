"""Days of a workspace's calendar as instants, also in nights when the clocks change; zoneinfo is the reference."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from sorta.core.permissions import STARTING, Role
from sorta.core.working_time import get_local_midnight
from sorta.services.filters import read_filters
from sorta.services.house import Scope


@pytest.mark.parametrize(
    ("zone", "day", "begins"),
    [
        ("Europe/Copenhagen", date(2026, 11, 26), datetime(2026, 11, 25, 23, tzinfo=UTC)),
        # The clocks change in the night after midnight: the day is 23 or 25 hours long.
        ("Europe/Copenhagen", date(2027, 3, 28), datetime(2027, 3, 27, 23, tzinfo=UTC)),
        ("Europe/Copenhagen", date(2027, 3, 29), datetime(2027, 3, 28, 22, tzinfo=UTC)),
        # Santiago skips midnight itself in September (RFC 5545 3.3.5: the offset before the gap).
        ("America/Santiago", date(2026, 9, 6), datetime(2026, 9, 6, 4, tzinfo=UTC)),
        ("Pacific/Kiritimati", date(2026, 11, 26), datetime(2026, 11, 25, 10, tzinfo=UTC)),
    ],
)
def test_when_a_day_begins(zone: str, day: date, begins: datetime) -> None:
    assert get_local_midnight(day, ZoneInfo(zone)) == begins


def read(zone: str, **given: str) -> dict[str, datetime]:
    scope = Scope(workspace_id=1, member_id=1, name="", role=STARTING[Role.LEAD], zone=ZoneInfo(zone), csrf="")
    now = datetime(2026, 11, 27, 12, tzinfo=UTC)
    return read_filters(given, scope, {"now": now, "hour": now, "today": now})


@pytest.mark.parametrize("zone", ["Europe/Copenhagen", "America/New_York", "Australia/Lord_Howe"])
def test_until_a_day_includes_it(zone: str) -> None:
    for day in (date(2026, 11, 26), date(2026, 10, 25), date(2026, 11, 1), date(2027, 3, 28), date(2027, 4, 4)):
        span = read(zone, since=day.isoformat(), until=day.isoformat())
        noon = datetime(day.year, day.month, day.day, 12, tzinfo=ZoneInfo(zone))
        assert span["since"] < noon < span["until"]
        last = datetime(day.year, day.month, day.day, 23, 59, 59, tzinfo=ZoneInfo(zone)).astimezone(UTC)
        assert last < span["until"] <= last + timedelta(seconds=1)
