"""Shapes of reports."""

from datetime import date, datetime
from typing import Annotated, Any, Literal, TypeVar
from urllib.parse import parse_qs

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, field_validator

from sorta.api.schemas.base import Asked, list_many
from sorta.api.schemas.desk import Day
from sorta.api.schemas.hours import Minutes
from sorta.core.errors import Invalid
from sorta.core.periods import Against, Named
from sorta.core.ports import Kind
from sorta.core.reports import BY_NAME, Chosen, Unit
from sorta.core.sharing import Mailing
from sorta.core.spells import Phase
from sorta.core.targets import Audience
from sorta.core.waits import Counting
from sorta.services.replays import LONGEST_DAYS, MOST_NEW, WhatIf
from sorta.services.report_sharing import NewShare
from sorta.services.reports import Ask
from sorta.services.waits import FILTERS


class ReportQuery(BaseModel):
    """What a report is about. Days are the workspace's; lists mean any of them."""

    model_config = ConfigDict(extra="forbid")

    period: Named = Named.DAYS_28
    since: Day | None = Field(None, description="The first day of an exact period")
    until: Day | None = Field(None, description="Its last day")
    against: Against = Against.BEFORE
    clock: Counting = Counting.WORKING
    account: list[int] = []
    group: list[int] = []
    network: list[str] = []
    member: list[int] = Field([], description="Who answered; of what is open, who has it")
    team: list[int] = []
    tag: list[int] = []
    person_tag: list[int] = []
    kind: list[Kind] = []
    public: bool | None = None
    priority: list[Annotated[int, Field(ge=0, le=3)]] = []
    language: list[Annotated[str, Field(pattern=r"^[a-z]{2,3}$")]] = []
    sentiment: list[Annotated[int, Field(ge=-1, le=1)]] = []

    def to_ask(self) -> Ask:
        """The same for the service."""
        given = {name: getattr(self, name) for name in FILTERS}
        return Ask(
            period=self.period,
            since=self.since,
            until=self.until,
            against=self.against,
            clock=self.clock,
            filters={name: value for name, value in given.items() if value not in (None, [])},
        )


class BehindQuery(ReportQuery):
    """What a list is about: a figure of a report; from a chart, one day (from 0) or one hour of the week (Monday 0 is 0)."""

    figure: str = Field(max_length=40)
    day: int | None = Field(None, ge=0, le=400)
    cell: int | None = Field(None, ge=0, le=167)
    hits: bool | None = Field(None, description="Of a share: those that count, or those that do not")
    phase: Phase | None = Field(None, description="Of what was open at a day's end: where it stood then")

    def to_chosen(self) -> Chosen:
        """The same for the service. Raises Invalid for a figure that there is none of."""
        if self.figure not in BY_NAME and self.figure != "open_at_end":
            raise Invalid(f"There is no figure {self.figure!r}.", "report")
        if self.phase is not None and self.figure != "open_at_end":
            raise Invalid(
                f"Where it stood is told of what was open at a day's end, and not of {self.figure!r}.", "report"
            )
        return Chosen(figure=self.figure, day=self.day, cell=self.cell, hits=self.hits, phase=self.phase)


Q = TypeVar("Q", bound=ReportQuery)


def read_address(shape: type[Q], address: str, field: str) -> Q:
    """What an address says: `figure=kept&period=28_days`. Raises Invalid."""
    many = list_many(shape)
    try:
        told = parse_qs(address, max_num_fields=100)
        return shape.model_validate({name: v if name in many else v[0] for name, v in told.items()})
    except ValidationError as error:
        wrong = ", ".join(sorted({str(one["loc"][0]) for one in error.errors()}))
        raise Invalid(f"This report cannot be read: {wrong}.", field) from error
    except ValueError as error:
        raise Invalid("This report cannot be read: it says too much.", field) from error


def read_behind(address: str) -> BehindQuery:
    """What a list is about, from the desk's address. Raises Invalid."""
    return read_address(BehindQuery, address, "report")


