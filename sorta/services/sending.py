"""One try of sending something outside: a reply, an act, a case, a letter, a text message, an event for a program.

Everything that goes out is claimed in one transaction, sent outside any, and recorded in another. Here is the middle. It never raises:
whatever happens, a fault of our own too, comes back as a value to be recorded, so that nothing stays as if it were still being sent and
nothing stands in the way of what comes after it. Used by delivery, cases, advice, alerts, report_sharing, invitations and programs.
"""

from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import TypeVar

import structlog

from sorta.core.ports import DeskRefused, LetterRefused, Unreachable
from sorta.core.retry import GIVE_UP_AFTER, GiveUp, TryAgain, decide_retry

log = structlog.get_logger()
T = TypeVar("T")
BROKEN = "Something went wrong in Sorta while it was being sent; its log says what."


@dataclass(frozen=True, kw_only=True)
class Sent:
    """It was taken."""


@dataclass(frozen=True, kw_only=True)
class Failed:
    """It was not taken; `is_refused` when it never will be."""

    reason: str
    is_refused: bool = False


async def send_once(send: Callable[[], Awaitable[T]], what: str, number: int) -> T | Failed:
    """What `send` gives, or why it did not. `what` and `number` name it in the log."""
    try:
        return await send()
    except (LetterRefused, DeskRefused) as error:
        failed = Failed(reason=str(error), is_refused=True)
    except Unreachable as error:
        failed = Failed(reason=str(error))
    except Exception:
        log.exception("sending broke", what=what, number=number)
        return Failed(reason=BROKEN)
    log.warning("not sent", what=what, number=number, reason=failed.reason, refused=failed.is_refused)
    return failed


async def attempt(
    send: Callable[[], Awaitable[object]],
    what: str,
    number: int,
    *,
    tries: int,
    since: datetime,
    now: datetime,
    over_after: timedelta = GIVE_UP_AFTER,
) -> Sent | TryAgain | GiveUp:
    """Try number `tries` (from 1) of what waits `since` then, and what follows from how it ended."""
    ended = await send_once(send, what, number)
    if not isinstance(ended, Failed):
        return Sent()
    if ended.is_refused:
        return GiveUp(reason=ended.reason, is_refused=True)
    return decide_retry(
        attempts=tries, queued_at=since, now=now, retry_after=None, reason=ended.reason, over_after=over_after
    )
