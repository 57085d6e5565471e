"""The clock: every duty in a round of its own, for all workspaces at once, whatever becomes of the others."""

import asyncio
from collections.abc import Coroutine, Sequence
from datetime import UTC, datetime
from typing import Any

import structlog

from sorta.services import duties
from sorta.services.duties import Duty, Ended, Place
from sorta.services.house import House, Unavailable
from sorta.services.workspaces import list_working_ids

log = structlog.get_logger()
#: Workspaces and accounts that one duty is done for at a time.
AT_ONCE = 6
#: Seconds between the beginnings of two duties' rounds, so that they do not all ask the database at the same moment.
APART = 0.15
#: Seconds after which what has ended is written down; how much of it is kept while that fails.
NOTED_EVERY, MOST_KEPT = 0.5, 10_000


class Clock:
    """Runs until cancelled. An absent database is waited for; nothing else stops a round, and no round another."""

    def __init__(self, house: House) -> None:
        self._house = house
        self._running: set[tuple[str, int, int]] = set()
        self._tasks: set[asyncio.Task[None]] = set()
        self._ended: list[Ended] = []

    async def run(self) -> None:
        """All duties, each round by its own time."""
        try:
            async with asyncio.TaskGroup() as group:
                for n, duty in enumerate(duties.DUTIES):
                    group.create_task(self._go_round(duty, n * APART))
                group.create_task(self._keep_noting())
        finally:
            for task in self._tasks:
                task.cancel()
            await asyncio.gather(*self._tasks, return_exceptions=True)
            # What is not written down would wait for its lease to end.
            await self._note_ended()

    async def _go_round(self, duty: Duty, after: float) -> None:
        slots = asyncio.Semaphore(AT_ONCE)
        await asyncio.sleep(after)
        while True:
            # A database that comes back is asked within a second.
            pause = min(duty.every, 60.0)
            try:
                await self._begin_all(duty, slots)
            except Unavailable as error:
                log.warning("the clock waits for the database", duty=duty.name, reason=str(error))
                pause = 1.0
            except Exception:
                log.exception("a round failed", duty=duty.name)
            await asyncio.sleep(pause)

    async def _begin_all(self, duty: Duty, slots: asyncio.Semaphore) -> None:
        now = datetime.now(UTC)
        places = [
            (workspace_id, target)
            for workspace_id in await list_working_ids(self._house)
            for target in await duties.list_targets(self._house, duty, workspace_id)
            # One that still runs is left alone; it holds up its own next round and no other.
            if (duty.name, workspace_id, target) not in self._running
        ]
        self._running.update((duty.name, *place) for place in places)
        self._begin_task(self._run_all(duty, places, slots))
        await duties.note_round(self._house, duty, now)

    def _begin_task(self, work: Coroutine[Any, Any, None]) -> None:
        task = asyncio.create_task(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    async def _run_all(self, duty: Duty, places: Sequence[Place], slots: asyncio.Semaphore) -> None:
        """As many at a time as there are slots for, and none begun before there is one: a lease runs from then."""
        left = list(places)
        try:
            while left:
                await slots.acquire()
                some = [left.pop()]
                while left and not slots.locked():
                    await slots.acquire()
                    some.append(left.pop())
                await self._begin_some(duty, some, slots)
        finally:
            self._running.difference_update((duty.name, *place) for place in left)

    async def _begin_some(self, duty: Duty, some: Sequence[Place], slots: asyncio.Semaphore) -> None:
        now, begun = datetime.now(UTC), set[Place]()
        try:
            begun.update(await duties.begin(self._house, duty, some, now))
        except Unavailable as error:
            log.warning("the clock waits for the database", duty=duty.name, reason=str(error))
        except Exception:
            log.exception("a duty was not begun", duty=duty.name)
        for place in some:
            if place in begun:
                self._begin_task(self._run(duty, place, now, slots))
            else:
                self._let_go(duty, place, slots)

    async def _run(self, duty: Duty, place: Place, now: datetime, slots: asyncio.Semaphore) -> None:
        try:
            ended = await duties.do(self._house, duty, *place, now)
            # Which list it goes to is looked up only now: the one from before may have been written down meanwhile.
            self._ended.append(ended)
        finally:
            self._let_go(duty, place, slots)

    def _let_go(self, duty: Duty, place: Place, slots: asyncio.Semaphore) -> None:
        slots.release()
        self._running.discard((duty.name, *place))

    async def _keep_noting(self) -> None:
        while True:
            await asyncio.sleep(NOTED_EVERY)
            await self._note_ended()

    async def _note_ended(self) -> None:
        """What has ended meanwhile is written down together; where that fails it is kept for the next time."""
        ended, self._ended = self._ended, []
        if not ended:
            return
        try:
            await duties.end(self._house, ended)
        except Exception as error:
            self._ended = ended[-MOST_KEPT:] + self._ended
            if isinstance(error, Unavailable):
                log.warning("the clock waits for the database", reason=str(error))
            else:
                log.exception("how duties ended was not written down")


async def run_all_once(house: House, now: datetime) -> None:
    """Every duty once for every workspace, here and in order: for the tests and the demo's loading."""
    for duty in duties.DUTIES:
        for workspace_id in await list_working_ids(house):
            for target in await duties.list_targets(house, duty, workspace_id):
                await duties.run_once(house, duty, workspace_id, target, now)
