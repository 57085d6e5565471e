"""Shapes of the desk."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from sorta.core.moves import Move, SettledAs
from sorta.core.parking import ParkFor
from sorta.core.permissions import Role
from sorta.core.ports import Kind


class Row(BaseModel):
    """One conversation as the queue shows it."""

    id: int
    account_id: int
    person_id: int
    person_name: str
    handle: str
    network: str
    kind: Kind
    public: bool
    preview: str
    messages: int
    move: Move
    priority: int
    owner_id: int | None
    settled_as: SettledAs | None
    parked_until: datetime | None
    awaiting_since: datetime | None
    due: datetime | None
    last_at: datetime
    seq: int
    unread: bool


class Page(BaseModel):
    rows: list[Row]


class MoveCount(BaseModel):
    move: Move
    total: int
    late: int
    within_hour: int
    later_today: int
    after_today: int
    not_due: int


class Edges(BaseModel):
    """Where the bands end."""

    now: datetime
    hour: datetime
    today: datetime


class Counts(BaseModel):
    moves: list[MoveCount]
    edges: Edges


class Conversation(BaseModel):
    id: int
    account_id: int
    person_id: int
    person_name: str
    handle: str
    network: str
    kind: Kind
    public: bool
    move: Move
    priority: int
    owner_id: int | None
    settled_as: SettledAs | None
    parked_until: datetime | None
    awaiting_since: datetime | None
    due: datetime | None
    seq: int


class SheetAccount(BaseModel):
    id: int
    name: str
    paused_reason: str | None


class Post(BaseModel):
    id: int
    title: str
    body: str
    url: str | None
    published_at: datetime | None
    author: str | None
    comments: int
    reactions: int


class Message(BaseModel):
    """One thing said; `delivery` is where a reply of ours stands on its way."""

    id: int
    inbound: bool
    kind: Kind
    public: bool
    member_id: int | None
    body: str
    url: str | None
    sent_at: datetime
    edited_at: datetime | None
    removed_at: datetime | None
    author_name: str | None
    author_handle: str | None
    delivery: Literal["queued", "sending", "waiting", "delivered", "refused", "withdrawn"] | None
    problem: str | None
    not_before: datetime | None
    attempts: int | None


class Event(BaseModel):
    seq: int
    kind: str
    at: datetime
    member_id: int | None
    data: dict[str, Any]


class Identity(BaseModel):
    network: str
    handle: str
    name: str
    reach: int | None


class OtherConversation(BaseModel):
    id: int
    network: str
    kind: Kind
    public: bool
    preview: str
    move: Move
    last_at: datetime


class Person(BaseModel):
    id: int
    name: str
    blocked: bool
    first_at: datetime
    conversations: int
    messages: int
    identities: list[Identity]
    others: list[OtherConversation]


class Draft(BaseModel):
    mode: Literal["public", "private", "note"]
    body: str = Field(max_length=20000)


class Mode(BaseModel):
    """One way of answering; `obstacle` says why it cannot be used."""

    mode: Literal["public", "private"]
    obstacle: str | None
    readers: str
    limit: int
    front: str


class Sheet(BaseModel):
    conversation: Conversation
    account: SheetAccount
    post: Post | None
    messages: list[Message]
    trail: list[Event]
    person: Person
    draft: Draft | None
    modes: list[Mode]


class Assign(BaseModel):
    act: Literal["assign"]
    owner_id: int | None
    note: str | None = None


class Prioritise(BaseModel):
    act: Literal["prioritise"]
    priority: Annotated[int, Field(ge=0, le=3)]


class Note(BaseModel):
    act: Literal["note"]
    text: str


class Keep(BaseModel):
    act: Literal["keep"]


class Park(BaseModel):
    act: Literal["park"]
    choice: ParkFor | None = None
    until: datetime | None = None


class Settle(BaseModel):
    act: Literal["settle"]
    how: SettledAs


Act = Annotated[Assign | Prioritise | Note | Keep | Park | Settle, Field(discriminator="act")]


class Reply(BaseModel):
    """`seen_seq` is the newest trail number that its author has seen."""

    public: bool
    text: str = Field(max_length=20000)
    seen_seq: int = Field(ge=0)
    settle: bool = False


class Done(BaseModel):
    """The act's number in the trail, for undoing it."""

    seq: int


class Undo(BaseModel):
    seq: int


class Undone(BaseModel):
    """A reply that was taken back returns its text."""

    text: str | None


class Read(BaseModel):
    seq: int = Field(ge=0)


class Presence(BaseModel):
    """Null conversation: nothing is open."""

    conversation_id: int | None
    doing: Literal["reading", "writing"] = "reading"


class Present(BaseModel):
    member_id: int
    conversation_id: int
    doing: Literal["reading", "writing"]


class Member(BaseModel):
    id: int
    name: str
    initials: str
    role: Role


class FoundPerson(BaseModel):
    person_id: int
    name: str
    handle: str
    network: str
    conversation_id: int | None


class FoundMessage(BaseModel):
    message_id: int
    conversation_id: int
    body: str
    sent_at: datetime
    person_name: str
    network: str
    move: Move


class Found(BaseModel):
    people: list[FoundPerson]
    messages: list[FoundMessage]
