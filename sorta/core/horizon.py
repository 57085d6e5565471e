"""The horizon strip: what is due in the next working hours, in quarter hours, and when the desk will be clear (docs/trade.md 4)."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sorta.core.working_time import WorkingTime

QUARTER = timedelta(minutes=15)
#: How much working time the strip shows, in minutes.
AHEAD = 8 * 60
#: Fewer answers and settlings than this say nothing of a pace; common practice, no source.
FEWEST = 3
#: A desk that would not be clear within this many working minutes has no time worth naming.
FARTHEST = 20 * 480


@dataclass(frozen=True, kw_only=True)
class Slot:
    """A quarter of an hour, or a folded gap of closed time."""

    starts: datetime
    ends: datetime
    is_open: bool


def list_slots(hours: WorkingTime, now: datetime) -> list[Slot]:
    """The quarter hours of the next 8 working hours, from the one `now` lies in, each closed time between as one slot.

    Quarters are those of the clock, for zones lie whole quarters from UTC; one that opens or closes within counts as
    open. Slots are instants, in UTC: the wall clock of a night in which clocks change runs an hour twice, or not at all.
    """
    slots: list[Slot] = []
    at = _floor(now.astimezone(UTC))
    open_for = 0.0
    while open_for < AHEAD:
        end = at + QUARTER
        minutes = hours.working_minutes_between(at, end)
        if minutes > 0:
            slots.append(Slot(starts=at, ends=end, is_open=True))
            open_for += minutes
            at = end
            continue
        opens = hours.get_next_open(end)
        until = _floor(opens)
        slots.append(Slot(starts=at, ends=max(until, end), is_open=False))
        at = max(until, end)
    return slots


def _floor(at: datetime) -> datetime:
    return datetime.fromtimestamp(at.timestamp() // 900 * 900, tz=at.tzinfo)


def count_dues(slots: Sequence[Slot], dues: Iterable[tuple[datetime, int]]) -> list[dict[int, int]]:
    """How many dues of each priority fall into each slot; `dues` as (instant, priority). A due outside is left out."""
    counts: list[dict[int, int]] = [{} for _ in slots]
    at = 0
    for due, priority in sorted((due.astimezone(UTC), priority) for due, priority in dues):
        while at < len(slots) and slots[at].ends <= due:
            at += 1
        if at == len(slots):
            break
        if slots[at].starts <= due:
            counts[at][priority] = counts[at].get(priority, 0) + 1
    return counts


@dataclass(frozen=True, kw_only=True)
class Pace:
    """When the desk will be clear at the pace of `over`: 'two_hours' or 'today'; no instant when nothing can be said."""

    clear_at: datetime | None
    over: str | None
    finished: int = 0
    minutes: float = 0.0


def get_pace(
    hours: WorkingTime, now: datetime, *, open_work: int, lately: tuple[int, float], today: tuple[int, float]
) -> Pace:
    """Open work of ours, divided by answers and settlings per working minute.

    `lately` and `today` are (answers and settlings, working minutes) over the last two working hours and since the
    day began; the second is used when the first is too little, and nothing is claimed when both are.
    """
    for over, (finished, minutes) in (("two_hours", lately), ("today", today)):
        if finished < FEWEST or minutes <= 0:
            continue
        needed = open_work * minutes / finished
        if needed > FARTHEST:
            return Pace(clear_at=None, over=over, finished=finished, minutes=minutes)
        clear = hours.add_working_minutes(now, round(needed)) if open_work else now
        return Pace(clear_at=clear, over=over, finished=finished, minutes=minutes)
    return Pace(clear_at=None, over=None)


def get_start_of(hours: WorkingTime, now: datetime, minutes: int) -> datetime:
    """The instant since which so many working minutes have passed, found by halving; at most eight weeks back."""
    now = now.astimezone(UTC)
    early, late = now - timedelta(weeks=8), now
    if hours.working_minutes_between(early, now) <= minutes:
        return early
    while late - early > timedelta(seconds=1):
        middle = early + (late - early) / 2
        if hours.working_minutes_between(middle, now) >= minutes:
            early = middle
        else:
            late = middle
    return early
