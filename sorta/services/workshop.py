"""Work that takes time, off the event loop: few threads, a bounded queue, a deadline. Used by every service that reads, learns,
hashes or parses what somebody else wrote."""

import asyncio
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import ParamSpec, TypeVar

from sorta.core.errors import Busy, Unreadable

P = ParamSpec("P")
T = TypeVar("T")


class Workshop:
    """`threads` works at a time and `waiting` more in the queue; what comes on top is turned away at once."""

    def __init__(self, *, threads: int = 2, waiting: int = 64, name: str = "workshop") -> None:
        self._pool = ThreadPoolExecutor(threads, thread_name_prefix=name)
        self._most = threads + waiting
        #: Works begun or waiting, those that outran their deadline included: a thread cannot be stopped.
        self.busy = 0

    async def do(self, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """The work's result; what it raises is raised here.

        Raises Busy when the queue is full, Unreadable when the work is not done within `DEADLINE`.
        """
        if self.busy >= self._most:
            raise Busy("Too much is being read at once. Nothing was changed; try again in a moment.", retry_after=2)
        self.busy += 1
        begun = self._pool.submit(work, *args, **kwargs)
        begun.add_done_callback(self._free(asyncio.get_running_loop()))
        try:
            return await asyncio.wait_for(asyncio.wrap_future(begun), DEADLINE)
        except TimeoutError as error:
            if begun.done():
                raise  # The work's own.
            raise Unreadable(f"It takes longer to read than {DEADLINE:.0f} seconds.") from error

    def _free(self, loop: asyncio.AbstractEventLoop) -> Callable[[object], None]:
        def free() -> None:
            self.busy -= 1

        def told(_: object) -> None:
            # The loop may be gone when a late work ends.
            if not loop.is_closed():
                loop.call_soon_threadsafe(free)

        return told

    def close(self) -> None:
        """Take nothing more; what waits is dropped."""
        self._pool.shutdown(wait=False, cancel_futures=True)


#: Seconds that a work may take, its waiting included.
DEADLINE = 20.0
