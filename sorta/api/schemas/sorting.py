"""Shapes of what one sorts by: tags, teams, groups, views, the accuracy of the reading."""

from datetime import date, datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from sorta.api.schemas.base import Asked, Shown
from sorta.core.reading import ReadsAs
from sorta.core.routing import Way


class NamedTag(BaseModel):
    """A tag; one that is retired is offered no more, one that was merged is another by now."""

    id: int
    name: str
    heading: str
    retired: bool
    merged_into: int | None


class UsedTag(NamedTag):
    """A tag with what has it: conversations, those of them that are not settled, people, and what names it, in words."""

    conversations: int
    open: int
    people: int
    named_by: list[str]


class NewTag(Asked):
    name: str = Field(max_length=200)
    heading: str = Field(default="", max_length=200)


class TagAsIs(NewTag):
    retired: bool = False


class TagMerge(Asked):
    into: int


class Team(BaseModel):
    id: int
    name: str
    members: list[int]
    way: Way


class Group(BaseModel):
    id: int
    name: str
    accounts: list[int]


class NamedReply(BaseModel):
    id: int
    name: str
    archived: bool


class Desk(BaseModel):
    """A support desk; what they write within `follow_hours` of the last message joins the same case."""

    id: int
    name: str
    follow_hours: int


class Directory(BaseModel):
    tags: list[NamedTag]
    own_tags: list[int] = Field(description="The tags that one puts on most, of late")
    teams: list[Team]
    groups: list[Group]
    desks: list[Desk]
    saved_replies: list[NamedReply]
    can_translate: bool
    can_ask: bool = Field(description="Whether people without a login can be asked by mail")


class View(BaseModel):
    """A saved view; `query` is the desk's address query as it was."""

    id: int
    name: str
    shared: bool
    own: bool
    query: dict[str, Any]


class NewView(Asked):
    name: str = Field(max_length=200)
    shared: bool = False
    query: dict[str, str | list[str]]


class Made(BaseModel):
    id: int


class Share(BaseModel):
    """`hits` of `of`, with a 95 % interval (Wilson's)."""

    model_config = ConfigDict(from_attributes=True)

    hits: int
    of: int
    low: float
    high: float
    is_too_few: bool


class LabelAccuracy(BaseModel):
    """Of the messages that somebody looked at for this: how many of those that read as this are it (`right`), and how many of
    those that are it read so (`found`)."""

    label: ReadsAs
    right: Share
    found: Share


class FieldCorrected(BaseModel):
    field: str
    times: int


class Sampled(BaseModel):
    """A message of the week's sample that nobody has looked at yet."""

    id: int
    conversation_id: int
    body: str
    reads_as: list[Shown]
    person_name: str
    network: str


class Checked(Asked):
    """What a message of the sample is: all its labels, none for none of them."""

    message_id: int
    labels: list[ReadsAs]


class Correction(BaseModel):
    message_id: int
    conversation_id: int
    field: str
    was: str | None
    now: str | None
    member_id: int
    at: datetime
    body: str


class Quoted(BaseModel):
    id: int
    conversation_id: int
    body: str


class OwnLearned(BaseModel):
    """What was learned here last, and how it did on messages and texts that it was not learned from."""

    learned_at: datetime
    state: Literal["in_use", "no_better", "taken_back", "followed"]
    ended_at: datetime | None
    ended_by: int | None
    learned: int = Field(description="Messages it was learned from")
    kept: int = Field(description="Messages kept for checking")
    right_before: int = Field(description="How many of these were read right before")
    right_after: int
    f1_before: float = Field(description="Macro-F1 on the written texts that are set aside, before")
    f1_after: float
    better: list[Quoted] = Field(description="The first that are read right only now")
    worse: list[Quoted]


class OwnReading(BaseModel):
    said: int = Field(description="Messages that members have said something of")
    still_needed: int = Field(description="How many more until it is learned, or learned anew")
    latest: OwnLearned | None


class Accuracy(BaseModel):
    own: OwnReading
    looked_at: int
    labels: list[LabelAccuracy]
    corrected: list[FieldCorrected]
    latest: list[Correction]
    week: date = Field(description="The Monday of the last whole week, whose sample it is")
    sample: int
    to_check: list[Sampled]
