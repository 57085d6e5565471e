"""The record of changes, which tables write by themselves (migration 0045) and nobody else can. Used by services.record."""

from dataclasses import dataclass
from datetime import UTC, datetime

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("record")


@dataclass(frozen=True, kw_only=True)
class SaidRow:
    n: int
    said: str


@dataclass(frozen=True, kw_only=True)
class ChainRow:
    n: int
    said: str
    hash: bytes


def _say(at: datetime | None) -> str | None:
    return None if at is None else f"{at.astimezone(UTC):%Y-%m-%dT%H:%M:%S.%fZ}"


async def list_entries(
    tx: Tx,
    *,
    before: int | None,
    what: str | None,
    member_id: int | None,
    since: datetime | None,
    until: datetime | None,
    limit: int,
) -> list[SaidRow]:
    values = {
        "workspace_id": tx.workspace_id,
        "before": before,
        "what": what,
        "member_id": member_id,
        "since": _say(since),
        "until": _say(until),
        "limit": limit,
    }
    return await db.fetch_all(tx, SaidRow, SQL.list_entries, values)


async def list_chain(tx: Tx, after: int, limit: int) -> list[ChainRow]:
    values = {"workspace_id": tx.workspace_id, "after": after, "limit": limit}
    return await db.fetch_all(tx, ChainRow, SQL.list_chain, values)