class FigureValue(BaseModel):
    """A figure: its value in cases, seconds or as a share, with a 95 % interval."""

    value: float | None
    low: float | None
    high: float | None
    cases: int
    conversations: int
    hits: int | None = Field(description="Of a share, how many of the cases")
    too_few: bool
    mean: float | None = Field(None, description="Of lengths of time; beside the value, never alone")


class ReportFigure(FigureValue):
    name: str
    title: str
    says: str
    unit: Unit
    before: FigureValue
    difference: float | None
    difference_low: float | None
    difference_high: float | None
    stands_out: bool = Field(description="Whether the change is more than chance makes")


class ReportDays(BaseModel):
    days: list[date]
    came_in: list[int]
    answers: list[int]
    without_reply: list[int]
    open_at_end: list[int | None]


class StandingRow(BaseModel):
    phase: Phase
    open_at_end: list[int | None] = Field(description="How many stood there at each day's end; None for days not over")


class ReportStanding(BaseModel):
    """Where what waited at each day's end stood."""

    days: list[date]
    rows: list[StandingRow]


class ReportWeek(BaseModel):
    """168 hours of the week, from Monday 0."""

    hours: list[float]
    came_in: list[int]
    answers: list[int]
    median: list[float | None]
    open: list[float] = Field(description="The share of each hour that is open, by the hours of now")


class PromisedTarget(BaseModel):
    """A target in seconds of working time, and how many first answers are held to it."""

    seconds: int
    cases: int


class ReportSpread(BaseModel):
    promised: list[PromisedTarget] = Field(description="None where waiting is counted on the clock")
    edges: list[float]
    counts: list[int]
    kept: list[int]


class BreakdownRow(BaseModel):
    key: str
    came_in: int
    answers: int
    without_reply: int
    first_half: FigureValue
    first_nine: FigureValue
    kept: FigureValue


class Breakdown(BaseModel):
    by: Literal["account", "network", "member", "team", "kind", "priority", "sentiment", "tag"]
    rows: list[BreakdownRow]


class ExplainedPart(BaseModel):
    """What one part did in a change, in shares: by being more or less of the whole, and by doing otherwise."""

    key: str
    mix: float
    rate: float
    cases: int
    cases_before: int


class Explanation(BaseModel):
    """The change of a figure that stands out, taken apart by what tells most of it; of a median, that of the share answered
    `within` what it was. The parts and the rest together are the change."""

    figure: str
    by: Literal["account", "kind", "priority", "member", "team", "weekday", "hours"]
    within: float | None
    change: float
    parts: list[ExplainedPart]
    rest: float


class UnusualHour(BaseModel):
    """An hour in which far more came in than the weeks before let one expect; `day` counts from the first."""

    day: int
    hour: int
    came: int
    expected: float
    chance: float
    months: float = Field(description="In how many months so much comes once by chance")


class Sentiments(BaseModel):
    """How those that came in read when their first wait ended, or read now, day by day; what was not read is in none."""

    negative: list[int]
    neutral: list[int]
    positive: list[int]


class MoodRow(BaseModel):
    """The same of one account in the whole period, with the share of negative ones."""

    key: int
    negative: int
    neutral: int
    positive: int
    share: FigureValue


class Report(BaseModel):
    first: date
    last: date
    compared_first: date
    compared_last: date
    time_zone: str
    are_told: bool = Field(description="Whether all that came in before reports were kept has been told by now")
    false_alarms: float = Field(description="About how many hours a month are told of that chance alone made unusual")
    figures: list[ReportFigure]
    explanations: list[Explanation]
    unusual: list[UnusualHour]
    days: ReportDays
    week: ReportWeek
    spread: ReportSpread
    sentiments: Sentiments
    moods: list[MoodRow]
    breakdowns: list[Breakdown]


class NewKeptReport(BaseModel):
    """A report to be kept under a name; `query` is its address."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(max_length=200)
    shared: bool = False
    query: str = Field(max_length=1000)

    @field_validator("query")
    @classmethod
    def check_query(cls, query: str) -> str:
        """Only what a report's address can say is kept."""
        read_address(ReportQuery, query, "query")
        return query


