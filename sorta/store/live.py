"""Live notices: ids only, through LISTEN/NOTIFY, fanned out to this process's listeners. Used by services.live."""

import asyncio
import json
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from typing import Any

import psycopg
import structlog

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("live")
CHANNEL = "sorta_live"
log = structlog.get_logger()


def make_notice(workspace_id: int, kind: str, **ids: Any) -> str:
    """A notice as text; PostgreSQL takes under 8,000 bytes, so long lists of ids become 'everything'."""
    text = json.dumps({"workspace": workspace_id, "kind": kind, **ids}, separators=(",", ":"))
    if len(text) < 7000:
        return text
    return json.dumps({"workspace": workspace_id, "kind": "everything"}, separators=(",", ":"))


async def tell(conn: Conn, notice: str) -> None:
    """Send a notice when the transaction of `conn` commits."""
    await db.execute(conn, SQL.tell, {"notice": notice})


class LiveHub:
    """One LISTEN per process; every subscriber has a queue of its own and misses nothing while it is open.

    When the connection is lost subscribers get `everything`, for notices are not durable: refetch.
    """

    def __init__(self, conninfo: str) -> None:
        self._conninfo = conninfo
        self._subscribers: dict[int, set[asyncio.Queue[str]]] = {}
        self._task: asyncio.Task[None] | None = None

    async def open(self) -> None:
        """Begin to listen; waits a little for it, and not for a database that is away."""
        ready = asyncio.Event()
        self._task = asyncio.create_task(self._listen(ready))
        with suppress(TimeoutError):
            await asyncio.wait_for(ready.wait(), 2)

    async def close(self) -> None:
        if self._task is not None:
            self._task.cancel()
            await asyncio.gather(self._task, return_exceptions=True)

    async def _listen(self, ready: asyncio.Event) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(
                    self._conninfo, autocommit=True, connect_timeout=5
                ) as conn:
                    await conn.execute(f"listen {CHANNEL}")
                    if ready.is_set():
                        self._tell_all()
                    ready.set()
                    async for notice in conn.notifies():
                        self._tell(notice.payload)
            except Exception as error:
                # Whatever it was: who listens must not be left listening to nothing.
                log.warning("live connection lost", error=str(error))
                await asyncio.sleep(1)

    def _tell(self, payload: str) -> None:
        workspace = json.loads(payload)["workspace"]
        for queue in self._subscribers.get(workspace, ()):
            queue.put_nowait(payload)

    def _tell_all(self) -> None:
        for workspace, queues in self._subscribers.items():
            for queue in queues:
                queue.put_nowait(make_notice(workspace, "everything"))

    @asynccontextmanager
    async def subscribe(self, workspace_id: int) -> AsyncIterator[asyncio.Queue[str]]:
        """A queue of the notices of one workspace for as long as the block runs."""
        queue: asyncio.Queue[str] = asyncio.Queue()
        self._subscribers.setdefault(workspace_id, set()).add(queue)
        try:
            yield queue
        finally:
            self._subscribers[workspace_id].discard(queue)
