"""What of a report leaves the house, for how long, and when it is mailed."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from sorta.core.errors import Invalid

#: What is shown besides the figures, in this order, and as what it is chosen. Names stand in those of `NAMED` alone.
PARTS: dict[str, str] = {
    "days": "what came in and was answered, day by day",
    "spread": "how long first answers took",
    "kind": "by kind",
    "account": "by account, with its name",
    "tag": "by tag, with its name",
    "member": "by member, with their names",
}
#: Filters that name somebody or something, and the part with which the names are said.
NAMED: dict[str, str] = {
    "account": "account",
    "group": "account",
    "tag": "tag",
    "person_tag": "tag",
    "member": "member",
    "team": "member",
}
LONGEST_DAYS = 366
MOST_RECIPIENTS = 10
Every = Literal["week", "month"]


@dataclass(frozen=True, kw_only=True)
class Mailing:
    """When a report is mailed: every week on a weekday (0 is Monday), or every month on a day (1 to 28), at an hour."""

    every: Every
    day: int
    hour: int

    def __post_init__(self) -> None:
        """Raises Invalid for a day or an hour that there is not."""
        if not (0 <= self.day <= 6 if self.every == "week" else 1 <= self.day <= 28):
            raise Invalid("A week has the days 0 (Monday) to 6; of a month the days 1 to 28 can be chosen.", "mail_day")
        if not 0 <= self.hour <= 23:
            raise Invalid("A day has the hours 0 to 23.", "mail_hour")

    def get_next(self, after: datetime, zone: ZoneInfo) -> datetime:
        """The first time after an instant, by the clock of a zone; an hour that the clocks skip is the one they skip to."""
        day = after.astimezone(zone).date()
        for n in range(63):
            found = self._get_at(day + timedelta(days=n), zone)
            if found is not None and found > after:
                return found
        raise AssertionError("every month has the days 1 to 28")

    def _get_at(self, day: date, zone: ZoneInfo) -> datetime | None:
        if (day.weekday() if self.every == "week" else day.day) != self.day:
            return None
        return datetime.combine(day, time(self.hour), zone).astimezone(UTC)


def check_parts(parts: Iterable[str]) -> list[str]:
    """The parts in their order. Raises Invalid for one that there is not."""
    given = set(parts)
    if unknown := given - set(PARTS):
        raise Invalid(f"A report has no part {', '.join(sorted(unknown))}.", "parts")
    return [part for part in PARTS if part in given]


def check_days(days: int) -> int:
    """For how many days a link leads somewhere. Raises Invalid."""
    if not 1 <= days <= LONGEST_DAYS:
        raise Invalid(f"A link leads somewhere for 1 to {LONGEST_DAYS} days.", "days")
    return days
