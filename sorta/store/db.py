"""The pool, transactions in a workspace, and named statements. Used by every store module and by services."""

import asyncio
import re
import time
from collections.abc import AsyncIterator, Iterator, Mapping
from contextlib import asynccontextmanager, contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import Any, LiteralString, TypeVar, cast

import psycopg
from psycopg import sql
from psycopg.rows import class_row, dict_row
from psycopg_pool import AsyncConnectionPool, PoolTimeout, TooManyRequests

from sorta.store.keyring import Keyring

Conn = psycopg.AsyncConnection[Any]
T = TypeVar("T")


class Tx(psycopg.AsyncConnection[Any]):
    """A connection within a transaction of one workspace: whose rows it sees, and whose number its statements are given."""

    _workspace_id: int | None = None

    @property
    def workspace_id(self) -> int:
        if self._workspace_id is None:
            raise RuntimeError("No workspace was chosen on this connection.")
        return self._workspace_id


class Conflict(Exception):
    """Two transactions made the same thing at once; `constraint` says which. Try again."""

    def __init__(self, constraint: str | None) -> None:
        super().__init__(f"conflict on {constraint}")
        self.constraint = constraint


class Unavailable(Exception):
    """The database cannot be reached just now."""


class Unstorable(ValueError):
    """The database will not hold this value, however often it is tried."""


#: A class of SQLSTATE that is the value's own doing and comes back however often it is tried, though the driver counts it among
#: troubles of operation: too large for an index or for full text (PostgreSQL, appendix A, class 54).
_OWN_DOING = frozenset({"54"})


#: Seconds that a request waits for a connection, and how many wait at most.
WAIT, MOST_WAITING = 5, 200


def _judge(error: psycopg.Error | PoolTimeout | TooManyRequests) -> Exception:
    """What a failure means to whoever asked, by its SQLSTATE: the value's fault, or the database's absence."""
    state = (error.sqlstate or "") if isinstance(error, psycopg.Error) else ""
    # A text that no column can hold is refused before it is sent, and so without a SQLSTATE.
    if state[:2] in _OWN_DOING or isinstance(error, psycopg.DataError | psycopg.IntegrityError):
        return Unstorable(str(error).splitlines()[0])
    return Unavailable(str(error) or type(error).__name__)


_RETRYABLE = (
    psycopg.errors.UniqueViolation,
    psycopg.errors.SerializationFailure,
    psycopg.errors.DeadlockDetected,
)


#: Who acts in this task, and from where, as the record of changes has it; empty is nobody: the clock, or a rule.
_ACTING: ContextVar[tuple[str, str]] = ContextVar("acting", default=("", ""))
#: Whether this task reads on one connection with others.
_AT_ONCE: ContextVar[bool] = ContextVar("at_once", default=False)
#: For whom this task looks, where that is somebody who sees the accounts of their groups only.
_SEEING: ContextVar[int | None] = ContextVar("seeing", default=None)


#: Each holds to the end of its transaction.
_CHOOSE: LiteralString = (
    "select set_config('app.workspace_id', {}, true), set_config('app.pass', {}, true), set_config('app.seer', {}, true), "
    "set_config('app.actor', {}, true), set_config('app.came_from', {}, true)"
)


