"""Days that are over as a scene that can be played again (core.replay): who works when, what came in, what it asked of people, and what
other rules would have made of it. Used by services.replays."""

import math
from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from zoneinfo import ZoneInfo

import numpy as np

from sorta.core.ports import Kind
from sorta.core.replay import NEVER, Numbers, Person, Queue, Scene, Task
from sorta.core.routing import WEIGHTS, Way
from sorta.core.spells import Ending
from sorta.core.targets import Priority, Promise, get_audience
from sorta.core.waits import Waits, get_codes, is_one_of
from sorta.core.working_time import Span, WeeklyHours

#: What a rule does after which nobody has to do anything (core.trial.list_names), and whether that is an answer.
_ENDINGS: Mapping[str, bool] = {"answered": True, "settled": False, "handed_over": False}


@dataclass(frozen=True, kw_only=True)
class Worker:
    """Somebody who answers. Without a `shift` of their own they work when the workspace is open; `away` are two instants; without
    `languages` they speak all. `id` 0 is somebody who is not there yet."""

    id: int
    shift: tuple[tuple[Span, ...], ...] | None = None
    away: tuple[datetime, datetime] | None = None
    capacity: int
    languages: frozenset[str] = frozenset()
    teams: frozenset[int] = frozenset()


@dataclass(frozen=True, kw_only=True)
class SceneChange:
    """What other rules make of a message: the names of what comes and of what does not come any more (core.trial)."""

    conversation: int
    at: datetime
    comes: Sequence[str]
    goes: Sequence[str]


@dataclass(frozen=True, kw_only=True)
class Past:
    """What came in between two instants, as it went. `kinds` are the words of the numbers of kinds, from 1."""

    waits: Waits
    begins: datetime
    ends: datetime
    zone: ZoneInfo
    kinds: Sequence[str]

    @cached_property
    def order(self) -> "np.ndarray[tuple[int], np.dtype[np.intp]]":
        """The places of those that are played, in the order in which they began: what began in these days, and what began before and
        was done with in them. What nobody has touched all these days is left aside."""
        since, ended = self.waits["since"], self.waits["ended"]
        a, b = self.begins.timestamp(), self.ends.timestamp()
        found = np.flatnonzero((since < b) & ((since >= a) | ((ended >= a) & (ended <= b))))
        return found[np.lexsort((self.waits["seq"][found], self.waits["conversation"][found], since[found]))]

    def get_ended(self) -> Numbers:
        """When those that are played really ended; NEVER what was open at the end."""
        ended = self.waits["ended"][self.order]
        return np.where(ended <= self.ends.timestamp(), ended, NEVER)


def make_scene(
    past: Past,
    promise: Promise,
    workers: Sequence[Worker],
    ways: Mapping[int, Way],
    *,
    changes: Sequence[SceneChange] = (),
    give_out: bool = True,
) -> Scene:
    """The days with these hours and targets, these people and teams (`ways` of each), and these changes by rules. Where nothing is
    given out, whoever is free takes it."""
    order = past.order
    waits = past.waits.take(order)
    asks = _ask_of(waits, past.get_ended())
    kinds = [past.kinds[int(k) - 1] if k else Kind.COMMENT.value for k in waits["kind"]]
    priority = [Priority(int(p)) for p in waits["priority"]]
    team = [int(t) for t in waits["team"]]
    _put_in(changes, waits, asks, priority, team)
    languages = [code.decode().strip() for code in waits["language"].tolist()]
    queues, places, serves = _make_queues(list(zip(team, languages, strict=True)), workers, ways, give_out=give_out)
    first = [bool(f) for f in waits["first"]]
    public = [bool(p) for p in waits["public"]]
    earliest = datetime.fromtimestamp(min([*waits["since"].tolist(), past.begins.timestamp()]), past.begins.tzinfo)
    stood = sum(np.nan_to_num(waits[name].astype(np.float64)) for name in ("parked", "review", "advice", "case"))
    return Scene(
        begins=past.begins.timestamp(),
        ends=past.ends.timestamp(),
        people=[
            Person(id=w.id, shifts=list_shifts(w, past, promise), queues=serves[n], capacity=w.capacity)
            for n, w in enumerate(workers)
        ],
        queues=queues,
        open=promise.hours.list_open(earliest, past.ends),
        since=waits["since"].tolist(),
        queue=places,
        task=asks.task,
        answers=asks.answers,
        first=first,
        weight=[WEIGHTS[p] for p in priority],
        promised=[
            60.0 * promise.targets.minutes[get_audience(kind, public=is_public)][p]
            for kind, is_public, p in zip(kinds, public, priority, strict=True)
        ],
        stood=np.broadcast_to(stood, len(order)).tolist(),
        leaves=asks.leaves,
    )


