"""What a conversation's trail comes down to: the facts, and the move that follows from them (docs/trade.md 3).

Written by `core.moves` and `core.on_its_way` alone.
"""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

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
class Unanswered:
    """A message of theirs that waits for an answer since `at`."""

    message: int
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Answering:
    """A reply that is not outside yet, and all that was changed because of it.

    `covers` are the messages it answers, those that an earlier reply on its way answers too among them. `settles`: the
    conversation is settled as answered on the strength of it; `before` is how it was settled until then, `before_on`
    the reply which that rested on. `parked_until` is the parking that it ended and `parked_on` the reply which that
    rested on. `stuck` says why it is not out although its time is over: then nothing that it covers counts as answered,
    until it goes out after all.
    """

    message: int
    covers: tuple[Unanswered, ...]
    settles: bool
    before: SettledAs | None = None
    before_on: int | None = None
    parked_until: datetime | None = None
    parked_on: int | None = None
    stuck: str | None = None
    #: A rule's acknowledgement: it answers nothing and ends no parking.
    acknowledges: bool = False


@dataclass(frozen=True, kw_only=True)
class Facts:
    """Everything the move and the due depend on."""

    seq: int = 0
    sorted: bool = False
    priority: Priority = Priority.NORMAL
    owner: int | None = None
    team: int | None = None
    tags: tuple[int, ...] = ()
    watchers: tuple[int, ...] = ()
    settled_as: SettledAs | None = None
    proposal_waiting: bool = False
    #: Names of rules that asked for somebody's consent before an answer goes out.
    consent_rules: tuple[str, ...] = ()
    parked_until: datetime | None = None
    unanswered: tuple[Unanswered, ...] = ()
    answering: tuple[Answering, ...] = ()
    #: The reply on whose going out the settling, or the parking, rests: none once it is out or a person decided otherwise.
    settled_on: int | None = None
    parked_on: int | None = None
    #: The newest answer that was given on the network itself: what they said up to then is answered.
    answered_until: datetime | None = None
    #: Until when what they write joins the case it was handed over in.
    case_until: datetime | None = None
    #: The message in which they only thanked us for what was settled; it says something while it still is.
    thanked: int | None = None
    #: The conversations that are one matter with this one: what began in public and goes on in private.
    linked: tuple[int, ...] = ()
    #: Questions outside that wait for an answer.
    advice_waiting: tuple[int, ...] = ()
    #: What a member has set, so that rules leave it alone: 'priority', 'assign', or 'tag:7' for one taken off.
    by_hand: tuple[str, ...] = ()

    @property
    def awaiting_since(self) -> datetime | None:
        """Arrival of their earliest unanswered message."""
        return min((u.at for u in self.unanswered), default=None)

    @property
    def is_on_its_way(self) -> bool:
        """Whether an answer of ours is under way and nothing has kept it up."""
        return any(a.stuck is None for a in self.answering)

    @property
    def stuck(self) -> str | None:
        """Why an answer of ours is not out yet although its time is over."""
        return next((a.stuck for a in self.answering if a.stuck is not None), None)


def get_move(facts: Facts, now: datetime) -> Move:
    """The move at `now`, by the table's order of precedence."""
    if facts.settled_as is not None:
        return Move.SETTLED
    if facts.proposal_waiting:
        return Move.IN_REVIEW
    if facts.parked_until is not None and now < facts.parked_until:
        return Move.PARKED
    if not facts.unanswered or facts.advice_waiting:
        return Move.THEIR_MOVE
    if not facts.sorted:
        return Move.UNSORTED
    return Move.OUR_MOVE
