"""Spells as columns of numbers, read in bulk. Used by services.reports."""

import asyncio
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, LiteralString

import numpy as np
import numpy.typing as npt

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("reports")

#: What each filter asks of a spell that has ended, as it stood then; and of one that is open, as its conversation stands now.
_ENDED: Mapping[str, LiteralString] = {
    "account": "s.account_id = any(%(account)s)",
    "group": "s.account_id in (select unnest(g.accounts) from account_group g where g.workspace_id = %(workspace_id)s and g.id = any(%(group)s))",
    "network": "s.network = any(%(network)s)",
    "member": "coalesce(s.member_id, s.owner_id) = any(%(member)s)",
    "team": "s.team_id = any(%(team)s)",
    "tag": "s.tags && %(tag)s",
    "person_tag": "s.conversation_id in (select c.id from conversation c join person_tag t on t.person_id = c.person_id and t.workspace_id = %(workspace_id)s where c.workspace_id = %(workspace_id)s and t.tag_id = any(%(person_tag)s))",
    "kind": "s.kind = any(%(kind)s)",
    "public": "s.public = %(public)s",
    "priority": "s.priority = any(%(priority)s)",
    "language": "s.language = any(%(language)s)",
    "sentiment": "s.sentiment = any(%(sentiment)s)",
}
_OPEN: Mapping[str, LiteralString] = {
    **_ENDED,
    "member": "c.owner_id = any(%(member)s)",
    "team": "c.team_id = any(%(team)s)",
    "tag": "c.tags && %(tag)s",
    "priority": "c.priority = any(%(priority)s)",
    "language": "c.language = any(%(language)s)",
    "sentiment": "c.sentiment_band = any(%(sentiment)s)",
}
FILTERS = tuple(_ENDED)
_DTYPES: Mapping[str, str] = {"i2": ">i2", "i4": ">i4", "i8": ">i8", "f8": ">f8", "b1": ">i1", "t8": ">i8"}
#: How a copy has instants: microseconds since the beginning of 2000, here in seconds since 1970, and what stands for infinity.
_EPOCH_2000, _INFINITE = 946_684_800, 2**63 - 1
#: So many rows are taken from a copy before others get their turn.
_AT_ONCE = 1000
#: What a binary copy begins and ends with (PostgreSQL, COPY, binary format).
_HEADER, _TRAILER = 19, 2


def _fill(query: LiteralString, filters: Mapping[str, Any]) -> LiteralString:
    named: list[str] = [name for name in _ENDED if name in filters]
    ended = " and ".join([_ENDED[name] for name in named]) or "true"
    is_open = " and ".join([_OPEN[name] for name in named]) or "true"
    return query.replace("{ended}", ended).replace("{open}", is_open)


@dataclass(frozen=True, kw_only=True)
class Copied:
    """A binary copy as it came: columns of fixed width that are never null. Reading it takes time, and is for a thread."""

    parts: bytearray
    columns: Mapping[str, str]

    def read(self) -> dict[str, npt.NDArray[Any]]:
        """The columns as arrays. Raises ValueError for a copy of another shape."""
        fields: list[tuple[str, str]] = [("fields", ">i2")]
        for name, kind in self.columns.items():
            fields += [(f"width_{name}", ">i4"), (name, _DTYPES[kind])]
        record = np.dtype(fields)
        count, over = divmod(len(self.parts) - _HEADER - _TRAILER, record.itemsize)
        if over:
            raise ValueError("a column of the copy was null or of another width")
        rows = np.frombuffer(self.parts, dtype=record, offset=_HEADER, count=count)
        return {name: _read_column(rows[name], kind) for name, kind in self.columns.items()}


def _read_column(values: npt.NDArray[Any], kind: str) -> npt.NDArray[Any]:
    if kind != "t8":
        return values.astype("i2" if kind == "b1" else kind)
    micros = values.astype("i8")
    seconds = micros / 1_000_000 + _EPOCH_2000
    seconds[micros == _INFINITE] = np.nan
    return seconds


async def _copy(conn: Conn, query: LiteralString, values: Mapping[str, Any], columns: Mapping[str, str]) -> Copied:
    parts, blocks = bytearray(), 0
    whole: LiteralString = "copy (" + query + ") to stdout (format binary)"
    async with conn.cursor() as cursor, cursor.copy(whole, values) as copy:
        async for block in copy:
            parts += block
            blocks += 1
            if blocks % _AT_ONCE == 0:
                # What is there already comes without waiting: others get their turn.
                await asyncio.sleep(0)
    return Copied(parts=parts, columns=columns)


