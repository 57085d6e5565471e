"""Whom a team gives a conversation to, and how load is evened out, each with its reason (docs/trade.md 6). Used by services.

A member's load is the weight of their open work against their capacity: Urgent 4, High 2, Normal 1, Low 0.5, by common
practice, no source.
"""

from collections import Counter
from collections.abc import Iterator, Sequence
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
    #: Its owner has answered in it already.
    is_begun: bool = False
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


#: Within so much of their fair share, in weight, somebody's load is left alone: one conversation of normal priority.
STEP = 1.0
#: So many passes are proposed at most; two of them are made one as long as there are few.
MOST_PASSES = 200
_FEW = 40
#: What helps the most at first need not be part of the best: so many beginnings are tried where there are few passes.
_BEGINNINGS = 12


def even_out(candidates: Sequence[Candidate], work: Sequence[Work], *, most: int = MOST_PASSES) -> list[Pass]:
    """The fewest passes found that bring everybody within one STEP of what is fair: their part, by capacity, of all that is
    open; and that empty the desk of whoever is away. Nobody both gives and takes.

    Work that is pinned (somebody is in the middle of it) stays; what a team was given stays within it, and nobody is given a
    language they don't speak. Deterministic: the same state gives the same passes.
    """
    found: list[tuple[float, int, list[Pass]]] = []
    for first in range(_BEGINNINGS):
        evening = _Evening(candidates, work)
        evening.empty_desks(most)
        if first and not evening.begin(first):
            break
        evening.even(most)
        evening.spare()
        passes = evening.list_passes()
        found.append((round(evening.get_whole_cost(), 9), len(passes), passes))
        if len(passes) > _FEW:
            break
    # The first of the best: the same state gives the same passes.
    return min(found, key=lambda one: one[:2])[2]


@dataclass(frozen=True, kw_only=True)
class _Kind:
    """What makes two pieces of work the same for passing on."""

    owner: int
    weight: float
    language: str | None
    team: frozenset[int] | None
    is_begun: bool


