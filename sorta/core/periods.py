"""Periods of reports: whole days on a workspace's clock, what they are compared with, and where an instant falls in them.

Used by core.reports and services.reports.
"""

from calendar import monthrange
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

import numpy as np
import numpy.typing as npt

from sorta.core.errors import Invalid
from sorta.core.working_time import get_local_midnight

#: The longest period, in days: a year and what it is compared with.
LONGEST = 400
EARLIEST = date(2000, 1, 1)
_TICK = 900
_DAY = 86_400
#: 1 January 1970 was a Thursday; weeks begin on Monday.
_EPOCH_WEEKDAY = 3


class Named(StrEnum):
    """Periods that have a name, seen from today."""

    TODAY = "today"
    YESTERDAY = "yesterday"
    THIS_WEEK = "this_week"
    LAST_WEEK = "last_week"
    THIS_MONTH = "this_month"
    LAST_MONTH = "last_month"
    DAYS_7 = "7_days"
    DAYS_28 = "28_days"
    DAYS_90 = "90_days"
    EXACT = "exact"


class Against(StrEnum):
    """What a period is compared with."""

    BEFORE = "before"
    WEEK = "week"
    MONTH = "month"
    YEAR = "year"


@dataclass(frozen=True, kw_only=True)
class Period:
    """Whole days of a zone, the last one included."""

    first: date
    last: date
    zone: ZoneInfo

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise Invalid("The period ends before it begins.", "until")
        if self.first < EARLIEST or self.count > LONGEST:
            raise Invalid(f"A report covers at most {LONGEST} days, and none before {EARLIEST.year}.", "since")

    @property
    def count(self) -> int:
        """How many days."""
        return (self.last - self.first).days + 1

    @property
    def days(self) -> list[date]:
        """Each day."""
        return [self.first + timedelta(days=n) for n in range(self.count)]

    @property
    def begins(self) -> datetime:
        """The midnight it begins with."""
        return get_local_midnight(self.first, self.zone)

    @property
    def ends(self) -> datetime:
        """The midnight after its last day."""
        return get_local_midnight(self.last + timedelta(days=1), self.zone)

    def list_edges(self) -> list[datetime]:
        """The midnights from its beginning to its end; days of 23 and 25 hours lie between two of them like all others."""
        return [get_local_midnight(self.first + timedelta(days=n), self.zone) for n in range(self.count + 1)]


def get_period(
    named: Named, today: date, zone: ZoneInfo, first: date | None = None, last: date | None = None
) -> Period:
    """The days of a named period; of an exact one those given. Raises Invalid."""
    monday = today - timedelta(days=today.weekday())
    match named:
        case Named.EXACT:
            if first is None or last is None:
                raise Invalid("An exact period has a first and a last day.", "since")
            return Period(first=first, last=last, zone=zone)
        case Named.TODAY:
            days = today, today
        case Named.YESTERDAY:
            days = today - timedelta(days=1), today - timedelta(days=1)
        case Named.THIS_WEEK:
            days = monday, today
        case Named.LAST_WEEK:
            days = monday - timedelta(days=7), monday - timedelta(days=1)
        case Named.THIS_MONTH:
            days = today.replace(day=1), today
        case Named.LAST_MONTH:
            over = today.replace(day=1) - timedelta(days=1)
            days = over.replace(day=1), over
        case _:
            days = today - timedelta(days=int(named.split("_")[0]) - 1), today
    return Period(first=days[0], last=days[1], zone=zone)


def get_compared(period: Period, against: Against) -> Period:
    """The period before, or the same one a week, a month or a year back: as many days where the calendar has them."""
    match against:
        case Against.BEFORE:
            first, last = period.first - timedelta(days=period.count), period.first - timedelta(days=1)
        case Against.WEEK:
            first, last = period.first - timedelta(days=7), period.last - timedelta(days=7)
        case Against.MONTH:
            first, last = _back(period.first, 1), _back(period.last, 1)
        case Against.YEAR:
            first, last = _back(period.first, 12), _back(period.last, 12)
    return Period(first=first, last=last, zone=period.zone)


def _back(day: date, months: int) -> date:
    """The same day so many months earlier, or the last one of a month that is shorter."""
    number = day.year * 12 + day.month - 1 - months
    year, month = number // 12, number % 12 + 1
    return date(year, month, min(day.day, monthrange(year, month)[1]))


Numbers = npt.NDArray[np.float64]


def list_offsets(period: Period) -> tuple[list[int], list[int]]:
    """Since when (seconds since 1970) a zone is how far ahead of UTC (seconds), through a period."""
    at = int(period.begins.timestamp())
    begins, offsets = [at], [_get_offset(at, period.zone)]
    for edge in period.list_edges()[1:]:
        until = int(edge.timestamp())
        if _get_offset(until, period.zone) != offsets[-1]:
            # The first second of the new offset.
            low, high = at, until
            while high - low > 1:
                middle = (low + high) // 2
                low, high = (middle, high) if _get_offset(middle, period.zone) == offsets[-1] else (low, middle)
            begins.append(high)
            offsets.append(_get_offset(high, period.zone))
        at = until
    return begins, offsets


def _get_offset(at: int, zone: ZoneInfo) -> int:
    offset = datetime.fromtimestamp(at, zone).utcoffset()
    assert offset is not None
    return int(offset.total_seconds())


def get_cells(instants: Numbers, period: Period) -> npt.NDArray[np.int64]:
    """For each instant of the period (seconds since 1970) its cell of the week on the wall clock: weekday * 24 + hour, Monday 0.

    An hour that a clock change repeats is one cell, in which more time passes.
    """
    begins, offsets = list_offsets(period)
    which = np.searchsorted(np.asarray(begins, dtype=np.float64), instants, side="right") - 1
    local = instants + np.asarray(offsets, dtype=np.float64)[np.maximum(which, 0)]
    days, seconds = np.divmod(np.floor(local).astype(np.int64), _DAY)
    cells: npt.NDArray[np.int64] = (days + _EPOCH_WEEKDAY) % 7 * 24 + seconds // 3600
    return cells


def measure_cells(period: Period, until: float) -> Numbers:
    """Hours that each cell of the week has in a period, up to an instant; together as many as have passed of it."""
    ticks = np.arange(period.begins.timestamp(), min(period.ends.timestamp(), until), _TICK)
    hours = np.bincount(get_cells(ticks, period), minlength=168) * (_TICK / 3600)
    return hours.astype(np.float64)


def get_day_numbers(instants: Numbers, edges: Sequence[datetime]) -> npt.NDArray[np.int64]:
    """For each instant the number of the day it falls on, -1 before the first of these midnights."""
    numbers: npt.NDArray[np.int64] = (
        np.searchsorted(np.asarray([e.timestamp() for e in edges]), instants, side="right") - 1
    )
    return numbers


def get_today(now: datetime, zone: ZoneInfo) -> date:
    """The date on the wall of a workspace."""
    return now.astimezone(zone).date()
