"""Shapes of prize draws."""

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.draw import DrawRules


class NewDraw(Asked):
    post_id: int
    rules: DrawRules


class DrawNow(Asked):
    public_value: str = Field("", max_length=1000, description="What was named when it was announced")


class DrawAdded(BaseModel):
    id: int


class DrawOne(BaseModel):
    """A draw on the list; `commitment` is SHA-256 of the seed, published before the deadline."""

    id: int
    post_id: int
    title: str
    url: str | None
    network: str
    rules: DrawRules
    commitment: str
    made_by: int
    announced_at: datetime
    deadline: datetime
    drawn_by: int | None
    drawn_at: datetime | None
    cancelled_at: datetime | None
    closed_at: datetime | None = Field(description="When the list of entries was fixed")
    entries_sha256: str | None = Field(description="SHA-256 of the list, published when it was fixed")
    entries: int


class EntryShown(BaseModel):
    number: int
    name: str
    handle: str
    at: datetime


class ExcludedShown(BaseModel):
    name: str
    handle: str
    reason: str


class WinnerNotice(BaseModel):
    member_id: int
    at: datetime
    outcome: Literal["sent", "asked"]


class Place(EntryShown):
    """A winner, or one who stands in; `number` is that of the entry."""

    place: int
    is_reserve: bool
    conversation_id: int | None
    notice: WinnerNotice | None


class DrawInFull(BaseModel):
    """Until its list is fixed, who would take part now; `seed` is shown once it was drawn."""

    id: int
    post_id: int
    title: str
    url: str | None
    network: str
    rules: DrawRules
    commitment: str
    seed: str | None
    made_by: int
    announced_at: datetime
    deadline: datetime
    drawn_by: int | None
    drawn_at: datetime | None
    cancelled_at: datetime | None
    closed_at: datetime | None
    entries_sha256: str | None
    public_value: str | None
    entries: list[EntryShown]
    excluded: list[ExcludedShown]
    places: list[Place]


class PostChoice(BaseModel):
    id: int
    title: str
    body: str
    published_at: datetime | None
    network: str
    account: str
    conversations: int


class Notify(Asked):
    saved_reply_id: int
    places: list[int] = Field(min_length=1, max_length=400)


class Notified(BaseModel):
    """`left` when it could not be done, with the reason."""

    place: int
    outcome: Literal["sent", "asked", "left"]
    reason: str | None


Certificate = dict[str, Any]
