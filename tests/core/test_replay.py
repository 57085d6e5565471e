"""Playing days again, against queues whose waits are known: exactly (the recursions of Lindley, 1952, and of Kiefer and Wolfowitz, 1955),
and on the average (Erlang C; Pollaczek and Khinchine; Cobham's priorities, 1954; Kleinrock's conservation law, 1965; a server that takes
vacations, as in Takagi's handbook; Little's law). Formulas from memory."""

import heapq
import math
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.replay import (
    NEVER,
    SETTLING,
    AskedReplay,
    OpenTime,
    Person,
    Queue,
    Scene,
    Standing,
    Task,
    compare,
    draw_handling,
    fit,
    get_range,
    give_out,
    measure,
    play,
)
from sorta.core.routing import Candidate, Way, choose
from sorta.core.staffing import get_mean_wait, get_share_within
from sorta.core.waits import Counting
from sorta.core.working_time import RoundTheClock, WeeklyHours, read_spans


def scene(since: Sequence[float], people: int | list[Person] = 1, *, ends: float = 0.0, **given: object) -> Scene:
    """Waits that all ask for an answer, in one queue, everybody always there until long after the last."""
    n = len(since)
    ends = ends or since[-1] + 1e5
    if isinstance(people, int):
        people = [Person(id=k + 1, shifts=[(0.0, ends)], queues=[0], capacity=10**6) for k in range(people)]
    made = Scene(
        begins=0.0,
        ends=ends,
        people=people,
        queues=[Queue()],
        open=[(0.0, ends)],
        since=list(since),
        queue=[0] * n,
        task=[Task.ANSWER] * n,
        answers=[True] * n,
        first=[True] * n,
        weight=[1.0] * n,
        promised=[3600.0] * n,
        stood=[0.0] * n,
        leaves=[NEVER] * n,
    )
    return replace(made, **given)  # type: ignore[arg-type]


def find_waits(of: Scene, handling: Sequence[float], pause: float = 0.0, seed: int = 1) -> np.ndarray:
    return np.asarray(play(of, handling, pause, seed).ended - np.array(of.since) - np.array(handling))


times = st.lists(st.integers(0, 500), min_size=1, max_size=40).map(sorted)


@given(times, st.data(), st.integers(1, 4))
def test_in_turn_it_is_the_recursion_of_kiefer_and_wolfowitz(
    since: list[int], data: st.DataObject, people: int
) -> None:
    handling = [float(data.draw(st.integers(1, 90))) for _ in since]
    free = [0.0] * people
    expected = []
    for at, took in zip(since, handling, strict=True):
        begins = max(float(at), heapq.heappop(free))
        heapq.heappush(free, begins + took)
        expected.append(begins - at)
    assert find_waits(scene([float(s) for s in since], people), handling).tolist() == pytest.approx(expected)


@given(times, st.data())
def test_with_shifts_it_is_the_recursion_of_lindley_with_gaps(since: list[int], data: st.DataObject) -> None:
    handling = [float(data.draw(st.integers(1, 90))) for _ in since]
    edges = sorted(data.draw(st.lists(st.integers(0, 900), min_size=2, max_size=8, unique=True)))
    shifts = [(float(a), float(b)) for a, b in zip(edges[::2], edges[1::2], strict=False)]
    ends = 1000.0
    free, expected = 0.0, []
    for at, took in zip(since, handling, strict=True):
        ready = max(float(at), free)
        begins = next((max(a, ready) for a, b in shifts if max(a, ready) < b), None)
        over = NEVER if begins is None else begins + took
        free = over
        expected.append(over if over <= ends else NEVER)
    of = scene([float(s) for s in since], [Person(id=1, shifts=shifts, queues=[0], capacity=9)], ends=ends)
    assert play(of, handling, 0.0, 1).ended.tolist() == pytest.approx(expected)


@given(times, st.data(), st.integers(1, 3))
def test_one_more_makes_nobody_wait_longer(since: list[int], data: st.DataObject, people: int) -> None:
    handling = [float(data.draw(st.integers(1, 90))) for _ in since]
    at = [float(s) for s in since]
    fewer, more = find_waits(scene(at, people), handling), find_waits(scene(at, people + 1), handling)
    assert np.all(more <= fewer + 1e-9)