async def load_waits(
    conn: Conn,
    workspace_id: int,
    begins: datetime,
    ends: datetime,
    filters: Mapping[str, Any],
    codes: Mapping[str, Sequence[str]],
    columns: Mapping[str, str],
    *,
    working: bool,
) -> Copied:
    """The spells between two instants through the filters, as the columns of core.reports, waits in working time or on the clock.
    `codes` say which number, from 1, stands for which word: endings, hows, kinds."""
    values = {"workspace_id": workspace_id, "begins": begins, "ends": ends, **filters}
    values |= {name: list(words) for name, words in codes.items()}
    query = _fill(SQL.list_waits, filters).replace("{length}", "work_s" if working else "clock_s")
    return await _copy(conn, query, values, columns)


async def load_handling(
    conn: Conn, workspace_id: int, begins: datetime, ends: datetime, filters: Mapping[str, Any]
) -> Copied:
    """How long answers took that were timed (`handling`), in seconds."""
    values = {"workspace_id": workspace_id, "begins": begins, "ends": ends, **filters}
    return await _copy(conn, _fill(SQL.list_handling, filters), values, {"handling": "f8"})


async def load_tags(
    conn: Conn, workspace_id: int, begins: datetime, ends: datetime, filters: Mapping[str, Any]
) -> Copied:
    """Their tags: conversation, seq and tag of each."""
    values = {"workspace_id": workspace_id, "begins": begins, "ends": ends, **filters}
    columns = {"conversation": "i8", "seq": "i4", "tag": "i8"}
    return await _copy(conn, _fill(SQL.list_tags, filters), values, columns)


async def load_arrivals(
    conn: Conn, workspace_id: int, begins: datetime, ends: datetime, filters: Mapping[str, Any]
) -> Copied:
    """When conversations began between two instants (`since`), in seconds since 1970."""
    values = {"workspace_id": workspace_id, "begins": begins, "ends": ends, **filters}
    return await _copy(conn, _fill(SQL.list_arrivals, filters), values, {"since": "f8"})


async def list_exported(conn: Conn, workspace_id: int, ids: Sequence[int]) -> list[dict[str, Any]]:
    """Conversations as exports show them."""
    return await db.fetch_dicts(conn, SQL.list_exported, {"workspace_id": workspace_id, "ids": list(ids)})


async def list_kept(conn: Conn, workspace_id: int, member_id: int) -> list[dict[str, Any]]:
    """Named reports that a member can open."""
    return await db.fetch_dicts(conn, SQL.list_kept, {"workspace_id": workspace_id, "member_id": member_id})


async def count_kept(conn: Conn, workspace_id: int, member_id: int) -> int:
    """How many are the member's own."""
    return int(await db.fetch_value(conn, SQL.count_kept, {"workspace_id": workspace_id, "member_id": member_id}))


async def add_kept(
    conn: Conn, workspace_id: int, member_id: int, *, name: str, shared: bool, query: str, now: datetime
) -> int:
    """Its number."""
    values = {"workspace_id": workspace_id, "member_id": member_id, "name": name, "shared": shared, "query": query}
    return int(await db.fetch_value(conn, SQL.add_kept, {**values, "now": now}))


async def delete_kept(conn: Conn, workspace_id: int, member_id: int, id: int) -> bool:
    """Whether there was one of the member's own."""
    values = {"workspace_id": workspace_id, "member_id": member_id, "id": id}
    return await db.execute(conn, SQL.delete_kept, values) > 0


async def list_doings(conn: Conn, workspace_id: int, begins: datetime, ends: datetime) -> dict[str, Any]:
    """What was done in a period besides waiting and answering: by rules, approvals, saved replies, links, cases; replies."""
    values = {"workspace_id": workspace_id, "begins": begins, "ends": ends}
    return {
        "rules": await db.fetch_dicts(conn, SQL.list_rule_doings, values),
        "approvals": await db.fetch_dicts(conn, SQL.list_approvals, values),
        "saved_replies": await db.fetch_dicts(conn, SQL.list_saved_uses, values),
        "links": await db.fetch_dicts(conn, SQL.list_clicks, values),
        "cases": await db.fetch_dicts(conn, SQL.list_case_doings, values),
        "replies": int(await db.fetch_value(conn, SQL.count_replies, values)),
    }
