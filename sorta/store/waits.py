"""Spells as columns of numbers, read in bulk: days that are over as they were packed, all else row by row. Used by services.waits."""

import asyncio
import hashlib
import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from enum import Enum
from typing import Any, LiteralString, Protocol

import numpy as np
import numpy.typing as npt

from sorta.core.waits import make_keys
from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("waits")

Array = npt.NDArray[Any]

#: The types of columns as a binary copy has them, and as arrays and packed days do.
_COPIED: Mapping[str, str] = {
    "i2": ">i2",
    "i4": ">i4",
    "i8": ">i8",
    "f4": ">f4",
    "f8": ">f8",
    "b1": ">i1",
    "t8": ">i8",
    "s8": "S8",
}
_PACKED: Mapping[str, str] = {
    "i2": "<i2",
    "i4": "<i4",
    "i8": "<i8",
    "f4": "<f4",
    "f8": "<f8",
    "b1": "<i1",
    "t8": "<f8",
    "s8": "S8",
}
_TAG_COLUMNS: Mapping[str, str] = {"conversation": "i8", "seq": "i4", "tag": "i8"}
_TAG = np.dtype("<i8")
#: What there is of a spell that is open; the other columns hold what a spell has before it ends.
_OPEN = (
    "conversation",
    "seq",
    "first",
    "public",
    "since",
    "owner",
    "team",
    "account",
    "kind",
    "priority",
    "sentiment",
    "language",
)
#: How a copy has instants: microseconds since the beginning of 2000, here in seconds since 1970, and what stands for infinity.
_EPOCH_2000, _INFINITE = 946_684_800, 2**63 - 1
#: Later than anything. Said as an instant: beside a row policy an expression that could be null finds nothing by an index.
_NEVER = datetime.max.replace(tzinfo=UTC)
#: So many rows are taken from a copy before others get their turn, and so many bytes.
_AT_ONCE, _BYTES_AT_ONCE = 1000, 1 << 20
#: What a binary copy begins and ends with (PostgreSQL, COPY, binary format).
_HEADER, _TRAILER = 19, 2
_FIELD = struct.Struct(">i")


@dataclass(frozen=True, kw_only=True)
class Shape:
    """Which columns there are with their types, and which number, from 1, stands for which word: endings, hows, kinds."""

    columns: Mapping[str, str]
    codes: Mapping[str, Sequence[str]]

    @property
    def name(self) -> str:
        """Another one for each shape."""
        said = repr((list(self.columns.items()), {name: list(words) for name, words in self.codes.items()}))
        return hashlib.sha256(said.encode()).hexdigest()[:16]

    @property
    def values(self) -> dict[str, list[str]]:
        """The codes as a statement takes them."""
        return {name: list(words) for name, words in self.codes.items()}


def _read_copy(parts: bytes | bytearray, columns: Mapping[str, str]) -> dict[str, Array]:
    """A binary copy's columns of fixed width that are never null. Raises ValueError for one of another shape."""
    fields: list[tuple[str, str]] = [("fields", ">i2")]
    for name, kind in columns.items():
        fields += [(f"width_{name}", ">i4"), (name, _COPIED[kind])]
    record = np.dtype(fields)
    count, over = divmod(len(parts) - _HEADER - _TRAILER, record.itemsize)
    if over:
        raise ValueError("a column of the copy was null or of another width")
    rows = np.frombuffer(parts, dtype=record, offset=_HEADER, count=count)
    return {name: _read_column(rows[name], kind) for name, kind in columns.items()}


def _read_column(values: Array, kind: str) -> Array:
    if kind != "t8":
        return values.astype(_PACKED[kind])
    micros = values.astype("i8")
    seconds = micros / 1_000_000 + _EPOCH_2000
    seconds[micros == _INFINITE] = np.nan
    return seconds


class CopiedRows(Protocol):
    """Rows of spells as they came. Reading them takes time, and is for a thread."""

    def read(self) -> tuple[dict[str, Array], Array]:
        """Columns, and pairs of a row's place and a tag."""
        ...


@dataclass(frozen=True, kw_only=True)
class CopiedEnded:
    """Rows of spells that ended, and of their tags."""

    shape: Shape
    waits: bytearray
    tags: bytearray

    def read(self) -> tuple[dict[str, Array], Array]:
        columns, tags = _read_copy(self.waits, self.shape.columns), _read_copy(self.tags, _TAG_COLUMNS)
        order = np.lexsort((columns["seq"], columns["conversation"]))
        have = make_keys(columns["conversation"][order], columns["seq"][order])
        at = np.searchsorted(have, make_keys(tags["conversation"], tags["seq"]))
        return columns, np.column_stack([order[at], tags["tag"]]).astype(_TAG)

    def pack(self) -> tuple[bytes, bytes]:
        """The same as days are kept: one column after the other; and the pairs. In an order of its own, however they came."""
        columns, pairs = self.read()
        order = np.lexsort((columns["seq"], columns["conversation"], columns["ended"]))
        places = np.argsort(order)[pairs[:, 0]]
        tags = np.column_stack([places, pairs[:, 1]]).astype(_TAG)[np.lexsort((pairs[:, 1], places))]
        packed = b"".join(columns[n][order].astype(_PACKED[kind]).tobytes() for n, kind in self.shape.columns.items())
        return packed, tags.tobytes()


