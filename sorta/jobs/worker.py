"""The worker: the clock, and what is queued, each begun again when it ends before it was told to."""

import asyncio
from collections.abc import Awaitable, Callable

import structlog

from sorta.jobs.clock import Clock
from sorta.jobs.tasks import add_tasks
from sorta.services.house import House
from sorta.services.workspaces import list_all_workspace_ids

log = structlog.get_logger()
#: Jobs at a time. Each account has few places among them (services.delivery), so that many silent ones leave most free.
AT_ONCE = 24
#: Seconds before something that ended is begun again.
PAUSE = 0.5


async def work(house: House, stop: asyncio.Event) -> None:
    """Until `stop` is set; then what is under way has some seconds to end."""
    add_tasks(house.queue.app, house)
    stopping = asyncio.create_task(stop.wait())
    parts = [
        asyncio.create_task(keep_going("clock", Clock(house).run, stop)),
        asyncio.create_task(keep_going("queue", lambda: _work_off(house, stop), stop)),
    ]
    await asyncio.wait([stopping, *parts], return_when=asyncio.FIRST_COMPLETED)
    parts[0].cancel()
    try:
        await asyncio.wait_for(parts[1], 8)
    except TimeoutError:
        log.warning("the queue did not stop in time")
    await asyncio.gather(stopping, *parts, return_exceptions=True)


async def keep_going(name: str, run: Callable[[], Awaitable[None]], stop: asyncio.Event) -> None:
    """Run something again and again until told to stop: an absent database, or a mistake, ends it only for a moment."""
    while not stop.is_set():
        try:
            await run()
            reason = "it ended"
        except Exception as error:
            reason = f"{type(error).__name__}: {error}"
        if not stop.is_set():
            log.warning("a part of the worker is begun again", part=name, reason=reason)
            await asyncio.sleep(PAUSE)


async def _work_off(house: House, stop: asyncio.Event) -> None:
    """The queue's own worker, until it is told to stop or something in it fails."""
    # Its pool would wait half a minute for a database that is away; ours says so at once, and is asked again.
    await list_all_workspace_ids(house)
    async with house.queue.app.open_async():
        worker = asyncio.create_task(
            house.queue.app.run_worker_async(
                concurrency=AT_ONCE,
                fetch_job_polling_interval=0.5,
                shutdown_graceful_timeout=5,
                delete_jobs="successful",
                install_signal_handlers=False,
            )
        )
        stopping = asyncio.create_task(stop.wait())
        try:
            await asyncio.wait([worker, stopping], return_when=asyncio.FIRST_COMPLETED)
        finally:
            stopping.cancel()
            # Told to stop, it lets what is under way end first.
            worker.cancel()
            await asyncio.gather(worker, return_exceptions=True)
        if worker.done() and not worker.cancelled():
            worker.result()
