"""Shapes of programs: their tokens, and what they are told."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from sorta.api.schemas.base import Asked
from sorta.core.permissions import Permission

Told = Literal["arrivals", "moves", "decisions", "answers"]


class ApiToken(BaseModel):
    """A token without itself."""

    id: int
    name: str
    ending: str = Field(description="Its last four characters")
    permissions: list[Permission]
    made_by_name: str
    made_at: datetime
    expires_at: datetime
    used_at: datetime | None
    is_over: bool


class NewApiToken(Asked):
    """What a program may, of what its maker may, and for how many days."""

    name: str = Field(max_length=200)
    permissions: list[Permission]
    days: int


class MadeApiToken(BaseModel):
    """A new token; shown this once."""

    token: str


class Hook(BaseModel):
    """A place where a program is told."""

    id: int
    name: str
    url: str
    kinds: list[Told]
    failing_since: datetime | None
    off_reason: str | None = Field(description="Why it is told nothing more")
    waiting: int
    failed: int
    last_sent_at: datetime | None


class HookBody(Asked):
    name: str = Field(max_length=200)
    url: str = Field(max_length=2000)
    kinds: list[Told] = Field(max_length=10)


class MadeHook(BaseModel):
    """A new place, and what is signed with; shown this once."""

    id: int
    secret: str


class HookEvent(BaseModel):
    """Something that a program was told, or is to be."""

    id: int
    conversation_id: int
    event: str
    made_at: datetime
    state: Literal["waiting", "sent", "failed"]
    attempts: int
    ended_at: datetime | None
    next_at: datetime | None
    problem: str | None


class ToldData(BaseModel):
    """The numbers by which it is asked for, and what the event says besides, without anybody's words."""

    model_config = ConfigDict(extra="allow")

    workspace: int
    conversation: int
    seq: int = Field(description="The order within a conversation")


class ToldBody(BaseModel):
    """What a program is told, as Standard Webhooks has it; see docs/programs.md."""

    type: str = Field(description="conversation. and the event, as in conversation.arrived")
    timestamp: datetime
    data: ToldData


class Again(Asked):
    """One of them, or, without a number, all that failed."""

    event_id: int | None = None


class ToldAgain(BaseModel):
    count: int
