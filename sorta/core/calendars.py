"""Hours and holidays as iCalendar (RFC 5545): read into special dates, written so that a calendar shows them. Used by services.hours.

Reading: an event of whole days closes them (DTEND is the day after the last, 3.6.1), also when it recurs; one with
times on a date makes hours of its own when it says so by the category OPEN. What was cancelled is left out.
Writing: each span of the week is a weekly recurring event, each special date an event of its own.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from dateutil.rrule import rrulestr
from icalendar import Calendar, Event
from icalendar.prop import vRecur

from sorta.core.errors import Invalid
from sorta.core.working_time import DAY, Span, WeeklyHours

MOST_DATES = 400
LARGEST = 1_000_000
_DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")


@dataclass(frozen=True, kw_only=True)
class SpecialDate:
    """A date with hours of its own; none when it is closed. `name` is what the file calls it."""

    day: date
    spans: tuple[Span, ...]
    name: str


def read_dates(text: str, zone: ZoneInfo, since: date, until: date) -> list[SpecialDate]:
    """The special dates of a file from `since` to before `until`, in order, recurring ones unfolded.

    Raises Invalid with what cannot be read and where.
    """
    if len(text) > LARGEST:
        raise Invalid("The file is too large for a calendar of holidays.", "file")
    try:
        calendar = Calendar.from_ical(text)
    except ValueError as error:
        raise Invalid(f"This is no iCalendar file: {error}", "file") from error
    found: dict[date, SpecialDate] = {}
    for event in calendar.walk("VEVENT"):
        for one in _read_event(event, zone, since, until):
            known = found.get(one.day)
            if known is None or (one.spans and known.spans):
                spans = tuple(sorted({*(known.spans if known else ()), *one.spans}))
                found[one.day] = SpecialDate(day=one.day, spans=spans, name=known.name if known else one.name)
            elif one.spans:
                found[one.day] = one
            if len(found) > MOST_DATES:
                raise Invalid(f"The file has more than {MOST_DATES} dates.", "file")
    return [found[day] for day in sorted(found)]


def _read_event(event: Any, zone: ZoneInfo, since: date, until: date) -> Iterator[SpecialDate]:
    name = " ".join(str(event.get("SUMMARY", "")).split())[:80] or "without a name"
    if str(event.get("STATUS", "")).upper() == "CANCELLED":
        return
    start = getattr(event.get("DTSTART"), "dt", None)
    if start is None:
        raise Invalid(f"The event ‘{name}’ has no beginning.", "file")
    end = getattr(event.get("DTEND"), "dt", None)
    length = getattr(event.get("DURATION"), "dt", None)
    if isinstance(start, datetime):
        yield from _read_timed(event, name, start, end, length, zone, since, until)
        return
    days = (end - start).days if isinstance(end, date) else length.days if length is not None else 1
    if days < 1:
        raise Invalid(f"The event ‘{name}’ ends before it begins.", "file")
    for first in _list_starts(event, name, datetime.combine(start, time()), since - timedelta(days=days), until):
        for n in range(days):
            day = first.date() + timedelta(days=n)
            if since <= day < until:
                yield SpecialDate(day=day, spans=(), name=name)


def _read_timed(
    event: Any,
    name: str,
    start: datetime,
    end: Any,
    length: Any,
    zone: ZoneInfo,
    since: date,
    until: date,
) -> Iterator[SpecialDate]:
    if "OPEN" not in {str(c).upper() for c in _list_categories(event)}:
        return
    local = start.astimezone(zone) if start.tzinfo else start.replace(tzinfo=zone)
    if end is not None:
        ends = end.astimezone(zone) if end.tzinfo else end.replace(tzinfo=zone)
        minutes = (ends.replace(tzinfo=None) - local.replace(tzinfo=None)) // timedelta(minutes=1)
    else:
        minutes = length // timedelta(minutes=1) if length is not None else 0
    starts = local.hour * 60 + local.minute
    if not 0 < minutes <= DAY:
        raise Invalid(f"The event ‘{name}’ is open for no time, or for more than a day.", "file")
    for first in _list_starts(event, name, local.replace(tzinfo=None), since, until):
        yield SpecialDate(day=first.date(), spans=(Span(starts=starts, ends=starts + minutes),), name=name)


def _list_categories(event: Any) -> list[Any]:
    given = event.get("CATEGORIES")
    if given is None:
        return []
    return [c for one in (given if isinstance(given, list) else [given]) for c in one.cats]


def _list_starts(event: Any, name: str, start: datetime, since: date, until: date) -> Iterator[datetime]:
    """The local times at which an event begins, within bounds; recurrence by its RRULE, less its EXDATEs."""
    rule = event.get("RRULE")
    first, last = datetime.combine(since, time()), datetime.combine(until, time())
    if rule is None:
        if first <= start < last:
            yield start
        return
    out = event.get("EXDATE")
    excluded = {
        (d.dt if isinstance(d.dt, datetime) else datetime.combine(d.dt, time())).replace(tzinfo=None)
        for one in (out if isinstance(out, list) else [out] if out is not None else [])
        for d in one.dts
    }
    try:
        # An end given in UTC would not compare with local times: the day it falls on is what counts.
        words = ";".join(
            p.removesuffix("Z") if p.startswith("UNTIL=") else p for p in rule.to_ical().decode().split(";")
        )
        recurring = rrulestr(words, dtstart=start)
    except (ValueError, TypeError) as error:
        raise Invalid(f"The recurrence of ‘{name}’ cannot be read: {error}", "file") from error
    for count, at in enumerate(recurring.xafter(first, inc=True)):
        if at >= last:
            return
        if count > MOST_DATES:
            raise Invalid(f"The event ‘{name}’ recurs on more than {MOST_DATES} dates.", "file")
        if at not in excluded:
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
