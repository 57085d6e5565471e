"""How much a person engages with us, lately (docs/trade.md 9). Used by ingest and the worker.

Points decay by half every 30 days; standing is the mid-rank percentile among people with points.
Decay is common to all, so the order of people changes only when somebody gets points.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from datetime import datetime

from sorta.core.ports import Kind

HALF_LIFE_DAYS = 30.0
REACTION_POINTS = 1
POINTS = {
    Kind.COMMENT: 3,
    Kind.REPLY: 3,
    Kind.VISITOR_POST: 3,
    Kind.MENTION: 4,
    Kind.STORY_MENTION: 4,
    Kind.PRIVATE_MESSAGE: 5,
    Kind.REVIEW: 6,
    Kind.FORM_ENTRY: 8,
    # They spoke about us, not with us: docs/trade.md 9 gives no points for it.
    Kind.FOUND: 0,
}


def decay(points: float, since: datetime, now: datetime) -> float:
    """What points given at `since` are worth at `now`; never more than they were."""
    days = max(0.0, (now - since).total_seconds() / 86400)
    return float(points * 0.5 ** (days / HALF_LIFE_DAYS))


def add_points(points: float, at: datetime | None, more: float, when: datetime) -> tuple[float, datetime]:
    """The sum after `more` points at `when`, and the instant it stands for. Order of adding does not matter."""
    if at is None:
        return float(more), when
    if when >= at:
        return decay(points, at, when) + more, when
    return points + decay(more, when, at), at


def get_standing(points: float, everybody: Sequence[float]) -> float:
    """Mid-rank percentile, 0 to 100, of `points` in the ascending sequence `everybody` that holds it.

    As SciPy's percentileofscore(kind='mean'): the mean of the shares below and at or below.
    """
    below, up_to = bisect_left(everybody, points), bisect_right(everybody, points)
    return 50.0 * (below + up_to) / len(everybody)
