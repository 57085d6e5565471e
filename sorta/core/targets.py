"""Priorities, answer targets and the due instant (docs/trade.md 4). Used by moves' projection and the queue."""

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from enum import IntEnum, StrEnum

from sorta.core.errors import Invalid
from sorta.core.ports import Kind
from sorta.core.working_time import RoundTheClock, WorkingTime


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


class Audience(StrEnum):
    """Whom an answer is promised to, for targets: those who spoke in public, in private, or in a review."""

    PUBLIC = "public"
    PRIVATE = "private"
    REVIEW = "review"


def get_audience(kind: str, *, public: bool) -> Audience:
    """The audience of a conversation of this kind."""
    if kind == Kind.REVIEW:
        return Audience.REVIEW
    return Audience.PUBLIC if public else Audience.PRIVATE


#: Working minutes by priority (docs/trade.md 4).
DEFAULT_MINUTES = {Priority.URGENT: 30, Priority.HIGH: 120, Priority.NORMAL: 480, Priority.LOW: 960}
#: A promise of more than this many working minutes is none.
LONGEST_TARGET = 60 * 24 * 30


@dataclass(frozen=True, kw_only=True)
class Targets:
    """How soon an answer is promised: working minutes by audience and priority. Raises Invalid when one is missing."""

    minutes: Mapping[Audience, Mapping[Priority, int]] = field(
        default_factory=lambda: {audience: dict(DEFAULT_MINUTES) for audience in Audience}
    )

    def __post_init__(self) -> None:
        for audience in Audience:
            for priority in Priority:
                minutes = self.minutes.get(audience, {}).get(priority, 0)
                if not 1 <= minutes <= LONGEST_TARGET:
                    raise Invalid(f"A target has 1 to {LONGEST_TARGET} working minutes.", "targets")


@dataclass(frozen=True, kw_only=True)
class Promise:
    """What a workspace promises, and the hours it counts in."""

    targets: Targets = field(default_factory=Targets)
    hours: WorkingTime = field(default_factory=RoundTheClock)


@dataclass(frozen=True, kw_only=True)
class PromiseHistory:
    """What a workspace promised when: `later` holds what it promised from an instant on, in their order, `first` what before."""

    first: Promise = field(default_factory=Promise)
    later: Sequence[tuple[datetime, Promise]] = ()

    def get_at(self, at: datetime) -> Promise:
        """What held at an instant."""
        n = bisect_right([begins for begins, _ in self.later], at)
        return self.later[n - 1][1] if n else self.first

    def measure_working_minutes(self, start: datetime, end: datetime) -> float:
        """Working minutes from `start` to `end`, each stretch by the hours that held then; 0 when `end` is not after `start`."""
        minutes, begun, promise = 0.0, start, self.get_at(start)
        for begins, then in self.later:
            if begins <= start or begins >= end:
                continue
            minutes += promise.hours.working_minutes_between(begun, begins)
            begun, promise = begins, then
        return minutes + promise.hours.working_minutes_between(begun, end)


def get_due(
    awaiting_since: datetime | None, priority: Priority, audience: Audience, promise: Promise
) -> datetime | None:
    """The instant the promised answer falls on; None when nothing of theirs is unanswered."""
    if awaiting_since is None:
        return None
    return promise.hours.add_working_minutes(awaiting_since, promise.targets.minutes[audience][priority])


def get_band(due: datetime | None, now: datetime, end_of_today: datetime) -> Band:
    """The band a due falls into at `now`; `end_of_today` is the workspace's next local midnight."""
    if due is None:
        return Band.NOT_DUE
    # Instants: two wall times of one zone are compared as they read, and an hour reads the same twice.
    due, now, end_of_today = (at.astimezone(UTC) for at in (due, now, end_of_today))
    if due < now:
        return Band.LATE
    if due < now + timedelta(hours=1):
        return Band.WITHIN_HOUR
    return Band.LATER_TODAY if due < end_of_today else Band.AFTER_TODAY
