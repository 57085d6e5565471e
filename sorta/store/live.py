"""Live notices: ids only, through LISTEN/NOTIFY, fanned out to this process's listeners. Used by services.live."""

import asyncio
import json
import uuid
from collections import Counter, deque
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager, suppress
from typing import Any, LiteralString

import psycopg
import structlog

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("live")
CHANNEL = "sorta_live"
log = structlog.get_logger()


def make_notice(workspace_id: int, kind: str, **ids: Any) -> str:
    """A notice as text; PostgreSQL takes under 8,000 bytes, so long lists of ids become 'everything'."""
    text = json.dumps({"workspace": workspace_id, "kind": kind, **ids}, separators=(",", ":"))
    if len(text) < 7000:
        return text
    return json.dumps({"workspace": workspace_id, "kind": "everything"}, separators=(",", ":"))


async def tell(tx: Tx, kind: str, **ids: Any) -> None:
    """Send a notice of the workspace when the transaction commits; the same notice twice in it is sent once (PostgreSQL, NOTIFY)."""
    await db.execute(tx, SQL.tell, {"notice": make_notice(tx.workspace_id, kind, **ids)})


#: What the numbers in notices are of, where it is not conversations.
_OF: dict[str, LiteralString] = {"accounts": "account", "people": "person", "cases": "support_case"}


async def list_seen(tx: Tx, kind: str, ids: Sequence[int]) -> list[int]:
    """Which of the things that a notice is about the transaction sees."""
    query = SQL.list_seen.replace("{table}", _OF.get(kind, "conversation"))
    return [row["id"] for row in await db.fetch_dicts(tx, query, {"workspace_id": tx.workspace_id, "ids": list(ids)})]


#: Streams of one member (the tabs of a browser share one), streams of a process, and notices that wait for one to be read.
STREAMS_OF_A_MEMBER, STREAMS, LONGEST_QUEUE = 12, 2000, 200
#: So many of the last notices of a workspace are kept for who has just asked for a page and is about to listen.
KEPT = 30


class TooManyStreams(Exception):
    """As many are open as may be."""


class LiveHub:
    """One LISTEN per process; every subscriber has a queue of its own and misses nothing while it is open.

    When the connection is lost subscribers get `everything`, for notices are not durable: refetch.
    """

    def __init__(self, conninfo: str) -> None:
        self._conninfo = conninfo
        self._subscribers: dict[int, set[asyncio.Queue[str]]] = {}
        self._of_members: Counter[int] = Counter()
        self._task: asyncio.Task[None] | None = None
        #: Which stretch of listening this is, empty while there is none, and how much was heard in it of each workspace.
        self._stretch = ""
        self._heard: Counter[int] = Counter()
        self._last: dict[int, deque[str]] = {}

    def mark(self, workspace_id: int) -> str:
        """Where listening stands: as long as it is the same, nothing has happened in the workspace. Empty while nobody listens."""
        return self._stretch and f"{self._stretch}.{self._heard[workspace_id]}"

    def list_since(self, workspace_id: int, mark: str) -> list[str] | None:
        """What has been told since such a mark, the oldest first; None when that is not known any more, or the mark is none of this stretch."""
        stretch, _, number = mark.partition(".")
        if not self._stretch or stretch != self._stretch or not (number.isascii() and number.isdigit()):
            return None
        last = self._last.get(workspace_id, ())
        missed = self._heard[workspace_id] - int(number[:20])
        return list(last)[len(last) - missed :] if 0 <= missed <= len(last) else None

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
                    self._stretch, self._heard, self._last = uuid.uuid4().hex, Counter(), {}
                    if ready.is_set():
                        self._tell_all()
                    ready.set()
                    async for notice in conn.notifies():
                        self._tell(notice.payload)
            except Exception as error:
                self._stretch = ""
                # Whatever it was: who listens must not be left listening to nothing.
                log.warning("live connection lost", error=str(error))
                await asyncio.sleep(1)

    def _tell(self, payload: str) -> None:
        workspace = json.loads(payload)["workspace"]
        self._heard[workspace] += 1
        self._last.setdefault(workspace, deque(maxlen=KEPT)).append(payload)
        for queue in self._subscribers.get(workspace, ()):
            _put(queue, workspace, payload)

    def _tell_all(self) -> None:
        for workspace, queues in self._subscribers.items():
            for queue in queues:
                _put(queue, workspace, make_notice(workspace, "everything"))

    @asynccontextmanager
    async def subscribe(self, workspace_id: int, member_id: int) -> AsyncIterator[asyncio.Queue[str]]:
        """A queue of the notices of one workspace for as long as the block runs. Raises TooManyStreams."""
        if self._of_members[member_id] >= STREAMS_OF_A_MEMBER or self._of_members.total() >= STREAMS:
            raise TooManyStreams
        queue: asyncio.Queue[str] = asyncio.Queue(LONGEST_QUEUE)
        self._of_members[member_id] += 1
        self._subscribers.setdefault(workspace_id, set()).add(queue)
        try:
            yield queue
        finally:
            self._subscribers[workspace_id].discard(queue)
            if not self._subscribers[workspace_id]:
                del self._subscribers[workspace_id]
            self._of_members[member_id] -= 1
            if not self._of_members[member_id]:
                del self._of_members[member_id]

    def count(self) -> tuple[int, int]:
        """Streams that are open, and the notices that wait in the longest of their queues."""
        queues = [queue for those in self._subscribers.values() for queue in those]
        return len(queues), max((queue.qsize() for queue in queues), default=0)


def _put(queue: asyncio.Queue[str], workspace_id: int, payload: str) -> None:
    """Whoever does not read is told at last, instead of everything that happened, that it is a lot."""
    if queue.full():
        while not queue.empty():
            queue.get_nowait()
        payload = make_notice(workspace_id, "everything")
    queue.put_nowait(payload)
