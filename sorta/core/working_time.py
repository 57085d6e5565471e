"""Working time behind its lasting interface. Used by targets and parking.

Until a workspace can set its hours, every hour counts (`RoundTheClock`); a calendar with
weekly hours replaces it without a change to any caller.
"""

from datetime import datetime, timedelta
from typing import Protocol


class WorkingTime(Protocol):
    """Counts working minutes between aware instants."""

    def add_working_minutes(self, start: datetime, minutes: int) -> datetime:
        """The instant at which `minutes` working minutes after `start` have passed."""
        ...

    def working_minutes_between(self, start: datetime, end: datetime) -> float:
        """Working minutes from `start` to `end`; 0 when `end` is not after `start`."""
        ...


class RoundTheClock:
    """Every minute is a working minute."""

    def add_working_minutes(self, start: datetime, minutes: int) -> datetime:
        """Elapsed time: exact across clock changes because aware arithmetic is done in UTC."""
        require_aware(start)
        moved = start.timestamp() + minutes * 60
        return datetime.fromtimestamp(moved, tz=start.tzinfo)

    def working_minutes_between(self, start: datetime, end: datetime) -> float:
        """Elapsed minutes, never negative."""
        require_aware(start)
        require_aware(end)
        return max(0.0, (end.timestamp() - start.timestamp()) / 60)


def require_aware(instant: datetime) -> None:
    """Raise ValueError for a datetime without a zone: it names no instant."""
    if instant.tzinfo is None or instant.utcoffset() is None:
        raise ValueError(f"naive datetime {instant!r} names no instant")


def get_local_midnight_after(now: datetime) -> datetime:
    """The next midnight on the wall clock of `now`'s zone (the day it begins is tomorrow)."""
    require_aware(now)
    return (now + timedelta(days=1)).replace(hour=0, minute=0, second=0, microsecond=0, fold=0)
