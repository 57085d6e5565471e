"""What if: days that are over played again with other people, hours, targets or rules, many times with other luck. Used by
services.replays.

A discrete-event simulation, for where Erlang's formula (core.staffing) does not hold: people come and go by their shifts, some things
are more pressing than others, teams give work out, and nobody holds more than their capacity. What came in comes in again at its time.
Whoever is on shift and free takes what is due first, of what they were given and of what lies with their teams, finishes what they
began, and begins nothing after their shift. How long an answer takes is drawn from answers that were timed. Between one thing and the
next, and when nothing waits, other things are done: a pause of random length, whose mean is found by playing the days as they were (`fit`).

Checked in tests/core/test_replay.py against queues whose waits are known. Instants and lengths are seconds, instants since 1970.
"""

import heapq
import math
from collections.abc import Awaitable, Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum
from typing import Protocol

import numpy as np
import numpy.typing as npt

from sorta.core.intervals import TAIL
from sorta.core.routing import Way
from sorta.core.staffing import ASSUMED_HANDLING
from sorta.core.waits import Counting

Numbers = npt.NDArray[np.float64]

#: An instant that does not come: what is still open, what nothing takes away.
NEVER = 1e12
#: What reading and settling without an answer takes, in seconds; common practice, no source.
SETTLING = 30.0
#: Played so often: of the figures' values the middle 95 of 100 are told.
RUNS = 200
#: More is not played: it would take more than some minutes.
MOST_WORK = 40_000
#: Between one thing and the next nobody is taken to pause longer, on the average.
LONGEST_PAUSE = 8 * 3600.0
_FIT_RUNS = 5
_FIT_STEPS = 9


class Task(IntEnum):
    """What a wait asks of people."""

    #: Nothing: a rule, the network or they themselves ended it, then as now.
    NOTHING = 0
    ANSWER = 1
    SETTLE = 2


@dataclass(frozen=True, kw_only=True)
class Person:
    """Somebody who works: when, from which queues, and how many open conversations they hold at most. 0 is who is not there yet."""

    id: int
    shifts: Sequence[tuple[float, float]]
    queues: Sequence[int]
    capacity: int


@dataclass(frozen=True, kw_only=True)
class Queue:
    """Waits that the same people take. `way` is how the team gives them out, None where whoever is free takes them; `stand_ins` are
    the places in Scene.people of those who are given one when nobody of those whose queue it is can take it."""

    way: Way | None = None
    stand_ins: Sequence[int] = ()


@dataclass(frozen=True, kw_only=True)
class Scene:
    """What is played, from `begins` to `ends`; columns hold a value for each wait, those waits in the order of their beginning."""

    begins: float
    ends: float
    people: Sequence[Person]
    queues: Sequence[Queue]
    #: When the workspace is open, in order; waiting is counted in it.
    open: Sequence[tuple[float, float]]
    since: Sequence[float]
    queue: Sequence[int]
    task: Sequence[int]
    #: Whether an answer ended it, or would have; and whether it is the first wait of its conversation.
    answers: Sequence[bool]
    first: Sequence[bool]
    weight: Sequence[float]
    #: Working seconds within which an answer is promised.
    promised: Sequence[float]
    #: How long it stood parked, in review, with others, once somebody had it: it does so again.
    stood: Sequence[float]
    #: When it goes away by itself; of what asks nothing of people, when it ended.
    leaves: Sequence[float]


@dataclass(frozen=True, kw_only=True)
class Played:
    """When each wait ended (NEVER: not by the end), and how long each person was busy with them."""

    ended: Numbers
    busy: Sequence[float]


class OpenTime:
    """Working time as a line that rises while it is open: for many instants at once."""

    def __init__(self, spans: Sequence[tuple[float, float]]) -> None:
        """`spans` are in order and do not overlap."""
        edges = np.array(spans, dtype=np.float64).reshape(-1)
        lengths = edges[1::2] - edges[::2]
        self._edges = edges
        self._passed = np.repeat(np.cumsum(np.append(0.0, lengths)), 2)[1:-1]

    def measure(self, at: Numbers) -> Numbers:
        """What was open up to each instant, since the first of the spans; nothing opens before or after them."""
        if not len(self._edges):
            return np.zeros(len(at))
        return np.asarray(np.interp(at, self._edges, self._passed), dtype=np.float64)


@dataclass
class Standing:
    """Where somebody stands meanwhile: until when they are there, and what they hold, as core.routing weighs it."""

    until: float = -math.inf
    is_busy: bool = False
    #: Since when they have nothing to do and would begin at once; None while they are not there, busy or not looking.
    idle_since: float | None = None
    load: float = 0.0
    held: int = 0
    given_at: float = -math.inf
    #: The look that counts, of those that were planned.
    look: int = 0


