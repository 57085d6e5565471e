"""Reports shared by a link, and their letters. Used by services.report_sharing."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("sharing")


async def add_report(tx: Tx, values: Mapping[str, Any]) -> int:
    """Its number."""
    given = {"workspace_id": tx.workspace_id, **values, "ask": Jsonb(values["ask"])}
    return int(await db.fetch_value(tx, SQL.add_report, given))


async def count_reports(tx: Tx, now: datetime) -> int:
    """How many are in force."""
    return int(await db.fetch_value(tx, SQL.count_reports, {"workspace_id": tx.workspace_id, "now": now}))


async def list_reports(tx: Tx) -> list[dict[str, Any]]:
    """All of a workspace, the newest first."""
    return await db.fetch_dicts(tx, SQL.list_reports, {"workspace_id": tx.workspace_id})


async def find_report(conn: Conn, token_hash: bytes) -> dict[str, Any] | None:
    """On a connection of no workspace: `id` and `workspace_id`."""
    async with conn.transaction():
        await conn.execute("select set_config('app.report', %s, true)", [token_hash.hex()])
        return await db.fetch_dict(conn, SQL.find_report, {"token_hash": token_hash})


async def count_opening(tx: Tx, id: int, now: datetime, most: int) -> bool:
    """Count that it was opened; false when it is not in force, or was opened `most` times this minute."""
    values = {"workspace_id": tx.workspace_id, "id": id, "now": now, "most": most}
    return await db.execute(tx, SQL.count_opening, values) > 0


async def get_report(tx: Tx, id: int, now: datetime) -> dict[str, Any] | None:
    """One that is in force."""
    return await db.fetch_dict(tx, SQL.get_report, {"workspace_id": tx.workspace_id, "id": id, "now": now})


async def revoke_report(tx: Tx, id: int, now: datetime) -> str | None:
    """Its name, when it was in force."""
    name: str | None = await db.fetch_value(
        tx, SQL.revoke_report, {"workspace_id": tx.workspace_id, "id": id, "now": now}
    )
    return name


async def list_due(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    """Those whose time to be mailed has come, locked."""
    return await db.fetch_dicts(tx, SQL.list_due, {"workspace_id": tx.workspace_id, "now": now})


async def add_letters(tx: Tx, id: int, due_at: datetime, mail_to: list[str]) -> None:
    """One for each address."""
    values = {"workspace_id": tx.workspace_id, "id": id, "due_at": due_at, "mail_to": mail_to}
    await db.execute(tx, SQL.add_letters, values)


async def set_next(tx: Tx, id: int, next_at: datetime) -> None:
    """When it is mailed next."""
    await db.execute(tx, SQL.set_next, {"workspace_id": tx.workspace_id, "id": id, "next_at": next_at})


async def claim_letter(tx: Tx, now: datetime, lease_until: datetime) -> dict[str, Any] | None:
    """A letter that nobody else sends meanwhile."""
    return await db.fetch_dict(
        tx, SQL.claim_letter, {"workspace_id": tx.workspace_id, "now": now, "lease_until": lease_until}
    )


async def set_letter(tx: Tx, letter: Mapping[str, Any], *, state: str, problem: str | None, next_at: datetime) -> None:
    """What became of it."""
    values = {"workspace_id": tx.workspace_id, **letter, "state": state, "problem": problem, "next_at": next_at}
    await db.execute(tx, SQL.set_letter, values)


async def list_addresses(tx: Tx) -> list[str]:
    """The mail addresses of its members."""
    return [row["email"] for row in await db.fetch_dicts(tx, SQL.list_addresses, {"workspace_id": tx.workspace_id})]
