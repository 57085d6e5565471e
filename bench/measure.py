"""Interleaved slices of floor and subject, so that noise on the machine meets both."""

import asyncio
import statistics
import time
from collections.abc import Awaitable, Callable
from dataclasses import dataclass

from sorta.store.keyring import Keyring, make_key

Work = Callable[[int], Awaitable[int]]


@dataclass(frozen=True)
class Ratio:
    """Median rate of floor and subject (units a second), and the median and range of their ratios."""

    floor: float
    subject: float
    ratio: float
    low: float
    high: float


async def rate(work: Work, seconds: float, workers: int) -> float:
    """Units a second that `workers` doing `work` get through."""
    until = time.perf_counter() + seconds

    async def go(worker: int) -> int:
        done = 0
        while time.perf_counter() < until:
            done += await work(worker)
        return done

    began = time.perf_counter()
    total = sum(await asyncio.gather(*(go(n) for n in range(workers))))
    return total / (time.perf_counter() - began)


async def compare(floor: Work, subject: Work, *, workers: int = 4, seconds: float = 1.2, slices: int = 7) -> Ratio:
    """Floor and subject in turn; pairs whose floor moved more than twofold from the median are left out."""
    await rate(floor, 0.4, workers)
    await rate(subject, 0.4, workers)
    pairs = [(await rate(floor, seconds, workers), await rate(subject, seconds, workers)) for _ in range(slices)]
    middle = statistics.median(f for f, _ in pairs)
    steady = [(f, s) for f, s in pairs if middle / 2 <= f <= middle * 2]
    ratios = [s / f for f, s in steady]
    return Ratio(
        floor=statistics.median(f for f, _ in steady),
        subject=statistics.median(s for _, s in steady),
        ratio=statistics.median(ratios),
        low=min(ratios),
        high=max(ratios),
    )


def show(name: str, found: Ratio, target: str, met: bool) -> None:
    """One line: the figure, its range, what it was measured against, and the target."""
    print(
        f"{name:<44}{found.ratio:6.3f}  ({found.low:.3f} to {found.high:.3f})  "
        f"{found.subject:9,.0f}/s against {found.floor:9,.0f}/s   target {target} {'met' if met else 'MISSED'}",
        flush=True,
    )


#: The keys of what the bench starts, and how a connection of its own enters a workspace with a pass.
KEY = make_key()
KEYS = Keyring.read(KEY)
ENTER = "select set_config('app.workspace_id', %s, false), set_config('app.pass', %s, false)"