class KeptReport(BaseModel):
    id: int
    name: str
    shared: bool
    query: str
    mine: bool


class StaffingQuery(ReportQuery):
    """What is to be reached: a share of what comes in begun within so many minutes."""

    within: int = Field(60, ge=1, le=1440, description="Minutes")
    share: float = Field(0.9, ge=0.5, le=0.99)
    handling: int | None = Field(None, ge=1, le=240, description="Minutes an answer takes; else as it was timed")


class HourNeed(BaseModel):
    """One hour of the week: what comes in an hour, how many people that needs (null: more than can be planned for), who works."""

    arrivals: float
    is_open: bool
    needed: int | None
    on_shift: int


class Staffing(BaseModel):
    handling: float = Field(description="Seconds an answer takes")
    source: Literal["given", "timed", "assumed"]
    timed: int = Field(description="Answers of the period that were timed")
    hours: list[HourNeed]


class RuleDoing(BaseModel):
    id: int
    name: str
    removed: bool
    messages: int
    conversations: int
    effects: dict[str, int]


class ApprovalDoing(BaseModel):
    """Answers put up for approval: what became of them; half and nine of ten were decided within so many seconds."""

    state: Literal["waiting", "approved", "sent_back", "withdrawn"]
    n: int
    half: float | None
    nine: float | None


class SavedUse(BaseModel):
    id: int
    name: str
    archived: bool
    n: int
    members: int


class LinkClicks(BaseModel):
    id: int
    target: str
    clicks: int
    apart: int = Field(description="By programs and members, not counted")


class CaseDoing(BaseModel):
    desk: str
    state: str
    n: int
    half: float | None = Field(description="Seconds from handing over to how they stand now, the median")


class Doings(BaseModel):
    """What was done in a period in the whole workspace."""

    rules: list[RuleDoing]
    approvals: list[ApprovalDoing]
    saved_replies: list[SavedUse]
    links: list[LinkClicks]
    cases: list[CaseDoing]
    replies: int


class HealthHour(BaseModel):
    """What came in within an hour, and how many seconds after it was said on the network it was here: half of it, and at worst."""

    came: int
    lag_half: float | None
    lag_worst: float | None


class AccountHealth(HealthHour):
    """An account over the last 24 hours and as it stands; what was filled in later counts with its delay."""

    account_id: int
    network: str
    network_name: str
    letters: str
    name: str
    handle: str
    paused_reason: str | None
    silent_since: datetime | None
    disconnected_at: datetime | None
    token_ends_at: datetime | None = Field(description="When its network's leave ends, where that is known")
    renews: bool = Field(description="Whether that is renewed by itself")
    last_in_at: datetime | None
    last_out_at: datetime | None
    waiting: int
    waiting_since: datetime | None
    refused: int
    aside: int
    hours: list[HealthHour]


class AccountsHealth(BaseModel):
    """`hours` of each account begin at `since`; the last is the one that lasts."""

    since: datetime
    accounts: list[AccountHealth]


class FalseAlarms(Asked):
    a_month: float


class NewMailing(Asked):
    """Every week on a weekday (0 is Monday) or every month on a day (1 to 28), at an hour of the workspace's clock."""

    every: Literal["week", "month"]
    day: int
    hour: int


class NewSharedReport(Asked):
    """A report for somebody without an account; `query` is its address. Shown are its figures and the parts that are chosen."""

    name: str = Field(max_length=200)
    query: str = Field(max_length=1000)
    parts: list[str] = Field([], max_length=20)
    days: int = 30
    mail_to: list[str] = Field([], max_length=50)
    mailing: NewMailing | None = None

    def to_share(self) -> NewShare:
        """The same for the service. Raises Invalid."""
        return NewShare(
            name=self.name,
            ask=read_address(ReportQuery, self.query, "query").to_ask(),
            parts=self.parts,
            days=self.days,
            mail_to=self.mail_to,
            mailing=None if self.mailing is None else Mailing(**self.mailing.model_dump()),
        )


