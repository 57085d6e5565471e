"""Working time: weekly hours with special dates, exact across clock changes. Used by targets and parking.

Everything is counted on instants: a local time that a clock change skips uses the offset before it, an ambiguous one
is the first (RFC 5545, 3.3.5; zoneinfo's fold=0). Until a workspace can set its hours, every hour counts there.
"""

import itertools
import re
from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, time, timedelta
from typing import Protocol
from zoneinfo import ZoneInfo

from sorta.core.errors import Invalid

_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)
_MICRO = timedelta(microseconds=1)
DAY = 24 * 60
#: Hours that never open within so many years promise nothing.
_YEARS = 12


class WorkingTime(Protocol):
    """Counts working minutes between aware instants."""

    def add_working_minutes(self, start: datetime, minutes: int) -> datetime:
        """The instant at which `minutes` working minutes after `start` have passed."""
        ...

    def working_minutes_between(self, start: datetime, end: datetime) -> float:
        """Working minutes from `start` to `end`; 0 when `end` is not after `start`."""
        ...

    def is_open(self, at: datetime) -> bool:
        """Whether an instant lies within the hours."""
        ...

    def get_next_open(self, at: datetime) -> datetime:
        """The instant itself when it lies within the hours, else the next opening."""
        ...

    def list_open(self, begins: datetime, ends: datetime) -> list[tuple[float, float]]:
        """The stretches within the hours between two instants, in order, as seconds since 1970."""
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

    def is_open(self, at: datetime) -> bool:
        """It is always open."""
        return True

    def get_next_open(self, at: datetime) -> datetime:
        """It is always open."""
        return at

    def list_open(self, begins: datetime, ends: datetime) -> list[tuple[float, float]]:
        """It is always open."""
        return [(begins.timestamp(), ends.timestamp())] if begins < ends else []


@dataclass(frozen=True, kw_only=True, order=True)
class Span:
    """Open from `starts` to `ends`, minutes after local midnight of the day it begins; past 1440 it ends the next day."""

    starts: int
    ends: int

    def __post_init__(self) -> None:
        if not (0 <= self.starts < DAY and self.starts < self.ends <= self.starts + DAY):
            raise Invalid("Hours begin within the day and last at most 24 hours.", "hours")


@dataclass(frozen=True, kw_only=True)
class _Year:
    """The open intervals of one local year as microseconds since 1970: `before` is what was open ahead of each."""

    starts: Sequence[int]
    ends: Sequence[int]
    before: Sequence[int]
    through: Sequence[int]

    @property
    def total(self) -> int:
        return self.through[-1] if self.through else 0

    def measure(self, at: int) -> int:
        """What was open from the year's beginning to `at`."""
        n = bisect_right(self.starts, at) - 1
        return 0 if n < 0 else self.before[n] + min(at, self.ends[n]) - self.starts[n]

    def find(self, open_for: int) -> int:
        """The instant at which so much has been open; at most `total`."""
        n = bisect_left(self.through, open_for)
        return self.starts[n] + open_for - self.before[n]