def give_out(
    way: Way, groups: Sequence[Sequence[int]], standing: Sequence[Standing], capacities: Sequence[int], now: float
) -> int | None:
    """Whom a team gives something to, of the first of the groups in which anybody can take it; None where nobody can. As
    core.routing.choose does it, with whom a test holds it together; but who knew the person is not known here."""
    for members in groups:
        free = [n for n in members if standing[n].until > now and standing[n].held < capacities[n]]
        if free and way is Way.IN_TURN:
            return min(free, key=lambda n: (standing[n].given_at, n))
        if free:
            return min(free, key=lambda n: (standing[n].load / capacities[n], standing[n].given_at, n))
    return None


_BEGINS, _LOOKS, _ENDS = 0, 1, 2
_Heap = list[tuple[float, int]]


class _Play:
    """One run."""

    def __init__(self, scene: Scene, due: Sequence[float], handling: Sequence[float], pause: float, seed: int) -> None:
        self._scene, self._due, self._handling, self._pause = scene, due, handling, pause
        # By who they are: somebody has the same luck whoever else is there.
        self._dice = [
            np.random.default_rng([seed, person.id, 0 if person.id else n]) for n, person in enumerate(scene.people)
        ]
        self._at = [Standing() for _ in scene.people]
        self._capacities = [person.capacity for person in scene.people]
        self._pools: list[_Heap] = [[] for _ in scene.queues]
        self._piles: list[_Heap] = [[] for _ in scene.people]
        self._reach = [
            [self._piles[n], *(self._pools[q] for q in person.queues)] for n, person in enumerate(scene.people)
        ]
        self._takers: list[list[int]] = [[] for _ in scene.queues]
        for n, person in enumerate(scene.people):
            for q in person.queues:
                self._takers[q].append(n)
        self.ended = [NEVER] * len(scene.since)
        self.busy = [0.0] * len(scene.people)
        # What comes: when, which one of these that come at once, what, who, and what it is about.
        self._coming: list[tuple[float, int, int, int, float]] = []
        self._count = 0
        for n, person in enumerate(scene.people):
            for starts, until in person.shifts:
                self._plan(starts, _BEGINS, n, until)

    def _plan(self, at: float, what: int, who: int, about: float) -> None:
        self._count += 1
        heapq.heappush(self._coming, (at, self._count, what, who, about))

    def run(self) -> None:
        scene, coming = self._scene, self._coming
        works = [n for n, task in enumerate(scene.task) if task != Task.NOTHING]
        place = 0
        while True:
            at = coming[0][0] if coming else NEVER
            # What somebody ends or begins at the instant at which something comes in comes first.
            if place < len(works) and scene.since[works[place]] < at:
                work = works[place]
                place += 1
                if scene.since[work] >= scene.ends:
                    return
                self._arrive(work, max(scene.since[work], scene.begins))
                continue
            if at > scene.ends:
                return
            at, number, what, who, about = heapq.heappop(coming)
            if what == _ENDS:
                self._end(who, int(about), at)
            elif what == _BEGINS:
                self._at[who].until = about
                if not self._at[who].is_busy:
                    self._rest(who, at)
            elif self._at[who].look == number and not self._at[who].is_busy:
                self._look(who, at)

    def _arrive(self, work: int, now: float) -> None:
        queue = self._scene.queues[self._scene.queue[work]]
        entry = (self._due[work], work)
        if queue.way is not None:
            groups = (self._takers[self._scene.queue[work]], queue.stand_ins)
            who = give_out(queue.way, groups, self._at, self._capacities, now)
            if who is not None:
                at = self._at[who]
                at.held += 1
                at.load += self._scene.weight[work]
                at.given_at = now
                heapq.heappush(self._piles[who], entry)
                if at.idle_since is not None:
                    self._look(who, now)
                return
        heapq.heappush(self._pools[self._scene.queue[work]], entry)
        idle = [
            (at.idle_since, n)
            for n in self._takers[self._scene.queue[work]]
            if (at := self._at[n]).idle_since is not None and at.until > now
        ]
        if idle:
            self._look(min(idle)[1], now)

    def _look(self, who: int, now: float) -> None:
        """Begin what is due first, or wait."""
        at = self._at[who]
        at.idle_since = None
        if at.until <= now:
            return
        best: _Heap | None = None
        pile = self._piles[who]
        for heap in self._reach[who]:
            while heap and self._scene.leaves[heap[0][1]] <= now:
                _, gone = heapq.heappop(heap)
                self.ended[gone] = self._scene.leaves[gone]
                if heap is pile:
                    at.held -= 1
                    at.load -= self._scene.weight[gone]
            if heap and (best is None or heap[0] < best[0]):
                best = heap
        if best is None:
            if self._pause:
                self._rest(who, now)
            else:
                at.idle_since = now
            return
        _, work = heapq.heappop(best)
        if best is not pile:
            at.held += 1
            at.load += self._scene.weight[work]
        at.is_busy = True
        took = self._handling[work]
        self.busy[who] += min(took, max(0.0, self._scene.ends - now))
        self._plan(now + took, _ENDS, who, float(work))

    def _end(self, who: int, work: int, now: float) -> None:
        self.ended[work] = now + self._scene.stood[work]
        at = self._at[who]
        at.is_busy = False
        at.held -= 1
        at.load -= self._scene.weight[work]
        self._rest(who, now)

    def _rest(self, who: int, now: float) -> None:
        """Do something else for a while, and look then."""
        if not self._pause:
            self._look(who, now)
            return
        self._plan(now + self._pause * float(self._dice[who].standard_exponential()), _LOOKS, who, 0.0)
        self._at[who].look = self._count


