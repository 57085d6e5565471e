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


def list_many(model: type[BaseModel]) -> frozenset[str]:
    """The fields of a query's model that hold several values."""
    return frozenset(name for name, field in model.model_fields.items() if "list" in str(field.annotation))