class Database:
    """The application's connections, all under the role that row-level security binds."""

    def __init__(self, conninfo: str, *, keys: Keyring | None = None, min_size: int = 2, max_size: int = 12) -> None:
        """`keys` sign the passes for workspaces, which every role but the worker's has to show (migration 0029)."""
        self.conninfo = conninfo
        self._keys = keys
        self.pool: AsyncConnectionPool[Tx] = AsyncConnectionPool(
            conninfo,
            connection_class=Tx,
            min_size=min_size,
            max_size=max_size,
            open=False,
            # Statements here are short: compiling one costs more than it saves (measured: 80 ms for one of 0.1 ms).
            kwargs={"autocommit": True, "options": "-c jit=off"},
            # A pool that cannot connect waits twice as long each time. One that gives up early begins anew with the next who
            # asks, and so has the database again within a second or two of its return, however long it was away.
            reconnect_timeout=2,
        )
        self._waiting = 0
        self._checking: asyncio.Task[None] | None = None

    async def open(self) -> None:
        """Begin to connect. A database that is away is waited for by whoever asks, and not here."""
        await self.pool.open(wait=False)

    async def close(self) -> None:
        if self._checking is not None:
            self._checking.cancel()
        await self.pool.close()

    def _check_soon(self, conn: Conn | None) -> None:
        """After one connection was lost the others are, as a rule, lost too: looked at once, not by those who ask next."""
        if conn is not None and conn.broken and (self._checking is None or self._checking.done()):
            self._checking = asyncio.create_task(self.pool.check())

    @asynccontextmanager
    async def _lend(self) -> AsyncIterator[Tx]:
        """A connection of the pool's, and what was done on it kept or taken back at the end.

        Who waits is counted here. The pool's own count holds also who has given up, until a connection comes; and where it says that
        there are too many it does not begin to connect anew: after a long absence of the database nobody got one any more.
        """
        if self._waiting >= MOST_WAITING:
            raise TooManyRequests(f"{MOST_WAITING} wait for the database already")
        self._waiting += 1
        try:
            conn = await self.pool.getconn(timeout=WAIT)
        finally:
            self._waiting -= 1
        try:
            async with conn:
                yield conn
        finally:
            conn._workspace_id = None
            await self.pool.putconn(conn)

    @asynccontextmanager
    async def connect(self) -> AsyncIterator[Conn]:
        """A connection outside any workspace: only organisation-level tables show rows on it."""
        conn: Conn | None = None
        try:
            async with self._lend() as conn:
                yield conn
        except (psycopg.OperationalError, psycopg.DataError, PoolTimeout, TooManyRequests) as error:
            self._check_soon(conn)
            raise _judge(error) from error

    async def enter(self, conn: Conn, workspace_id: int) -> Tx:
        """Choose the workspace whose rows the transaction of `conn` sees; the same connection, known to be in it."""
        assert isinstance(conn, Tx)
        await conn.execute(_CHOOSE.format("%s", "%s", "%s", "%s", "%s"), self._name(workspace_id))
        conn._workspace_id = workspace_id
        return conn

    def _name(self, workspace_id: int) -> list[str]:
        """The workspace, the pass for it, who looks and who acts, as the policies and the record of changes read them."""
        if abs(workspace_id) >= 2**63:
            raise Unstorable("No workspace has such a number.")
        seer = _SEEING.get()
        signed = self._keys.sign_pass(workspace_id, time.time(), seer) if self._keys else ""
        return [str(workspace_id), signed, "" if seer is None else str(seer), *_ACTING.get()]

    @asynccontextmanager
    async def transact(self, workspace_id: int, *, pipelined: bool = False, steady: bool = False) -> AsyncIterator[Tx]:
        """A transaction that sees and writes rows of one workspace only.

        `pipelined` sends statements without waiting for each answer (two round trips instead of four for a
        message taken in); an error then surfaces at the next fetch or at the end. `steady` shows one moment to all
        statements, and is for reading.

        Raises Conflict when another transaction won a race (the caller may run it again) and Unstorable
        for a value that no column takes.
        """
        conn: Tx | None = None
        try:
            async with self._lend() as conn:
                if pipelined:
                    async with conn.pipeline(), conn.transaction():
                        await self.enter(conn, workspace_id)
                        yield conn
                else:
                    # Beginning and choosing go as one text and are one round trip; leaving the connection commits or takes back.
                    begin = "begin isolation level repeatable read, read only; " if steady else "begin; "
                    chosen = _CHOOSE.format(*map(sql.quote, self._name(workspace_id)))
                    await conn.execute((begin + chosen).encode())
                    conn._workspace_id = workspace_id
                    yield conn
        except _RETRYABLE as error:
            raise Conflict(error.diag.constraint_name) from error
        except (
            psycopg.OperationalError,
            psycopg.DataError,
            psycopg.IntegrityError,
            PoolTimeout,
            TooManyRequests,
        ) as error:
            self._check_soon(conn)
            raise _judge(error) from error


