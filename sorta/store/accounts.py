"""Connected accounts and what they sent that could not be taken in. Used by services.accounts and ingest."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn, Tx
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
    refresh_token: str | None = None
    token_ends_at: datetime | None = None
    #: What its network asks to be allowed besides: {words, address}.
    lacking: list[dict[str, str]] = field(default_factory=list)
    disconnected_at: datetime | None = None
    #: Whether something that came by it was erased, and must not come back.
    has_erased: bool = False
    #: The line that closes its answers.
    sign_off: str = ""
    #: From when on it is read by itself; None is from its beginning.
    reads_from: datetime | None = None


async def get_account(tx: Tx, id: int) -> Account | None:
    return await db.fetch_one(tx, Account, SQL.get_account, {"workspace_id": tx.workspace_id, "id": id})


async def list_accounts(tx: Tx) -> list[Account]:
    return await db.fetch_all(tx, Account, SQL.list_accounts, {"workspace_id": tx.workspace_id})


async def add_account(tx: Tx, values: dict[str, Any]) -> int | None:
    """Its number; None where it is connected already."""
    id: int | None = await db.fetch_value(tx, SQL.add_account, {"workspace_id": tx.workspace_id, **values})
    return id


async def set_sign_off(tx: Tx, id: int, sign_off: str, notice: str) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "sign_off": sign_off, "notice": notice}
    await db.execute(tx, SQL.set_sign_off, values)


async def pause_account(tx: Tx, id: int, reason: str, notice: str) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "reason": reason, "notice": notice}
    await db.execute(tx, SQL.pause_account, values)


async def set_silent(tx: Tx, id: int, since: datetime, ask_again_at: datetime, notice: str) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "since": since, "ask_again_at": ask_again_at, "notice": notice}
    await db.execute(tx, SQL.set_silent, values)


async def set_ask_again(tx: Tx, id: int, at: datetime) -> None:
    await db.execute(tx, SQL.set_ask_again, {"workspace_id": tx.workspace_id, "id": id, "at": at})


async def set_answering(tx: Tx, id: int, notice: str) -> bool:
    """True when it had been silent until now."""
    values = {"workspace_id": tx.workspace_id, "id": id, "notice": notice}
    return await db.fetch_value(tx, SQL.set_answering, values) is not None


async def set_token(tx: Tx, id: int, token: str, notice: str) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "token": token, "notice": notice}
    await db.execute(tx, SQL.set_token, values)


async def change_hook_secret(tx: Tx, id: int, sealed: str, until: datetime) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "sealed": sealed, "until": until}
    await db.execute(tx, SQL.change_hook_secret, values)


async def set_backfill_cursor(tx: Tx, id: int, cursor: str) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "cursor": cursor}
    await db.execute(tx, SQL.set_backfill_cursor, values)


async def add_aside(tx: Tx, account_id: int, now: datetime, source: str, reason: str, body: str) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "account_id": account_id,
        "now": now,
        "source": source,
        "reason": reason,
        "body": body,
    }
    await db.execute(tx, SQL.add_aside, values)


async def list_aside(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_aside, {"workspace_id": tx.workspace_id})


async def get_aside(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_aside, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def set_aside_taken(tx: Tx, id: int, now: datetime) -> None:
    await db.execute(tx, SQL.set_aside_taken, {"workspace_id": tx.workspace_id, "id": id, "now": now})


async def set_aside_reason(tx: Tx, id: int, reason: str) -> None:
    await db.execute(tx, SQL.set_aside_reason, {"workspace_id": tx.workspace_id, "id": id, "reason": reason})


async def is_chosen(conn: Conn) -> bool:
    """Whether the transaction's workspace may be seen, as the database has it."""
    return bool(await db.fetch_value(conn, SQL.is_chosen, {}))


async def get_health(conn: Conn) -> dict[str, bool]:
    """Whether the database answers, and is migrated."""
    applied = await db.fetch_value(conn, SQL.count_migrations, {"names": EXPECTED})
    return {"database": True, "migrations": applied == len(EXPECTED)}


async def add_try(
    tx: Tx,
    *,
    state_hash: bytes,
    member_id: int,
    network: str,
    verifier: str,
    now: datetime,
    expires_at: datetime,
) -> None:
    """`verifier` sealed."""
    values = {
        "workspace_id": tx.workspace_id,
        "state_hash": state_hash,
        "member_id": member_id,
        "network": network,
        "verifier": verifier,
        "now": now,
        "expires_at": expires_at,
    }
    await db.execute(tx, SQL.add_try, values)


async def use_try(tx: Tx, *, state_hash: bytes, member_id: int, network: str, now: datetime) -> str | None:
    """The verifier as it is kept; None for what was not asked so, or is over."""
    values = {
        "workspace_id": tx.workspace_id,
        "state_hash": state_hash,
        "member_id": member_id,
        "network": network,
        "now": now,
    }
    verifier: str | None = await db.fetch_value(tx, SQL.use_try, values)
    return verifier


async def grant(tx: Tx, values: dict[str, Any]) -> tuple[int, bool]:
    """The account's number, and whether it is new here."""
    row = await db.fetch_dict(
        tx, SQL.grant, {"workspace_id": tx.workspace_id, **values, "lacking": Jsonb(values["lacking"])}
    )
    assert row is not None
    return row["id"], row["is_new"]


@dataclass(frozen=True, kw_only=True)
class Renewal:
    id: int
    network: str
    refresh_token: str
    token_ends_at: datetime | None


async def claim_renewal(tx: Tx, now: datetime, lease_until: datetime) -> Renewal | None:
    values = {"workspace_id": tx.workspace_id, "now": now, "lease_until": lease_until}
    return await db.fetch_one(tx, Renewal, SQL.claim_renewal, values)


async def set_renewed(tx: Tx, values: dict[str, Any]) -> None:
    await db.execute(tx, SQL.set_renewed, {"workspace_id": tx.workspace_id, **values})


async def set_lost(tx: Tx, id: int, *, was: str, reason: str, notice: str) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "was": was, "reason": reason, "notice": notice}
    return bool(await db.execute(tx, SQL.set_lost, values))


async def renew_soon(tx: Tx, id: int, now: datetime) -> None:
    await db.execute(tx, SQL.renew_soon, {"workspace_id": tx.workspace_id, "id": id, "now": now})


async def disconnect(tx: Tx, id: int, *, member_id: int, token: str, now: datetime, notice: str) -> bool:
    """False where it was disconnected already. `token` is what stands in the place of the one there was, sealed."""
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "member_id": member_id,
        "token": token,
        "now": now,
        "notice": notice,
    }
    return bool(await db.execute(tx, SQL.disconnect, values))