def play(scene: Scene, handling: Sequence[float], pause: float, seed: int) -> Played:
    """One run: `handling` is what each wait takes whoever works on it; `pause` what lies between two things on the average, 0 is that
    they begin as soon as something comes. The same seed gives the same run."""
    opens = OpenTime(scene.open)
    due = (opens.measure(np.array(scene.since, dtype=np.float64)) + np.array(scene.promised)).tolist()
    run = _Play(scene, due, handling, pause, seed)
    run.run()
    leaves, ended = np.array(scene.leaves, dtype=np.float64), np.array(run.ended, dtype=np.float64)
    ended = np.where(np.array(scene.task) == Task.NOTHING, leaves, np.where(ended == NEVER, leaves, ended))
    return Played(ended=np.where(ended > scene.ends, NEVER, ended), busy=run.busy)


def draw_handling(scene: Scene, timed: Sequence[float], mean: float, seed: int) -> list[float]:
    """How long each wait takes in a run: as one of the timed answers did, or exponential around a mean where there are none. A wait
    takes as long in every scene of a run, so that two scenes differ by what was changed and not by luck."""
    chance = np.random.default_rng(seed).random(len(scene.since))
    if len(timed):
        took = np.array(timed, dtype=np.float64)[(chance * len(timed)).astype(np.intp)]
    else:
        took = -mean * np.log1p(-chance)
    return [float(s) for s in np.where(np.array(scene.task) == Task.SETTLE, SETTLING, took)]


#: The figures that are told; shares between 0 and 1, lengths in seconds as the report counts waiting.
FIGURES = ("first_half", "first_nine", "kept", "answers", "open")


def measure(scene: Scene, ended: Numbers, counting: Counting) -> dict[str, float]:
    """The figures of the waits that began in the scene, as core.reports has them; NaN where nothing was answered. `open` is how many
    wait at its end, those that began before it as well."""
    since = np.array(scene.since, dtype=np.float64)
    opens = OpenTime(scene.open)
    worked = opens.measure(ended) - opens.measure(since)
    counts = (ended <= scene.ends) & (since >= scene.begins) & np.array(scene.answers, dtype=np.bool_)
    length = worked if counting is Counting.WORKING else ended - since
    first = length[counts & np.array(scene.first, dtype=np.bool_)]
    # A hair's breadth, for sums of seconds since 1970 are not exact.
    kept = worked[counts] <= np.array(scene.promised)[counts] + 1e-3
    return {
        "first_half": float(np.quantile(first, 0.5)) if len(first) else math.nan,
        "first_nine": float(np.quantile(first, 0.9)) if len(first) else math.nan,
        "kept": float(np.mean(kept)) if len(kept) else math.nan,
        "answers": float(np.count_nonzero(counts)),
        "open": float(np.count_nonzero((ended > scene.ends) & (since < scene.ends))),
    }


def fit(scene: Scene, timed: Sequence[float], mean: float, counting: Counting, first_half: float) -> Iterator[float]:
    """How long people pause on the average, so that half of the first answers are out as soon as they really were (`first_half`):
    ever better guesses, the last is the best. 0 where even without it they would be later."""

    def guess(pause: float) -> float:
        found = [
            measure(scene, play(scene, draw_handling(scene, timed, mean, n), pause, n).ended, counting)["first_half"]
            for n in range(_FIT_RUNS)
        ]
        return float(np.median(found))

    low, high = 0.0, LONGEST_PAUSE
    if math.isnan(first_half) or not guess(0.0) < first_half:
        yield 0.0
        return
    for _ in range(_FIT_STEPS):
        # By their ratio: minutes matter where it is minutes, hours where it is hours.
        middle = math.sqrt(max(low, 15.0) * high)
        if guess(middle) < first_half:
            low = middle
        else:
            high = middle
        yield middle
    yield math.sqrt(max(low, 15.0) * high)


