"""Shapes of the desk."""

from datetime import date, datetime
from enum import StrEnum
from typing import Annotated, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, computed_field

from sorta.api.schemas.acts import Done
from sorta.api.schemas.advice import Advice
from sorta.api.schemas.approvals import Proposal
from sorta.api.schemas.base import Asked, Shown
from sorta.api.schemas.files import Attachment
from sorta.api.schemas.trail import Event
from sorta.core.facts import Move, SettledAs
from sorta.core.ports import Kind, Moderation
from sorta.core.reading import SHOWN_FROM, ReadsAs, Said, Tone, get_tone, say_sureness
from sorta.core.targets import Band

#: A day on the workspace's calendar.
Day = Annotated[date, Field(ge=date(1970, 1, 1), le=date(2199, 12, 31))]


Order = Literal["due", "newest", "oldest", "priority", "standing"]


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
    team_id: int | None
    tags: list[int]
    sentiment_band: int | None
    reads_as: list[Shown] | None
    language: str | None
    rating: int | None
    standing: int | None
    bare_mention: bool
    watched: bool
    last_inbound_at: datetime
    on_its_way: bool = Field(description="An answer of ours is not outside yet")
    stuck: str | None = Field(description="Why it is not, though it should be")
    thanked: bool = Field(description="They only thanked us for what is settled")
    linked: bool = Field(description="It began in public and goes on in private, or is that private part")
    place: list[int] = Field(
        description="Where it stands in the order that was asked for: of two rows the first two numbers that differ say which comes first"
    )


class Filters(BaseModel):
    """What the queue is filtered by; lists mean any of them. `owner` takes member numbers, 'me' and 'nobody'."""

    model_config = ConfigDict(extra="forbid")

    owner: list[Annotated[str, Field(pattern=r"^(me|nobody|\d{1,18})$")]] = []
    team: list[int] = []
    account: list[int] = []
    network: list[str] = []
    group: list[int] = []
    kind: list[Kind] = []
    public: bool | None = None
    tag: list[int] = []
    person_tag: list[int] = []
    sentiment: list[Annotated[int, Field(ge=-1, le=1)]] = []
    reads_as: list[Shown] = []
    bare_mention: bool | None = None
    language: list[Annotated[str, Field(pattern=r"^[a-z]{2,3}$")]] = []
    priority: list[Annotated[int, Field(ge=0, le=3)]] = []
    band: Band | None = None
    due_from: AwareDatetime | None = None
    due_until: AwareDatetime | None = None
    since: Day | None = None
    until: Day | None = Field(None, description="The last day that counts")
    unread: bool | None = None
    watched: bool | None = None
    attachment: bool | None = None
    words: str | None = Field(None, max_length=200)
    person: int | None = None


class MoveFilters(Filters):
    """The same, within one move."""

    move: Move = Move.UNSORTED


class ListedMove(StrEnum):
    """What a list shows: the conversations of one move, or of any."""

    UNSORTED = Move.UNSORTED
    OUR_MOVE = Move.OUR_MOVE
    IN_REVIEW = Move.IN_REVIEW
    THEIR_MOVE = Move.THEIR_MOVE
    PARKED = Move.PARKED
    SETTLED = Move.SETTLED
    ANY = "any"


class ListFilters(Filters):
    """The same, within one move or over all of them; `report` narrows it to what a report's figure counts, `rule` to where a rule was
    met of late."""

    move: ListedMove = ListedMove.UNSORTED
    rule: int | None = None
    report: str | None = Field(
        None, max_length=1000, description="A figure of a report, as an address: `figure=kept&period=28_days`"
    )


class PageQuery(ListFilters):
    """A page of the queue; `after` is a row's `place`, its numbers joined by commas."""

    order: Order = "due"
    after: str | None = Field(None, max_length=120)
    limit: int = Field(50, ge=1, le=200)
    backwards: bool = Field(False, description="From the end of the list, or from `after`, up: the last row first")


#: What of a query says which page, and not what is in the list.
PAGING = frozenset(PageQuery.model_fields) - frozenset(ListFilters.model_fields)


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


class ValueCount(BaseModel):
    """How many conversations of the move have this value of this thing."""

    dimension: str
    value: str
    n: int


class Counts(BaseModel):
    moves: list[MoveCount]
    edges: Edges
    values: list[ValueCount]


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
    team_id: int | None
    tags: list[int]
    watchers: list[int]
    post_id: int | None
    rating: int | None
    first_contact: bool
    thanked: int | None = Field(description="The message in which they only thanked us; it asks for nothing")
    erased_at: datetime | None = Field(description="Since when nothing of what was said is here any more")