def draw(rate: float, n: int, seed: int) -> list[float]:
    return [float(t) for t in np.cumsum(np.random.default_rng(seed).exponential(1 / rate, n))]


def agrees(told: float, found: Sequence[float]) -> None:
    """Within the interval of the runs' mean, and that is narrow enough to say something."""
    reach = 2.9 * float(np.std(found, ddof=1)) / math.sqrt(len(found))
    assert reach < 0.15 * told + 0.02
    assert abs(told - float(np.mean(found))) < reach + 0.01 * told


RUNS, N, SKIPPED = 24, 5000, 500


@pytest.mark.parametrize(("people", "load"), [(1, 0.6), (2, 1.2), (5, 3.9)])
def test_where_erlang_c_applies_it_says_the_same(people: int, load: float) -> None:
    shares, means = [], []
    for seed in range(RUNS):
        of = scene(draw(load / 300, N, seed), people)
        waits = find_waits(of, draw_handling(of, [], 300.0, seed + 99))[SKIPPED:]
        shares.append(float(np.mean(waits <= 120)))
        means.append(float(np.mean(waits)))
    agrees(get_share_within(people, load, 300, 120), shares)
    agrees(get_mean_wait(people, load, 300), means)


def test_littles_law_holds_on_every_path() -> None:
    of = scene(draw(0.004, 3000, 3), 2)
    handling = draw_handling(of, [], 300.0, 5)
    played = play(of, handling, 0.0, 1)
    changes = sorted([(at, 1) for at in of.since] + [(float(end), -1) for end in played.ended])
    area, there, before = 0.0, 0, 0.0
    for at, change in changes:
        area += there * (at - before)
        there, before = there + change, at
    rate, long = len(of.since) / before, float(np.mean(played.ended - np.array(of.since)))
    assert there == 0
    assert area / before == pytest.approx(rate * long)
    assert sum(played.busy) == pytest.approx(sum(handling))


def test_with_timed_answers_it_is_pollaczek_and_khinchine() -> None:
    timed, load = [60.0, 60.0, 60.0, 900.0], 0.7
    mean = float(np.mean(timed))
    means = []
    for seed in range(RUNS):
        of = scene(draw(load / mean, N, seed))
        means.append(float(np.mean(find_waits(of, draw_handling(of, timed, 1.0, seed + 99))[SKIPPED:])))
    agrees(load / mean * float(np.mean(np.square(timed))) / (2 * (1 - load)), means)


def test_the_more_pressing_first_is_cobhams_formula_and_on_the_whole_nobody_gains() -> None:
    load, handling = (0.3, 0.4), 300.0
    waits: tuple[list[float], ...] = ([], [], [])
    for seed in range(RUNS):
        since = draw(sum(load) / handling, N, seed)
        pressing = np.random.default_rng(seed + 7).random(N) < load[0] / sum(load)
        # Those that press are due before all others.
        of = scene(since, promised=[1.0 if p else 1e9 for p in pressing])
        found = find_waits(of, draw_handling(of, [], handling, seed + 99))
        for n, which in enumerate((pressing, ~pressing, np.ones(N, dtype=bool))):
            waits[n].append(float(np.mean(found[SKIPPED:][which[SKIPPED:]])))
    left = sum(load) * handling
    agrees(left / (1 - load[0]), waits[0])
    agrees(left / ((1 - load[0]) * (1 - sum(load))), waits[1])
    agrees(get_mean_wait(1, sum(load), handling), waits[2])


@pytest.mark.parametrize("pause", [60.0, 240.0])
def test_pauses_between_one_and_the_next_are_vacations_of_the_server(pause: float) -> None:
    """One thing a visit: as if serving took the pause as well, and whoever comes to nobody waits for the end of a pause."""
    handling, rate, means = 300.0, 1 / 900, []
    for seed in range(RUNS):
        of = scene(draw(rate, N, seed))
        means.append(float(np.mean(find_waits(of, draw_handling(of, [], handling, seed), pause, seed)[SKIPPED:])))
    both = handling**2 + handling * pause + pause**2
    agrees(rate * both / (1 - rate * (handling + pause)) + pause, means)


member = st.tuples(
    st.booleans(), st.integers(0, 3), st.integers(0, 6), st.integers(1, 4), st.booleans(), st.integers(0, 3)
)


