"""Shapes of working hours and targets."""

from datetime import date, datetime

from pydantic import BaseModel, ConfigDict, Field

from sorta.api.schemas.base import Asked
from sorta.core.targets import Audience


class Minutes(Asked):
    """Working minutes by priority."""

    urgent: int
    high: int
    normal: int
    low: int


class CalendarFile(Asked):
    """An iCalendar file as text."""

    text: str = Field(max_length=1_000_000)


class ReadDate(BaseModel):
    """A special date that a file holds: hours as people write them, or closed."""

    day: date
    hours: str
    name: str


class LeftOut(BaseModel):
    """An event of a file that changes no date, and why."""

    name: str
    day: date | None
    why: str


class ReadCalendar(BaseModel):
    dates: list[ReadDate]
    left_out: list[LeftOut]


class NewHours(BaseModel):
    """Hours as people write them: a text for each weekday, Monday first; special dates by ISO date, 'closed' for none."""

    time_zone: str = Field(max_length=60)
    week: list[str] = Field(min_length=7, max_length=7)
    special: dict[str, str]
    targets: dict[Audience, Minutes]


class SetHours(NewHours):
    model_config = ConfigDict(extra="forbid")

    sure: bool | None = Field(None, description="What looks like a slip is meant so")


class SkippedTime(BaseModel):
    """A time at which hours begin or end and which a clock change skips, and what it becomes."""

    day: date
    words: str


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
    skipped: list[SkippedTime]
    is_open: bool
