"""Shapes of cases at support desks."""

from datetime import datetime

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.cases import CaseState
from sorta.core.facts import Move


class Remark(BaseModel):
    """What somebody at the desk said."""

    by_name: str
    text: str
    at: datetime


class Case(BaseModel):
    """A conversation handed over; `unpassed` of its messages still wait to be passed on, `problem` says why."""

    id: int
    desk_id: int
    desk_name: str
    conversation_id: int
    reference: str | None
    url: str | None
    state: CaseState
    state_at: datetime
    note: str | None
    opened_by: int | None
    rule_name: str | None
    opened_at: datetime
    problem: str | None
    next_at: datetime | None
    person_name: str
    network: str
    preview: str
    move: Move
    messages: int
    unpassed: int
    remarks: list[Remark]


class Cases(BaseModel):
    cases: list[Case]
    counts: dict[CaseState, int]


class ChangedDesk(Asked):
    name: str = Field(max_length=200)
    follow_hours: int
