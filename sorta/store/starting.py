"""How far a workspace is set up. Used by services.starting."""

from collections.abc import Sequence
from dataclasses import dataclass

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("starting")


@dataclass(frozen=True, kw_only=True)
class StartRow:
    """Which steps are done, by their names, and which are passed over."""

    about: bool
    hours: bool
    account: bool
    colleagues: bool
    rules: bool
    skipped: list[str]


async def get_start(tx: Tx) -> StartRow:
    row = await db.fetch_one(tx, StartRow, SQL.get_start, {"workspace_id": tx.workspace_id})
    assert row is not None
    return row


async def set_skipped(tx: Tx, skipped: Sequence[str]) -> None:
    await db.execute(tx, SQL.set_skipped, {"workspace_id": tx.workspace_id, "skipped": list(skipped)})
