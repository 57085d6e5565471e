"""Erlang's formulas against table values (Erlang B at 1 %, from memory; Erlang C as pyworkforce 0.5.1 computes it), identities, and a
simulation of the queue; Little's law."""

import heapq
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.staffing import (
    find_people,
    get_erlang_b,
    get_erlang_c,
    get_mean_wait,
    get_share_within,
    measure_open,
    plan_week,
)
from sorta.core.working_time import read_spans


@pytest.mark.parametrize(("lines", "load"), [(2, 0.153), (10, 4.461), (50, 37.90), (100, 84.06)])
def test_erlang_b_as_in_the_tables(lines: int, load: float) -> None:
    assert get_erlang_b(lines, load) == pytest.approx(0.01, rel=6e-3)  # the tables round


@pytest.mark.parametrize(
    ("per_half_hour", "people", "within"), [(100, 13, 0.795595), (100, 14, 0.888350), (200, 24, 0.808882)]
)
def test_erlang_c_as_published(per_half_hour: int, people: int, within: float) -> None:
    load = per_half_hour * 3 / 30
    assert get_share_within(people, load, 180, 20) == pytest.approx(within, abs=1e-6)


def test_the_mean_wait_as_published() -> None:
    assert get_mean_wait(24, 20, 180) == pytest.approx(13.413, abs=1e-3)


@given(st.floats(0.001, 0.999))
def test_identities_of_one_and_two(load: float) -> None:
    assert get_erlang_c(1, load) == pytest.approx(load)
    assert get_erlang_c(2, 1) == pytest.approx(1 / 3)


@pytest.mark.parametrize(("people", "load"), [(5, 5.0), (3, 7.0), (0, 0.0)])
def test_a_load_that_cannot_be_kept_up_with_is_refused(people: int, load: float) -> None:
    with pytest.raises(ValueError, match="cannot keep up"):
        get_erlang_c(people, load)


@given(st.floats(0.01, 60), st.floats(30, 1800), st.floats(0, 7200), st.floats(0.5, 0.99))
def test_the_fewest_people_are_enough_and_one_less_is_not(
    load: float, handling: float, within: float, share: float
) -> None:
    people = find_people(load, handling, within, share)
    assert people is not None
    assert get_share_within(people, load, handling, within) >= share
    if people - 1 > load:
        assert get_share_within(people - 1, load, handling, within) < share


def simulate(people: int, rate: float, handling: float, n: int, seed: int) -> tuple[np.ndarray, float]:
    """The waits of `n` arrivals, and how long all of it took; first come, first served."""
    chance = np.random.default_rng(seed)
    arrivals = np.cumsum(chance.exponential(1 / rate, n))
    served = chance.exponential(handling, n)
    free = [0.0] * people
    waits = np.empty(n)
    for k in range(n):
        begins = max(arrivals[k], heapq.heappop(free))
        waits[k] = begins - arrivals[k]
        heapq.heappush(free, begins + served[k])
    return waits, float(arrivals[-1])


@pytest.mark.parametrize(("people", "load"), [(2, 1.2), (5, 3.9), (12, 9.5)])
def test_a_simulation_says_the_same_within_its_interval(people: int, load: float) -> None:
    shares, means = [], []
    for seed in range(30):
        waits, took = simulate(people, load / 300, 300, 6000, seed)
        waits = waits[500:]
        shares.append(float(np.mean(waits <= 120)))
        means.append(float(np.mean(waits)))
        # Little's law: how many wait is how many come times how long each waits.
        assert np.sum(waits) / took == pytest.approx(len(waits) / took * np.mean(waits))
    for told, found in (
        (get_share_within(people, load, 300, 120), shares),
        (get_mean_wait(people, load, 300), means),
    ):
        reach = 2.9 * float(np.std(found, ddof=1)) / math.sqrt(len(found))
        assert abs(told - float(np.mean(found))) < reach + 0.01 * told


def test_a_week_is_planned_hour_by_hour() -> None:
    is_open = [True] * 130 + [False] * 38
    plan = plan_week([0.0] * 100 + [40.0] * 68, is_open, [2] * 168, handling=240, within=1800, share=0.9)
    needed = find_people(40 * 240 / 3600, 240, 1800, 0.9)
    assert [plan[n].needed for n in (0, 120, 140)] == [0, needed, 0]
    with pytest.raises(ValueError, match="share"):
        find_people(1, 240, 60, 1.0)


def test_open_hours_of_a_week_by_the_hour_and_past_midnight() -> None:
    week = [read_spans("9-12:30, 13:30-17")] * 5 + [read_spans("22-2"), read_spans("23-1")]
    found = measure_open(week)
    assert sum(found) == 5 * 7 + 4 + 2
    assert [found[h] for h in (8, 9, 12, 13, 16, 17)] == [0, 1, 0.5, 0.5, 1, 0]
    # Saturday's night reaches into Sunday, Sunday's into Monday.
    assert [found[h] for h in (5 * 24 + 23, 6 * 24 + 1, 6 * 24 + 2, 0)] == [1, 1, 0, 1]
