"""When a message joins a case: hand-worked, the window's rule is the project's own (docs/trade.md), no source outside."""

from datetime import UTC, datetime, timedelta

import pytest

from sorta.core.cases import CaseState, get_follow_until, joins

AT = datetime(2026, 3, 2, 9, tzinfo=UTC)


@pytest.mark.parametrize(
    ("state", "hours", "later", "is_joined"),
    [
        (CaseState.OPEN, 72, timedelta(hours=72), True),
        (CaseState.OPEN, 72, timedelta(hours=72, seconds=1), False),
        (CaseState.OPENING, 1, timedelta(0), True),
        (CaseState.WAITING, 24, timedelta(hours=3), True),
        (CaseState.SOLVED, 24, timedelta(hours=3), False),
        (CaseState.RETURNED, 24, timedelta(hours=3), False),
        (CaseState.REFUSED, 24, timedelta(hours=3), False),
        (CaseState.OPEN, 0, timedelta(seconds=1), False),
    ],
)
def test_a_message_joins_within_the_window_and_while_the_desk_has_it(
    state: CaseState, hours: int, later: timedelta, is_joined: bool
) -> None:
    assert joins(state, last_passed_at=AT, follow_hours=hours, at=AT + later) is is_joined


def test_the_window_is_counted_in_hours_across_a_change_of_the_clocks() -> None:
    assert get_follow_until(datetime(2026, 3, 28, 12, tzinfo=UTC), 24) == datetime(2026, 3, 29, 12, tzinfo=UTC)
