"""Whose move it is: the facts of a conversation, folded from its trail (PRODUCT.md 3).

The trail is the truth. `apply` folds one event into the facts, `replay` folds a whole trail and
leaves out what was undone; `get_move` derives the move. Nothing else may write these facts. What
follows from what stands as a table in docs/moves.md, which the tests walk.
"""

from collections.abc import Collection, Iterable, Mapping
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

    arrived {message, thanks}, edited {message, before}, removed {message}, answered_outside {message},
    assigned {owner, team, note, choice}, prioritised {priority}, noted {text}, kept {}, parked {until},
    returned {}, settled {how}, reopened {message, since, waiting}, replied {message, public, settle, answers}, delivered {message},
    stuck {message, reason}, alerted {members},
    proposed {proposal, public}, consented {proposal}, changed {proposal}, sent_back {proposal, reason}, withdrawn {proposal},
    consent_asked {},
    refused {message, reason}, tagged {tag}, untagged {tag}, watched {member}, unwatched {member},
    person_tagged {tag}, person_untagged {tag}, corrected {message, field, was, now},
    scheduled {scheduled, until, public}, unscheduled {scheduled, reason},
    advice_asked {advice, to}, advice_given {advice, to}, advice_overdue {advice, to}, advice_withdrawn {advice, to},
    advice_refused {advice, to},
    handed_over {case, desk, until, joined}, case_told {case, state, by, remark, until},
    linked {other, message, owner, team, tags},
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
    """A reply that is not outside yet, and all that was changed because of it.

    `covers` are the messages it answers, those that an earlier reply on its way answers too among them. `settles`: the
    conversation is settled as answered on the strength of it; `before` is how it was settled until then, `before_on` the reply which that
    rested on. `parked_until`
    is the parking that it ended and `parked_on` the reply which that rested on. `stuck` says why it is not out although its time is over: then nothing that it covers
    counts as answered, until it goes out after all.
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


def apply(facts: Facts, event: Event) -> Facts:
    """The facts after one more event. An `undone` needs the whole trail: use `replay`.

    Raises ValueError when the event does not follow the facts or is of an unknown kind.
    """
    if event.seq != facts.seq + 1:
        raise ValueError(f"event {event.seq} does not follow {facts.seq}")
    after = _apply(facts, event)
    by_hand = _get_by_hand(after.by_hand, event)
    if event.kind == "arrived" and facts.settled_as is not None and after.settled_as is None:
        # It reopens, and rules may set its priority anew.
        by_hand = tuple(name for name in by_hand if name != "priority")
    return replace(after, seq=event.seq, by_hand=by_hand)


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
            if facts.settled_as is not None and data.get("thanks"):
                # They thank us for what is settled, and say nothing else: it stays settled.
                return replace(facts, thanked=new.message)
            return _arrive(facts, new)
        case "linked":
            return _link(facts, data)
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
            return _answer_outside(facts, event.at)
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
            return replace(_decide(facts), sorted=True, parked_until=None, parked_on=None)
        case "parked":
            return _park(facts, datetime.fromisoformat(data["until"]))
        case "scheduled":
            until = datetime.fromisoformat(data["until"])
            return replace(_decide(facts), parked_until=until, parked_on=None, sorted=True)
        case "returned" | "unscheduled":
            # Over: also what a reply on its way had ended does not come back.
            answering = tuple(replace(a, parked_until=None) for a in facts.answering)
            return replace(facts, parked_until=None, parked_on=None, answering=answering)
        case "settled":
            return _settle(facts, SettledAs(data["how"]))
        case "handed_over":
            until = datetime.fromisoformat(data["until"])
            return replace(_settle(facts, SettledAs.HANDED_OVER), case_until=until)
        case "advice_asked":
            return replace(facts, advice_waiting=_with(facts.advice_waiting, data["advice"]), sorted=True)
        case "advice_given" | "advice_overdue" | "advice_withdrawn" | "advice_refused":
            return replace(facts, advice_waiting=_without(facts.advice_waiting, data["advice"]))
        case "case_told":
            follow_until = _instant(data.get("until")) or facts.case_until
            return replace(facts, case_until=None if data["state"] in ENDED else follow_until)
        case "reopened":
            waiting = data.get("waiting") or [{"message": data["message"], "at": data["since"]}]
            return _reopen(facts, _merge(tuple(_read_waiting(w) for w in waiting)))
        case "replied":
            return _reply(
                replace(facts, proposal_waiting=facts.proposal_waiting and event.member_id is None),
                data["message"],
                bool(data.get("settle")),
                answers=data.get("answers", True),
            )
        case "delivered":
            return _deliver(facts, data["message"])
        case "stuck":
            return _stick(facts, data["message"], data["reason"])
        case "refused":
            return _refuse(facts, data["message"])
        case _:
            raise ValueError(f"unknown kind of event {event.kind!r}")


def _instant(text: str | None) -> datetime | None:
    return datetime.fromisoformat(text) if text else None


def _read_waiting(value: Mapping[str, Any]) -> Unanswered:
    return Unanswered(message=value["message"], at=datetime.fromisoformat(value["at"]))


def _with(them: tuple[int, ...], one: int) -> tuple[int, ...]:
    return tuple(sorted({*them, one}))


def _without(them: tuple[int, ...], one: int) -> tuple[int, ...]:
    return tuple(x for x in them if x != one)


def _merge(*groups: tuple[Unanswered, ...]) -> tuple[Unanswered, ...]:
    """All of them, each once, in the order of their arrival."""
    by_message = {u.message: u for group in groups for u in group}
    return tuple(sorted(by_message.values(), key=lambda u: (u.at, u.message)))


def _drop(them: tuple[Unanswered, ...], messages: Iterable[int]) -> tuple[Unanswered, ...]:
    gone = set(messages)
    return tuple(u for u in them if u.message not in gone)


def _without_covers(answering: tuple[Answering, ...], messages: Iterable[int]) -> tuple[Answering, ...]:
    gone = set(messages)
    return tuple(replace(a, covers=_drop(a.covers, gone)) for a in answering)


def _decide(facts: Facts) -> Facts:
    """A person decided about it: what replies on their way had ended or asked for does not come back."""
    answering = tuple(replace(a, parked_until=None, settles=a.settles and a.stuck is None) for a in facts.answering)
    return replace(facts, answering=answering)


def _arrive(facts: Facts, new: Unanswered) -> Facts:
    if facts.answered_until is not None and new.at <= facts.answered_until:
        # Heard of after the answer that was given to it on the network.
        return facts
    answering = tuple(
        replace(a, settles=False, before=None, before_on=None, parked_until=None) for a in facts.answering
    )
    return replace(
        facts,
        unanswered=_merge(facts.unanswered, (new,)),
        answering=answering,
        # What was urgent in a matter that is over says nothing of the next: owner and tags stay, the priority is new.
        priority=facts.priority if facts.settled_as is None else Priority.NORMAL,
        settled_as=None,
        settled_on=None,
        thanked=None,
        parked_until=None,
        parked_on=None,
    )


def _link(facts: Facts, data: Mapping[str, Any]) -> Facts:
    """What was said in public goes on in private: who has it, and its tags, come along unless it has an owner of its own."""
    has_own = facts.settled_as is None and (facts.owner is not None or "assign" in facts.by_hand)
    brings = data.get("owner") is not None or data.get("team") is not None
    # Whoever answered in public is asked back: rules give it to nobody else.
    kept = {*facts.by_hand, "assign"} if data.get("owner") is not None and not has_own else facts.by_hand
    return replace(
        facts,
        linked=_with(facts.linked, data["other"]),
        owner=facts.owner if has_own else data.get("owner"),
        team=facts.team if has_own else data.get("team") or facts.team,
        tags=tuple(sorted({*facts.tags, *data.get("tags", ())})),
        sorted=facts.sorted or brings or bool(data.get("tags")),
        by_hand=tuple(sorted(kept)),
    )


def _answer_outside(facts: Facts, at: datetime) -> Facts:
    until = max(at, facts.answered_until or at)
    answered = [u.message for a in facts.answering for u in a.covers if u.at <= until]
    left = tuple(u for u in facts.unanswered if u.at > until)
    has_answered = len(left) < len(facts.unanswered)
    answering = _without_covers(facts.answering, answered)
    if has_answered and not left:
        # What a reply on its way had ended is over too.
        answering = tuple(replace(a, parked_until=None) for a in answering)
    return replace(
        facts,
        unanswered=left,
        answering=answering,
        answered_until=until,
        parked_until=None if has_answered and not left else facts.parked_until,
        sorted=True,
    )


def _get_live(facts: Facts) -> Answering | None:
    """The newest reply on its way that answers something and is not stuck."""
    return next((a for a in reversed(facts.answering) if a.covers and a.stuck is None), None)


def _park(facts: Facts, until: datetime) -> Facts:
    # With nothing of theirs waiting it is parked because it has been answered: that rests on the answer.
    rests_on = None if facts.unanswered or facts.settled_as else _get_live(facts)
    return replace(
        _decide(facts),
        parked_until=until,
        parked_on=rests_on.message if rests_on else None,
        proposal_waiting=False,
        sorted=True,
    )


def _settle(facts: Facts, how: SettledAs) -> Facts:
    rests_on = _get_live(facts) if how is SettledAs.ANSWERED and not facts.unanswered else None
    if rests_on is not None:
        answering = tuple(
            replace(a, settles=True, before=facts.settled_as, before_on=facts.settled_on)
            if a.message == rests_on.message and not a.settles
            else a
            for a in facts.answering
        )
        answering = tuple(replace(a, parked_until=None) for a in answering)
    else:
        # Whatever becomes of the replies on their way, it stays as it was decided here.
        answering = tuple(replace(a, covers=(), settles=False, parked_until=None) for a in facts.answering)
    return replace(
        facts,
        settled_as=how,
        settled_on=rests_on.message if rests_on else None,
        unanswered=(),
        answering=answering,
        parked_until=None,
        parked_on=None,
        proposal_waiting=False,
        sorted=True,
    )


def _reopen(facts: Facts, waiting: tuple[Unanswered, ...]) -> Facts:
    answering = tuple(replace(a, settles=False) for a in facts.answering)
    return replace(
        facts,
        settled_as=None,
        settled_on=None,
        thanked=None,
        unanswered=_merge(facts.unanswered, waiting),
        # A person says that it waits: a reply that is on its way does not make it answered.
        answering=_without_covers(answering, [u.message for u in waiting]),
        sorted=True,
    )


def _reply(facts: Facts, message: int, settles: bool, *, answers: bool) -> Facts:
    if not answers:
        # An acknowledgement by rule: they still wait for an answer.
        acknowledging = Answering(message=message, covers=(), settles=False, acknowledges=True)
        return replace(facts, sorted=True, answering=(*facts.answering, acknowledging))
    answering = Answering(
        message=message,
        covers=_merge(facts.unanswered, *(a.covers for a in facts.answering)),
        settles=settles,
        before=facts.settled_as if settles else None,
        before_on=facts.settled_on if settles else None,
        parked_until=facts.parked_until,
        parked_on=facts.parked_on,
    )
    return replace(
        facts,
        sorted=True,
        unanswered=(),
        parked_until=None,
        parked_on=None,
        answering=(*facts.answering, answering),
        settled_as=SettledAs.ANSWERED if settles else facts.settled_as,
        settled_on=message if settles else facts.settled_on,
    )


def _deliver(facts: Facts, message: int) -> Facts:
    """It stands outside: what it covers is answered for good, by whatever reply it was to be."""
    out = next((a for a in facts.answering if a.message == message), None)
    if out is None:
        return facts
    answered = [u.message for u in out.covers]
    unanswered = _drop(facts.unanswered, answered)
    settles = out.stuck is not None and out.settles and not unanswered
    at = facts.answering.index(out)
    # What an earlier reply had ended, this one has ended for good.
    earlier = tuple(a if out.acknowledges else replace(a, parked_until=None) for a in facts.answering[:at])
    later = tuple(
        replace(
            a,
            before_on=None if a.before_on == message else a.before_on,
            parked_on=None if a.parked_on == message else a.parked_on,
        )
        for a in facts.answering[at + 1 :]
    )
    return replace(
        facts,
        answering=_without_covers((*earlier, *later), answered),
        unanswered=unanswered,
        settled_as=SettledAs.ANSWERED if settles else facts.settled_as,
        settled_on=None if settles or facts.settled_on == message else facts.settled_on,
        parked_on=None if facts.parked_on == message else facts.parked_on,
    )


def _take_back(facts: Facts, out: Answering) -> Facts:
    """As if this reply had not been sent, as far as nobody has decided otherwise since; it stays in `answering`."""
    still = {u.message for a in facts.answering if a.message != out.message and a.stuck is None for u in a.covers}
    rested, parked = facts.settled_on == out.message, facts.parked_on == out.message
    settled_as = out.before if rested else facts.settled_as
    # What later replies would bring back rested on this one in its turn.
    answering = tuple(
        replace(a, parked_until=None, parked_on=None) if a.parked_on == out.message else a for a in facts.answering
    )
    answering = tuple(
        replace(a, before=out.before, before_on=out.before_on) if a.before_on == out.message else a for a in answering
    )
    return replace(
        facts,
        answering=answering,
        unanswered=_merge(facts.unanswered, _drop(out.covers, still)),
        settled_as=settled_as,
        settled_on=out.before_on if rested else facts.settled_on,
        parked_until=None if parked else facts.parked_until,
        parked_on=None if parked else facts.parked_on,
    )


def _stick(facts: Facts, message: int, reason: str) -> Facts:
    out = next((a for a in facts.answering if a.message == message), None)
    if out is None:
        return facts
    back = facts if out.stuck is not None else _take_back(facts, out)
    answering = tuple(replace(a, stuck=reason) if a.message == message else a for a in back.answering)
    return replace(back, answering=answering)


def _refuse(facts: Facts, message: int) -> Facts:
    out = next((a for a in facts.answering if a.message == message), None)
    if out is None:
        return facts
    back = facts if out.stuck is not None else _take_back(facts, out)
    rest = tuple(a for a in back.answering if a.message != message)
    if out.parked_until is None or back.parked_until is not None:
        return replace(back, answering=rest)
    # The parking that it ended is there again, unless a later reply ends it.
    at = back.answering.index(next(a for a in back.answering if a.message == message))
    later = next((a for a in rest[at:] if not a.acknowledges), None)
    if later is None:
        return replace(back, answering=rest, parked_until=out.parked_until, parked_on=out.parked_on)
    kept = tuple(replace(a, parked_until=out.parked_until, parked_on=out.parked_on) if a is later else a for a in rest)
    return replace(back, answering=kept)


def _forget(facts: Facts, message: int) -> Facts:
    return replace(
        facts,
        unanswered=_drop(facts.unanswered, [message]),
        answering=_without_covers(facts.answering, [message]),
        thanked=None if facts.thanked == message else facts.thanked,
    )


def replay(events: Iterable[Event], *, without: Collection[int] = ()) -> Facts:
    """The facts from a whole trail, as if what was undone had not been done, nor the events numbered in `without`."""
    trail = list(events)
    undone = {e.data["of"] for e in trail if e.kind == "undone"} | set(without)
    facts = Facts()
    for event in trail:
        facts = replace(facts, seq=event.seq) if event.seq in undone else apply(facts, event)
    return facts


def list_waiting_without(events: Iterable[Event], case: int) -> tuple[Unanswered, ...]:
    """What would wait if a conversation had not been handed over in this case: what a desk that gives it back has left
    unanswered, each since its own arrival. Thanks ask for nothing."""
    trail = list(events)
    left_out = {e.seq for e in trail if e.kind == "handed_over" and e.data["case"] == case}
    thanks = {e.seq for e in trail if e.kind == "arrived" and e.data.get("thanks")}
    return replay(trail, without=left_out | thanks).unanswered


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