class SheetAccount(BaseModel):
    id: int
    name: str
    paused_reason: str | None


class Sender(SheetAccount):
    """An account that can answer, with what follows the last word then."""

    sign_off: str


class Post(BaseModel):
    id: int
    title: str
    body: str
    url: str | None
    published_at: datetime | None
    author: str | None
    comments: int
    reactions: int


class Evidence(BaseModel):
    """Why a message was read as it was: the chance of each label by itself, of each tone together 1, and the words that weighed
    most for each label; none when no word stands out. `corrected` are the fields that a member has said."""

    chances: dict[ReadsAs, float]
    tones: dict[Tone, float]
    words: dict[ReadsAs, list[str]]
    corrected: list[Literal["reads_as", "sentiment", "language"]]
    sentiment_words: list[str]
    links: list[str]
    bare_mention: bool
    first_contact: bool

    @computed_field(description="The chances in a word, but of labels that hardly hold")  # type: ignore[prop-decorator]
    @property
    def sureness(self) -> dict[ReadsAs, Said]:
        return {label: say_sureness(chance) for label, chance in self.chances.items() if chance > SHOWN_FROM}


class Offered(BaseModel):
    """An act on the network; `obstacle` says why it cannot be done."""

    what: Moderation
    obstacle: str | None


class Translation(BaseModel):
    """A message in another language; 'written' is what one of ours was before it was translated."""

    language: str
    body: str
    what: Literal["translated", "written"]
    rough: bool
    engine: str


class Message(BaseModel):
    """One thing said; `delivery` is where a reply of ours stands on its way, `leaves_at` until when it can be called
    back, `stuck` why it is not out although it should be."""

    id: int
    account_id: int
    inbound: bool
    kind: Kind
    public: bool
    member_id: int | None
    body: str
    url: str | None
    sent_at: datetime
    edited_at: datetime | None
    removed_at: datetime | None
    removed_by: int | None
    language: str | None
    sentiment: float | None
    reads_as: list[Shown] | None
    evidence: Evidence | None
    rating: int | None
    attachments: list[Attachment]
    hidden: bool
    rule_id: int | None
    rule_name: str | None
    liked: bool
    reposted: bool
    offered: list[Offered]
    author_name: str | None
    author_handle: str | None
    delivery: Literal["queued", "sending", "waiting", "delivered", "refused", "withdrawn"] | None
    problem: str | None
    not_before: datetime | None
    attempts: int | None
    leaves_at: datetime | None
    stuck: str | None
    translations: list[Translation]
    not_done: list[str] = Field(description="What rules that it met left undone, and why, a sentence each")

    @computed_field(description="The tone of the sentiment; none where that is not sure")  # type: ignore[prop-decorator]
    @property
    def tone(self) -> Tone | None:
        return get_tone(self.sentiment)


class Identity(BaseModel):
    """`caution` says what to be careful of with the handle."""

    network: str
    handle: str
    name: str
    reach: int | None
    caution: str | None


class OtherConversation(BaseModel):
    id: int
    network: str
    kind: Kind
    public: bool
    preview: str
    move: Move
    last_at: datetime


class KnownFact(BaseModel):
    name: str
    value: str
    is_one_of_two: bool = Field(description="Whether another value stands under the same name")


class OpenFollowUp(BaseModel):
    member_id: int
    words: str
    due_at: datetime


class Person(BaseModel):
    id: int
    name: str
    blocked: bool
    first_at: datetime
    conversations: int
    messages: int
    reactions: int
    standing: int | None
    points: float | None
    tags: list[int]
    identities: list[Identity]
    others: list[OtherConversation]
    facts: list[KnownFact] = Field(description="What the team has saved")
    follow_ups: list[OpenFollowUp] = Field(description="What is still to be done about them, soonest first")


class Draft(Asked):
    """What one is typing; `shared` shows it to colleagues, `files` stand beside it, `account` is to answer instead."""

    mode: Literal["public", "private", "note"]
    body: str = Field(max_length=20000)
    shared: bool = False
    files: list[int] = Field([], max_length=20)
    account: int | None = None
    rev: int = Field(0, ge=0, description="The number of the writing that these words go on from")


class DraftKept(BaseModel):
    rev: int = Field(description="The number of this writing; 0 when nothing is kept")


