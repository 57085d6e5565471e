"""Shapes of what goes out."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from sorta.api.schemas.acts import Reply
from sorta.api.schemas.base import Asked


class Hold(Asked):
    reason: str = Field(min_length=1, max_length=300)


class _Entry(BaseModel):
    id: int
    conversation_id: int
    account_id: int
    what: str
    problem: str | None
    queued_at: datetime
    member_id: int | None
    rule_id: int | None
    body: str
    public: bool
    person_name: str
    network: str


class WaitingEntry(_Entry):
    """Not gone out yet; `why` says what it waits for, `not_before` until when at least."""

    state: str
    attempts: int
    not_before: datetime
    silent_since: datetime | None
    why: Literal["held", "paused", "sending", "behind", "again", "silent", "limit", "now"]
    paused_reason: str | None


class RefusedEntry(_Entry):
    """What a network would not have; `problem` says what it said."""


class ScheduledEntry(BaseModel):
    """An answer to be sent at `send_at`; `overtaken` when they have written since, so that it will not go."""

    id: int
    conversation_id: int
    author_id: int
    public: bool
    body: str
    settle: bool
    send_at: datetime
    made_at: datetime
    state: Literal["waiting", "stopped"]
    problem: str | None
    person_name: str
    network: str
    overtaken: bool


class LetterEntry(BaseModel):
    """What does not go out by a network and was not taken when it was tried; `next_at` is the next try, none when it was given up. Alerts of a
    member and events of a program are told together, `many` at once."""

    what: Literal["question", "case", "report", "invitation", "alert_mail", "alert_text", "event"]
    to_whom: str
    about: str
    conversation_id: int | None
    problem: str
    tries: int
    next_at: datetime | None
    since: datetime
    many: int


class TriedLetters(BaseModel):
    """How many are tried within a minute."""

    count: int


class Outgoing(BaseModel):
    """Whether what goes out is held, by whom and why; what waits, what is to be sent later, what was refused, and which letters were not
    taken."""

    held_at: datetime | None
    held_by: int | None
    held_reason: str | None
    waiting: list[WaitingEntry]
    scheduled: list[ScheduledEntry]
    refused: list[RefusedEntry]
    letters: list[LetterEntry]


class NewScheduled(Reply):
    """A reply with the time it is to be sent at."""

    send_at: datetime


class ChangedScheduled(Asked):
    text: str = Field(max_length=20000)
    send_at: datetime
    seen_seq: int = Field(ge=0)
