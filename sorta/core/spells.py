"""Answer spells: each stretch in which they wait for us, folded from a conversation's trail. All that is measured hangs on these.

docs/metrics.md tells the rules in words, with an example each. The fold looks at a whole trail with what is known by its end: a
reply that was refused never answered, one that came late answered when it was out. Used by services.spells.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from enum import StrEnum

from sorta.core.events import (
    AnsweredOutside,
    Arrived,
    Event,
    HandedOver,
    Removed,
    Reopened,
    Replied,
    ReplyDelivered,
    ReplyRefused,
    ReplyStuck,
    Settled,
    Undone,
    list_undone,
)
from sorta.core.facts import Facts, SettledAs
from sorta.core.moves import apply


class Ending(StrEnum):
    """What ended a spell."""

    #: Our answer went out, by a member or a rule.
    ANSWERED = "answered"
    #: An answer was given on the network itself.
    OUTSIDE = "outside"
    #: It was settled without an answer.
    SETTLED = "settled"
    #: It was handed over to another desk.
    HANDED_OVER = "handed_over"
    #: They took back what waited.
    REMOVED = "removed"


#: Whoever has had a conversation open for longer than this has done something else meanwhile.
LONGEST_HANDLING = timedelta(minutes=30)


class Phase(StrEnum):
    """Where a conversation stood while they waited; they wait all the same."""

    UNSORTED = "unsorted"
    OURS = "ours"
    IN_REVIEW = "in_review"
    PARKED = "parked"
    #: Asked of somebody outside, by mail.
    ADVICE = "advice"
    #: At another desk, which gave it back.
    CASE = "case"


@dataclass(frozen=True, kw_only=True)
class End:
    """What ended a spell, and when; `facts` are the conversation's as they stood then, `seq` the trail's number of the event."""

    at: datetime
    by: Ending
    seq: int
    facts: Facts
    #: How it was settled, where that ended it.
    how: SettledAs | None = None
    #: Who ended it: a member, a rule, or neither (an answer on the network, a removal).
    member: int | None = None
    rule: int | None = None
    #: The reply that answered, and how long its author had it open to write in, where that is known.
    reply: int | None = None
    handling: timedelta | None = None


@dataclass(frozen=True, kw_only=True)
class Spell:
    """One stretch in which they waited, from their earliest unanswered message.

    `seq` is the number of the event that opened it, and its key within the conversation. `phases` say since when it stood where,
    the first since `since`. `waiting` are the messages that wait, while it is open.
    """

    seq: int
    since: datetime
    first: bool
    phases: tuple[tuple[datetime, Phase], ...]
    waiting: tuple[int, ...] = ()
    end: End | None = None

    @property
    def ended_at(self) -> datetime | None:
        """When it ended; None while it is open."""
        return None if self.end is None else self.end.at


def get_phase(facts: Facts, at: datetime) -> Phase:
    """Where a conversation in which they wait stands at an instant, in the order of precedence of `core.facts.get_move`."""
    if facts.proposal_waiting:
        return Phase.IN_REVIEW
    if facts.parked_until is not None and at < facts.parked_until:
        return Phase.PARKED
    if facts.advice_waiting:
        return Phase.ADVICE
    return Phase.OURS if facts.sorted else Phase.UNSORTED


def get_handling(opened_at: datetime, sent_at: datetime) -> float:
    """Seconds it took to answer, estimated: from opening the conversation, which stayed open, to sending; capped."""
    return round(min(max(sent_at - opened_at, timedelta()), LONGEST_HANDLING).total_seconds(), 1)


def measure_phases(spell: Spell, until: datetime) -> dict[Phase, timedelta]:
    """How long it stood where, up to its end or `until`; together as long as the spell."""
    over = until if spell.ended_at is None else spell.ended_at
    spent = {phase: timedelta() for phase in Phase}
    edges = [*(at for at, _ in spell.phases[1:]), over]
    begun = spell.since
    for (_, phase), ends in zip(spell.phases, edges, strict=True):
        ends = min(max(ends, begun), over)
        spent[phase] += ends - begun
        begun = ends
    return spent


def get_phase_at(spell: Spell, at: datetime) -> Phase | None:
    """Where it stood at an instant; None while nobody waited."""
    if at < spell.since or (spell.ended_at is not None and at >= spell.ended_at):
        return None
    return next((phase for begun, phase in reversed(spell.phases) if begun <= at), spell.phases[0][1])


def may_change(before: Facts, event: Event, after: Facts) -> bool:
    """Whether the spells told so far are others after an event; a test holds this to `fold`."""
    if isinstance(event.what, Undone | ReplyStuck | ReplyRefused):
        return True
    if isinstance(event.what, ReplyDelivered):
        message = event.what.message
        return any(a.message == message and a.stuck is not None for a in before.answering)
    if before.unanswered != after.unanswered:
        # One more message of theirs within a spell is no news, unless it was sent before all others.
        return (
            not isinstance(event.what, Arrived)
            or before.awaiting_since != after.awaiting_since
            or _stands(before) != _stands(after)
        )
    return bool(after.unanswered) and _stands(before) != _stands(after)


def _stands(facts: Facts) -> tuple[object, ...]:
    return facts.proposal_waiting, facts.parked_until, bool(facts.advice_waiting), facts.sorted


def fold(events: Iterable[Event]) -> tuple[Spell, ...]:
    """The spells of a conversation, in the order in which they opened, from its whole trail.

    What was undone is left out, as if it had not been done. Raises ValueError for a trail that is none (see `core.moves.apply`).
    """
    trail = list(events)
    undone = list_undone(trail)
    effective = [e for e in trail if e.seq not in undone]
    folding = _Folding(fates=_list_fates(effective))
    facts = Facts()
    for event in trail:
        if event.seq in undone:
            facts = replace(facts, seq=event.seq)
            continue
        after = apply(facts, event)
        folding.take(event, facts, after)
        facts = after
    return tuple(_read(spell) for spell in folding.spells)


class _Fate(StrEnum):
    """What became of a reply, as far as is known."""

    #: Out in its time, or still within it.
    IN_TIME = "in_time"
    #: Out, but later than it should.
    LATE = "late"
    #: ReplyRefused, or not out although its time is over.
    NEVER = "never"


def _list_fates(events: Sequence[Event]) -> dict[int, _Fate]:
    fates: dict[int, _Fate] = {}
    for event in events:
        match event.what:
            case ReplyStuck(message=message) | ReplyRefused(message=message):
                fates[message] = _Fate.NEVER
            case ReplyDelivered(message=message) if message in fates:
                fates[message] = _Fate.LATE
            case _:
                pass
    return fates


@dataclass(frozen=True)
class _Answer:
    """A reply, and its entry in the trail."""

    reply: Replied
    sent: Event


@dataclass
class _Open:
    """A spell while it is told."""

    seq: int
    since: datetime
    first: bool
    #: What of theirs waits in it, each with its arrival.
    waiting: dict[int, datetime]
    phases: list[tuple[datetime, Phase]]
    #: When a parking is over, and where it stands then.
    back: tuple[datetime, Phase] | None = None
    end: End | None = None


@dataclass
class _Folding:
    """What is told so far: the spells, the last of them open while anything waits."""

    fates: Mapping[int, _Fate]
    spells: list[_Open] = field(default_factory=list)
    #: The spell in which each message of theirs waited last.
    last: dict[int, _Open] = field(default_factory=dict)
    open: _Open | None = None
    replied: dict[int, "_Answer"] = field(default_factory=dict)

    def take(self, event: Event, before: Facts, after: Facts) -> None:
        """One more event that stands, with the facts before and after it."""
        match event.what:
            case Arrived(message=message):
                known = {u.message for u in before.unanswered}
                for one in after.unanswered:
                    if one.message not in known and one.message == message:
                        self._wait(one.message, one.at, one.at, event, after)
            case Reopened():
                self._reopen(event, before, after)
            case Replied(message=message) as reply:
                self.replied[message] = _Answer(reply, event)
                if self.fates.get(message, _Fate.IN_TIME) is _Fate.IN_TIME:
                    covered = [u.message for a in after.answering if a.message == message for u in a.covers]
                    self._answer(covered, event, self.replied[message], after)
            case ReplyDelivered(message=message):
                if self.fates.get(message) is _Fate.LATE and message in self.replied:
                    covered = [u.message for a in before.answering if a.message == message for u in a.covers]
                    self._answer(covered, event, self.replied[message], after)
            case Settled(how=how):
                self._end_all(event, Ending.SETTLED, how, after)
            case HandedOver():
                self._end_all(event, Ending.HANDED_OVER, SettledAs.HANDED_OVER, after)
            case Removed(message=message):
                self._drop([message], event, _make_end(event, after, Ending.REMOVED))
            case AnsweredOutside() if self.open is not None:
                until = after.answered_until or event.at
                answered = [m for m, at in self.open.waiting.items() if at <= until]
                self._drop(answered, event, _make_end(event, after, Ending.OUTSIDE))
            case _:
                pass
        if self.open is not None:
            _note_phase(self.open, event.at, after)

    def _wait(self, message: int, arrived: datetime, since: datetime, event: Event, after: Facts) -> None:
        """A message of theirs that arrived then waits, and has since an instant."""
        if self.open is None:
            phase = get_phase(after, event.at)
            self.open = _Open(
                seq=event.seq,
                since=since,
                first=not self.spells,
                waiting={},
                phases=[(since, phase)],
            )
            self.spells.append(self.open)
        if all(arrived < other for other in self.open.waiting.values()):
            # Heard of late, and sent before all that waits.
            self.open.since = min(self.open.since, since)
        self.open.waiting[message] = arrived
        self.last[message] = self.open

    def _reopen(self, event: Event, before: Facts, after: Facts) -> None:
        """What ended without an answer goes on as if it had not ended; what had been answered begins anew at this moment."""
        waited = {u.message for u in before.unanswered}
        for one in after.unanswered:
            if one.message in waited or (self.open is not None and one.message in self.open.waiting):
                continue
            spell = self.last.get(one.message)
            if spell is None:
                self._wait(one.message, one.at, one.at, event, after)
            elif (
                spell.end is not None
                and spell.end.by in (Ending.SETTLED, Ending.HANDED_OVER)
                and self.open in (None, spell)
            ):
                self._resume(spell, spell.end)
                spell.waiting[one.message] = one.at
            else:
                self._wait(one.message, one.at, event.at, event, after)

    def _resume(self, spell: _Open, end: End) -> None:
        if end.by is Ending.HANDED_OVER:
            # With the other desk they waited, and not for us alone.
            spell.phases.append((end.at, Phase.CASE))
        spell.end, spell.waiting = None, {}
        self.open = spell

    def _answer(self, covered: Sequence[int], event: Event, answer: "_Answer", after: Facts) -> None:
        """A reply counts as the answer to these from the event on."""
        took = answer.reply.took
        end = replace(
            _make_end(event, after, Ending.ANSWERED),
            member=answer.sent.member_id,
            rule=_get_rule(answer.sent),
            reply=answer.reply.message,
            handling=None if took is None else timedelta(seconds=took),
        )
        self._drop(covered, event, end)

    def _end_all(self, event: Event, by: Ending, how: SettledAs, after: Facts) -> None:
        rests_on = after.settled_on
        if rests_on is not None and self.fates.get(rests_on, _Fate.IN_TIME) is not _Fate.IN_TIME:
            # What rested on a reply that never was, or came late, falls with it.
            return
        end = replace(
            _make_end(event, after, by),
            how=how,
            member=event.member_id,
            rule=_get_rule(event),
        )
        if self.open is not None:
            self._end(self.open, end)

    def _drop(self, messages: Sequence[int], event: Event, end: End) -> None:
        """These wait no more, which may end the spell. What is left of it when some are answered is a spell of its own."""
        spell = self.open
        dropped = [m for m in messages if spell is not None and m in spell.waiting]
        if spell is None or not dropped:
            return
        left = {m: at for m, at in spell.waiting.items() if m not in dropped}
        if left and end.by is Ending.REMOVED:
            # As if they had not written that: it waits since what is left.
            spell.waiting = left
            spell.since = max(spell.since, min(left.values()))
            return
        self._end(spell, end)
        for message, arrived in sorted(left.items(), key=lambda one: (one[1], one[0])):
            self._wait(message, arrived, max(spell.since, arrived), event, end.facts)

    def _end(self, spell: _Open, end: End) -> None:
        spell.end = replace(end, at=max(spell.since, end.at))
        _end_parking(spell, spell.end.at)
        spell.back = None
        self.open = None


def _make_end(event: Event, after: Facts, why: Ending) -> End:
    return End(at=event.at, by=why, seq=event.seq, facts=after)


def _get_rule(event: Event) -> int | None:
    return None if event.rule is None else event.rule.id


def _note_phase(spell: _Open, at: datetime, facts: Facts) -> None:
    """Where it stands from an event on. What is heard of late changes nothing before what is known already."""
    _end_parking(spell, at)
    begun, stood = spell.phases[-1]
    at = max(at, begun)
    phase = get_phase(facts, at)
    if phase is not stood:
        spell.phases = [*(spell.phases[:-1] if at == begun else spell.phases), (at, phase)]
    spell.back = None
    if phase is Phase.PARKED and facts.parked_until is not None:
        spell.back = (facts.parked_until, get_phase(replace(facts, parked_until=None), facts.parked_until))


def _end_parking(spell: _Open, by: datetime | None) -> None:
    """A parking ends at its time, also when that is noted a moment later."""
    if spell.back is not None and (by is None or spell.back[0] <= by):
        spell.phases.append(spell.back)
        spell.back = None


def _read(spell: _Open) -> Spell:
    _end_parking(spell, None)
    return Spell(
        seq=spell.seq,
        since=spell.since,
        first=spell.first,
        phases=tuple(spell.phases),
        waiting=tuple(sorted(spell.waiting)) if spell.end is None else (),
        end=spell.end,
    )
