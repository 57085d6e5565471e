"""Requests a minute: hand-worked cases and the property, checked by counting; the rule is the project's own."""

from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from sorta.core.pacing import WINDOW, get_next_free

AT = datetime(2026, 3, 2, 9, tzinfo=UTC)


def ago(*seconds: float) -> list[datetime]:
    return [AT - timedelta(seconds=s) for s in seconds]


def test_free_until_the_limit_then_when_the_oldest_that_counts_leaves_the_window() -> None:
    assert get_next_free([], 1, AT) is None
    assert get_next_free(ago(10, 20), 3, AT) is None
    assert get_next_free(ago(10, 20, 50), 3, AT) == AT + timedelta(seconds=10)
    assert get_next_free(ago(10, 20, 50, 55), 3, AT) == AT + timedelta(seconds=10)
    assert get_next_free(ago(60, 61), 1, AT) is None


def test_what_a_wrong_clock_wrote_ahead_holds_up_nothing() -> None:
    """A try of the next day, before the clock was put right; one of some seconds ahead, by another machine's clock, counts."""
    assert get_next_free(ago(-86_400), 1, AT) is None
    assert get_next_free(ago(-60), 1, AT) is None
    assert get_next_free(ago(-5), 1, AT) == AT + timedelta(seconds=65)


@given(st.lists(st.floats(0, 30), min_size=1, max_size=60), st.integers(1, 10))
def test_whoever_waits_as_told_never_goes_over_the_limit(pauses: list[float], limit: int) -> None:
    now, begun = AT, []
    for pause in pauses:
        now += timedelta(seconds=pause)
        now = get_next_free(begun, limit, now) or now
        begun.append(now)
    for end in begun:
        assert sum(end - WINDOW < at <= end for at in begun) <= limit
