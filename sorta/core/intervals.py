"""Intervals of figures that come from few cases. Used by services.reading and core.reports.

Wilson's score interval (Wilson, 1927; Newcombe, 1998, recommends it for shares): it stays between 0 and 1 and is honest near both.
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy import special

Numbers = npt.NDArray[np.float64]

#: The normal quantile of a 95 % interval.
_Z = 1.959963984540054
#: What it leaves out on either side.
TAIL = 0.025
#: How many draws an interval of a difference of quantiles is taken from.
_DRAWS = 2000
#: Fewer cases than these say nothing.
TOO_FEW = 5


@dataclass(frozen=True, kw_only=True)
class Share:
    """`hits` of `of`, with a 95 % interval; none of nothing is any share."""

    hits: int
    of: int
    low: float
    high: float

    @property
    def is_too_few(self) -> bool:
        """Whether nothing should be concluded from it."""
        return self.of < TOO_FEW


def get_share(hits: int, of: int) -> Share:
    """The share with its interval. Raises ValueError when the hits are more than the cases, or negative."""
    if not 0 <= hits <= of:
        raise ValueError(f"{hits} of {of} is no share.")
    if of == 0:
        return Share(hits=0, of=0, low=0.0, high=1.0)
    share, square = hits / of, _Z * _Z
    middle = share + square / (2 * of)
    reach = _Z * math.sqrt(share * (1 - share) / of + square / (4 * of * of))
    whole = 1 + square / of
    return Share(
        hits=hits,
        of=of,
        low=0.0 if hits == 0 else (middle - reach) / whole,
        high=1.0 if hits == of else (middle + reach) / whole,
    )


def get_share_difference(one: Share, other: Share) -> tuple[float, float]:
    """Newcombe's interval for a difference of shares, from the Wilson intervals of both (1998, method 10). Neither is of nothing."""
    a, b = one.hits / one.of, other.hits / other.of
    return a - b - math.hypot(a - one.low, other.high - b), a - b + math.hypot(one.high - a, b - other.low)


def _get_at(values: Numbers, places: Numbers) -> Numbers:
    """Sorted values at these places, linear between neighbours."""
    low = np.floor(places).astype(np.int64)
    high = np.minimum(low + 1, len(values) - 1)
    found: Numbers = values[low] + (values[high] - values[low]) * (places - low)
    return found


def get_quantile(values: Numbers, q: float) -> float:
    """The quantile of sorted values, linear between neighbours (as NumPy and pandas by default)."""
    return float(_get_at(values, np.array([(len(values) - 1) * q]))[0])


#: What a chance may be off by, as a sum of floats.
_HAIR = 1e-12


def get_binomial_quantile(p: float, n: int, q: float) -> int:
    """The fewest hits of `n`, each with chance `q`, that as many or fewer have a chance of at least `p`.

    By the functions that `scipy.stats` stands on, as elsewhere in the core: importing that itself takes a
    second of every command and process.
    """
    near = max(math.ceil(float(special.bdtrik(p, n, q))) - 1, 0)
    # Where the chance is `p` itself, as for a median of an odd number, a sum of floats may lie a hair below it.
    return near if float(special.bdtr(near, n, q)) >= p - _HAIR else near + 1


def get_order_interval(values: Numbers, q: float) -> tuple[float, float]:
    """An interval of at least 95 % for a quantile from sorted values: two order statistics, by the binomial distribution of how many
    values lie below it (exact, without an assumption on their distribution; Conover, Practical Nonparametric Statistics, 3.2).
    """
    n = len(values)
    low = get_binomial_quantile(TAIL, n, q) - 1
    high = get_binomial_quantile(1 - TAIL, n, q)
    return float(values[max(low, 0)]), float(values[min(high, n - 1)])


def draw_quantiles(values: Numbers, q: float, chance: np.random.Generator) -> Numbers:
    """Quantiles of resampled values: the place of a resample's quantile is beta distributed among the sorted values, so that
    nothing need be resampled (as in Maritz and Jarrett, 1978)."""
    n = len(values)
    places = chance.beta((n + 1) * q, (n + 1) * (1 - q), _DRAWS) * n - 0.5
    return _get_at(values, np.clip(places, 0, n - 1))