@dataclass(frozen=True, kw_only=True)
class Range:
    """A figure over many runs: the middle of them, and between what the middle 95 of 100 lie; None where no run has it."""

    middle: float | None
    low: float | None
    high: float | None


def get_range(values: Sequence[float]) -> Range:
    """The range of a figure's values."""
    known = np.array([v for v in values if not math.isnan(v)])
    if not len(known):
        return Range(middle=None, low=None, high=None)
    low, middle, high = np.quantile(known, (TAIL, 0.5, 1 - TAIL))
    return Range(middle=float(middle), low=float(low), high=float(high))


@dataclass(frozen=True, kw_only=True)
class Compared:
    """A figure as it was and as it would have been, both played; `difference` from run to run."""

    before: Range
    after: Range
    difference: Range


@dataclass(frozen=True, kw_only=True)
class Occupied:
    """Somebody's share of their shifts that went into it, the middle of the runs; None in the scene that they are not in."""

    id: int
    before: float | None
    after: float | None


@dataclass(frozen=True, kw_only=True)
class Found:
    """What came out: figures by name, people, and how long they pause on the average, in seconds."""

    pause: float
    figures: Mapping[str, Compared]
    people: Sequence[Occupied]


@dataclass(frozen=True, kw_only=True)
class AskedReplay:
    """What is to be compared: two scenes of the same waits; the timed answers, or the mean that is taken where there are none; how the
    report counts waiting, the median of first answers as it really was, and how often each is played."""

    before: Scene
    after: Scene
    timed: Sequence[float] = ()
    mean: float = ASSUMED_HANDLING
    counting: Counting
    first_half: float
    runs: int = RUNS


class Replayer(Protocol):
    """Compares apart from whoever asks, for it takes minutes."""

    async def compare(self, asked: AskedReplay, tell: Callable[[int, int], Awaitable[bool]]) -> Found | None:
        """As `compare`; None when `tell` says that nobody wants it any more. Raises CannotReplay."""
        ...


class CannotReplay(Exception):
    """Playing failed; the message says why."""


def compare(asked: AskedReplay, tell: Callable[[int, int], None] = lambda done, total: None) -> Found:
    """Both scenes, each as often, with the same luck; `tell` is told how many of how many steps are done. Raises ValueError where there
    is too much."""
    before, after, timed, mean, counting = asked.before, asked.after, asked.timed, asked.mean, asked.counting
    if max(len(before.since), len(after.since)) > MOST_WORK:
        raise ValueError(f"more than {MOST_WORK} waits")
    runs, guesses = asked.runs, [0.0]
    total = runs + _FIT_STEPS
    for guess in fit(before, timed, mean, counting, asked.first_half):
        guesses.append(guess)
        tell(min(len(guesses) - 1, _FIT_STEPS), total)
    pause = guesses[-1]
    figures: dict[str, list[tuple[float, float]]] = {name: [] for name in FIGURES}
    busy: list[tuple[Sequence[float], Sequence[float]]] = []
    for run in range(runs):
        # Others than those it was fitted by.
        seed = run + 1000
        both = [play(scene, draw_handling(scene, timed, mean, seed), pause, seed) for scene in (before, after)]
        values = [measure(s, p.ended, counting) for s, p in zip((before, after), both, strict=True)]
        for name in FIGURES:
            figures[name].append((values[0][name], values[1][name]))
        busy.append((both[0].busy, both[1].busy))
        tell(_FIT_STEPS + run + 1, total)
    return Found(
        pause=pause,
        figures={
            name: Compared(
                before=get_range([a for a, _ in pairs]),
                after=get_range([b for _, b in pairs]),
                difference=get_range([b - a for a, b in pairs]),
            )
            for name, pairs in figures.items()
        },
        people=_list_busy(before, after, busy),
    )


def _list_busy(before: Scene, after: Scene, busy: Sequence[tuple[Sequence[float], Sequence[float]]]) -> list[Occupied]:
    def share(scene: Scene, which: int, n: int) -> float | None:
        there = sum(
            max(0.0, min(until, scene.ends) - max(starts, scene.begins)) for starts, until in scene.people[n].shifts
        )
        return float(np.median([run[which][n] for run in busy])) / there if there else None

    was = {p.id: n for n, p in enumerate(before.people)}
    will = {p.id: n for n, p in enumerate(after.people) if p.id}
    listed = [
        Occupied(
            id=id,
            before=share(before, 0, was[id]) if id in was else None,
            after=share(after, 1, will[id]) if id in will else None,
        )
        for id in dict.fromkeys([*was, *will])
    ]
    return listed + [
        Occupied(id=0, before=None, after=share(after, 1, n)) for n, p in enumerate(after.people) if not p.id
    ]
