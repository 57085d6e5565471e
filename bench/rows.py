"""What the rows of a message cost, and what taking it in costs beside them. Part of `make bench`.

python -m bench.rows [conversations]      (default 5,000 are there before)

The writing statements of messages are recorded from real intake, undone in a copy of the database, and said again there by
plain psycopg, each message (or batch of 50) one pipelined transaction: no reading, no rules, no looking up. Beside them, in
turn and in the same seconds, an insert of the same bytes and intake itself.
"""

import asyncio
import statistics
import sys
import time
from collections.abc import Iterator, Sequence
from contextvars import ContextVar
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any, LiteralString

import psycopg
import uvloop

from bench.measure import ENTER, KEY, KEYS, Ratio, Work, rate, show
from bench.run import BATCH, Floor, fill, furnish, make_database, make_seen
from dev import cluster
from sorta.core.ports import MessageSeen
from sorta.main import make_house
from sorta.services import ingest
from sorta.services.house import House
from sorta.settings import Settings
from sorta.store import persons, trail
from sorta.store.accounts import Account

#: What writes; the rest of a message's statements look up what it hangs on.
_WRITING = frozenset({trail.SQL.write_trail, persons.SQL.add_points})
#: Messages recorded one by one, and in batches: enough for all slices.
_COUNTS = {1: 4_000, BATCH: 20_000}
_SECONDS = 0.6
_SLICES = 7

Said = list[tuple[LiteralString, Any]]


def make_alone(now: datetime) -> MessageSeen:
    """A comment that begins a conversation, whoever wrote it: what is recorded can be said again in any order."""
    seen = make_seen(now)
    return replace(seen, thread_root=f"{seen.external_id}/post")


async def record(house: House, account: Account, size: int) -> list[Said]:
    """The writing statements of messages taken in `size` at a time: a list for each transaction."""
    said: list[Said] = []
    mine: ContextVar[Said] = ContextVar("mine")
    plain = psycopg.AsyncCursor.execute

    async def execute(self: Any, query: Any, params: Any = None, **rest: Any) -> Any:
        if query in _WRITING:
            mine.get().append((query, params))
        return await plain(self, query, params, **rest)

    async def take(count: int) -> None:
        for _ in range(count):
            mine.set([])
            now = datetime.now(UTC)
            await ingest.take_in(house, account, [make_alone(now) for _ in range(size)], now)
            said.append(mine.get())

    psycopg.AsyncCursor.execute = execute  # type: ignore[assignment]
    try:
        await asyncio.gather(*(asyncio.create_task(take(_COUNTS[size] // size // 4)) for _ in range(4)))
    finally:
        psycopg.AsyncCursor.execute = plain  # type: ignore[method-assign]
    return said


def copy_without(pg: cluster.Cluster, began: datetime) -> None:
    """A copy of the database in which nothing has happened since `began`; who said it and where is known."""
    pg.create_database("rows", template="sorta")
    with pg.admin("rows") as admin:
        admin.execute("set session_replication_role = replica")
        admin.execute("truncate tally_change")
        for table, column in (("spell", "since"), ("trail", "at"), ("message", "arrived_at"), ("conversation", "created_at")):  # fmt: skip
            admin.execute(f"delete from {table} where {column} >= %s", [began])  # type: ignore[arg-type]
        admin.execute("vacuum analyze")


class Replay:
    """Says recorded transactions again, each once, on connections of its own."""

    def __init__(self, conninfo: str, workspace_id: int, said: Sequence[Said], size: int) -> None:
        self._conninfo, self._workspace_id, self._size = conninfo, workspace_id, size
        self._left: Iterator[Said] = iter(said)
        self._conns: list[psycopg.AsyncConnection[Any]] = []

    async def open(self) -> None:
        for _ in range(4):
            conn = await psycopg.AsyncConnection.connect(self._conninfo, autocommit=True, prepare_threshold=2)
            await conn.execute(ENTER, [str(self._workspace_id), KEYS.sign_pass(self._workspace_id, time.time())])
            self._conns.append(conn)

    async def __call__(self, worker: int) -> int:
        conn, statements = self._conns[worker], next(self._left, None)
        if statements is None:
            raise SystemExit("All that was recorded has been said: record more (_COUNTS).")
        async with conn.pipeline(), conn.transaction():
            for query, values in statements:
                await conn.execute(query, values)
        return self._size

    async def close(self) -> None:
        for conn in self._conns:
            await conn.close()


async def measure(works: dict[str, Work]) -> dict[str, list[float]]:
    """Messages a second of each, slice by slice, in turn."""
    found: dict[str, list[float]] = {name: [] for name in works}
    for n in range(_SLICES + 1):
        for name, work in works.items():
            got = await rate(work, _SECONDS if n else 0.3, 4)
            if n:
                found[name].append(got)
    return found


def tell(name: str, found: dict[str, list[float]]) -> None:
    """Both ratios, slice by slice."""
    for line, subject, floor, target in (
        ("its rows, of a plain insert", "rows", "plain", 0.20),
        ("taken in, of its rows", "ingest", "rows", 0.75),
    ):
        ratios = [s / f for s, f in zip(found[subject], found[floor], strict=True)]
        told = Ratio(
            floor=statistics.median(found[floor]),
            subject=statistics.median(found[subject]),
            ratio=statistics.median(ratios),
            low=min(ratios),
            high=max(ratios),
        )
        show(f"{name}: {line}", told, f">= {target:.2f}", told.ratio >= target)


async def run(conversations: int) -> None:
    with cluster.temporary(durable=True) as pg:
        conninfo = make_database(pg)
        house = make_house(Settings(database=conninfo, keys=KEY))
        await house.open()
        try:
            workspace_id, _, account = await furnish(house)
            # Tables of which nothing is known yet are read whole; in life they are counted within a minute.
            await fill(house, account, 1_000)
            with pg.admin("sorta") as admin:
                admin.execute("analyze")
            await fill(house, account, conversations - 1_000)
            with pg.admin("sorta") as admin:
                admin.execute("vacuum analyze")
            began = datetime.now(UTC)
            single, batches = await record(house, account, 1), await record(house, account, BATCH)
        finally:
            await house.close()
        copy_without(pg, began)
        house = make_house(Settings(database=conninfo, keys=KEY))
        await house.open()
        rows = pg.conninfo("sorta_web", "rows")
        replays = {1: Replay(rows, workspace_id, single, 1), BATCH: Replay(rows, workspace_id, batches, BATCH)}
        for replay in replays.values():
            await replay.open()

        async def take(size: int) -> int:
            now = datetime.now(UTC)
            return await ingest.take_in(house, account, [make_alone(now) for _ in range(size)], now)

        try:
            async with Floor(conninfo) as floor:
                for name, size, plain in (("single", 1, floor.one), (f"batches of {BATCH}", BATCH, floor.batch)):
                    works = {"plain": plain, "rows": replays[size], "ingest": lambda _, size=size: take(size)}
                    tell(name, await measure(works))
        finally:
            for replay in replays.values():
                await replay.close()
            await house.close()


if __name__ == "__main__":
    uvloop.run(run(int(sys.argv[1]) if len(sys.argv) > 1 else 5_000))
