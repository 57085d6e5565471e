"""Replies on their way: what they answer, what rests on them, and what becomes of that when they are out, late or refused.

Used by `core.moves`. The rules stand in docs/moves.md in words; tests/core/model.py holds all of it against them.
"""

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime

from sorta.core.facts import Answering, Facts, SettledAs, Unanswered


def merge(*groups: tuple[Unanswered, ...]) -> tuple[Unanswered, ...]:
    """All of them, each once, in the order of their arrival."""
    by_message = {u.message: u for group in groups for u in group}
    return tuple(sorted(by_message.values(), key=lambda u: (u.at, u.message)))


def drop(them: tuple[Unanswered, ...], messages: Iterable[int]) -> tuple[Unanswered, ...]:
    """Without these messages."""
    gone = set(messages)
    return tuple(u for u in them if u.message not in gone)


def without_covers(answering: tuple[Answering, ...], messages: Iterable[int]) -> tuple[Answering, ...]:
    """Replies that no longer answer these messages."""
    gone = set(messages)
    return tuple(replace(a, covers=drop(a.covers, gone)) for a in answering)


def decide_anew(facts: Facts) -> Facts:
    """A person decided about it: what replies on their way had ended or asked for does not come back."""
    answering = tuple(replace(a, parked_until=None, settles=a.settles and a.stuck is None) for a in facts.answering)
    return replace(facts, answering=answering)


def _get_live(facts: Facts) -> Answering | None:
    """The newest reply on its way that answers something and is not stuck."""
    return next((a for a in reversed(facts.answering) if a.covers and a.stuck is None), None)


def park(facts: Facts, until: datetime) -> Facts:
    """Hidden until its time; with nothing of theirs waiting it is parked because it has been answered: that rests on the answer."""
    # With nothing of theirs waiting it is parked because it has been answered: that rests on the answer.
    rests_on = None if facts.unanswered or facts.settled_as else _get_live(facts)
    return replace(
        decide_anew(facts),
        parked_until=until,
        parked_on=rests_on.message if rests_on else None,
        proposal_waiting=False,
        sorted=True,
    )


def settle(facts: Facts, how: SettledAs) -> Facts:
    """Off the desk. As answered, with nothing waiting but what a reply on its way answers, it rests on that reply."""
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


def reopen(facts: Facts, waiting: tuple[Unanswered, ...]) -> Facts:
    """With us again: these messages of theirs wait."""
    answering = tuple(replace(a, settles=False) for a in facts.answering)
    return replace(
        facts,
        settled_as=None,
        settled_on=None,
        thanked=None,
        unanswered=merge(facts.unanswered, waiting),
        # A person says that it waits: a reply that is on its way does not make it answered.
        answering=without_covers(answering, [u.message for u in waiting]),
        sorted=True,
    )


def reply(facts: Facts, message: int, settles: bool, *, answers: bool) -> Facts:
    """A reply is under way: it answers all they have said, or (by a rule) only acknowledges."""
    if not answers:
        # An acknowledgement by rule: they still wait for an answer.
        acknowledging = Answering(message=message, covers=(), settles=False, acknowledges=True)
        return replace(facts, sorted=True, answering=(*facts.answering, acknowledging))
    answering = Answering(
        message=message,
        covers=merge(facts.unanswered, *(a.covers for a in facts.answering)),
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


def deliver(facts: Facts, message: int) -> Facts:
    """It stands outside: what it covers is answered for good, by whatever reply it was to be."""
    out = next((a for a in facts.answering if a.message == message), None)
    if out is None:
        return facts
    answered = [u.message for u in out.covers]
    unanswered = drop(facts.unanswered, answered)
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
        answering=without_covers((*earlier, *later), answered),
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
        unanswered=merge(facts.unanswered, drop(out.covers, still)),
        settled_as=settled_as,
        settled_on=out.before_on if rested else facts.settled_on,
        parked_until=None if parked else facts.parked_until,
        parked_on=None if parked else facts.parked_on,
    )


def stick(facts: Facts, message: int, reason: str) -> Facts:
    """A reply is not out although its time is over: nothing that it answers counts as answered, until it goes out."""
    out = next((a for a in facts.answering if a.message == message), None)
    if out is None:
        return facts
    back = facts if out.stuck is not None else _take_back(facts, out)
    answering = tuple(replace(a, stuck=reason) if a.message == message else a for a in back.answering)
    return replace(back, answering=answering)


def refuse(facts: Facts, message: int) -> Facts:
    """A reply will never be out: all that rested on it does not stand any more."""
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
