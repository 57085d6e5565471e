"""Shapes of people, follow-ups, listening, the overview and the feed."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field

from sorta.api.schemas.base import Asked
from sorta.api.schemas.desk import MoveFilters
from sorta.core.facts import Move, SettledAs
from sorta.core.ports import Kind


class PeopleQuery(BaseModel):
    """The list of people: filters and order; `after` is the last one's `key~id` in that order."""

    model_config = ConfigDict(extra="forbid")

    words: str | None = Field(None, max_length=200)
    tag: list[int] = []
    network: list[str] = []
    blocked: bool | None = None
    standing: Annotated[int, Field(ge=0, le=100)] | None = None
    reach: Annotated[int, Field(ge=0, le=100)] | None = None
    follow_up: bool | None = None
    since: AwareDatetime | None = None
    order: Literal["standing", "name", "lately"] = "standing"
    after: str | None = Field(None, max_length=400)
    limit: int = Field(50, ge=1, le=200)


class Handle(BaseModel):
    network: str
    handle: str
    reach: int | None


class PersonRow(BaseModel):
    id: int
    name: str
    blocked: bool
    standing: int | None
    first_at: datetime
    last_at: datetime | None
    conversations: int
    identities: list[Handle]
    tags: list[int]
    follow_up_at: datetime | None
    place: str = Field(description="Where the record stands in the order that was asked for: `after` takes it")


class PeoplePage(BaseModel):
    """`total` comes with the first page only."""

    persons: list[PersonRow]
    total: int | None


class ProfileIdentity(Handle):
    id: int
    name: str
    latest_message_id: int | None
    can_block: bool


class Contact(BaseModel):
    id: int
    network: str
    account_id: int
    kind: Kind
    public: bool
    preview: str
    move: Move
    settled_as: SettledAs | None
    priority: int
    messages: int
    created_at: datetime
    last_at: datetime


class Fact(BaseModel):
    id: int
    name: str
    value: str
    is_one_of_two: bool = Field(description="Whether another value stands under the same name")
    member_id: int
    at: datetime


class FollowUp(BaseModel):
    id: int
    person_id: int
    member_id: int
    words: str
    due_at: datetime
    made_by: int
    made_at: datetime
    done_by: int | None
    done_at: datetime | None


class DueFollowUp(BaseModel):
    id: int
    person_id: int
    person_name: str
    member_id: int
    words: str
    due_at: datetime
    made_by: int
    made_at: datetime


class Joined(BaseModel):
    id: int
    gone_id: int
    name: str
    member_id: int
    at: datetime


class Worth(BaseModel):
    """What one kind of contact gives to the points now; `kind` may be 'reaction'."""

    kind: str
    n: int
    points: float


class Suggestion(BaseModel):
    """Somebody who may be the same person."""

    person_id: int
    name: str
    reasons: list[str]


class Profile(BaseModel):
    id: int
    name: str
    blocked: bool
    first_at: datetime
    standing: int | None
    points: float | None
    conversations: int
    messages: int
    reactions: int
    tags: list[int]
    identities: list[ProfileIdentity]
    contacts: list[Contact]
    facts: list[Fact]
    follow_ups: list[FollowUp]
    joins: list[Joined]
    worth: list[Worth]
    suggestions: list[Suggestion]


class NewFact(Asked):
    name: str = Field(max_length=200)
    value: str = Field(max_length=4000)


class PersonTag(Asked):
    name: str = Field(max_length=200)
    on: bool


class NewFollowUp(Asked):
    """`member_id` null: one's own."""

    words: str = Field(max_length=2000)
    due_at: AwareDatetime
    member_id: int | None = None


class FollowUpDone(Asked):
    done: bool


class NewJoin(Asked):
    person_id: int


class NewListening(Asked):
    words: str = Field(max_length=200)
    account_id: int


class Listening(BaseModel):
    id: int
    words: str
    account_id: int
    network: str
    account_name: str
    member_id: int
    made_at: datetime
    problem: str | None
    found: int
    asked_at: datetime | None


class Everything(BaseModel):
    """All that is held about a person: their profile, and each kind of thing as a list."""

    model_config = ConfigDict(extra="allow")

    id: int
    name: str
    messages: list[dict[str, Any]]
    trail: list[dict[str, Any]]
    proposals: list[dict[str, Any]]
    scheduled: list[dict[str, Any]]
    cases: list[dict[str, Any]]
    questions: list[dict[str, Any]]
    reactions: list[dict[str, Any]]
    marks: list[dict[str, Any]]


class ErasedCounts(BaseModel):
    """How much goes, or went. Of `draws` the published lists stay; `mentions` are conversations of others."""

    conversations: int
    messages: int
    notes: int
    files: int
    translations: int
    facts: int
    follow_ups: int
    cases: int
    questions: int
    draws: int
    mentions: int


class Unfinished(BaseModel):
    conversation_id: int
    why: str


class ErasurePreview(BaseModel):
    name: str
    counts: ErasedCounts
    unfinished: list[Unfinished]


class Erase(Asked):
    name: str = Field(max_length=400, description="What the person is called, said again")


Dimension = Literal["account", "kind", "tag", "owner", "team", "priority", "move", "band", "sentiment"]


class CrossQuery(MoveFilters):
    """A cross-tab; without `move` all open work."""

    move: Move | None = None  # type: ignore[assignment]
    rows: Dimension = "account"
    columns: Dimension = "move"


class Cell(BaseModel):
    row: str
    column: str
    n: int
    late: int


class Sum(BaseModel):
    value: str
    n: int
    late: int


class Cross(BaseModel):
    cells: list[Cell]
    row_sums: list[Sum]
    column_sums: list[Sum]
    n: int
    late: int


class FeedItem(BaseModel):
    """Something that came in; a reaction has no conversation."""

    what: Literal["message", "reaction"]
    id: int
    conversation_id: int | None
    kind: str
    public: bool
    words: str
    at: datetime
    name: str | None
    handle: str | None
    network: str
    move: Move | None
    rating: int | None
    account_id: int


class StuckAccount(BaseModel):
    """An account that answers wait for beyond their time: since when, how many, why."""

    account_id: int
    name: str
    network: str
    since: datetime
    answers: int
    reason: str
    is_paused: bool = Field(description="Until it is given a new token; else it is tried again by itself")


class Waiting(BaseModel):
    """What waits for the team, and the follow-ups that wait for oneself."""

    unsorted: int
    our_move: int
    late: int
    mine: int = Field(description="Unsorted or our move, with oneself; at most 1,000 are counted")
    my_team: int = Field(description="The same with a team of one's own, not with oneself; at most 1,000 are counted")
    follow_ups: int
    alerts: int
    device_alerts: int = Field(description="Of these, those that are to be told on the device")
    approvals: int
    to_review: int
    held_reason: str | None
    stuck: list[StuckAccount]


class Translate(Asked):
    text: str = Field(max_length=8000)
    language: str = Field(pattern=r"^[a-z]{2}$")


class TranslateTo(Asked):
    language: str = Field("en", pattern=r"^[a-z]{2}$")


class TranslatedText(BaseModel):
    text: str
    language: str
    rough: bool
    engine: str
