"""When a failed delivery is tried again. Decisions as values; the worker carries them out."""

from dataclasses import dataclass
from datetime import datetime, timedelta

#: Seconds that a network has to answer a first try; whoever is slower gets more with the next.
FIRST_PATIENCE = 3.0
#: And one that is asked whether it is back: with the pause it is noticed within three seconds.
PROBE_PATIENCE = 2.0
#: Pauses in seconds before the 2nd, 3rd ... try; the last one repeats until `GIVE_UP_AFTER`.
PAUSES = (2, 5, 15, 60, 300, 900, 3600)
GIVE_UP_AFTER = timedelta(days=2)
#: How long after its time a reply may still be on its first way out, a try and one more after a pause (docs/trade.md 3).
PATIENCE = timedelta(seconds=15)
#: So many tries that failed in passing are enough to say that it is not out.
ENOUGH_TRIES = 2


@dataclass(frozen=True, kw_only=True)
class TryAgain:
    """Try once more at `at`; `reason` is why it is not out yet."""

    at: datetime
    reason: str


@dataclass(frozen=True, kw_only=True)
class GiveUp:
    """It is not tried any more, and whoever it is from is told; `is_refused` when it was never going to be taken."""

    reason: str
    is_refused: bool = False


def get_pause(attempts: int) -> int:
    """Seconds to wait after try number `attempts` (from 1) failed in passing."""
    return PAUSES[min(attempts, len(PAUSES)) - 1]


def decide_retry(
    *,
    attempts: int,
    queued_at: datetime,
    now: datetime,
    retry_after: float | None,
    reason: str,
    over_after: timedelta = GIVE_UP_AFTER,
) -> TryAgain | GiveUp:
    """What to do after try number `attempts` (from 1) failed in passing.

    `retry_after` is what the network asked for, in seconds; it is obeyed when longer than our pause. What would be tried later than
    `over_after` from when it was queued is given up.
    """
    pause = get_pause(attempts)
    if retry_after is not None:
        pause = max(pause, int(-(-retry_after // 1)))
    at = now + timedelta(seconds=pause)
    if at - queued_at > over_after:
        return GiveUp(reason=f"Given up after {attempts} tries: {reason}")
    return TryAgain(at=at, reason=reason)


def get_silence_pause(silent_for: timedelta) -> timedelta:
    """How long to leave a network alone that does not answer: soon again at first, for most are back soon, then less often. One
    request asks; everything else of the account waits for it."""
    if silent_for < timedelta(minutes=5):
        return timedelta(seconds=1)
    return timedelta(seconds=15) if silent_for < timedelta(hours=1) else timedelta(minutes=1)


def get_stuck_reason(
    *,
    leaves_at: datetime,
    now: datetime,
    attempts: int,
    held_reason: str | None,
    paused_reason: str | None,
    silent_since: datetime | None,
    problem: str | None,
    network: str,
) -> str | None:
    """Why a reply that should be outside is not, as a sentence; None while it may still be on its first way out."""
    if now < leaves_at:
        return None
    if held_reason is not None:
        return f"Outgoing is held: {held_reason}."
    if paused_reason is not None:
        return paused_reason
    if silent_since is not None and attempts == 0 and now - silent_since >= PATIENCE:
        return f"{network} does not answer, since {silent_since:%H:%M} UTC."
    if attempts >= ENOUGH_TRIES and problem is not None:
        return problem
    if now - leaves_at < PATIENCE:
        return None
    return problem or f"{network} has not had its turn yet: other answers go first, or it does not answer."
