"""The trail on the wire: one shape for each kind of event, made from the core's own classes, told apart by `kind`."""

from dataclasses import MISSING, fields
from datetime import datetime
from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any, Literal, TypeAlias, get_type_hints

from pydantic import BaseModel, ConfigDict, Field, create_model

from sorta.api.schemas.rules import ShownEvidence
from sorta.core import events


class ByRule(BaseModel):
    """The rule that did it, as it was called then, and what it was met by."""

    model_config = ConfigDict(from_attributes=True)

    id: int
    version: int
    name: str
    evidence: list[ShownEvidence]


class Chosen(BaseModel):
    """Why somebody of a team was chosen; who was passed over, and for what. Pairs are lists here: clients have no tuples."""

    model_config = ConfigDict(from_attributes=True)

    reason: str
    passed: list[list[int | str]]


#: What is said otherwise on the wire than in the core.
_HINTS: dict[tuple[type, str], Any] = {(events.Assigned, "choice"): Chosen | None}


class _Event(BaseModel):
    seq: int
    at: datetime
    member_id: int | None
    rule: ByRule | None
    is_act: bool = Field(description="Whether it is something that somebody did and might take back")
    undo_obstacle: str | None = Field(description="Why this member cannot take it back")


def _describe_kind(kind: type, name: str) -> type[BaseModel]:
    hints = get_type_hints(kind)
    given: Any = {
        one.name: (_HINTS.get((kind, one.name), hints[one.name]), ... if one.default is MISSING else one.default)
        for one in fields(kind)
    }
    data = create_model(
        f"What{kind.__name__}", __config__=ConfigDict(from_attributes=True), __doc__=kind.__doc__, **given
    )
    # mypy cannot know names that are made here.
    shape: Any = {"kind": (Literal[name], ...), "data": (data, ...)}
    return create_model(f"{kind.__name__}Event", __base__=_Event, **shape)


_KINDS = tuple(_describe_kind(kind, name) for kind, name in events.NAMES.items())
if TYPE_CHECKING:
    Event: TypeAlias = _Event
else:
    Event = Annotated[reduce(or_, _KINDS), Field(discriminator="kind")]
