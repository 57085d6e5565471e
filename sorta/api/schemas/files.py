"""Shapes of files that go along with answers."""

from typing import Any

from pydantic import BaseModel, ConfigDict

#: How a body that is a file is described.
BYTES: dict[str, Any] = {
    "requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string"}}}}
}


class Attachment(BaseModel):
    """Something sent along; `id` and `size` (bytes) of what we sent."""

    id: int | None = None
    media_type: str
    url: str
    name: str
    size: int | None = None


class TakenBack(BaseModel):
    """What an answer that was taken back said, to be written on; no text for any other act."""

    model_config = ConfigDict(from_attributes=True)

    text: str | None = None
    attachments: list[Attachment] = []

    @classmethod
    def of(cls, back: Any) -> "TakenBack":
        """From a service's value, or None."""
        return cls() if back is None else cls.model_validate(back)
