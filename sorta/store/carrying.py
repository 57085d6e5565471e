"""Rows of a workspace as they are, out and in again. Used by services.carrying.

Tables are read from the catalogue, so that one that is added goes along or is named in core.carrying.STAYS (a test holds it).
"""

import json
from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from graphlib import TopologicalSorter
from typing import Any

import psycopg
from psycopg import sql

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("carrying")
_AT_ONCE = 2000


class AlreadyHere(Exception):
    """Something has a name that there can be one of: which one."""


@dataclass(frozen=True, kw_only=True)
class Table:
    """A table of workspaces: its columns but those that are made by themselves or that nobody may read (the seed of a draw), and whether its rows have
    numbers."""

    name: str
    columns: list[str]
    numbers: bool


async def list_tables(conn: Conn) -> list[Table]:
    """Those of workspaces, each after those it points at."""
    tables = {row.name: row for row in await db.fetch_all(conn, Table, SQL.list_columns, {})}
    order: TopologicalSorter[str] = TopologicalSorter({name: set() for name in tables})
    for row in await db.fetch_dicts(conn, SQL.list_references, {}):
        if row["name"] in tables and row["target"] in tables:
            order.add(row["name"], row["target"])
    return [tables[name] for name in order.static_order()]


async def list_migrations(conn: Conn) -> list[str]:
    return [row["migration_id"] for row in await db.fetch_dicts(conn, SQL.list_migrations, {})]


async def get_workspace(tx: Tx) -> dict[str, Any] | None:
    row: dict[str, Any] | None = await db.fetch_value(tx, SQL.get_workspace, {"workspace_id": tx.workspace_id})
    return row


async def list_members(conn: Conn, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_members, {"ids": list(ids)})


async def read_rows(tx: Tx, table: Table) -> AsyncIterator[dict[str, Any]]:
    """All of a table's rows of a workspace, one after the other; by number where they have one."""
    chosen = sql.SQL(", ").join(map(sql.Identifier, table.columns))
    asked = sql.SQL("select to_jsonb(t) from (select {} from {} where workspace_id = {}{}) t").format(
        chosen,
        sql.Identifier(table.name),
        sql.Literal(tx.workspace_id),
        sql.SQL(" order by id") if table.numbers else sql.SQL(""),
    )
    async with tx.cursor(name="carried") as cursor:
        cursor.itersize = _AT_ONCE
        await cursor.execute(asked)
        async for (row,) in cursor:
            yield row


async def take_numbers(conn: Conn, table: str, count: int) -> list[int]:
    """So many new numbers of a table's own, in order."""
    asked = sql.SQL("select nextval(pg_get_serial_sequence({}, 'id')) from generate_series(1, {})").format(
        sql.Literal(table), sql.Literal(count)
    )
    rows = await (await conn.execute(asked)).fetchall()
    return [int(row[0]) for row in rows]


async def add_rows(conn: Conn, table: Table, rows: Sequence[Mapping[str, Any]]) -> None:
    """Add rows as they are, with their numbers; all of the same columns."""
    chosen = sql.SQL(", ").join(map(sql.Identifier, rows[0]))
    added = sql.SQL(
        "insert into {name} ({chosen}) overriding system value select {chosen} from jsonb_populate_recordset(null::{name}, %s::jsonb)"
    ).format(name=sql.Identifier(table.name), chosen=chosen)
    try:
        await conn.execute(added, [json.dumps(list(rows))])
    except psycopg.errors.UniqueViolation as error:
        raise AlreadyHere(error.diag.constraint_name) from error


async def set_workspace(tx: Tx, row: Mapping[str, Any], *, reason: str, now: datetime) -> None:
    """What it is, as it was where it comes from; everything outgoing is held."""
    values = {"workspace_id": tx.workspace_id, "row": json.dumps(dict(row)), "reason": reason, "now": now}
    await db.execute(tx, SQL.set_workspace, values)


async def has_slug(conn: Conn, slug: str) -> bool:
    return bool(await db.fetch_value(conn, SQL.has_slug, {"slug": slug}))
