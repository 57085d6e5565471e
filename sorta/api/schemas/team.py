"""Shapes of the team, alerts, and of what is held."""

from datetime import datetime, time
from typing import Annotated

from pydantic import AwareDatetime, BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.api.schemas.sorting import Team
from sorta.core.alerting import Digest
from sorta.core.facts import Move
from sorta.core.ports import Kind
from sorta.core.routing import Way


class OpenCell(BaseModel):
    move: Move
    priority: int
    n: int
    late: int


class MemberLoad(BaseModel):
    """`in_hand` is what waits for us with this member; `load` the same, weighed by priority."""

    member_id: int
    name: str
    initials: str
    role: str
    capacity: int
    languages: list[str]
    away_from: datetime | None
    away_until: datetime | None
    away_reason: str | None
    shift: list[str] | None
    is_away: bool
    is_off_shift: bool
    in_hand: int
    late: int
    load: float
    may_answer: bool
    may_reply: bool = Field(description="To people, in public or in private")
    open: list[OpenCell]


class TeamState(BaseModel):
    members: list[MemberLoad]
    teams: list[Team]


class Availability(Asked):
    capacity: int = Field(40, ge=0, le=1000)
    languages: list[Annotated[str, Field(pattern=r"^[A-Za-z]{2,3}$")]] = Field([], max_length=20)
    away_from: AwareDatetime | None = None
    away_until: AwareDatetime | None = None
    away_reason: str = Field("", max_length=1000)
    shift: list[str] | None = Field(None, max_length=7)


class TeamWay(Asked):
    way: Way


class TeamBody(Asked):
    """A team: what it is called, and who is in it."""

    name: str = Field(max_length=200)
    members: list[int] = Field(max_length=500)


class TeamMade(BaseModel):
    id: int


class WorkItem(BaseModel):
    id: int
    owner_id: int
    priority: int
    language: str | None
    person_name: str
    preview: str
    network: str
    due: datetime | None
    move: Move
    is_drafted: bool


class ProposedPass(WorkItem):
    giver: int
    taker: int


class AlertItem(BaseModel):
    id: int
    occasion: str
    words: str
    conversation_id: int | None
    at: datetime
    read_at: datetime | None
    on_device: bool


class Alerts(BaseModel):
    unread: int
    alerts: list[AlertItem]


class AlertWants(Asked):
    """By which ways: here, on the device while Sorta is open elsewhere on it, by mail, by text message."""

    here: bool
    device: bool
    mail: bool
    text: bool
    minutes: int = Field(15, ge=1, le=1440, description="Of what is due soon: how long before")


class AlertDefault(AlertWants):
    occasion: str
    words: str


class AlertChoice(AlertDefault):
    is_own: bool = Field(description="Chosen by the member; else what applies in the workspace")


class AlertHabits(Asked):
    """By the workspace's clock; quiet hours may go over midnight."""

    quiet_from: time | None = None
    quiet_until: time | None = None
    digest: Digest = Digest.AT_ONCE


class NewAlertWatch(Asked):
    """What comes in that one wants to hear of; nothing chosen of one is all of it."""

    accounts: list[int] = Field(default=[], max_length=100)
    kinds: list[Kind] = Field(default=[], max_length=20)
    words: list[str] = Field(default=[], max_length=20, description="Words, phrases or beginnings*")


class AlertWatch(NewAlertWatch):
    id: int


class AlertChoices(BaseModel):
    choices: list[AlertChoice]
    defaults: list[AlertDefault] = Field(description="What applies for who has chosen nothing")
    habits: AlertHabits
    watches: list[AlertWatch]
    phone: str | None
    mail_refused: str | None = Field(description="What the mail server said of one's address")
    text_refused: str | None
    can_mail: bool
    can_text: bool


class Slot(BaseModel):
    """A quarter of an hour with what falls due in it, by priority; or a folded gap of closed time."""

    starts: datetime
    ends: datetime
    is_open: bool
    dues: dict[int, int]


class UnusualNow(BaseModel):
    """An hour in which far more came in than usual: so far, and what is usual in the whole of it."""

    begins_at: datetime
    came: int
    expected: float


class Horizon(BaseModel):
    """`late` by priority; `clear_at` is when the desk will be clear at the pace of `over`, when anything can be said."""

    now: datetime
    late: dict[int, int]
    within_hour: int
    slots: list[Slot]
    open_work: int
    clear_at: datetime | None
    over: str | None
    finished: int
    minutes: float
    unusual: list[UnusualNow]
