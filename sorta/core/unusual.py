"""Hours in which far more came in than the same hours of the weeks before would let one expect.

An hour's count is taken to be negative binomial: Poisson, with more spread as far as the past weeks show it, and with what is not known
of the mean after so few weeks. An hour is unusual when so many or more come by chance so seldom that there is about one false alarm
in as many months as one accepts. Checked by simulation in tests/core/test_unusual.py. Used by services.reports.
"""

from dataclasses import dataclass
from datetime import timedelta

import numpy as np
import numpy.typing as npt
from scipy import special

from sorta.core.periods import Period, get_cells, get_day_numbers

#: How many weeks an hour is expected from, and how few say nothing.
WEEKS, FEWEST_WEEKS = 8, 3
#: Hours of a mean month.
HOURS_A_MONTH = 730.5
#: A chance too small to be told from none.
_LEAST = 1e-12
#: Longer periods are not judged hour by hour.
LONGEST_JUDGED = 120
#: Fewer than this is no storm, however quiet the hour usually is.
FEWEST = 5
#: How neighbouring hours count for what is to be expected.
_SMOOTH = np.array([0.25, 0.5, 0.25])

Counts = npt.NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Unusual:
    """An hour: the number of its day, the hour on the wall clock, what came in, what was to be expected, and how likely so many or
    more are by chance."""

    day: int
    hour: int
    came: int
    expected: float
    chance: float

    @property
    def months(self) -> float:
        """In how many months so much comes once by chance."""
        return 1 / (max(self.chance, _LEAST) * HOURS_A_MONTH)


def expect(counts: Counts, day: int) -> tuple[Counts, float] | None:
    """What each hour of a day lets one expect, and the spread beyond Poisson's (0 for none), from the weeks before; None from too
    few. `counts` are those of each day (rows) and hour, NaN where there is no such hour or nothing is known."""
    past = [counts[day - 7 * k] for k in range(1, WEEKS + 1) if day - 7 * k >= 0]
    known = [one for one in past if not np.all(np.isnan(one))]
    if len(known) < FEWEST_WEEKS:
        return None
    with np.errstate(invalid="ignore"):
        mean = np.nan_to_num(np.nanmean(np.stack(known), axis=0))
    mean = np.convolve(np.pad(mean, 1, mode="edge"), _SMOOTH, mode="valid")
    return mean, _get_spread(counts[max(0, day - 7 * WEEKS) : day])


def _get_spread(past: Counts) -> float:
    """By how much the variance is more than the mean, as a share of the mean's square: by moments, over every hour of the week that
    the past has often enough."""
    weeks = len(past) // 7
    if weeks < FEWEST_WEEKS:
        return 0.0
    by_week = past[len(past) - 7 * weeks :].reshape(weeks, 7, 24)
    n = np.count_nonzero(~np.isnan(by_week), axis=0)
    enough = n >= FEWEST_WEEKS
    filled = np.where(np.isnan(by_week), 0.0, by_week)
    mean = np.divide(filled.sum(axis=0), n, out=np.zeros((7, 24)), where=enough)
    apart = np.where(np.isnan(by_week), 0.0, by_week - mean) ** 2
    variance = np.divide(apart.sum(axis=0), n - 1, out=np.zeros((7, 24)), where=enough)
    # The mean's square is itself too large by its variance.
    square = np.maximum(0.0, mean * mean - np.divide(variance, n, out=np.zeros((7, 24)), where=enough))[enough].sum()
    return float(max(0.0, (variance - mean)[enough].sum() / square)) if square else 0.0


def get_chances(came: Counts, mean: Counts, spread: float, weeks: int) -> Counts:
    """How likely so many or more are, each, where `mean` was learned from so many weeks."""
    mean = np.maximum(mean, 0.5 / weeks)
    variance = mean + spread * mean * mean + (mean + spread * mean * mean) / weeks
    size = mean * mean / (variance - mean)
    # The upper tail of the negative binomial distribution, by the incomplete beta function (Abramowitz and Stegun, 26.5.26).
    chances: Counts = np.where(came <= 0, 1.0, special.betainc(np.maximum(came, 1), size, mean / (size + mean)))
    return chances


def find_unusual(counts: Counts, first: int, *, false_alarms: float = 1.0) -> list[Unusual]:
    """The unusual hours from day number `first` on; `false_alarms` a month are accepted. A storm counts for what comes after it as
    little as it can: hours that were unusual are left out of what later ones are expected from."""
    known = counts.copy()
    found: list[Unusual] = []
    for day in range(first, len(counts)):
        told = expect(known, day)
        if told is None:
            continue
        mean, spread = told
        weeks = min(WEEKS, day // 7)
        chances = get_chances(counts[day], mean, spread, weeks)
        for hour in np.flatnonzero((chances < false_alarms / HOURS_A_MONTH) & (counts[day] >= FEWEST)).tolist():
            found.append(
                Unusual(
                    day=day - first,
                    hour=hour,
                    came=int(counts[day, hour]),
                    expected=float(mean[hour]),
                    chance=float(chances[hour]),
                )
            )
            known[day, hour] = np.nan
    return found


def judge_period(arrivals: Counts, period: Period, now: float, false_alarms: float = 1.0) -> list[Unusual]:
    """The unusual hours of a period, from the arrivals in it and in the weeks before (seconds since 1970); the number of a day is
    counted from the period's first. What has not come yet, and what was before anything came, is not known."""
    before = Period(first=period.first - timedelta(days=7 * WEEKS), last=period.last, zone=period.zone)
    counts = np.zeros((before.count, 24))
    days = get_day_numbers(arrivals, before.list_edges())
    np.add.at(counts, (days, get_cells(arrivals, before) % 24), 1)
    if not len(arrivals):
        return []
    counts[: int(days.min()) + 1] = np.nan
    counts[int(get_day_numbers(np.array([now]), before.list_edges())[0]) + 1 :] = np.nan
    return find_unusual(counts, before.count - period.count, false_alarms=false_alarms)
