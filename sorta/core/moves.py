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

from sorta.core.cases import ENDED
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
    assigned {owner, team, note, choice}, prioritised {priority}, noted {text}, kept {}, parked {until},
    returned {}, settled {how}, reopened {message, since}, replied {message, public, settle, answers}, delivered {message}, alerted {members},
    proposed {proposal, public}, consented {proposal}, changed {proposal}, sent_back {proposal, reason}, withdrawn {proposal},
    consent_asked {},
    refused {message, reason}, tagged {tag}, untagged {tag}, watched {member}, unwatched {member},
    person_tagged {tag}, person_untagged {tag}, corrected {message, field, was, now},
    scheduled {scheduled, until, public}, unscheduled {scheduled, reason},
    advice_asked {advice, to}, advice_given {advice, to}, advice_overdue {advice, to}, advice_withdrawn {advice, to},
    advice_refused {advice, to},
    handed_over {case, desk, until, joined}, case_told {case, state, by, remark},
    moderated {message, what}, moderation_done {message, what}, moderation_refused {message, what, reason},
    undone {of}. What a rule did has no member and carries `rule` {id, version, name, evidence}.
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
    #: Until when what they write joins the case it was handed over in.
    case_until: datetime | None = None
    #: Questions outside that wait for an answer.
    advice_waiting: tuple[int, ...] = ()
    #: What a member has set, so that rules leave it alone: 'priority', 'assign', or 'tag:7' for one taken off.
    by_hand: tuple[str, ...] = ()

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
    if not facts.unanswered or facts.advice_waiting:
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
    return replace(_apply(facts, event), seq=event.seq, by_hand=_get_by_hand(facts.by_hand, event))


def _get_by_hand(before: tuple[str, ...], event: Event) -> tuple[str, ...]:
    if event.member_id is None:
        return before
    match event.kind:
        case "prioritised":
            return tuple(sorted({*before, "priority"}))
        case "assigned":
            return tuple(sorted({*before, "assign"}))
        case "untagged":
            return tuple(sorted({*before, f"tag:{event.data['tag']}"}))
        case "tagged":
            return tuple(name for name in before if name != f"tag:{event.data['tag']}")
    return before


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
        case "proposed":
            return replace(facts, proposal_waiting=True, sorted=True)
        case "sent_back" | "withdrawn":
            return replace(facts, proposal_waiting=False)
        case "consent_asked":
            names = {*facts.consent_rules, str(data["rule"]["name"])}
            return replace(facts, consent_rules=tuple(sorted(names)))
        case "consented" | "changed":
            return facts
        case "edited" | "undone" | "corrected" | "alerted" | "moderated" | "moderation_done" | "moderation_refused":
            return facts
        case "answered_outside":
            return replace(facts, unanswered=(), parked_until=None, sorted=True)
        case "assigned":
            return replace(facts, owner=data["owner"], team=data.get("team"), sorted=True)
        case "tagged":
            return replace(facts, tags=_with(facts.tags, data["tag"]), sorted=True)
        case "untagged":
            return replace(facts, tags=_without(facts.tags, data["tag"]), sorted=True)
        case "watched":
            return replace(facts, watchers=_with(facts.watchers, data["member"]), sorted=True)
        case "unwatched":
            return replace(facts, watchers=_without(facts.watchers, data["member"]))
        case "person_tagged" | "person_untagged":
            return replace(facts, sorted=True)
        case "prioritised":
            return replace(facts, priority=Priority(data["priority"]), sorted=True)
        case "noted":
            return replace(facts, sorted=True)
        case "kept":
            return replace(facts, sorted=True, parked_until=None)
        case "parked" | "scheduled":
            until = datetime.fromisoformat(data["until"])
            return replace(facts, parked_until=until, sorted=True)
        case "returned" | "unscheduled":
            return replace(facts, parked_until=None)
        case "settled":
            how = SettledAs(data["how"])
            return replace(facts, settled_as=how, unanswered=(), parked_until=None, sorted=True)
        case "handed_over":
            return replace(
                facts,
                settled_as=SettledAs.HANDED_OVER,
                unanswered=(),
                parked_until=None,
                sorted=True,
                case_until=datetime.fromisoformat(data["until"]),
            )
        case "advice_asked":
            return replace(facts, advice_waiting=_with(facts.advice_waiting, data["advice"]), sorted=True)
        case "advice_given" | "advice_overdue" | "advice_withdrawn" | "advice_refused":
            return replace(facts, advice_waiting=_without(facts.advice_waiting, data["advice"]))
        case "case_told":
            return replace(facts, case_until=None if data["state"] in ENDED else facts.case_until)
        case "reopened":
            waiting = Unanswered(message=data["message"], at=datetime.fromisoformat(data["since"]))
            return replace(facts, settled_as=None, unanswered=(waiting,), sorted=True)
        case "replied":
            return _reply(
                replace(facts, proposal_waiting=facts.proposal_waiting and event.member_id is None),
                data["message"],
                bool(data.get("settle")),
                answers=data.get("answers", True),
            )
        case "delivered":
            rest = tuple(a for a in facts.answering if a.message != data["message"])
            return replace(facts, answering=rest)
        case "refused":
            return _restore(facts, data["message"])
        case _:
            raise ValueError(f"unknown kind of event {event.kind!r}")


def _with(them: tuple[int, ...], one: int) -> tuple[int, ...]:
    return tuple(sorted({*them, one}))


def _without(them: tuple[int, ...], one: int) -> tuple[int, ...]:
    return tuple(x for x in them if x != one)


def _reply(facts: Facts, message: int, settles: bool, *, answers: bool) -> Facts:
    if not answers:
        # An acknowledgement by rule: they still wait for an answer.
        acknowledging = Answering(message=message, covers=(), settles=False)
        return replace(facts, sorted=True, answering=(*facts.answering, acknowledging))
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
UNDOABLE = frozenset(
    {
        "assigned",
        "prioritised",
        "noted",
        "kept",
        "parked",
        "scheduled",
        "settled",
        "reopened",
        "replied",
        "tagged",
        "untagged",
        "watched",
        "unwatched",
        "person_tagged",
        "person_untagged",
        "corrected",
        "moderated",
        "handed_over",
        "advice_asked",
    }
)
