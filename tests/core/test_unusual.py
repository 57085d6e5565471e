"""Unusual hours on weeks that are simulated: false alarms are within a factor of two of what is promised, storms of known size are
found; the tail is SciPy's Poisson where nothing spreads and much is known."""

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from sorta.core.periods import Period
from sorta.core.unusual import HOURS_A_MONTH, WEEKS, find_unusual, get_chances, judge_period
from sorta.core.working_time import get_local_midnight

#: A week as workspaces have it: quiet nights, busy evenings, a fuller Saturday.
SHAPE = np.array([0.3] * 6 + [1.5] * 3 + [4] * 9 + [7] * 4 + [2] * 2)
DAYS = 7 * (WEEKS + 4)


def make_weeks(chance: np.random.Generator, size: float, spread: float) -> np.ndarray:
    mean = np.stack([SHAPE * size * (1.4 if day % 7 == 5 else 1.0) for day in range(DAYS)])
    if spread:
        mean = mean * chance.gamma(1 / spread, spread, mean.shape)
    return chance.poisson(mean).astype(float)


@pytest.mark.parametrize("spread", [0.0, 0.15, 0.5])
@pytest.mark.parametrize("size", [0.7, 3.0])
def test_false_alarms_are_as_many_as_one_accepts(spread: float, size: float) -> None:
    alarms, months = 0, 0.0
    for seed in range(30):
        counts = make_weeks(np.random.default_rng(seed), size, spread)
        alarms += len(find_unusual(counts, 7 * WEEKS, false_alarms=4))
        months += 4 * 168 / HOURS_A_MONTH
    promised = 4 * months
    # Counts are whole: where few come, fewer false alarms than are accepted are all there can be.
    assert alarms < 2 * promised
    assert alarms > promised / (2 if size > 1 and spread < 0.3 else 8)


@pytest.mark.parametrize(("times", "power"), [(5, 0.8), (8, 0.97)])
def test_storms_of_known_size_are_found(times: float, power: float) -> None:
    found = 0
    for seed in range(60):
        chance = np.random.default_rng(1000 + seed)
        counts = make_weeks(chance, 1.0, 0.15)
        counts[7 * WEEKS + 2, 14] = chance.poisson(4 * times)
        told = find_unusual(counts, 7 * WEEKS)
        found += any((one.day, one.hour) == (2, 14) for one in told)
    assert found / 60 >= power


def test_a_storm_does_not_hide_the_next_one() -> None:
    chance = np.random.default_rng(3)
    counts = make_weeks(chance, 1.0, 0.0)
    for week in range(4):
        counts[7 * (WEEKS + week) + 1, 12] = 60
    told = find_unusual(counts, 7 * WEEKS)
    assert [(one.day // 7, one.hour) for one in told if one.came == 60] == [(n, 12) for n in range(4)]


def test_the_tail_is_poissons_where_much_is_known() -> None:
    mean, came = np.array([3.0, 20.0, 0.5]), np.array([9.0, 38.0, 4.0])
    assert get_chances(came, mean, 0.0, 100_000) == pytest.approx(stats.poisson.sf(came - 1, mean), rel=0.02)
    # Known from few weeks, the same is less surprising.
    few, more, much = (get_chances(came, mean, 0.0, weeks) for weeks in (4, 8, 100_000))
    assert np.all(few > more)
    assert np.all(more > much)


def test_too_few_weeks_and_missing_hours_say_nothing() -> None:
    counts = np.full((21, 24), 1.0)
    counts[20, 3] = 400
    assert find_unusual(counts, 14) == []
    weeks = make_weeks(np.random.default_rng(2), 1.0, 0.0)
    weeks[7 * WEEKS :, 2] = np.nan
    assert all(one.hour != 2 for one in find_unusual(weeks, 7 * WEEKS))


def test_a_period_is_judged_by_the_weeks_before_it_on_its_own_clock() -> None:
    """The night the clocks go back lies in it; the storm stands at two in the afternoon of the wall clock on 28 October."""
    period = Period(first=date(2026, 10, 19), last=date(2026, 11, 1), zone=ZoneInfo("Europe/Berlin"))
    chance, arrivals = np.random.default_rng(5), []
    for n in range(-70, 14):
        midnight = get_local_midnight(period.first + timedelta(days=n), period.zone).timestamp()
        arrivals += [midnight + 3600 * (8 + chance.random() * 10) for _ in range(chance.poisson(40))]
    storm = datetime(2026, 10, 28, 14, tzinfo=period.zone).timestamp()
    arrivals += [storm + 20 * n for n in range(30)]
    since = get_local_midnight(period.first - timedelta(days=56), period.zone).timestamp()
    told = judge_period(np.array([a for a in arrivals if a >= since]), period, period.ends.timestamp())
    assert [(one.day, one.hour) for one in told if one.came > 20] == [(9, 14)]
    assert judge_period(np.array([]), period, period.ends.timestamp()) == []
    # Where nothing was four weeks ago, nothing is said.
    young = np.array([a for a in arrivals if a >= period.begins.timestamp() - 7 * 86400])
    assert judge_period(young, period, period.ends.timestamp()) == []


@given(st.integers(0, 400), st.floats(0.01, 200), st.floats(0, 3), st.integers(2, 12))
def test_how_likely_so_many_are_is_scipys_negative_binomial(came: int, mean: float, spread: float, weeks: int) -> None:
    """scipy.stats.nbinom.sf, and its probabilities added up from zero."""
    ours = float(get_chances(np.array([came], float), np.array([mean], float), spread, weeks)[0])
    mean = max(mean, 0.5 / weeks)
    variance = mean + spread * mean * mean + (mean + spread * mean * mean) / weeks
    size = mean * mean / (variance - mean)
    chance = size / (size + mean)
    assert ours == pytest.approx(float(stats.nbinom.sf(came - 1, size, chance)), rel=1e-6, abs=1e-12)
    if came < 50:
        below = float(stats.nbinom.pmf(np.arange(came), size, chance).sum())
        assert ours == pytest.approx(1 - below, abs=1e-9)
