"""What looks like a slip of the pen in hours and targets, as questions, and what a clock change makes of hours (docs/trade.md 4).
Used by services.hours."""

import itertools
from collections.abc import Iterable
from datetime import UTC, date, datetime, time, timedelta

from sorta.core.targets import Audience, Priority, Targets
from sorta.core.working_time import DAY, Span, WeeklyHours, say_spans

#: Somebody who works through the night does it for less than this; what is longer was written the wrong way round.
LONGEST_NIGHT = 12 * 60
_WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_WHOM = {Audience.PUBLIC: "In public", Audience.PRIVATE: "In private", Audience.REVIEW: "For reviews"}


def list_questions(hours: WeeklyHours, targets: Targets) -> tuple[str, ...]:
    """What to ask before these are kept: sentences, each once."""
    days: dict[Span, list[str]] = {}
    for name, spans in _name_days(hours):
        for span in spans:
            if _is_odd(span):
                days.setdefault(span, []).append(name)
    asked = [_ask(span, names) for span, names in days.items()]
    for audience in Audience:
        minutes = targets.minutes[audience]
        for lower, higher in itertools.pairwise(Priority):
            if minutes[higher] > minutes[lower]:
                asked.append(
                    f"{_WHOM[audience]} {_say(higher)} would be answered within {minutes[higher]} minutes, later than"
                    f" {_say(lower)} within {minutes[lower]}."
                )
    return tuple(asked)


def _say(priority: Priority) -> str:
    return priority.name.capitalize()


def _name_days(hours: WeeklyHours) -> Iterable[tuple[str, tuple[Span, ...]]]:
    yield from zip(_WEEKDAYS, hours.week, strict=True)
    for day, spans in sorted(hours.special.items()):
        yield f"{day:%-d %B %Y}", spans


def _is_odd(span: Span) -> bool:
    length = span.ends - span.starts
    return span.ends > DAY and (length == DAY or length > LONGEST_NIGHT)


def _ask(span: Span, names: list[str]) -> str:
    length = span.ends - span.starts
    where = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
    if length == DAY:
        return f"{where}: {say_spans((span,))} is open for 24 hours, until the same time the next day."
    hours, minutes = divmod(length, 60)
    said = f"{hours} hours" + (f" and {minutes} minutes" if minutes else "")
    return f"{where}: {say_spans((span,))} is open through the night, for {said}."


def list_skipped(hours: WeeklyHours, since: date, days: int) -> tuple[tuple[date, str], ...]:
    """The dates within so many days on which hours begin or end at a time that a clock change skips, each with what that
    becomes: '02:30 does not come that night; it becomes 03:30.'"""
    found = []
    for n in range(days):
        day = since + timedelta(days=n)
        for minutes in (at for span in hours.list_spans(day) for at in (span.starts, span.ends)):
            wall = datetime.combine(day + timedelta(days=minutes // DAY), time(minutes % DAY // 60, minutes % 60))
            becomes = wall.replace(tzinfo=hours.zone).astimezone(UTC).astimezone(hours.zone).replace(tzinfo=None)
            if becomes != wall:
                found.append((wall.date(), f"{wall:%H:%M} does not come that night; it becomes {becomes:%H:%M}."))
    return tuple(dict.fromkeys(found))
