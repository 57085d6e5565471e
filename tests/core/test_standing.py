"""Decayed sums and mid-rank percentiles.

The sum of half-life 7 days in CHECKS 7 is checked with its own half-life; percentiles as SciPy's
percentileofscore(kind='mean') gives them (20 in [10,20,20,30,50] is 40, tried with SciPy for CHECKS 7).
"""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import percentileofscore

from sorta.core import standing
from sorta.core.standing import add_points, decay, get_standing

NOW = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)


def test_half_is_left_after_a_half_life() -> None:
    assert decay(8, NOW - timedelta(days=30), NOW) == 4
    assert decay(8, NOW + timedelta(days=1), NOW) == 8


def test_the_worked_sum(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(standing, "HALF_LIFE_DAYS", 7.0)
    entries = [(0, 10), (3, 4), (10, 8)]
    assert sum(decay(w, NOW - timedelta(days=age), NOW) for age, w in entries) == pytest.approx(15.943977, abs=1e-6)
    points, at = 0.0, None
    for age, w in reversed(entries):
        points, at = add_points(points, at, w, NOW - timedelta(days=age))
    assert points == pytest.approx(15.943977, abs=1e-6)


@given(st.lists(st.tuples(st.integers(0, 200), st.integers(1, 8)), min_size=1, max_size=12), st.randoms())
def test_the_order_of_adding_does_not_matter(entries: list[tuple[int, int]], dice) -> None:
    def total(them: list[tuple[int, int]]) -> float:
        points, at = 0.0, None
        for age, w in them:
            points, at = add_points(points, at, w, NOW - timedelta(days=age))
        return decay(points, at or NOW, NOW)

    shuffled = list(entries)
    dice.shuffle(shuffled)
    assert total(shuffled) == pytest.approx(total(entries))


@pytest.mark.parametrize(("points", "expected"), [(10, 10), (20, 40), (30, 70), (50, 90)])
def test_mid_rank(points: float, expected: float) -> None:
    assert get_standing(points, [10, 20, 20, 30, 50]) == expected


POINTS = st.lists(st.floats(0.01, 1000), min_size=1, max_size=40)


@given(POINTS, st.data())
def test_percentiles_as_scipy_gives_them(everybody: list[float], data: st.DataObject) -> None:
    ours = data.draw(st.sampled_from(everybody))
    assert get_standing(ours, sorted(everybody)) == pytest.approx(percentileofscore(everybody, ours, kind="mean"))


@given(st.lists(st.tuples(st.floats(0, 300), st.integers(1, 8)), min_size=1, max_size=20))
def test_the_decayed_sum_as_numpy_gives_it(entries: list[tuple[float, int]]) -> None:
    points, at = 0.0, None
    for age, weight in entries:
        points, at = add_points(points, at, weight, NOW - timedelta(days=age))
    ages, weights = np.array([a for a, _ in entries]), np.array([w for _, w in entries])
    assert decay(points, at or NOW, NOW) == pytest.approx(float(np.sum(weights * np.exp2(-ages / 30))), abs=1e-6)
