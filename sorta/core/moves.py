"""Whose move it is: the facts of a conversation, folded from its trail (docs/trade.md 3).

The trail is the truth. `apply` folds one event into the facts, `replay` folds a whole trail and
leaves out what was undone; `get_move` derives the move. Nothing else may write these facts. What
follows from what stands as a table in docs/moves.md, which the tests walk.
"""

from collections.abc import Collection, Iterable
from dataclasses import replace
from datetime import datetime
from typing import assert_never

from sorta.core.cases import ENDED
from sorta.core.events import (
    AdviceAsked,
    AdviceGiven,
    AdviceOverdue,
    AdviceRefused,
    AdviceWithdrawn,
    Alerted,
    AnsweredOutside,
    Arrived,
    Assigned,
    CaseTold,
    Changed,
    ConsentAsked,
    Consented,
    Corrected,
    Edited,
    Event,
    HandedOver,
    Kept,
    Linked,
    Moderated,
    ModerationDone,
    ModerationRefused,
    Noted,
    Offered,
    Parked,
    PersonTagged,
    PersonUntagged,
    Prioritised,
    Proposed,
    Removed,
    Reopened,
    Replied,
    ReplyDelivered,
    ReplyRefused,
    ReplyStuck,
    Returned,
    Scheduled,
    SentBack,
    Settled,
    Tagged,
    TagMerged,
    Undone,
    Unscheduled,
    Untagged,
    Unwatched,
    Watched,
    Withdrawn,
    list_undone,
)
from sorta.core.facts import Facts, SettledAs, Unanswered
from sorta.core.on_its_way import (
    decide_anew,
    deliver,
    drop,
    merge,
    park,
    refuse,
    reopen,
    reply,
    settle,
    stick,
    without_covers,
)
from sorta.core.targets import Priority


def apply(facts: Facts, event: Event) -> Facts:
    """The facts after one more event. An `Undone` needs the whole trail: use `replay`.

    Raises ValueError when the event does not follow the facts.
    """
    if event.seq != facts.seq + 1:
        raise ValueError(f"event {event.seq} does not follow {facts.seq}")
    after = _apply(facts, event)
    by_hand = _get_by_hand(after.by_hand, event)
    if isinstance(event.what, Arrived) and facts.settled_as is not None and after.settled_as is None:
        # It reopens, and rules may set its priority anew.
        by_hand = tuple(name for name in by_hand if name != "priority")
    return replace(after, seq=event.seq, by_hand=by_hand)


def _get_by_hand(before: tuple[str, ...], event: Event) -> tuple[str, ...]:
    if event.member_id is None:
        return before
    match event.what:
        case Prioritised():
            return tuple(sorted({*before, "priority"}))
        case Assigned():
            return tuple(sorted({*before, "assign"}))
        case Untagged(tag=tag):
            return tuple(sorted({*before, f"tag:{tag}"}))
        case Tagged(tag=tag):
            return tuple(name for name in before if name != f"tag:{tag}")
        case _:
            return before


def _apply(facts: Facts, event: Event) -> Facts:
    match event.what:
        case Arrived(message=message, thanks=thanks):
            if facts.settled_as is not None and thanks:
                # They thank us for what is settled, and say nothing else: it stays settled.
                return replace(facts, thanked=message)
            return _arrive(facts, Unanswered(message=message, at=event.at))
        case Linked() as link:
            return _link(facts, link)
        case Removed(message=message):
            return _forget(facts, message)
        case Proposed():
            return replace(facts, proposal_waiting=True, sorted=True)
        case SentBack() | Withdrawn():
            return replace(facts, proposal_waiting=False)
        case ConsentAsked():
            names = {*facts.consent_rules, *([] if event.rule is None else [event.rule.name])}
            return replace(facts, consent_rules=tuple(sorted(names)))
        case (
            Consented()
            | Changed()
            | Edited()
            | Undone()
            | Corrected()
            | Alerted()
            | Offered()
            | Moderated()
            | ModerationDone()
            | ModerationRefused()
        ):
            return facts
        case AnsweredOutside():
            return _answer_outside(facts, event.at)
        case Assigned(owner=owner, team=team):
            return replace(facts, owner=owner, team=team, sorted=True)
        case Tagged(tag=tag):
            return replace(facts, tags=_with(facts.tags, tag), sorted=True)
        case Untagged(tag=tag):
            return replace(facts, tags=_without(facts.tags, tag), sorted=True)
        case TagMerged(tag=tag, into=into):
            return replace(facts, tags=_with(_without(facts.tags, tag), into)) if tag in facts.tags else facts
        case Watched(member=member):
            return replace(facts, watchers=_with(facts.watchers, member), sorted=True)
        case Unwatched(member=member):
            return replace(facts, watchers=_without(facts.watchers, member))
        case PersonTagged() | PersonUntagged() | Noted():
            return replace(facts, sorted=True)
        case Prioritised(priority=priority):
            return replace(facts, priority=priority, sorted=True)
        case Kept():
            return replace(decide_anew(facts), sorted=True, parked_until=None, parked_on=None)
        case Parked(until=until):
            return park(facts, until)
        case Scheduled(until=until):
            return replace(decide_anew(facts), parked_until=until, parked_on=None, sorted=True)
        case Returned() | Unscheduled():
            # Over: also what a reply on its way had ended does not come back.
            answering = tuple(replace(a, parked_until=None) for a in facts.answering)
            return replace(facts, parked_until=None, parked_on=None, answering=answering)
        case Settled(how=how):
            return settle(facts, how)
        case HandedOver(until=until):
            return replace(settle(facts, SettledAs.HANDED_OVER), case_until=until)
        case AdviceAsked(advice=advice):
            return replace(facts, advice_waiting=_with(facts.advice_waiting, advice), sorted=True)
        case (
            AdviceGiven(advice=advice)
            | AdviceOverdue(advice=advice)
            | AdviceWithdrawn(advice=advice)
            | AdviceRefused(advice=advice)
        ):
            return replace(facts, advice_waiting=_without(facts.advice_waiting, advice))
        case CaseTold(state=state, until=follows):
            return replace(facts, case_until=None if state in ENDED else follows or facts.case_until)
        case Reopened(message=message, since=since, waiting=waiting):
            return reopen(facts, merge(waiting or (Unanswered(message=message, at=since),)))
        case Replied(message=message, settle=settles, answers=answers):
            return reply(
                replace(facts, proposal_waiting=facts.proposal_waiting and event.member_id is None),
                message,
                settles,
                answers=answers,
            )
        case ReplyDelivered(message=message):
            return deliver(facts, message)
        case ReplyStuck(message=message, reason=reason):
            return stick(facts, message, reason)
        case ReplyRefused(message=message):
            return refuse(facts, message)
        case _:
            assert_never(event.what)


