"""Hours and holidays as iCalendar (RFC 5545): read into special dates, written so that a calendar shows them. Used by services.hours.

Reading: an event of whole days closes them (DTEND is the day after the last, 3.6.1), also when it recurs; one with times of
day closes that part of the hours of its date, read on the workspace's clock, or makes hours of its own when it says so by the
category OPEN. What a calendar marks as free (TRANSP, 3.8.2.7) or cancelled closes nothing; whatever is left out is listed
with its reason. Writing: each span of the week is a weekly recurring event, each special date an event of its own.
"""

from calendar import monthrange
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from dateutil.rrule import rrulestr
from icalendar import Calendar, Event
from icalendar.prop import vRecur

from sorta.core.errors import Invalid
from sorta.core.working_time import DAY, Span, WeeklyHours

MOST_DATES = 400
MOST_EVENTS = 5000
LARGEST = 1_000_000
#: What began longer ago than this many years before the time asked for is not unfolded from there.
_OLDEST_YEARS = 120
#: The category of the week's own hours in the files that are written here.
_WEEK = "WEEKLY HOURS"
_DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")


@dataclass(frozen=True, kw_only=True)
class SpecialDate:
    """A date with hours of its own; none when it is closed. `name` is what the file calls it."""

    day: date
    spans: tuple[Span, ...]
    name: str


@dataclass(frozen=True, kw_only=True)
class LeftOut:
    """An event that changes no date: its name, its first day where it has one, and why, as half a sentence."""

    name: str
    day: date | None
    why: str


@dataclass(frozen=True, kw_only=True)
class CalendarRead:
    """What a file says: the special dates in their order, and all that it holds beside them."""

    dates: tuple[SpecialDate, ...]
    left_out: tuple[LeftOut, ...]


@dataclass
class _Found:
    """What the events of a file say, before it is put together."""

    opens: dict[date, tuple[set[Span], str]] = field(default_factory=dict)
    closed: dict[date, str] = field(default_factory=dict)
    #: Parts of days that are closed, on the wall clock of the workspace.
    cuts: list[tuple[datetime, datetime, str]] = field(default_factory=list)
    left_out: list[LeftOut] = field(default_factory=list)


def read_calendar(
    text: str, zone: ZoneInfo, since: date, until: date, week: Callable[[date], tuple[Span, ...]]
) -> CalendarRead:
    """The special dates of a file from `since` to before `until`, recurring ones unfolded; `week` has the hours of a date
    as they are without the file.

    Raises Invalid with what cannot be read and where.
    """
    if len(text) > LARGEST:
        raise Invalid("The file is too large for a calendar of holidays.", "file")
    try:
        calendar = Calendar.from_ical(text)
        events = list(calendar.walk("VEVENT"))
    except (ValueError, IndexError, KeyError) as error:
        raise Invalid(f"This is no iCalendar file: {error}", "file") from error
    if len(events) > MOST_EVENTS:
        raise Invalid(f"The file has more than {MOST_EVENTS} events.", "file")
    moved = _list_moved(events)
    found = _Found()
    for event in events:
        name = " ".join(str(event.get("SUMMARY", "")).split())[:80] or "without a name"
        try:
            _read_event(found, event, name, zone, since, until, moved.get(str(event.get("UID")), set()))
        except (ValueError, OverflowError, TypeError, AttributeError, KeyError) as error:
            raise Invalid(f"The event ‘{name}’ has a date or time that cannot be read.", "file") from error
    return _put_together(found, since, until, week)


def _list_moved(events: list[Any]) -> dict[str, set[date]]:
    """The dates of recurring events that have an event of their own in the file (RECURRENCE-ID, 3.8.4.4)."""
    moved: dict[str, set[date]] = {}
    for event in events:
        instead = getattr(event.get("RECURRENCE-ID"), "dt", None)
        if isinstance(instead, date):
            day = instead.date() if isinstance(instead, datetime) else instead
            moved.setdefault(str(event.get("UID")), set()).add(day)
    return moved


