"""The parking choices of docs/trade.md 3 as instants. Used by the acts."""

import calendar
from datetime import UTC, datetime, timedelta
from enum import StrEnum

from sorta.core.errors import Invalid
from sorta.core.working_time import require_aware

#: Local hour at which a conversation parked for another day comes back.
MORNING = 9


class ParkFor(StrEnum):
    """The named choices; an exact instant is the fifth."""

    THREE_HOURS = "three_hours"
    TOMORROW = "tomorrow"
    NEXT_WEEK = "next_week"
    NEXT_MONTH = "next_month"


def get_parked_until(choice: ParkFor, now: datetime) -> datetime:
    """When a conversation parked at `now` (aware, in the workspace's zone) comes back.

    Days are days on the wall clock: tomorrow and next week come back at nine local whatever the
    clocks do in between; next month is the same day number, or the month's last.
    """
    require_aware(now)
    if choice is ParkFor.THREE_HOURS:
        return datetime.fromtimestamp(now.timestamp() + 3 * 3600, tz=now.tzinfo)
    morning = now.replace(hour=MORNING, minute=0, second=0, microsecond=0, fold=0)
    if choice is ParkFor.TOMORROW:
        return morning + timedelta(days=1)
    if choice is ParkFor.NEXT_WEEK:
        return morning + timedelta(days=7)
    year, month = divmod(now.year * 12 + now.month, 12)
    day = min(now.day, calendar.monthrange(year, month + 1)[1])
    return morning.replace(year=year, month=month + 1, day=day)


def check_exact(until: datetime, now: datetime) -> datetime:
    """An exact time must lie ahead and within a year."""
    require_aware(until)
    if not timedelta(0) < until.astimezone(UTC) - now.astimezone(UTC) <= timedelta(days=366):
        raise Invalid("Choose a time that lies ahead, at most a year from now.", "until")
    return until
