"""How many requests a minute an account may be asked for (docs/trade.md 7). Used by services.delivery.

A sliding window: in any span of 60 seconds at most `limit` requests begin.
"""

from collections.abc import Sequence
from datetime import datetime, timedelta

WINDOW = timedelta(seconds=60)


def get_next_free(tried: Sequence[datetime], limit: int, now: datetime) -> datetime | None:
    """When the next request may begin, None for now. `tried` are the beginnings of earlier ones, in any order; one that lies further
    ahead than the window was written by a clock that was wrong, and holds up nothing."""
    lately = sorted(at for at in tried if abs(at - now) < WINDOW)
    if len(lately) < limit:
        return None
    return lately[-limit] + WINDOW
