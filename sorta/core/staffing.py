"""How many people each hour needs, so that a chosen share is answered within a chosen time: Erlang's delay formula.

Erlang C assumes that messages come at random (Poisson), that answering takes exponential time, that nobody gives up waiting, and that
the hour settles: good where an hour has many arrivals and little changes within it. Checked in tests/core/test_staffing.py against
table values, identities and a simulation. Used by services.reports.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from sorta.core.working_time import Span

#: Nobody plans for more at once.
MOST_PEOPLE = 500
#: What answering takes where nobody has been timed yet, in seconds; common practice, no source.
ASSUMED_HANDLING = 240.0
#: Of fewer known handling times the mean is no guide.
ENOUGH_HANDLINGS = 20


def get_erlang_b(people: int, load: float) -> float:
    """The share that finds all `people` busy where nobody waits, at a load in erlang. Raises ValueError."""
    if people < 0 or load < 0 or not math.isfinite(load):
        raise ValueError("people and load are not negative")
    lost = 1.0
    for n in range(1, people + 1):
        lost = load * lost / (n + load * lost)
    return lost


def get_erlang_c(people: int, load: float) -> float:
    """The share that has to wait. Raises ValueError where the load is not less than the people: the queue grows without end."""
    if people <= load:
        raise ValueError(f"{people} people cannot keep up with {load:.2f} erlang")
    lost = get_erlang_b(people, load)
    return people * lost / (people - load * (1 - lost))


def get_share_within(people: int, load: float, handling: float, within: float) -> float:
    """The share that is begun within a time; `handling` and `within` in the same unit."""
    if load == 0:
        return 1.0
    return 1 - get_erlang_c(people, load) * math.exp(-(people - load) * within / handling)


def get_mean_wait(people: int, load: float, handling: float) -> float:
    """The mean wait until somebody begins, in the unit of `handling`."""
    return 0.0 if load == 0 else get_erlang_c(people, load) * handling / (people - load)


def find_people(load: float, handling: float, within: float, share: float) -> int | None:
    """The fewest people with whom that share is begun within the time; 0 without a load, None where MOST_PEOPLE are too few.

    Raises ValueError for what is no share, time or load.
    """
    if not 0 < share < 1 or handling <= 0 or within < 0 or load < 0:
        raise ValueError("a share lies between 0 and 1, and times are not negative")
    if load == 0:
        return 0
    people = math.floor(load) + 1
    while people <= MOST_PEOPLE:
        if get_share_within(people, load, handling, within) >= share:
            return people
        people += 1
    return None


@dataclass(frozen=True, kw_only=True)
class Handling:
    """How long an answer takes, in seconds, and how that is known."""

    seconds: float
    source: Literal["given", "timed", "assumed"]


def choose_handling(minutes: int | None, timed: Sequence[float]) -> Handling:
    """As given; else the mean of those that were timed, where there are enough; else what is assumed."""
    if minutes:
        return Handling(seconds=minutes * 60.0, source="given")
    if len(timed) >= ENOUGH_HANDLINGS:
        return Handling(seconds=sum(timed) / len(timed), source="timed")
    return Handling(seconds=ASSUMED_HANDLING, source="assumed")


@dataclass(frozen=True, kw_only=True)
class HourNeed:
    """One hour of the week: what comes in an hour, how many people that needs (None: more than can be planned for), and how
    many work then. In an hour in which the workspace is closed what comes in waits, and nobody is needed."""

    arrivals: float
    is_open: bool
    needed: int | None
    on_shift: int


def plan_week(
    arrivals: Sequence[float],
    is_open: Sequence[bool],
    on_shift: Sequence[int],
    *,
    handling: float,
    within: float,
    share: float,
) -> list[HourNeed]:
    """Each of the 168 hours of the week. `arrivals` an hour; `handling` and `within` in seconds. Raises ValueError."""
    return [
        HourNeed(
            arrivals=rate,
            is_open=open_,
            needed=find_people(rate * handling / 3600, handling, within, share) if open_ else 0,
            on_shift=people,
        )
        for rate, open_, people in zip(arrivals, is_open, on_shift, strict=True)
    ]


def measure_open(week: Sequence[Sequence[Span]]) -> list[float]:
    """Of each of the 168 hours of a week, from Monday 0, the share that lies within these hours."""
    minutes = [0.0] * 168
    for day, spans in enumerate(week):
        for span in spans:
            for hour in range(span.starts // 60, math.ceil(span.ends / 60)):
                inside = min(span.ends, (hour + 1) * 60) - max(span.starts, hour * 60)
                minutes[(day * 24 + hour) % 168] += inside
    return [min(m / 60, 1.0) for m in minutes]
