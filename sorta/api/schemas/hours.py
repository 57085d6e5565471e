"""Shapes of working hours and targets."""

from datetime import date, datetime

from pydantic import BaseModel, Field

from sorta.core.targets import Audience


class Minutes(BaseModel):
    """Working minutes by priority."""

    urgent: int
    high: int
    normal: int
    low: int


class CalendarFile(BaseModel):
    """An iCalendar file as text."""

    text: str = Field(max_length=1_000_000)


class ReadDate(BaseModel):
    """A special date that a file holds: hours as people write them, or closed."""

    day: date
    hours: str
    name: str


class NewHours(BaseModel):
    """Hours as people write them: a text for each weekday, Monday first; special dates by ISO date, 'closed' for none."""

    time_zone: str = Field(max_length=60)
    week: list[str] = Field(min_length=7, max_length=7)
    special: dict[str, str]
    targets: dict[Audience, Minutes]


class DayAhead(BaseModel):
    """A coming day as it will be counted."""

    day: date
    hours: str
    special: bool


class Progress(BaseModel):
    done: int
    total: int


class Hours(NewHours):
    """The hours that are set; `progress` while dues are being counted anew."""

    member_id: int | None
    changed_at: datetime | None
    progress: Progress | None
    ahead: list[DayAhead]
    is_open: bool
