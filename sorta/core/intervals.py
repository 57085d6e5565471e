"""Intervals of figures that come from few cases. Used by services.reading.

Wilson's score interval (Wilson, 1927; Newcombe, 1998, recommends it for shares): it stays between 0 and 1 and is honest near both.
"""

import math
from dataclasses import dataclass

#: The normal quantile of a 95 % interval.
_Z = 1.959963984540054
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