class _Evening:
    """Loads as they would be, and what has been passed so far."""

    def __init__(self, candidates: Sequence[Candidate], work: Sequence[Work]) -> None:
        self._who = {c.member: c for c in candidates}
        self._loads = {c.member: 0.0 for c in candidates}
        self._opens = {c.member: 0 for c in candidates}
        self._left: dict[_Kind, list[int]] = {}
        for one in sorted(work, key=lambda w: w.conversation):
            if one.owner not in self._loads:
                continue
            self._loads[one.owner] += one.weight
            self._opens[one.owner] += 1
            if not one.is_pinned:
                kind = _Kind(owner=one.owner, weight=one.weight, language=one.language, team=one.team, is_begun=one.is_begun)  # fmt: skip
                self._left.setdefault(kind, []).append(one.conversation)
        present = sum(c.capacity for c in candidates if not c.is_away)
        share = sum(self._loads.values()) / present if present else 0.0
        self._fair = {c.member: share * c.capacity for c in candidates}
        self._passes: list[tuple[_Kind, int, int]] = []
        self._gives, self._takes = Counter[int](), Counter[int]()

    def _cost(self, member: int, load: float) -> float:
        """By how much a load lies beyond one step of what is fair; too little counts only for who can be given more."""
        who, off = self._who[member], load - self._fair[member]
        if who.is_away:
            return max(0.0, load)
        if off < 0 and (who.is_off_shift or self._opens[member] >= who.capacity):
            return 0.0
        return max(0.0, abs(off) - STEP)

    def _get_gain(self, kind: _Kind, taker: int) -> float:
        giver, load = kind.owner, self._loads
        before = self._cost(giver, load[giver]) + self._cost(taker, load[taker])
        after = self._cost(giver, load[giver] - kind.weight) + self._cost(taker, load[taker] + kind.weight)
        return before - after

    def _may_take(self, taker: int, kind: _Kind) -> bool:
        who = self._who[taker]
        if taker == kind.owner or who.is_away or who.is_off_shift or self._opens[taker] >= who.capacity:
            return False
        if self._gives[taker] or self._takes[kind.owner]:
            return False
        return _fits(who, kind)

    def _pass(self, kind: _Kind, taker: int) -> None:
        conversation = self._left[kind].pop(0)
        self._passes.append((kind, taker, conversation))
        self._gives[kind.owner] += 1
        self._takes[taker] += 1
        self._loads[kind.owner] -= kind.weight
        self._loads[taker] += kind.weight
        self._opens[kind.owner] -= 1
        self._opens[taker] += 1

    def _take_back(self, at: int) -> tuple[_Kind, int]:
        kind, taker, conversation = self._passes.pop(at)
        self._left[kind] = sorted([*self._left[kind], conversation])
        self._gives[kind.owner] -= 1
        self._takes[taker] -= 1
        self._loads[kind.owner] += kind.weight
        self._loads[taker] -= kind.weight
        self._opens[kind.owner] += 1
        self._opens[taker] -= 1
        return kind, taker

    def empty_desks(self, most: int) -> None:
        """Whoever is away gives all they can: the heaviest first, each to whoever it leaves furthest below their share."""
        away = [kind for kind in self._left if self._who[kind.owner].is_away]
        for kind in sorted(away, key=lambda k: (-k.weight, k.owner, k.language or "")):
            while self._left[kind] and len(self._passes) < most:
                fitting = [m for m in self._who if self._may_take(m, kind)]
                if not fitting:
                    break

                def get_share(m: int, weight: float = kind.weight) -> tuple[float, int]:
                    return ((self._loads[m] + weight - self._fair[m]) / max(self._who[m].capacity, 1), m)

                self._pass(kind, min(fitting, key=get_share))

    def even(self, most: int) -> None:
        """Of all passes the one that helps the most, again and again, until none helps."""
        while len(self._passes) < most and (best := self._find_best()) is not None:
            self._pass(*best)

    def begin(self, place: int) -> bool:
        """Begin with the pass at this place among those that help; whether there is one."""
        ranked = sorted(self._list_ranked(), key=lambda one: one[0], reverse=True)
        if place >= len(ranked):
            return False
        self._pass(*ranked[place][1])
        return True

    def _find_best(self) -> tuple[_Kind, int] | None:
        best = max(self._list_ranked(), key=lambda one: one[0], default=None)
        return best[1] if best else None

    def _list_ranked(self) -> Iterator[tuple[tuple[float, bool, float, int, int], tuple[_Kind, int]]]:
        for kind, left in self._left.items():
            if not left or self._who[kind.owner].is_away:
                continue
            for taker in self._who:
                if not self._may_take(taker, kind):
                    continue
                gain = self._get_gain(kind, taker)
                # What nobody has begun is passed on rather than what somebody has; the rest keeps it the same each time.
                rank = (round(gain, 9), not kind.is_begun, kind.weight, -left[0], -taker)
                if gain > 1e-9:
                    yield rank, (kind, taker)

    def spare(self) -> None:
        """Passes that turned out not to be needed are taken back, and two are made one where that does as well."""
        while self._spare_one() or (len(self._passes) <= _FEW and self._join_two()):
            pass

    def _spare_one(self) -> bool:
        for at, (kind, taker, _) in enumerate(self._passes):
            if self._who[kind.owner].is_away:
                continue
            self._take_back(at)
            if self._get_gain(kind, taker) <= 1e-9:
                return True
            self._pass(kind, taker)
            self._passes.insert(at, self._passes.pop())
        return False

    def _join_two(self) -> bool:
        for later in range(len(self._passes)):
            for earlier in range(later):
                pair = [self._passes[n] for n in (earlier, later)]
                if any(self._who[kind.owner].is_away for kind, _, _ in pair):
                    continue
                before = self.get_whole_cost()
                for at in (later, earlier):
                    self._take_back(at)
                best = self._find_best()
                if best is not None:
                    self._pass(*best)
                    if self.get_whole_cost() <= before + 1e-9:
                        return True
                    self._take_back(len(self._passes) - 1)
                for n, (kind, taker, _) in zip((earlier, later), pair, strict=True):
                    self._pass(kind, taker)
                    self._passes.insert(n, self._passes.pop())
        return False

    def get_whole_cost(self) -> float:
        """How far all loads together lie beyond one step of what is fair."""
        return sum(self._cost(m, load) for m, load in self._loads.items())

    def list_passes(self) -> list[Pass]:
        """What has been passed, in the order in which it was found."""
        return [Pass(conversation=c, giver=kind.owner, taker=taker) for kind, taker, c in self._passes]


def _fits(taker: Candidate, one: "Work | _Kind") -> bool:
    speaks = one.language is None or not taker.languages or one.language in taker.languages
    return speaks and (one.team is None or taker.member in one.team)
