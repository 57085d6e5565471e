"""Handing over to a support desk: states of a case, which messages join it, what may follow what. Used by services.cases."""

from datetime import datetime, timedelta
from enum import StrEnum


class CaseState(StrEnum):
    """How a case stands. Opening: not there yet; returned: the desk gives it back; refused: the desk would not have it."""

    OPENING = "opening"
    OPEN = "open"
    WAITING = "waiting"
    SOLVED = "solved"
    RETURNED = "returned"
    REFUSED = "refused"


#: What a desk can say about a case.
TOLD = (CaseState.OPEN, CaseState.WAITING, CaseState.SOLVED, CaseState.RETURNED)
#: A case that is over for the desk: nothing joins it any more, unless the desk takes it up again.
ENDED = (CaseState.SOLVED, CaseState.RETURNED, CaseState.REFUSED)


def get_follow_until(last_passed_at: datetime, follow_hours: int) -> datetime:
    """Until when a further message joins the case."""
    return last_passed_at + timedelta(hours=follow_hours)


def joins(state: CaseState, *, last_passed_at: datetime, follow_hours: int, at: datetime) -> bool:
    """Whether what is passed on at `at` joins a case, or opens another. The window's last instant is within."""
    return state not in ENDED and at <= get_follow_until(last_passed_at, follow_hours)