@dataclass(frozen=True, kw_only=True)
class CopiedOpen:
    """Rows of spells that are open, each once for each of its tags."""

    shape: Shape
    rows: bytearray

    def read(self) -> tuple[dict[str, Array], Array]:
        kinds = self.shape.columns
        found = _read_copy(self.rows, {**{name: kinds[name] for name in _OPEN}, "tag": "i8"})
        keys, tag = make_keys(found["conversation"], found["seq"]), found["tag"]
        # Those of one spell follow one another.
        is_first = np.concatenate([np.ones(min(len(keys), 1), dtype=bool), keys[1:] != keys[:-1]])
        tagged = tag != 0
        pairs = np.column_stack([np.cumsum(is_first)[tagged] - 1, tag[tagged]]).astype(_TAG)
        count = int(np.count_nonzero(is_first))
        columns = {n: found[n][is_first] if n in found else _make_empty(kind, count) for n, kind in kinds.items()}
        return columns, pairs


def _make_empty(kind: str, count: int) -> Array:
    """A column of an open spell: no instant, no length, nobody."""
    nothing = np.nan if kind[0] in "tf" else 0
    return np.full(count, nothing, dtype=_PACKED[kind])


@dataclass(frozen=True, kw_only=True)
class Copied:
    """What was read between two instants: packed days, and rows. Reading it takes time, and is for a thread."""

    shape: Shape
    days: bytearray
    rows: Sequence[CopiedRows]

    def read(self) -> tuple[dict[str, Array], Array]:
        """The columns, and pairs of a spell's place and a tag for each tag of each spell."""
        kinds = {name: np.dtype(_PACKED[kind]) for name, kind in self.shape.columns.items()}
        width = sum(kind.itemsize for kind in kinds.values())
        columns: dict[str, list[Array]] = {name: [] for name in kinds}
        tags: list[Array] = []
        count = 0
        for waits, pairs in _list_fields(self.days):
            size, at = len(waits) // width, 0
            for name, kind in kinds.items():
                columns[name].append(np.frombuffer(waits, dtype=kind, offset=at, count=size))
                at += size * kind.itemsize
            tags.append(_shift(np.frombuffer(pairs, dtype=_TAG).reshape(-1, 2), count))
            count += size
        for rows in self.rows:
            fresh, fresh_tags = rows.read()
            for name, found in columns.items():
                found.append(fresh[name])
            tags.append(_shift(fresh_tags, count))
            count += len(fresh["seq"])
        return {name: np.concatenate(found) for name, found in columns.items()}, np.concatenate(tags)


def _shift(pairs: Array, by: int) -> Array:
    return pairs + np.array([by, 0], dtype=_TAG)


def _list_fields(parts: bytearray) -> list[tuple[memoryview, memoryview]]:
    """The two fields of each row of a binary copy."""
    view, at, found = memoryview(parts), _HEADER, []
    while at < len(parts) - _TRAILER:
        at += 2
        row = []
        for _ in range(2):
            (size,) = _FIELD.unpack_from(view, at)
            row.append(view[at + 4 : at + 4 + size])
            at += 4 + size
        found.append((row[0], row[1]))
    return found


async def _copy(conn: Conn, query: LiteralString, values: Mapping[str, Any]) -> bytearray:
    parts, blocks, told = bytearray(), 0, 0
    whole: LiteralString = "copy (" + query + ") to stdout (format binary)"
    async with conn.cursor() as cursor, cursor.copy(whole, values) as copy:
        async for block in copy:
            parts += block
            blocks += 1
            if blocks % _AT_ONCE == 0 or len(parts) - told > _BYTES_AT_ONCE:
                # What is there already comes without waiting: others get their turn.
                told = len(parts)
                await asyncio.sleep(0)
    return parts


class Opened(Enum):
    """Which spells that are open are read as well."""

    NONE = 0
    #: Those that began between the instants.
    BEGUN = 1
    #: Those that began before, too, of which nothing is told that belongs to the conversation.
    ALL = 2
    #: The same with everything.
    ALL_WHOLE = 3
    #: All that began, of none of which anything is told that belongs to the conversation.
    ALL_BARE = 4