def act_as(member_id: int | None, came_from: str = "") -> None:
    """From now on, in this task, whatever is changed is changed by this member, or nobody, from this address: the record of changes
    says so."""
    _ACTING.set(("" if member_id is None else str(member_id), came_from))


def see_as(member_id: int | None) -> None:
    """From now on, in this task, only what this member's groups allow is seen and can be changed (migration 0047); None is everything."""
    _SEEING.set(member_id)


@contextmanager
def seen_by(member_id: int | None) -> Iterator[None]:
    """As `see_as`, for what is within."""
    before = _SEEING.set(member_id)
    try:
        yield
    finally:
        _SEEING.reset(before)


class Statements:
    """The named statements of one `.sql` file, each with a description, loaded once.

    A statement starts at `-- name: text of the description`; a name used twice fails at import.
    """

    def __init__(self, topic: str) -> None:
        text = (Path(__file__).parent / "sql" / f"{topic}.sql").read_text()
        self.statements: dict[str, LiteralString] = {}
        parts = re.split(r"^-- (\w+): .+$", text, flags=re.MULTILINE)
        for name, body in zip(parts[1::2], parts[2::2], strict=True):
            if name in self.statements:
                raise ValueError(f"{topic}.sql names {name} twice")
            self.statements[name] = cast(LiteralString, body.strip().rstrip(";"))
        self.__dict__.update(self.statements)

    def __getattr__(self, name: str) -> LiteralString:
        try:
            return self.statements[name]
        except KeyError as error:
            raise AttributeError(name) from error


@asynccontextmanager
async def at_once() -> AsyncIterator[asyncio.TaskGroup]:
    """Tasks that read on one connection, none of which waits for another's answer: in a pipelined transaction their statements go
    together. All have ended when this ends; the first failure is raised as it is, and ends the others."""
    before = _AT_ONCE.set(True)
    try:
        async with asyncio.TaskGroup() as tasks:
            yield tasks
    except BaseExceptionGroup as failed:
        raise failed.exceptions[0] from None
    finally:
        _AT_ONCE.reset(before)


async def _ask(
    cursor: psycopg.AsyncCursor[T], query: LiteralString, values: Mapping[str, Any]
) -> psycopg.AsyncCursor[T]:
    await cursor.execute(query, values)
    if _AT_ONCE.get():
        # Whoever reads at once with this one sends what it asks before anybody waits for an answer.
        await asyncio.sleep(0)
    return cursor


async def fetch_all(conn: Conn, row: type[T], query: LiteralString, values: Mapping[str, Any]) -> list[T]:
    """All rows as `row` dataclasses."""
    async with conn.cursor(row_factory=class_row(row)) as cursor:
        return await (await _ask(cursor, query, values)).fetchall()


async def fetch_one(conn: Conn, row: type[T], query: LiteralString, values: Mapping[str, Any]) -> T | None:
    """One row as a `row` dataclass, or None."""
    async with conn.cursor(row_factory=class_row(row)) as cursor:
        return await (await _ask(cursor, query, values)).fetchone()


async def fetch_dicts(conn: Conn, query: LiteralString, values: Mapping[str, Any]) -> list[dict[str, Any]]:
    """All rows as dictionaries."""
    async with conn.cursor(row_factory=dict_row) as cursor:
        return await (await _ask(cursor, query, values)).fetchall()


async def fetch_dict(conn: Conn, query: LiteralString, values: Mapping[str, Any]) -> dict[str, Any] | None:
    """The first row as a dictionary, or None."""
    rows = await fetch_dicts(conn, query, values)
    return rows[0] if rows else None


async def fetch_value(
    conn: Conn, query: LiteralString, values: Mapping[str, Any], *, prepare: bool | None = None
) -> Any:
    """The first column of the first row, or None. `prepare` false plans the statement for these very values each time."""
    row = await (await conn.execute(query, values, prepare=prepare)).fetchone()
    return None if row is None else row[0]


async def execute(conn: Conn, query: LiteralString, values: Mapping[str, Any]) -> int:
    """Run for its effect; the number of rows it touched."""
    return (await conn.execute(query, values)).rowcount
