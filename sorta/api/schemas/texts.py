"""Shapes of saved replies and links. What a saved reply is comes from `core.texts` itself."""

from datetime import datetime

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.texts import SavedReplyBody


class SavedReply(BaseModel):
    """A saved reply, with how often it was used."""

    id: int
    body: SavedReplyBody
    changed_by: int
    changed_at: datetime
    archived_at: datetime | None
    uses: int
    last_used_at: datetime | None


class RuleWith(BaseModel):
    id: int
    name: str
    on: bool


class UserOf(BaseModel):
    member_id: int
    uses: int


class Concerns(BaseModel):
    """Whom a change concerns: rules that answer with it, and members who used it within `days`."""

    rules: list[RuleWith]
    members: list[UserOf]
    days: int


class Archive(Asked):
    archived: bool


class SuggestionShown(BaseModel):
    """What speaks for a saved reply: the chance that it fits, and the likest message that was answered with it."""

    chance: float = Field(
        description="How likely it fits, 0 to 1; nothing is suggested unless one of those suggested is likelier to fit than not"
    )
    fits: str = Field(description="The same in words: “3 in 4”")
    likeness: float
    like: str
    times: int


class OfferedReply(BaseModel):
    """A saved reply that fits a conversation, its placeholders filled."""

    id: int
    name: str
    shortcut: str
    language: str | None
    text: str
    uses: int
    last_used_at: datetime | None
    suggestion: SuggestionShown | None


class KeptLink(BaseModel):
    """An address that texts call by a name."""

    id: int
    name: str
    target: str
    changed_by: int
    changed_at: datetime


class ShortLink(BaseModel):
    """A short link; `apart` are the clicks of programs and members, which are not counted."""

    id: int
    address: str
    target: str
    account_id: int
    made_by: int | None
    made_at: datetime
    clicks: int
    lately: int
    apart: int
    last_at: datetime | None


class Links(BaseModel):
    """All links; `lately` counts the last `days`."""

    kept: list[KeptLink]
    short: list[ShortLink]
    days: int


class NewKeptLink(Asked):
    name: str = Field(max_length=200)
    target: str = Field(max_length=4000)