async def load(tx: Tx, begins: datetime, ends: datetime, shape: Shape, opened: Opened = Opened.ALL_WHOLE) -> Copied:
    """The spells in which somebody waited at some time between two instants, and at most some that ended earlier on the first's day.
    The transaction must see one moment: a spell is either in a packed day or among the rows."""
    values: dict[str, Any] = {
        "workspace_id": tx.workspace_id,
        "first": begins.astimezone(UTC).date(),
        "ends": ends,
        "shape": shape.name,
        **shape.values,
    }
    packed = [row["day"] for row in await db.fetch_dicts(tx, SQL.list_packed, values)]
    days = await _copy(tx, SQL.list_days, values)
    gaps = _list_gaps(begins, packed)
    values |= {"froms": [a for a, _ in gaps], "tos": [b for _, b in gaps], "begins": begins}
    if opened is Opened.ALL_WHOLE:
        values["begins"] = datetime.min.replace(tzinfo=UTC)
    rows: list[CopiedRows] = [await _copy_ended(tx, shape, values)]
    if opened is Opened.ALL_BARE:
        values["begins"] = ends
    elif opened is not Opened.NONE:
        rows.append(CopiedOpen(shape=shape, rows=await _copy(tx, SQL.list_open, values)))
    if opened in (Opened.ALL, Opened.ALL_BARE):
        rows.append(CopiedOpen(shape=shape, rows=await _copy(tx, SQL.list_open_before, values)))
    return Copied(shape=shape, days=days, rows=rows)


@dataclass(frozen=True, kw_only=True)
class CopiedStretches:
    """Since when each spell stood where, as it came. Reading it takes time, and is for a thread."""

    columns: Mapping[str, str]
    rows: bytearray

    def read(self) -> dict[str, Array]:
        """The columns."""
        return _read_copy(self.rows, self.columns)


async def load_stretches(
    tx: Tx, instants: Sequence[datetime], columns: Mapping[str, str], phases: Sequence[str]
) -> CopiedStretches:
    """Since when each spell that was open at one of these instants (rising, at least one) stood where; phases as their place, from 1."""
    values = {
        "workspace_id": tx.workspace_id,
        "instants": list(instants),
        "first": instants[0],
        "last": instants[-1],
        "phases": list(phases),
    }
    return CopiedStretches(columns=columns, rows=await _copy(tx, SQL.list_stretches, values))


def _begin(day: date) -> datetime:
    return datetime.combine(day, time(), UTC)


def _list_gaps(begins: datetime, packed: Sequence[date]) -> list[tuple[datetime, datetime]]:
    """What is not packed from an instant on, as instants; the last one ends never."""
    gaps: list[tuple[datetime, datetime]] = []
    at = begins
    for day in packed:
        if _begin(day) > at:
            gaps.append((at, _begin(day)))
        at = max(at, _begin(day + timedelta(days=1)))
    return [*gaps, (at, _NEVER)]


async def _copy_ended(conn: Conn, shape: Shape, values: Mapping[str, Any]) -> CopiedEnded:
    return CopiedEnded(
        shape=shape,
        waits=await _copy(conn, SQL.list_ended, values),
        tags=await _copy(conn, SQL.list_ended_tags, values),
    )


async def copy_day(tx: Tx, day: date, shape: Shape) -> CopiedEnded:
    """The spells that ended on a universal day."""
    begins, ends = _begin(day), _begin(day + timedelta(days=1))
    values = {"workspace_id": tx.workspace_id, "froms": [begins], "tos": [ends], "ends": ends, **shape.values}
    return await _copy_ended(tx, shape, values)


async def list_days_to_pack(tx: Tx, shape: Shape, limit: int) -> list[date]:
    """Days that are over and not packed so, the earliest first."""
    values = {"workspace_id": tx.workspace_id, "shape": shape.name, "limit": limit}
    return [row["day"] for row in await db.fetch_dicts(tx, SQL.list_days_to_pack, values)]


async def lock_days(tx: Tx) -> None:
    """Until the transaction ends nobody changes a spell of a day that is over."""
    await tx.execute(SQL.lock_days, {"workspace_id": tx.workspace_id})


async def keep_day(tx: Tx, day: date, shape: Shape, waits: bytes, tags: bytes) -> None:
    """Keep a packed day."""
    values = {"workspace_id": tx.workspace_id, "day": day, "shape": shape.name, "waits": waits, "tags": tags}
    await db.execute(tx, SQL.keep_day, values)


async def list_kept_days(tx: Tx, shape: Shape) -> list[date]:
    """Days that are packed so."""
    values = {"workspace_id": tx.workspace_id, "first": date.min, "shape": shape.name, "ends": None}
    return [row["day"] for row in await db.fetch_dicts(tx, SQL.list_packed, values)]


async def is_kept_so(tx: Tx, day: date, waits: bytes, tags: bytes) -> bool:
    """Whether a day, if it is packed, is packed as these bytes."""
    values = {"workspace_id": tx.workspace_id, "day": day, "waits": waits, "tags": tags}
    return bool(await db.fetch_value(tx, SQL.is_kept_so, values))


async def list_tagged(tx: Tx, person_tags: Sequence[int]) -> list[int]:
    """Conversations with people who have one of these tags."""
    values = {"workspace_id": tx.workspace_id, "person_tags": list(person_tags)}
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_tagged, values)]


async def list_group_accounts(tx: Tx, groups: Sequence[int]) -> list[int]:
    """The accounts of these groups."""
    values = {"workspace_id": tx.workspace_id, "groups": list(groups)}
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_group_accounts, values)]
