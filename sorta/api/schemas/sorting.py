"""Shapes of what one sorts by: tags, teams, groups, views, the accuracy of the reading."""

from datetime import datetime
from typing import Any

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.routing import Way


class NamedTag(BaseModel):
    id: int
    name: str


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


class FieldAccuracy(BaseModel):
    """Of the messages of theirs in conversations that were sorted, how many a member corrected in this field."""

    field: str
    looked_at: int
    corrected: int


class Correction(BaseModel):
    message_id: int
    conversation_id: int
    field: str
    was: str | None
    now: str | None
    member_id: int
    at: datetime
    body: str


class Accuracy(BaseModel):
    fields: list[FieldAccuracy]
    latest: list[Correction]