@dataclass(frozen=True, kw_only=True)
class WeeklyHours:
    """Hours by weekday, Monday first, in a zone; `special` dates have hours of their own, none when closed.

    A date's spans are those that begin on it: an evening before that passes midnight goes on into a closed day.
    Implements WorkingTime. Years are worked out once and kept.
    """

    zone: ZoneInfo
    week: tuple[tuple[Span, ...], ...]
    special: Mapping[date, tuple[Span, ...]] = field(default_factory=dict)
    _years: dict[int, _Year] = field(default_factory=dict, repr=False, compare=False)

    def __post_init__(self) -> None:
        if len(self.week) != 7:
            raise Invalid("A week has seven days.", "week")
        for spans in (*self.week, *self.special.values()):
            ordered = sorted(spans)
            if any(a.ends > b.starts for a, b in itertools.pairwise(ordered)):
                raise Invalid("Hours of one day must not overlap.", "hours")

    def list_spans(self, day: date) -> tuple[Span, ...]:
        """The hours that begin on a local date."""
        return tuple(sorted(self.special.get(day, self.week[day.weekday()])))

    def add_working_minutes(self, start: datetime, minutes: int) -> datetime:
        """See WorkingTime. Raises Invalid when the hours never open again within twelve years."""
        require_aware(start)
        if minutes < 0:
            raise ValueError("minutes of work are not taken back")
        if minutes == 0:
            return start
        at = (start - _EPOCH) // _MICRO
        first = start.astimezone(self.zone).year
        wanted = self._get_year(first).measure(at) + minutes * 60_000_000
        for number in range(first, first + _YEARS):
            year = self._get_year(number)
            if wanted <= year.total:
                return (_EPOCH + year.find(wanted) * _MICRO).astimezone(start.tzinfo)
            wanted -= year.total
        raise Invalid("These hours never open long enough: no answer can be promised.", "hours")

    def working_minutes_between(self, start: datetime, end: datetime) -> float:
        """See WorkingTime."""
        require_aware(start)
        require_aware(end)
        a, b = (start - _EPOCH) // _MICRO, (end - _EPOCH) // _MICRO
        if b <= a:
            return 0.0
        first, last = start.astimezone(self.zone).year, end.astimezone(self.zone).year
        whole = sum(self._get_year(number).total for number in range(first, last))
        return (whole + self._get_year(last).measure(b) - self._get_year(first).measure(a)) / 60_000_000

    def is_open(self, at: datetime) -> bool:
        """Whether an instant lies within the hours."""
        require_aware(at)
        year, moment = self._get_year(at.astimezone(self.zone).year), (at - _EPOCH) // _MICRO
        n = bisect_right(year.starts, moment) - 1
        return n >= 0 and moment < year.ends[n]

    def get_next_open(self, at: datetime) -> datetime:
        """See WorkingTime. Raises Invalid when the hours never open again within twelve years."""
        if self.is_open(at):
            return at
        moment, first = (at - _EPOCH) // _MICRO, at.astimezone(self.zone).year
        for number in range(first, first + _YEARS):
            year = self._get_year(number)
            n = bisect_right(year.starts, moment)
            if n < len(year.starts):
                return (_EPOCH + year.starts[n] * _MICRO).astimezone(at.tzinfo)
        raise Invalid("These hours never open again.", "hours")

    def list_open(self, begins: datetime, ends: datetime) -> list[tuple[float, float]]:
        """See WorkingTime."""
        require_aware(begins)
        require_aware(ends)
        first, last = begins.timestamp(), ends.timestamp()
        found: list[tuple[float, float]] = []
        for number in range(begins.astimezone(self.zone).year, ends.astimezone(self.zone).year + 1):
            year = self._get_year(number)
            for start, end in zip(year.starts, year.ends, strict=True):
                a, b = max(first, start / 1e6), min(last, end / 1e6)
                if a < b:
                    found.append((a, b))
        return found

    def _get_year(self, number: int) -> _Year:
        known = self._years.get(number)
        if known is None:
            known = self._years[number] = self._work_out(number)
        return known

    def _at(self, day: date, minutes: int) -> int:
        """The instant of minutes after a local midnight, on the wall clock."""
        local = datetime.combine(day + timedelta(days=minutes // DAY), time(minutes % DAY // 60, minutes % 60))
        return (local.replace(tzinfo=self.zone) - _EPOCH) // _MICRO

    def _work_out(self, number: int) -> _Year:
        begins, over = self._at(date(number, 1, 1), 0), self._at(date(number + 1, 1, 1), 0)
        found: list[tuple[int, int]] = []
        # A day earlier, for its last hours may reach into the year.
        day = date(number, 1, 1) - timedelta(days=1)
        while day.year <= number:
            for span in self.list_spans(day):
                start, end = max(begins, self._at(day, span.starts)), min(over, self._at(day, span.ends))
                if found and start <= found[-1][1]:
                    found[-1] = (found[-1][0], max(found[-1][1], end))
                elif start < end:
                    found.append((start, end))
            day += timedelta(days=1)
        before, through, open_for = [], [], 0
        for start, end in found:
            before.append(open_for)
            open_for += end - start
            through.append(open_for)
        return _Year(starts=[s for s, _ in found], ends=[e for _, e in found], before=before, through=through)


_SPAN = re.compile(r"(\d{1,2})(?:[:.](\d{2}))?\s*[-–]\s*(\d{1,2})(?:[:.](\d{2}))?")


def read_spans(text: str) -> tuple[Span, ...]:
    """Hours as people write them, '9-12:30, 13:30-17'; nothing or 'closed' for none. Raises Invalid.

    An end at or before the beginning lies on the next day: '22-6'.
    """
    said = text.strip().lower()
    if said in ("", "closed"):
        return ()
    spans = []
    for part in said.split(","):
        found = _SPAN.fullmatch(part.strip())
        if found is None:
            raise Invalid(f"‘{part.strip()}’ is no span of hours. Write ‘9-17’ or ‘9:00-12:30, 13:30-17:00’.", "hours")
        h1, m1, h2, m2 = (int(g or 0) for g in found.groups())
        if m1 > 59 or m2 > 59 or h1 > 23 or h2 > 24 or (h2 == 24 and m2):
            raise Invalid(f"‘{part.strip()}’ has a time that no clock shows.", "hours")
        starts, ends = h1 * 60 + m1, h2 * 60 + m2
        spans.append(Span(starts=starts, ends=ends if ends > starts else ends + DAY))
    return tuple(sorted(spans))


def get_week(hours: WorkingTime) -> tuple[tuple[Span, ...], ...]:
    """The hours of a week, Monday first; every one where none are set."""
    return hours.week if isinstance(hours, WeeklyHours) else (read_spans("0-24"),) * 7


def say_spans(spans: Sequence[Span]) -> str:
    """The same as text, with four digits: '09:00-12:30, 13:30-17:00', or 'closed'."""

    def say(minutes: int) -> str:
        return f"{minutes // 60:02}:{minutes % 60:02}"

    return ", ".join(f"{say(s.starts)}-{say(s.ends if s.ends <= DAY else s.ends - DAY)}" for s in spans) or "closed"


def require_aware(instant: datetime) -> None:
    """Raise ValueError for a datetime without a zone: it names no instant."""
    if instant.tzinfo is None or instant.utcoffset() is None:
        raise ValueError(f"naive datetime {instant!r} names no instant")


def get_local_midnight(day: date, zone: ZoneInfo) -> datetime:
    """When a day begins in a zone, in UTC; where a clock change skips midnight, by the offset before it (RFC 5545 3.3.5)."""
    return datetime.combine(day, time.min, tzinfo=zone).astimezone(UTC)


def get_local_midnight_after(now: datetime) -> datetime:
    """The next midnight on the wall clock of `now`'s zone (the day it begins is tomorrow)."""
    require_aware(now)
    return (now + timedelta(days=1)).replace(hour=0, minute=0, second=0, microsecond=0, fold=0)
