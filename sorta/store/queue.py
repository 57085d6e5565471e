"""Background work: jobs are deferred on the connection of the row they are about. Used by services."""

from datetime import datetime
from typing import Any

import procrastinate
from procrastinate.exceptions import AlreadyEnqueued

from sorta.store.db import Conn


class Queue:
    """Defers jobs by name; `app` is what the worker runs and jobs register their tasks on."""

    def __init__(self, conninfo: str) -> None:
        self.app = procrastinate.App(
            # As store.db: a database that is away is given up soon, and so is there again soon; it holds up no stopping either.
            connector=procrastinate.PsycopgConnector(
                conninfo=conninfo, min_size=1, max_size=8, timeout=5, reconnect_timeout=2
            )
        )

    async def add_job(
        self, conn: Conn, name: str, once: str, at: datetime | None = None, *, is_first: bool = False, **arguments: Any
    ) -> None:
        """Queue a job in the transaction of `conn`; one waiting under the same `once` is enough. `is_first` is for what no job can wait for
        yet: then there is no clash to come back from."""
        deferrer = self.app.configure_task(
            name, connection=conn, queueing_lock=once, schedule_at=at, allow_unknown=True
        )
        if is_first:
            await deferrer.defer_async(**arguments)
            return
        try:
            async with conn.transaction():
                await deferrer.defer_async(**arguments)
        except AlreadyEnqueued:
            return
