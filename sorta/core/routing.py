"""Whom a team gives a conversation to, and how load is evened out, each with its reason (PRODUCT.md 6). Used by services.

A member's load is the weight of their open work against their capacity: Urgent 4, High 2, Normal 1, Low 0.5, by common
practice, no source.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from sorta.core.targets import Priority

WEIGHTS = {Priority.URGENT: 4.0, Priority.HIGH: 2.0, Priority.NORMAL: 1.0, Priority.LOW: 0.5}
#: Open conversations that somebody without a capacity of their own is given at most.
DEFAULT_CAPACITY = 40


class Way(StrEnum):
    """How a team chooses among its members."""

    IN_TURN = "in_turn"
    LIGHTEST = "lightest"
    KNOWN = "known"


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """A member of a team as of now. `load` is weighed, `open` counted; `given_at` is when they were last given one;
    `knew_at` when they last answered the person. Empty `languages` means any."""

    member: int
    name: str
    open: int = 0
    load: float = 0.0
    capacity: int = DEFAULT_CAPACITY
    is_away: bool = False
    is_off_shift: bool = False
    languages: frozenset[str] = frozenset()
    given_at: datetime | None = None
    knew_at: datetime | None = None


@dataclass(frozen=True, kw_only=True)
class Choice:
    """Who gets it, why, and who was passed over for what; nobody when all were."""

    member: int | None
    reason: str
    passed: tuple[tuple[int, str], ...] = ()


def get_unavailability(who: Candidate, language: str | None) -> str | None:
    """Why somebody cannot be given work now; None when they can."""
    if who.is_away:
        return "away"
    if who.is_off_shift:
        return "off shift"
    if who.open >= who.capacity:
        return "at capacity"
    if language is not None and who.languages and language not in who.languages:
        return f"no {language}"
    return None


def choose(way: Way, candidates: Sequence[Candidate], *, language: str | None = None) -> Choice:
    """Choose by the team's way among those who can take it now.

    A language that nobody available speaks is no hindrance: then it is not asked for. Ties go to whoever was given
    one the longest ago, then to the lower number, so that the same state gives the same choice.
    """
    passed = [(c.member, get_unavailability(c, language)) for c in candidates]
    free = [c for c, (_, why) in zip(candidates, passed, strict=True) if why is None]
    if not free and language is not None:
        return choose(way, candidates)
    left_out = tuple((member, why) for member, why in passed if why is not None)
    if not free:
        return Choice(member=None, reason="nobody is available; it stays with the team", passed=left_out)
    by_turn = sorted(free, key=_turn)
    if way is Way.KNOWN:
        known = [(c.knew_at, c) for c in by_turn if c.knew_at is not None]
        if known:
            _, who = max(known, key=lambda pair: (pair[0], -pair[1].member))
            return Choice(member=who.member, reason="knew the person last", passed=left_out)
    if way is Way.IN_TURN:
        return Choice(member=by_turn[0].member, reason="in turn", passed=left_out)
    who = min(by_turn, key=lambda c: (c.load / c.capacity, *_turn(c)))
    words = f"lightest load, {who.open} open"
    return Choice(
        member=who.member, reason=words if way is Way.LIGHTEST else f"nobody knew them: {words}", passed=left_out
    )


def _turn(who: Candidate) -> tuple[float, int]:
    return (who.given_at.timestamp() if who.given_at else float("-inf"), who.member)


@dataclass(frozen=True, kw_only=True)
class Work:
    """One open conversation that could be passed across; with `team` only within that team's members."""

    conversation: int
    owner: int
    priority: Priority
    language: str | None = None
    is_pinned: bool = False
    team: frozenset[int] | None = None

    @property
    def weight(self) -> float:
        return WEIGHTS[self.priority]


@dataclass(frozen=True, kw_only=True)
class Pass:
    """A proposal: one conversation from one member to another."""

    conversation: int
    giver: int
    taker: int


def even_out(candidates: Sequence[Candidate], work: Sequence[Work], *, most: int = 100) -> list[Pass]:
    """Passes that bring loads, measured against capacity, closer together; each lowers the highest share or empties
    the desk of somebody who is away.

    Work that is pinned (in review, or being written on) stays. Deterministic: the same state gives the same passes.
    """
    by_member = {c.member: c for c in candidates}
    loads = {c.member: 0.0 for c in candidates}
    opens = {c.member: 0 for c in candidates}
    mine: dict[int, list[Work]] = {c.member: [] for c in candidates}
    for one in work:
        if one.owner in loads:
            loads[one.owner] += one.weight
            opens[one.owner] += 1
            if not one.is_pinned:
                mine[one.owner].append(one)
    passes: list[Pass] = []
    for pile in mine.values():
        pile.sort(key=lambda w: (w.weight, w.conversation))
    while len(passes) < most:
        step = _find_pass(by_member, loads, opens, mine)
        if step is None:
            break
        one, taker = step
        mine[one.owner].remove(one)
        loads[one.owner] -= one.weight
        opens[one.owner] -= 1
        loads[taker] += one.weight
        opens[taker] += 1
        passes.append(Pass(conversation=one.conversation, giver=one.owner, taker=taker))
    return passes


def _share(who: Candidate, load: float) -> float:
    return load / max(who.capacity, 1)


def _find_pass(
    by_member: Mapping[int, Candidate],
    loads: Mapping[int, float],
    opens: Mapping[int, int],
    mine: Mapping[int, list[Work]],
) -> tuple[Work, int] | None:
    """The next pass, from the most loaded who has something to give; None when nothing gets better."""

    def is_gone(member: int) -> bool:
        return by_member[member].is_away

    takers = [m for m, c in by_member.items() if not c.is_away and not c.is_off_shift and opens[m] < c.capacity]
    givers = sorted(
        (m for m in by_member if mine[m]), key=lambda m: (not is_gone(m), -_share(by_member[m], loads[m]), m)
    )
    for giver in givers:
        for one in reversed(mine[giver]):
            fitting = [t for t in takers if t != giver and _fits(by_member[t], one)]
            if not fitting:
                continue
            taker = min(fitting, key=lambda t: (_share(by_member[t], loads[t] + one.weight), t))
            after = _share(by_member[taker], loads[taker] + one.weight)
            if is_gone(giver) or after < _share(by_member[giver], loads[giver]) - 1e-9:
                return one, taker
    return None


def _fits(taker: Candidate, one: Work) -> bool:
    speaks = one.language is None or not taker.languages or one.language in taker.languages
    return speaks and (one.team is None or taker.member in one.team)