class KeptDraft(BaseModel):
    """What one was typing here, in one mode."""

    mode: Literal["public", "private", "note"]
    body: str
    shared: bool
    attachments: list[Attachment]
    account: int | None
    rev: int


class SharedDraft(BaseModel):
    """What a colleague is typing and shows."""

    member_id: int
    mode: Literal["public", "private", "note"]
    body: str
    updated_at: datetime


class Mode(BaseModel):
    """One way of answering; `obstacle` says why it cannot be used."""

    mode: Literal["public", "private"]
    obstacle: str | None
    readers: str
    limit: int
    front: str
    sign_off: str = Field(description="What follows the last word, with what sets it off")
    link_length: int | None = Field(description="How long any link is once it is made short; none where they stay")
    needs: list[str] = Field(description="Why an answer so needs approval first; empty when it can be sent")


class Scheduled(BaseModel):
    """An answer to be sent at `send_at`; `overtaken` when they have written since, so that it will not go."""

    id: int
    author_id: int
    public: bool
    body: str
    settle: bool
    send_at: datetime
    seen_seq: int
    overtaken: bool
    attachments: list[Attachment]


class LinkedMessage(BaseModel):
    id: int
    inbound: bool
    public: bool
    body: str
    sent_at: datetime
    member_id: int | None


class Linked(BaseModel):
    """A conversation that is one matter with the one that is open, with what was said in it lately."""

    id: int
    public: bool
    kind: Kind
    network: str
    person_name: str
    preview: str
    move: Move
    owner_id: int | None
    settled_as: SettledAs | None
    last_at: datetime
    post_title: str | None
    messages: list[LinkedMessage]


class Sheet(BaseModel):
    conversation: Conversation
    account: SheetAccount
    post: Post | None
    messages: list[Message]
    trail: list[Event]
    person: Person
    drafts: list[KeptDraft] = Field(description="One text per mode, what was touched last first")
    shared_drafts: list[SharedDraft]
    modes: list[Mode]
    senders: list[Sender] = Field(description="The accounts that can answer in public")
    blind: list[int] = Field(description="The members who do not see its account, and whom it cannot be given to")
    can_block: bool
    can_attach: bool = Field(description="Whether files can go along with an answer")
    proposal: Proposal | None
    advice: list[Advice]
    linked: list[Linked]
    scheduled: Scheduled | None
    target_minutes: int = Field(description="Working minutes promised for this priority and audience")


class Acted(Done):
    """An act that was done. `sheet` is the conversation after it, where it was asked for and could be read."""

    sheet: Sheet | None = None


class Many(BaseModel):
    """How many there are; `is_more`: at least so many."""

    n: int
    is_more: bool


class Selected(Asked):
    """Conversations to be taken along, and as what."""

    ids: list[int] = Field(min_length=1, max_length=5000)
    form: Literal["csv", "xlsx"] = "csv"


class Ids(BaseModel):
    """Conversations, each with the newest number of its trail."""

    ids: list[int]
    seqs: list[int]


class ThreadMessage(BaseModel):
    """One thing said under a post; `parent_id` is what it answers, where that is known here."""

    id: int
    conversation_id: int
    parent_id: int | None
    inbound: bool
    member_id: int | None
    body: str
    sent_at: datetime
    edited_at: datetime | None
    removed_at: datetime | None
    hidden: bool
    liked: bool
    person_id: int
    person_name: str
    author_name: str
    author_handle: str
    move: Move


class Thread(BaseModel):
    post: Post
    messages: list[ThreadMessage]


class Read(Asked):
    seq: int = Field(ge=0)


class Presence(Asked):
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
    role: str
    may_sort: bool
    left_at: datetime | None = Field(None, description="When somebody left who works here no more")


class FoundPerson(BaseModel):
    person_id: int
    name: str
    handle: str
    network: str
    conversation_id: int | None


class FoundMessage(BaseModel):
    """A message, with the piece of it that shows why it was found."""

    message_id: int
    conversation_id: int
    body: str
    marks: list[list[int]] = Field(description="From where to where in the piece what was found stands")
    sent_at: datetime
    person_name: str
    network: str
    move: Move


class Suggestion(BaseModel):
    words: str | None = Field(
        description="Finds something; null where nothing that stands here is like what was asked for"
    )


class Found(BaseModel):
    people: list[FoundPerson]
    messages: list[FoundMessage]
    has_more: bool = Field(description="Whether more messages are found than stand here")
    is_ready: bool = Field(description="False while older messages cannot be found by words yet, after an upgrade")
