"""What all shapes of requests are made from."""

from typing import Literal, TypeAlias

from pydantic import BaseModel, ConfigDict

from sorta.core.reading import ReadsAs

#: What a row reads as, or that nothing is sure enough to be said of it.
Shown: TypeAlias = ReadsAs | Literal["not_sure"]


class Asked(BaseModel):
    """Something a client asks for or sets: a key that it does not have is refused, never passed over. A misspelt one would
    otherwise be a wish that nobody heard."""

    model_config = ConfigDict(extra="forbid")
