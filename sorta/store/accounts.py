"""Connected accounts and what they sent that could not be taken in. Used by services.accounts and ingest."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn
from sorta.store.migrate import EXPECTED

SQL = db.Statements("accounts")


@dataclass(frozen=True, kw_only=True)
class Account:
    """A connected account; its token and secrets as they are kept, sealed."""

    id: int
    workspace_id: int
    network: str
    name: str
    handle: str
    external_id: str
    api_url: str
    token: str
    hook_secret: str
    paused_reason: str | None
    backfill_cursor: str | None
    silent_since: datetime | None = None
    ask_again_at: datetime | None = None
    hook_secret_before: str | None = None
    hook_secret_until: datetime | None = None


async def get_account(conn: Conn, workspace_id: int, id: int) -> Account | None:
    return await db.fetch_one(conn, Account, SQL.get_account, {"workspace_id": workspace_id, "id": id})


async def list_accounts(conn: Conn, workspace_id: int) -> list[Account]:
    return await db.fetch_all(conn, Account, SQL.list_accounts, {"workspace_id": workspace_id})


async def add_account(conn: Conn, workspace_id: int, values: dict[str, Any]) -> int | None:
    """Its number; None where it is connected already."""
    id: int | None = await db.fetch_value(conn, SQL.add_account, {"workspace_id": workspace_id, **values})
    return id


async def pause_account(conn: Conn, workspace_id: int, id: int, reason: str, notice: str) -> None:
    values = {"workspace_id": workspace_id, "id": id, "reason": reason, "notice": notice}
    await db.execute(conn, SQL.pause_account, values)


async def set_silent(
    conn: Conn, workspace_id: int, id: int, since: datetime, ask_again_at: datetime, notice: str
) -> None:
    values = {"workspace_id": workspace_id, "id": id, "since": since, "ask_again_at": ask_again_at, "notice": notice}
    await db.execute(conn, SQL.set_silent, values)


async def set_ask_again(conn: Conn, workspace_id: int, id: int, at: datetime) -> None:
    await db.execute(conn, SQL.set_ask_again, {"workspace_id": workspace_id, "id": id, "at": at})


async def set_answering(conn: Conn, workspace_id: int, id: int, notice: str) -> bool:
    """True when it had been silent until now."""
    values = {"workspace_id": workspace_id, "id": id, "notice": notice}
    return await db.fetch_value(conn, SQL.set_answering, values) is not None


async def set_token(conn: Conn, workspace_id: int, id: int, token: str, notice: str) -> None:
    values = {"workspace_id": workspace_id, "id": id, "token": token, "notice": notice}
    await db.execute(conn, SQL.set_token, values)


async def change_hook_secret(conn: Conn, workspace_id: int, id: int, sealed: str, until: datetime) -> None:
    values = {"workspace_id": workspace_id, "id": id, "sealed": sealed, "until": until}
    await db.execute(conn, SQL.change_hook_secret, values)


async def set_backfill_cursor(conn: Conn, workspace_id: int, id: int, cursor: str) -> None:
    values = {"workspace_id": workspace_id, "id": id, "cursor": cursor}
    await db.execute(conn, SQL.set_backfill_cursor, values)


async def add_aside(
    conn: Conn, workspace_id: int, account_id: int, now: datetime, source: str, reason: str, body: str
) -> None:
    values = {
        "workspace_id": workspace_id,
        "account_id": account_id,
        "now": now,
        "source": source,
        "reason": reason,
        "body": body,
    }
    await db.execute(conn, SQL.add_aside, values)


async def list_aside(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_aside, {"workspace_id": workspace_id})


async def get_aside(conn: Conn, workspace_id: int, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(conn, SQL.get_aside, {"workspace_id": workspace_id, "id": id})
    return rows[0] if rows else None


async def set_aside_taken(conn: Conn, workspace_id: int, id: int, now: datetime) -> None:
    await db.execute(conn, SQL.set_aside_taken, {"workspace_id": workspace_id, "id": id, "now": now})


async def set_aside_reason(conn: Conn, workspace_id: int, id: int, reason: str) -> None:
    await db.execute(conn, SQL.set_aside_reason, {"workspace_id": workspace_id, "id": id, "reason": reason})


async def is_chosen(conn: Conn) -> bool:
    """Whether the transaction's workspace may be seen, as the database has it."""
    return bool(await db.fetch_value(conn, SQL.is_chosen, {}))


async def get_health(conn: Conn) -> dict[str, bool]:
    """Whether the database answers, and is migrated."""
    applied = await db.fetch_value(conn, SQL.count_migrations, {"names": EXPECTED})
    return {"database": True, "migrations": applied == len(EXPECTED)}
