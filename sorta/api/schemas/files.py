"""Shapes of files that go along with answers."""

from datetime import datetime
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from sorta.api.schemas.base import Asked

#: How a body that is a file is described.
BYTES: dict[str, Any] = {
    "requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string"}}}}
}


class Attachment(BaseModel):
    """Something sent along; `id` and `size` (bytes) of what we sent; `description` says what it shows, where somebody did."""

    id: int | None = None
    media_type: str
    url: str
    name: str
    size: int | None = None
    description: str = ""


class Described(Asked):
    """What a file shows, for whoever cannot see it."""

    description: str = Field(max_length=4000)


class Kept(Asked):
    """What a file of the library is called, and what it shows."""

    name: str = Field(max_length=300)
    description: str = Field(max_length=4000)


class LibraryFile(BaseModel):
    """A file of the workspace's own; `uses` is how many answers it went along with."""

    id: int
    media_type: str
    name: str
    size: int
    description: str
    made_at: datetime
    made_by: str
    uses: int
    url: str


class TakenBack(BaseModel):
    """What an answer that was taken back said, to be written on; no text for any other act."""

    model_config = ConfigDict(from_attributes=True)

    text: str | None = None
    attachments: list[Attachment] = []

    @classmethod
    def of(cls, back: Any) -> "TakenBack":
        """From a service's value, or None."""
        return cls() if back is None else cls.model_validate(back)