@given(st.lists(member, min_size=1, max_size=6), st.sampled_from([Way.IN_TURN, Way.LIGHTEST]))
def test_it_gives_to_whom_the_team_would_give(members: list[tuple[bool, int, int, int, bool, int]], way: Way) -> None:
    noon = datetime(2026, 3, 2, 12, tzinfo=UTC)
    candidates, standing = [], []
    for n, (is_there, opened, load, capacity, speaks, turn) in enumerate(members):
        candidates.append(
            Candidate(
                member=n,
                name=f"{n}",
                open=opened,
                load=float(load),
                capacity=capacity,
                is_off_shift=not is_there,
                languages=frozenset({"fr" if speaks else "da"}),
                given_at=noon + timedelta(seconds=turn) if turn else None,
            )
        )
        standing.append(
            Standing(
                until=100.0 if is_there else 5.0,
                held=opened,
                load=float(load),
                given_at=float(turn) if turn else -math.inf,
            )
        )
    speakers = [n for n, (*_, speaks, _) in enumerate(members) if speaks]
    groups = (speakers, range(len(members)))
    capacities = [capacity for _, _, _, capacity, _, _ in members]
    assert give_out(way, groups, standing, capacities, 10.0) == choose(way, candidates, language="fr").member


def test_work_stays_with_whom_it_was_given_and_nobody_holds_more_than_their_capacity() -> None:
    people = [
        Person(id=1, shifts=[(0.0, 50.0), (500.0, 900.0)], queues=[0], capacity=2),
        Person(id=2, shifts=[(0.0, 900.0)], queues=[0], capacity=1),
    ]
    of = scene([1.0, 2.0, 3.0, 4.0], ends=1000.0, people=people, queues=[Queue(way=Way.LIGHTEST)])
    # The first two to each of them, the third to who may hold two; the fourth lies with the team until somebody is free.
    ended = play(of, [60.0] * 4, 0.0, 1).ended
    assert ended.tolist() == [61.0, 62.0, 560.0, 122.0]


def test_what_goes_away_by_itself_is_not_worked_on() -> None:
    of = scene([0.0, 1.0, 2.0], leaves=[NEVER, 50.0, 500.0])
    played = play(of, [100.0] * 3, 0.0, 1)
    assert played.ended.tolist() == [100.0, 50.0, 200.0]
    assert played.busy == [200.0]
    nothing = scene([0.0, 1.0, 2.0], people=[], task=[Task.NOTHING] * 3, leaves=[3.0, NEVER, 7.0])
    assert play(nothing, [9.0] * 3, 0.0, 1).ended.tolist() == [3.0, NEVER, 7.0]


def test_what_waited_before_waits_at_the_beginning_and_counts_in_what_is_open_alone() -> None:
    of = scene([5.0, 200.0], begins=100.0, ends=1000.0, people=[])
    of = replace(of, people=[Person(id=1, shifts=[(100.0, 1000.0)], queues=[0], capacity=9)], open=[(0.0, 1000.0)])
    ended = play(of, [10.0, 10.0], 0.0, 1).ended
    assert ended.tolist() == [110.0, 210.0]
    assert measure(of, ended, Counting.CLOCK)["answers"] == 1
    nobody = replace(of, people=[])
    assert measure(nobody, play(nobody, [1.0, 1.0], 0.0, 1).ended, Counting.CLOCK)["open"] == 2


ZONE = ZoneInfo("Europe/Berlin")
HOURS = WeeklyHours(zone=ZONE, week=(read_spans("9-12:30, 13:30-17"),) * 5 + (read_spans("22-2"), ()))


@given(st.integers(0, 60 * 24 * 40), st.integers(0, 60 * 24 * 10))
def test_working_time_as_the_hours_count_it(starts: int, long: int) -> None:
    """Over a night the clocks change, and a year's end."""
    for first in (datetime(2026, 3, 10, tzinfo=UTC), datetime(2026, 12, 10, tzinfo=UTC)):
        begins, ends = first, first + timedelta(days=60)
        a = first + timedelta(minutes=starts)
        b = a + timedelta(minutes=long)
        for hours in (HOURS, RoundTheClock()):
            told = OpenTime(hours.list_open(begins, ends)).measure(np.array([a.timestamp(), b.timestamp()]))
            assert (told[1] - told[0]) / 60 == pytest.approx(hours.working_minutes_between(a, b), abs=1e-5)


