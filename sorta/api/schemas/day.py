"""Shapes of one member's day."""

from datetime import date, datetime
from typing import Literal

from pydantic import BaseModel

from sorta.api.schemas.team import MemberLoad
from sorta.core.facts import Move


class DoneCount(BaseModel):
    """How often a member did something, and on how many conversations."""

    kind: str
    n: int
    conversations: int


class OnConversation(BaseModel):
    """Something about a conversation."""

    conversation_id: int
    person_name: str
    network: str


class Done(OnConversation):
    move: Move
    at: datetime
    kinds: list[str]


class Due(OnConversation):
    preview: str
    priority: int
    move: Move
    due: datetime


class Returning(OnConversation):
    preview: str
    at: datetime


class Later(OnConversation):
    words: str
    at: datetime


class SentBack(OnConversation):
    """An answer that was sent back, by whom and why."""

    words: str | None
    at: datetime
    from_name: str | None


class Awaited(OnConversation):
    """What is waited for from others, since when; of an approval, who is asked."""

    what: Literal["approval", "advice", "case"]
    words: str
    since: datetime
    from_name: str | None


class DayFollowUp(BaseModel):
    id: int
    person_id: int
    person_name: str
    words: str
    at: datetime


class MemberDay(BaseModel):
    """A day by the workspace's clock. Lists have at most 50; the totals say how many there are."""

    day: date
    member: MemberLoad
    counts: list[DoneCount]
    done: list[Done]
    done_total: int
    due: list[Due]
    due_total: int
    returning: list[Returning]
    follow_ups: list[DayFollowUp]
    later: list[Later]
    sent_back: list[SentBack]
    awaited: list[Awaited]
