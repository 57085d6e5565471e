"""Priorities, answer targets and the due instant (PRODUCT.md 4). Used by moves' projection and the queue."""

from dataclasses import dataclass, field
from datetime import datetime, timedelta
from enum import IntEnum, StrEnum

from sorta.core.working_time import WorkingTime


class Priority(IntEnum):
    """How pressing a conversation is; higher is more pressing."""

    LOW = 0
    NORMAL = 1
    HIGH = 2
    URGENT = 3


class Band(StrEnum):
    """The queue's bands by due, in their order on the desk."""

    LATE = "late"
    WITHIN_HOUR = "within_hour"
    LATER_TODAY = "later_today"
    AFTER_TODAY = "after_today"
    NOT_DUE = "not_due"


#: Working minutes by priority (PRODUCT.md 4).
DEFAULT_MINUTES = {Priority.URGENT: 30, Priority.HIGH: 120, Priority.NORMAL: 480, Priority.LOW: 960}


@dataclass(frozen=True, kw_only=True)
class Targets:
    """How soon an answer is promised: working minutes by priority."""

    minutes: dict[Priority, int] = field(default_factory=lambda: dict(DEFAULT_MINUTES))


def get_due(
    awaiting_since: datetime | None, priority: Priority, targets: Targets, hours: WorkingTime
) -> datetime | None:
    """The instant the promised answer falls on; None when nothing of theirs is unanswered."""
    if awaiting_since is None:
        return None
    return hours.add_working_minutes(awaiting_since, targets.minutes[priority])


def get_band(due: datetime | None, now: datetime, end_of_today: datetime) -> Band:
    """The band a due falls into at `now`; `end_of_today` is the workspace's next local midnight."""
    if due is None:
        return Band.NOT_DUE
    if due < now:
        return Band.LATE
    if due < now + timedelta(hours=1):
        return Band.WITHIN_HOUR
    return Band.LATER_TODAY if due < end_of_today else Band.AFTER_TODAY
