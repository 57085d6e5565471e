"""When a reply that should be outside is said to be stuck, and how often a silent network is asked (docs/trade.md 3)."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from sorta.core.retry import (
    GIVE_UP_AFTER,
    PATIENCE,
    PAUSES,
    GiveUp,
    TryAgain,
    decide_retry,
    get_silence_pause,
    get_stuck_reason,
)

NOW = datetime(2026, 11, 20, 12, tzinfo=UTC)
JUST_BEFORE, JUST_THEN = NOW + PATIENCE - timedelta(seconds=1), NOW + PATIENCE
BASE = {
    "leaves_at": NOW,
    "now": NOW,
    "attempts": 0,
    "held_reason": None,
    "paused_reason": None,
    "silent_since": None,
    "problem": None,
    "network": "Commonfold",
}


@pytest.mark.parametrize(
    ("given", "reason"),
    [
        ({"leaves_at": NOW + timedelta(seconds=1), "held_reason": "Storm"}, None),
        ({"held_reason": "Storm", "paused_reason": "Token expired."}, "Outgoing is held: Storm."),
        ({"paused_reason": "Token expired.", "attempts": 2, "problem": "Busy"}, "Token expired."),
        ({"now": JUST_BEFORE, "attempts": 1, "problem": "Busy"}, None),
        ({"attempts": 2, "problem": "Busy"}, "Busy"),
        ({"attempts": 2}, None),
        ({"now": JUST_THEN, "attempts": 1, "problem": "Busy"}, "Busy"),
        ({"silent_since": NOW - PATIENCE}, "Commonfold does not answer, since 11:59 UTC."),
        ({"silent_since": NOW - PATIENCE + timedelta(seconds=1)}, None),
        ({"silent_since": NOW - PATIENCE, "attempts": 1}, None),
        ({"now": JUST_BEFORE}, None),
        (
            {"now": JUST_THEN},
            "Commonfold has not had its turn yet: other answers go first, or it does not answer.",
        ),
    ],
)
def test_when_a_reply_is_not_out_and_why(given: dict[str, Any], reason: str | None) -> None:
    assert get_stuck_reason(**{**BASE, **given}) == reason


@pytest.mark.parametrize(("minutes", "seconds"), [(0, 1), (4.99, 1), (5, 15), (59.99, 15), (60, 60), (3000, 60)])
def test_a_silent_network_is_asked_soon_at_first_then_less_often(minutes: float, seconds: int) -> None:
    assert get_silence_pause(timedelta(minutes=minutes)) == timedelta(seconds=seconds)


@pytest.mark.parametrize(
    ("attempts", "asked", "seconds"),
    [
        *((n, None, PAUSES[n - 1]) for n in range(1, len(PAUSES) + 1)),
        (len(PAUSES) + 5, None, PAUSES[-1]),
        (1, PAUSES[0] - 1, PAUSES[0]),
        (1, PAUSES[0] + 0.2, PAUSES[0] + 1),
        (1, 4000.0, 4000),
    ],
)
def test_when_it_is_tried_again(attempts: int, asked: float | None, seconds: int) -> None:
    """After our own pause, or what the network asked for where that is longer, in whole seconds."""
    again = decide_retry(attempts=attempts, queued_at=NOW, now=NOW, retry_after=asked, reason="Busy")
    assert again == TryAgain(at=NOW + timedelta(seconds=seconds), reason="Busy")


def test_what_would_be_tried_too_late_is_given_up() -> None:
    def ask(queued: timedelta, **more: Any) -> TryAgain | GiveUp:
        return decide_retry(attempts=3, queued_at=NOW - queued, now=NOW, retry_after=100.0, reason="Busy", **more)

    pause = timedelta(seconds=max(100, PAUSES[2]))
    for over, more in ((GIVE_UP_AFTER, {}), (timedelta(hours=2), {"over_after": timedelta(hours=2)})):
        assert ask(over - pause, **more) == TryAgain(at=NOW + pause, reason="Busy")
        gone = ask(over - pause + timedelta(seconds=1), **more)
        assert gone == GiveUp(reason="Given up after 3 tries: Busy", is_refused=False)
