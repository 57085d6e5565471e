"""The clock: every duty in a round of its own, for all workspaces at once, whatever becomes of the others."""

import asyncio
from datetime import UTC, datetime

import structlog

from sorta.services import duties
from sorta.services.duties import Duty
from sorta.services.house import House, Unavailable
from sorta.services.workspaces import list_working_ids

log = structlog.get_logger()
#: Workspaces and accounts that one duty is done for at a time.
AT_ONCE = 6
#: Seconds between the beginnings of two duties' rounds, so that they do not all ask the database at the same moment.
APART = 0.15


class Clock:
    """Runs until cancelled. An absent database is waited for; nothing else stops a round, and no round another."""

    def __init__(self, house: House) -> None:
        self._house = house
        self._running: set[tuple[str, int, int]] = set()
        self._tasks: set[asyncio.Task[None]] = set()

    async def run(self) -> None:
        """All duties, each round by its own time."""
        try:
            async with asyncio.TaskGroup() as group:
                for n, duty in enumerate(duties.DUTIES):
                    group.create_task(self._go_round(duty, n * APART))
        finally:
            for task in self._tasks:
                task.cancel()
            await asyncio.gather(*self._tasks, return_exceptions=True)

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
        for workspace_id in await list_working_ids(self._house):
            for target in await duties.list_targets(self._house, duty, workspace_id):
                key = (duty.name, workspace_id, target)
                # One that still runs is left alone; it holds up its own next round and no other.
                if key not in self._running:
                    self._running.add(key)
                    task = asyncio.create_task(self._run(duty, workspace_id, target, slots))
                    self._tasks.add(task)
                    task.add_done_callback(self._tasks.discard)
        await duties.note_round(self._house, duty, now)

    async def _run(self, duty: Duty, workspace_id: int, target: int, slots: asyncio.Semaphore) -> None:
        try:
            async with slots:
                await duties.run_once(self._house, duty, workspace_id, target, datetime.now(UTC))
        except Unavailable as error:
            log.warning("the clock waits for the database", duty=duty.name, reason=str(error))
        except Exception:
            log.exception("a duty failed", duty=duty.name, workspace=workspace_id, target=target)
        finally:
            self._running.discard((duty.name, workspace_id, target))


async def run_all_once(house: House, now: datetime) -> None:
    """Every duty once for every workspace, here and in order: for the tests and the demo's loading."""
    for duty in duties.DUTIES:
        for workspace_id in await list_working_ids(house):
            for target in await duties.list_targets(house, duty, workspace_id):
                await duties.run_once(house, duty, workspace_id, target, now)