def test_never_open_is_no_working_time() -> None:
    assert OpenTime([]).measure(np.array([1.0, 2.0])).tolist() == [0.0, 0.0]


@given(st.lists(st.tuples(st.integers(0, 900), st.integers(1, 900), *[st.booleans()] * 2), min_size=1, max_size=30))
def test_figures_as_pandas_has_them(rows: list[tuple[int, int, bool, bool]]) -> None:
    rows = sorted(rows)
    table = pd.DataFrame(rows, columns=["since", "took", "answers", "first"])
    table["ended"] = table["since"] + table["took"]
    of = scene(
        table["since"].astype(float).tolist(),
        begins=100.0,
        ends=1000.0,
        answers=table["answers"].tolist(),
        first=table["first"].tolist(),
        promised=[300.0] * len(rows),
        open=[(0.0, 1000.0)],
    )
    ended = np.where(table["ended"] > 1000, NEVER, table["ended"].astype(float))
    told = measure(of, ended, Counting.WORKING)
    out = table[(table["ended"] <= 1000) & (table["since"] >= 100) & table["answers"]]
    first = out[out["first"]]["took"]
    assert told["answers"] == len(out)
    assert told["open"] == int((table["ended"] > 1000).sum())
    for name, expected in (
        ("first_half", first.median()),
        ("first_nine", first.quantile(0.9)),
        ("kept", (out["took"] <= 300).mean() if len(out) else math.nan),
    ):
        assert told[name] == pytest.approx(expected, nan_ok=True)


def test_how_long_they_pause_is_found_from_how_soon_it_was_answered() -> None:
    of = scene(draw(0.4 / 240, 1500, 4), 2)
    really = 1800.0
    pause = list(fit(of, [], 240.0, Counting.CLOCK, really))[-1]
    again = [
        measure(of, play(of, draw_handling(of, [], 240.0, n), pause, n).ended, Counting.CLOCK)["first_half"]
        for n in range(50, 70)
    ]
    assert float(np.mean(again)) == pytest.approx(really, rel=0.1)
    # Sooner than anybody could, or nothing known: nobody is said to pause.
    assert list(fit(of, [], 240.0, Counting.CLOCK, 30.0)) == [0.0]
    assert list(fit(of, [], 240.0, Counting.CLOCK, math.nan)) == [0.0]


def test_nothing_changed_makes_no_difference_and_another_person_does() -> None:
    of = scene(draw(1.7 / 240, 400, 8), 2, ends=60_000.0)
    told: list[tuple[int, int]] = []
    asked = AskedReplay(before=of, after=of, mean=240.0, counting=Counting.CLOCK, first_half=900.0, runs=40)
    same = compare(asked, lambda done, total: told.append((done, total)))
    assert all(f.difference == get_range([0.0]) for f in same.figures.values())
    assert told[-1] == (told[-1][1], told[-1][1])
    assert [done for done, _ in told] == sorted(done for done, _ in told)
    new = Person(id=0, shifts=[(0.0, 60_000.0)], queues=[0], capacity=40)
    more = compare(replace(asked, after=replace(of, people=[*of.people, new])))
    sooner = more.figures["first_half"].difference.high
    assert sooner is not None
    assert sooner < 0
    assert more.pause == same.pause
    assert [(b.id, b.before is None, b.after is None) for b in more.people] == [
        (1, False, False),
        (2, False, False),
        (0, True, False),
    ]
    before, after = more.people[0].before, more.people[0].after
    assert before is not None
    assert after is not None
    assert after < before


def test_too_much_is_refused_and_settling_takes_its_own_time() -> None:
    of = scene([float(n) for n in range(3)], task=[Task.SETTLE, Task.ANSWER, Task.SETTLE])
    assert draw_handling(of, [77.0], 1.0, 3) == [SETTLING, 77.0, SETTLING]
    with pytest.raises(ValueError, match="more than"):
        compare(AskedReplay(before=scene([0.0] * 40_001), after=of, counting=Counting.CLOCK, first_half=1.0))