def list_shifts(worker: Worker, past: Past, promise: Promise) -> list[tuple[float, float]]:
    """When somebody works in these days, without the time they are away."""
    if worker.shift is None:
        spans = promise.hours.list_open(past.begins, past.ends)
    else:
        spans = WeeklyHours(zone=past.zone, week=worker.shift).list_open(past.begins, past.ends)
    if worker.away is None:
        return spans
    gone, back = (at.timestamp() for at in worker.away)
    parts = [part for a, b in spans for part in ((a, min(b, gone)), (max(a, back), b))]
    return [(a, b) for a, b in parts if a < b]


@dataclass(frozen=True, kw_only=True)
class _Asks:
    task: list[int]
    answers: list[bool]
    leaves: list[float]


def _ask_of(waits: Waits, ended: Numbers) -> _Asks:
    """What each asked of people, told by how it ended."""
    by, somebody = waits["ended_by"], waits["member"] != 0
    code = {ending: get_codes(ending)[0] for ending in Ending}
    ruled = (by != 0) & ~somebody & is_one_of(by, get_codes(Ending.ANSWERED, Ending.SETTLED, Ending.HANDED_OVER))
    settled = somebody & is_one_of(by, get_codes(Ending.SETTLED, Ending.HANDED_OVER))
    task = np.where(ruled, Task.NOTHING, np.where(settled, Task.SETTLE, Task.ANSWER))
    gone = is_one_of(by, get_codes(Ending.OUTSIDE, Ending.REMOVED))
    answers = is_one_of(by, [0, code[Ending.ANSWERED], code[Ending.OUTSIDE]])
    return _Asks(
        task=[int(t) for t in task],
        answers=[bool(a) for a in answers],
        leaves=np.where(ruled | gone, ended, NEVER).tolist(),
    )


def _put_in(
    changes: Sequence[SceneChange], waits: Waits, asks: _Asks, priority: list[Priority], team: list[int]
) -> None:
    """What the changes make of the waits that were open when their messages came in."""
    rows: dict[int, list[int]] = {}
    for n, conversation in enumerate(waits["conversation"].tolist()):
        rows.setdefault(conversation, []).append(n)
    since, ended = waits["since"].tolist(), waits["ended"].tolist()
    for change in changes:
        mine, at = rows.get(change.conversation, []), change.at.timestamp()
        place = bisect_right(mine, at + 1e-3, key=lambda n: since[n]) - 1
        if place < 0 or (not math.isnan(ended[mine[place]]) and ended[mine[place]] < at):
            continue
        n = mine[place]
        comes, goes = ({name.split(":")[0]: name for name in names} for names in (change.comes, change.goes))
        for what, is_answer in _ENDINGS.items():
            if what in goes and what not in comes and asks.task[n] == Task.NOTHING:
                # A rule did it; now somebody has to.
                asks.task[n] = Task.ANSWER if is_answer else Task.SETTLE
                asks.answers[n], asks.leaves[n] = is_answer, NEVER
        for what, is_answer in _ENDINGS.items():
            if what in comes:
                asks.task[n], asks.answers[n], asks.leaves[n] = Task.NOTHING, is_answer, at
        if "priority" in comes:
            priority[n] = Priority(int(comes["priority"].split(":")[1]))
        elif "priority" in goes:
            priority[n] = Priority.NORMAL
        if "team" in comes:
            team[n] = int(comes["team"].split(":")[1])
        elif "team" in goes:
            team[n] = 0


def _make_queues(
    wants: Sequence[tuple[int, str]], workers: Sequence[Worker], ways: Mapping[int, Way], *, give_out: bool
) -> tuple[list[Queue], list[int], list[list[int]]]:
    """A queue for each team and language, the queue of each wait, and the queues of each worker. What lies with no team, or with one
    in which nobody answers, is everybody's; a language that nobody of them speaks is not asked for."""
    known = list(dict.fromkeys(wants))
    places = {want: n for n, want in enumerate(known)}
    queues: list[Queue] = []
    serves: list[list[int]] = [[] for _ in workers]
    for q, (team, language) in enumerate(known):
        mine = [n for n, w in enumerate(workers) if team in w.teams]
        way = ways.get(team) if mine and give_out else None
        mine = mine or list(range(len(workers)))
        speak = [n for n in mine if not language or not workers[n].languages or language in workers[n].languages]
        queues.append(Queue(way=way, stand_ins=mine))
        for n in speak or mine:
            serves[n].append(q)
    return queues, [places[want] for want in wants], serves