class SharedReport(BaseModel):
    """A report that is shared: its link, how often it was opened, and how it is mailed."""

    id: int
    name: str
    parts: list[str]
    address: str
    maker: str
    made_at: datetime
    expires_at: datetime
    is_over: bool
    may_still: bool = Field(description="Whether its maker may still share reports; else the link leads nowhere")
    opened: int
    opened_at: datetime | None
    mail_to: list[str]
    mail_every: Literal["week", "month"] | None
    mail_day: int | None
    mail_hour: int | None
    mail_next_at: datetime | None
    mailed_at: datetime | None
    mail_problem: str | None


Week = Annotated[list[Annotated[str, Field(max_length=200)]], Field(min_length=7, max_length=7)]


class NewPeople(Asked):
    """So many people more."""

    count: int = Field(ge=1, le=MOST_NEW)
    shift: Week | None = Field(None, description="Hours of seven days from Monday on; null: the workspace's")
    team: int | None = Field(None, description="Null: in all teams")


class NewWhatIf(Asked):
    """What is changed in the days that are played again; what is left out is as it is."""

    days: int = Field(28, ge=1, le=LONGEST_DAYS)
    clock: Counting = Counting.WORKING
    more: list[NewPeople] = Field([], max_length=MOST_NEW)
    without: list[int] = Field([], max_length=1000)
    hours: Week | None = None
    targets: dict[Audience, Minutes] | None = Field(None, description="Working minutes")
    rules: dict[int, bool] = Field({}, max_length=1000, description="Rules by their number, whether they are on")
    handling: int | None = Field(None, ge=1, le=240, description="Minutes an answer takes")
    given: bool = Field(True, description="Whether teams give out; else whoever is free takes what is due first")

    def to_what_if(self) -> WhatIf:
        """The same for the service."""
        return _WHAT_IF.validate_python(self.model_dump())


_WHAT_IF: TypeAdapter[WhatIf] = TypeAdapter(WhatIf)


class Range(BaseModel):
    """A figure over all runs: the middle one, and between what 95 of 100 lie."""

    middle: float | None
    low: float | None
    high: float | None


class PlayedFigure(BaseModel):
    before: Range
    after: Range
    difference: Range = Field(description="From run to run")


class PlayedPerson(BaseModel):
    """Somebody's share of their shifts that went into it; null where they are not there. 0 is who is not there yet."""

    id: int
    before: float | None
    after: float | None


class WhatIfResult(BaseModel):
    """What came out. Figures by name: first_half, first_nine (seconds), kept (share), answers, open."""

    first: date
    last: date
    waits: int
    really: dict[str, float | None]
    figures: dict[str, PlayedFigure]
    people: list[PlayedPerson]
    names: dict[str, str] = Field(description="The names of people, by their numbers")
    pause: float = Field(description="Seconds between one thing and the next, on the average")
    source: Literal["given", "timed", "assumed"]
    handling: float = Field(description="Seconds an answer takes on the average")
    runs: int
    changed_waits: int = Field(description="Of how many messages other rules make something else")


class PlayedWhatIf(BaseModel):
    id: int
    member_name: str
    mine: bool
    made_at: datetime
    asked: NewWhatIf
    state: Literal["waiting", "running", "done", "failed"]
    done: int
    total: int
    problem: str | None
    result: WhatIfResult | None


class ConversationsFile(Asked):
    """A file of conversations, or some of them."""

    document: dict[str, Any] = Field(description="An OrderedCollection of conversations, or one of them")
    settle: bool = Field(True, description="What the file brings new and does not say to be settled needs no reply")


class LeftOutOfFile(BaseModel):
    """What could not be brought in."""

    where: str
    why: str


class Brought(BaseModel):
    """What came of an import."""

    conversations: int
    new_conversations: int
    messages: int = Field(description="New ones")
    known: int = Field(description="Messages that were here already")
    left_out: list[LeftOutOfFile]
    more_left_out: int
