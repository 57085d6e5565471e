"""Shapes of workspaces."""

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked


class OwnWorkspace(BaseModel):
    id: int
    name: str
    description: str
    time_zone: str
    role: str
    is_owner: bool
    archived_at: datetime | None
    waiting: int = Field(description="Conversations in unsorted and our move")


class NewWorkspace(Asked):
    name: str = Field(max_length=200)
    time_zone: str = Field(max_length=64)
    copy_setup: bool = Field(False, description="Whether it begins with this one's roles, tags, texts, rules and hours")


class MadeWorkspace(BaseModel):
    """What was copied, by kind, and in words what was not."""

    id: int
    copied: dict[str, int]
    left_out: list[str]


class About(BaseModel):
    name: str
    description: str
    languages: list[str] = Field(description="Those its team reads; it writes in the first")
    colour: str | None
    picture: str | None = Field(description="By which it is known whether the picture is another by now")
    send_settles: bool = Field(description="Whether sending an answer settles unless it is said otherwise")
    is_owner: bool = Field(description="Whether one may change it")


class SetAbout(Asked):
    name: str = Field(max_length=200)
    description: str = Field(max_length=1000)
    languages: list[Annotated[str, Field(max_length=3)]] = Field(max_length=20)
    colour: str | None = Field(max_length=20)
    send_settles: bool = False


class StartStep(BaseModel):
    """A step of the guided start: done when what it is about is there."""

    key: str
    words: str
    done: bool
    skipped: bool


class SkipStep(Asked):
    skipped: bool


class ReadyRule(BaseModel):
    key: str
    name: str
    says: str
    is_here: bool


class ChosenRules(Asked):
    keys: list[str] = Field(max_length=40)


class AddedRules(BaseModel):
    count: int