def _read_event(
    found: _Found, event: Any, name: str, zone: ZoneInfo, since: date, until: date, moved: set[date]
) -> None:
    start = getattr(event.get("DTSTART"), "dt", None)
    if not isinstance(start, date):
        raise Invalid(f"The event ‘{name}’ has no beginning that can be read.", "file")
    end = getattr(event.get("DTEND"), "dt", None)
    length = getattr(event.get("DURATION"), "dt", None)
    local = _on_the_wall(start, zone)
    day = local.date()

    def leave_out(why: str) -> None:
        found.left_out.append(LeftOut(name=name, day=day, why=why))

    if str(event.get("STATUS", "")).upper() == "CANCELLED":
        leave_out("it was cancelled")
        return
    is_whole = not isinstance(start, datetime)
    if _WEEK in {str(c).upper() for c in _list_categories(event)}:
        leave_out("it tells the hours of the week")
        return
    is_opening = not is_whole and "OPEN" in {str(c).upper() for c in _list_categories(event)}
    if str(event.get("TRANSP", "")).upper() == "TRANSPARENT" and not is_opening:
        leave_out("the calendar marks that time as free")
        return
    lasts = _on_the_wall(end, zone) - local if end is not None else length or timedelta(days=int(is_whole))
    if lasts < (timedelta(days=1) if is_whole else timedelta(minutes=1)):
        raise Invalid(f"The event ‘{name}’ ends before it begins, or at once.", "file")
    if is_opening and lasts > timedelta(days=1):
        raise Invalid(f"The event ‘{name}’ is open for more than a day.", "file")
    out = moved if event.get("RECURRENCE-ID") is None else set()
    starts = [
        at
        for at in _list_starts(event, name, local, zone, since - lasts - timedelta(days=1), until)
        if at.date() not in out
    ]
    if not any(at + lasts > datetime.combine(since, time()) for at in starts):
        leave_out("it lies in the past" if day < since else "it lies further ahead than is read")
        return
    for at in starts:
        if is_whole:
            day = max(at.date(), since)
            while day < min(until, at.date() + timedelta(days=lasts.days)):
                found.closed.setdefault(day, name)
                day += timedelta(days=1)
        elif is_opening:
            minutes = at.hour * 60 + at.minute
            span = Span(starts=minutes, ends=minutes + lasts // timedelta(minutes=1))
            found.opens.setdefault(at.date(), (set(), name))[0].add(span)
        else:
            found.cuts.append((at, at + lasts, name))
        if len(found.closed) + len(found.opens) + len(found.cuts) > 4 * MOST_DATES:
            raise Invalid(f"The file has more than {MOST_DATES} dates.", "file")


def _on_the_wall(at: date, zone: ZoneInfo) -> datetime:
    """A date or time as the workspace's clock on the wall shows it; one without a zone is meant so already."""
    if not isinstance(at, datetime):
        return datetime.combine(at, time())
    return (at.astimezone(zone) if at.tzinfo else at).replace(tzinfo=None)


def _put_together(found: _Found, since: date, until: date, week: Callable[[date], tuple[Span, ...]]) -> CalendarRead:
    """Hours of its own win over a day that is closed; parts that are closed are cut out of what is left."""
    made: dict[date, SpecialDate] = {
        day: SpecialDate(day=day, spans=(), name=name) for day, name in found.closed.items()
    }
    for day, (spans, name) in found.opens.items():
        made[day] = SpecialDate(day=day, spans=tuple(sorted(spans)), name=name)
    left_out = list(found.left_out)
    for starts, ends, name in found.cuts:
        has_cut = False
        # Hours that began the evening before may reach into it.
        day = max(starts.date(), since) - timedelta(days=1)
        while day <= min(ends.date(), until):
            midnight = datetime.combine(day, time())
            first, last = (int((at - midnight) / timedelta(minutes=1)) for at in (starts, ends))
            before = made[day].spans if day in made else week(day)
            left = tuple(one for span in before for one in _cut(span, first, last))
            if left != before:
                has_cut = True
                named = made[day].name if day in made else name
                made[day] = SpecialDate(day=day, spans=left, name=named)
            day += timedelta(days=1)
        if not has_cut:
            left_out.append(LeftOut(name=name, day=starts.date(), why="it lies outside the hours of that day"))
    days = sorted(day for day in made if since <= day < until)
    if len(days) > MOST_DATES:
        raise Invalid(f"The file has more than {MOST_DATES} dates.", "file")
    return CalendarRead(dates=tuple(made[day] for day in days), left_out=tuple(left_out))


def _cut(span: Span, first: int, last: int) -> Iterator[Span]:
    """What is left of a span without the minutes from `first` to `last`, counted from the midnight its date begins with."""
    for starts, ends in ((span.starts, min(span.ends, first)), (max(span.starts, last), span.ends)):
        if ends > starts and starts < DAY:
            yield Span(starts=starts, ends=ends)


def _list_categories(event: Any) -> list[Any]:
    given = event.get("CATEGORIES")
    if given is None:
        return []
    return [c for one in (given if isinstance(given, list) else [given]) for c in one.cats]


#: How a holiday can recur (RFC 5545, 3.3.10).
_FREQUENCIES = frozenset({"DAILY", "WEEKLY", "MONTHLY", "YEARLY"})


def _is_possible(rule: Any) -> bool:
    """Whether some date has one of a rule's months and one of its days of the month: one that none has would be looked for to
    the year 9999, day by day."""
    months = [int(m) for m in rule.get("BYMONTH", [])] or range(1, 13)
    days = [abs(int(d)) for d in rule.get("BYMONTHDAY", [])] or [1]
    return any(day <= monthrange(2024, month)[1] for month in months if 1 <= month <= 12 for day in days)


def _list_starts(
    event: Any, name: str, start: datetime, zone: ZoneInfo, since: date, until: date
) -> Iterator[datetime]:
    """The local times at which an event begins, within bounds; recurrence by its RRULE, less its EXDATEs."""
    rule = event.get("RRULE")
    first, last = datetime.combine(since, time()), datetime.combine(until, time())
    if rule is None:
        if first <= start < last:
            yield start
        return
    if start < first.replace(year=first.year - _OLDEST_YEARS, day=1):
        raise Invalid(f"The event ‘{name}’ recurs since {start.year}: that is too long ago to be read.", "file")
    if str(rule.get("FREQ", [""])[0]).upper() not in _FREQUENCIES:
        raise Invalid(
            f"The recurrence of ‘{name}’ cannot be read: holidays recur by days, weeks, months or years.", "file"
        )
    if not _is_possible(rule):
        return
    out = event.get("EXDATE")
    excluded = {
        _on_the_wall(d.dt, zone)
        for one in (out if isinstance(out, list) else [out] if out is not None else [])
        for d in one.dts
    }
    # An end that is a date, or given in UTC: the day it falls on is what counts.
    ends = [datetime.combine(_on_the_wall(at, zone).date(), time(23, 59)) for at in rule.get("UNTIL", [])]
    count = rule.get("COUNT", [None])[0]
    words = ";".join(p for p in rule.to_ical().decode().split(";") if not p.startswith(("UNTIL=", "COUNT=")))
    try:
        recurring = rrulestr(words, dtstart=start).replace(until=min([last, *ends]))
    except (ValueError, TypeError) as error:
        raise Invalid(f"The recurrence of ‘{name}’ cannot be read: {error}", "file") from error
    found = 0
    for n, at in enumerate(recurring):
        if at >= last or (count is not None and n >= count):
            return
        if at < first or at in excluded:
            continue
        found += 1
        if found > MOST_DATES:
            raise Invalid(f"The event ‘{name}’ recurs on more than {MOST_DATES} dates.", "file")
        yield at


def write_hours(hours: WeeklyHours, names: Mapping[date, str], *, begins: date, stamp: datetime, domain: str) -> str:
    """The week and the special dates as a calendar, CRLF and folded as RFC 5545 wants it.

    `begins` is the first day the week's hours are shown from; `stamp` goes into DTSTAMP; `domain` into the UIDs.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Sorta//Working hours//EN")
    calendar.add("version", "2.0")
    for weekday, spans in enumerate(hours.week):
        day = begins + timedelta(days=(weekday - begins.weekday()) % 7)
        for span in spans:
            event = _make_event(f"week-{weekday}-{span.starts}", "Open", stamp, domain)
            _add_times(event, day, span, hours.zone)
            event.add("rrule", vRecur(freq="weekly", byday=_DAYS[weekday]))
            event.add("categories", [_WEEK])
            calendar.add_component(event)
    for day, spans in sorted(hours.special.items()):
        if not spans:
            event = _make_event(f"closed-{day.isoformat()}", names.get(day, "Closed"), stamp, domain)
            event.add("dtstart", day)
            event.add("dtend", day + timedelta(days=1))
            event.add("categories", ["CLOSED"])
            calendar.add_component(event)
        for span in spans:
            event = _make_event(f"open-{day.isoformat()}-{span.starts}", names.get(day, "Special hours"), stamp, domain)
            _add_times(event, day, span, hours.zone)
            event.add("categories", ["OPEN"])
            calendar.add_component(event)
    return str(calendar.to_ical().decode())


def _make_event(uid: str, summary: str, stamp: datetime, domain: str) -> Event:
    event = Event()
    event.add("uid", f"{uid}@{domain}")
    event.add("dtstamp", stamp.astimezone(UTC))
    event.add("summary", summary)
    return event


def _add_times(event: Event, day: date, span: Span, zone: ZoneInfo) -> None:
    for name, minutes in (("dtstart", span.starts), ("dtend", span.ends)):
        at = datetime.combine(day + timedelta(days=minutes // DAY), time(minutes % DAY // 60, minutes % 60))
        event.add(name, at.replace(tzinfo=zone))
