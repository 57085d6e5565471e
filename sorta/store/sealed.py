"""Everything that is kept sealed, by table. Used by services.sealing."""

from collections.abc import Mapping
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("sealed")
_LOCK = {
    "account": SQL.lock_accounts,
    "support_desk": SQL.lock_desks,
    "shared_report": SQL.lock_reports,
    "invitation": SQL.lock_invitations,
    "grant_try": SQL.lock_tries,
    "web_hook": SQL.lock_hooks,
}
_SET = {
    "account": SQL.set_account,
    "support_desk": SQL.set_desk,
    "shared_report": SQL.set_report,
    "invitation": SQL.set_invitation,
    "grant_try": SQL.set_try,
    "web_hook": SQL.set_hook,
}


async def lock_rows(tx: Tx, table: str) -> list[dict[str, Any]]:
    """Each row's number and secrets, as they are kept, until the transaction ends."""
    return await db.fetch_dicts(tx, _LOCK[table], {"workspace_id": tx.workspace_id})


async def set_row(tx: Tx, table: str, row: Mapping[str, Any]) -> None:
    await db.execute(tx, _SET[table], {"workspace_id": tx.workspace_id, **row})
