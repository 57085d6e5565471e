"""Whose move it is: the facts of a conversation, folded from its trail (PRODUCT.md 3).

The trail is the truth. `apply` folds one event into the facts, `replay` folds a whole trail and
leaves out what was undone; `get_move` derives the move. Nothing else may write these facts.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from enum import StrEnum
from types import MappingProxyType
from typing import Any

from sorta.core.targets import Priority


class Move(StrEnum):
    """Response status, in the order in which the work goes."""

    UNSORTED = "unsorted"
    OUR_MOVE = "our_move"
    IN_REVIEW = "in_review"
    THEIR_MOVE = "their_move"
    PARKED = "parked"
    SETTLED = "settled"


class SettledAs(StrEnum):
    """How a conversation was settled."""

    ANSWERED = "answered"
    NO_REPLY_NEEDED = "no_reply_needed"
    HANDED_OVER = "handed_over"
    JUNK = "junk"
    REMOVED = "removed"


@dataclass(frozen=True, kw_only=True)
class Event:
    """One entry of the trail. `data` holds what the kind needs:

    arrived {message}, edited {message, before}, removed {message}, answered_outside {message},
    assigned {owner, note}, prioritised {priority}, noted {text}, kept {}, parked {until},
    returned {}, settled {how}, replied {message, public, settle}, delivered {message},
    refused {message, reason}, undone {of}.
    """

    seq: int
    kind: str
    at: datetime
    member_id: int | None = None
    data: Mapping[str, Any] = field(default_factory=lambda: MappingProxyType({}))


@dataclass(frozen=True, kw_only=True)
class Unanswered:
    """A message of theirs that waits for an answer since `at`."""

    message: int
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Answering:
    """A reply on its way: what it answered, and whether it settled, should it be refused."""

    message: int
    covers: tuple[Unanswered, ...]
    settles: bool


@dataclass(frozen=True, kw_only=True)
class Facts:
    """Everything the move and the due depend on."""

    seq: int = 0
    sorted: bool = False
    priority: Priority = Priority.NORMAL
    owner: int | None = None
    settled_as: SettledAs | None = None
    proposal_waiting: bool = False
    parked_until: datetime | None = None
    unanswered: tuple[Unanswered, ...] = ()
    answering: tuple[Answering, ...] = ()

    @property
    def awaiting_since(self) -> datetime | None:
        """Arrival of their earliest unanswered message."""
        return min((u.at for u in self.unanswered), default=None)


def get_move(facts: Facts, now: datetime) -> Move:
    """The move at `now`, by the table's order of precedence."""
    if facts.settled_as is not None:
        return Move.SETTLED
    if facts.proposal_waiting:
        return Move.IN_REVIEW
    if facts.parked_until is not None and now < facts.parked_until:
        return Move.PARKED
    if not facts.unanswered:
        return Move.THEIR_MOVE
    if not facts.sorted:
        return Move.UNSORTED
    return Move.OUR_MOVE


def apply(facts: Facts, event: Event) -> Facts:
    """The facts after one more event. An `undone` needs the whole trail: use `replay`.

    Raises ValueError when the event does not follow the facts or is of an unknown kind.
    """
    if event.seq != facts.seq + 1:
        raise ValueError(f"event {event.seq} does not follow {facts.seq}")
    return replace(_apply(facts, event), seq=event.seq)


def _apply(facts: Facts, event: Event) -> Facts:
    data = event.data
    match event.kind:
        case "arrived":
            new = Unanswered(message=data["message"], at=event.at)
            return replace(
                facts,
                unanswered=(*facts.unanswered, new),
                settled_as=None,
                parked_until=None,
            )
        case "removed":
            return _forget(facts, data["message"])
        case "edited" | "undone":
            return facts
        case "answered_outside":
            return replace(facts, unanswered=(), parked_until=None, sorted=True)
        case "assigned":
            return replace(facts, owner=data["owner"], sorted=True)
        case "prioritised":
            return replace(facts, priority=Priority(data["priority"]), sorted=True)
        case "noted":
            return replace(facts, sorted=True)
        case "kept":
            return replace(facts, sorted=True, parked_until=None)
        case "parked":
            until = datetime.fromisoformat(data["until"])
            return replace(facts, parked_until=until, sorted=True)
        case "returned":
            return replace(facts, parked_until=None)
        case "settled":
            how = SettledAs(data["how"])
            return replace(facts, settled_as=how, unanswered=(), parked_until=None, sorted=True)
        case "replied":
            return _reply(facts, data["message"], bool(data.get("settle")))
        case "delivered":
            rest = tuple(a for a in facts.answering if a.message != data["message"])
            return replace(facts, answering=rest)
        case "refused":
            return _restore(facts, data["message"])
        case _:
            raise ValueError(f"unknown kind of event {event.kind!r}")


def _reply(facts: Facts, message: int, settles: bool) -> Facts:
    answering = Answering(message=message, covers=facts.unanswered, settles=settles)
    return replace(
        facts,
        sorted=True,
        unanswered=(),
        parked_until=None,
        answering=(*facts.answering, answering),
        settled_as=SettledAs.ANSWERED if settles else facts.settled_as,
    )


def _restore(facts: Facts, message: int) -> Facts:
    failed = [a for a in facts.answering if a.message == message]
    rest = tuple(a for a in facts.answering if a.message != message)
    covers = tuple(u for a in failed for u in a.covers)
    settles = any(a.settles for a in failed)
    return replace(
        facts,
        answering=rest,
        unanswered=covers + facts.unanswered,
        settled_as=None if settles else facts.settled_as,
    )


def _forget(facts: Facts, message: int) -> Facts:
    def keep(them: tuple[Unanswered, ...]) -> tuple[Unanswered, ...]:
        return tuple(u for u in them if u.message != message)

    answering = tuple(replace(a, covers=keep(a.covers)) for a in facts.answering)
    return replace(facts, unanswered=keep(facts.unanswered), answering=answering)


def replay(events: Iterable[Event]) -> Facts:
    """The facts from a whole trail, as if what was undone had not been done."""
    trail = list(events)
    undone = {e.data["of"] for e in trail if e.kind == "undone"}
    facts = Facts()
    for event in trail:
        facts = replace(facts, seq=event.seq) if event.seq in undone else apply(facts, event)
    return facts


#: Acts of members that can be taken back.
UNDOABLE = frozenset({"assigned", "prioritised", "noted", "kept", "parked", "settled", "replied"})