def _with(them: tuple[int, ...], one: int) -> tuple[int, ...]:
    return tuple(sorted({*them, one}))


def _without(them: tuple[int, ...], one: int) -> tuple[int, ...]:
    return tuple(x for x in them if x != one)


def _arrive(facts: Facts, new: Unanswered) -> Facts:
    if facts.answered_until is not None and new.at <= facts.answered_until:
        # Heard of after the answer that was given to it on the network.
        return facts
    answering = tuple(
        replace(a, settles=False, before=None, before_on=None, parked_until=None) for a in facts.answering
    )
    return replace(
        facts,
        unanswered=merge(facts.unanswered, (new,)),
        answering=answering,
        # What was urgent in a matter that is over says nothing of the next: owner and tags stay, the priority is new.
        priority=facts.priority if facts.settled_as is None else Priority.NORMAL,
        settled_as=None,
        settled_on=None,
        thanked=None,
        parked_until=None,
        parked_on=None,
    )


def _link(facts: Facts, link: Linked) -> Facts:
    """What was said in public goes on in private: who has it, and its tags, come along unless it has an owner of its own."""
    has_own = facts.settled_as is None and (facts.owner is not None or "assign" in facts.by_hand)
    brings = link.owner is not None or link.team is not None
    # Whoever answered in public is asked back: rules give it to nobody else.
    kept = {*facts.by_hand, "assign"} if link.owner is not None and not has_own else facts.by_hand
    return replace(
        facts,
        linked=_with(facts.linked, link.other),
        owner=facts.owner if has_own else link.owner,
        team=facts.team if has_own else link.team or facts.team,
        tags=tuple(sorted({*facts.tags, *link.tags})),
        sorted=facts.sorted or brings or bool(link.tags),
        by_hand=tuple(sorted(kept)),
    )


def _answer_outside(facts: Facts, at: datetime) -> Facts:
    until = max(at, facts.answered_until or at)
    answered = [u.message for a in facts.answering for u in a.covers if u.at <= until]
    left = tuple(u for u in facts.unanswered if u.at > until)
    has_answered = len(left) < len(facts.unanswered)
    answering = without_covers(facts.answering, answered)
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


def _forget(facts: Facts, message: int) -> Facts:
    return replace(
        facts,
        unanswered=drop(facts.unanswered, [message]),
        answering=without_covers(facts.answering, [message]),
        thanked=None if facts.thanked == message else facts.thanked,
    )


def replay(events: Iterable[Event], *, without: Collection[int] = ()) -> Facts:
    """The facts from a whole trail, as if what was undone had not been done, nor the events numbered in `without`."""
    trail = list(events)
    undone = list_undone(trail) | set(without)
    facts = Facts()
    for event in trail:
        facts = replace(facts, seq=event.seq) if event.seq in undone else apply(facts, event)
    return facts


def list_waiting_without(events: Iterable[Event], case: int) -> tuple[Unanswered, ...]:
    """What would wait if a conversation had not been handed over in this case: what a desk that gives it back has left
    unanswered, each since its own arrival. Thanks ask for nothing."""
    trail = list(events)
    left_out = {e.seq for e in trail if isinstance(e.what, HandedOver) and e.what.case == case}
    thanks = {e.seq for e in trail if isinstance(e.what, Arrived) and e.what.thanks}
    return replay(trail, without=left_out | thanks).unanswered


#: Acts of members that can be taken back.
UNDOABLE: tuple[type, ...] = (
    Assigned,
    Prioritised,
    Noted,
    Kept,
    Parked,
    Scheduled,
    Settled,
    Reopened,
    Replied,
    Tagged,
    Untagged,
    Watched,
    Unwatched,
    PersonTagged,
    PersonUntagged,
    Corrected,
    Moderated,
    HandedOver,
    AdviceAsked,
)
