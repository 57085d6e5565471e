"""Shapes of the record of changes."""

from datetime import datetime

from pydantic import BaseModel, ConfigDict, Field

from sorta.api.schemas.desk import Day
from sorta.services.record import Ask


class RecordQuery(BaseModel):
    """Which entries; days are the workspace's."""

    model_config = ConfigDict(extra="forbid")

    what: str | None = Field(None, max_length=40, description="A kind of thing, by its key")
    member: int | None = None
    since: Day | None = None
    until: Day | None = None

    def to_ask(self) -> Ask:
        """The same for the service."""
        return Ask(what=self.what, member_id=self.member, since=self.since, until=self.until)


class RecordPageQuery(RecordQuery):
    before: int | None = Field(None, description="The number of an entry: those before it")


class RecordLine(BaseModel):
    """One thing that is otherwise; null for what was or is not there."""

    where: str
    before: str | None
    after: str | None


class RecordEntry(BaseModel):
    """A change: `by` is null for what happened by itself."""

    n: int
    at: datetime
    by: str | None
    came_from: str | None
    thing: str
    name: str | None
    did: str = Field(description="In words that follow the thing’s name")
    lines: list[RecordLine]
    more: int = Field(description="How many lines are not told")


class Thing(BaseModel):
    key: str
    words: str


class RecordPage(BaseModel):
    things: list[Thing]
    entries: list[RecordEntry]
