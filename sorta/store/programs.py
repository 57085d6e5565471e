"""Tokens of programs, and where and what they are told. Used by services.programs."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("programs")


async def list_tokens(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_tokens, {"workspace_id": tx.workspace_id})


async def add_token(tx: Tx, values: Mapping[str, Any]) -> int:
    id: int = await db.fetch_value(tx, SQL.add_token, {"workspace_id": tx.workspace_id, **values})
    return id


async def revoke_token(tx: Tx, id: int, now: datetime) -> str | None:
    """Its name; None where there is none that opens anything."""
    name: str | None = await db.fetch_value(
        tx, SQL.revoke_token, {"workspace_id": tx.workspace_id, "id": id, "now": now}
    )
    return name


async def find_token(tx: Tx, token_hash: bytes, now: datetime) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "token_hash": token_hash, "now": now}
    return await db.fetch_dict(tx, SQL.find_token, values)


async def touch_token(tx: Tx, id: int, now: datetime) -> None:
    await db.execute(tx, SQL.touch_token, {"workspace_id": tx.workspace_id, "id": id, "now": now})


async def list_hooks(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_hooks, {"workspace_id": tx.workspace_id})


async def add_hook(tx: Tx, values: Mapping[str, Any]) -> int:
    id: int = await db.fetch_value(tx, SQL.add_hook, {"workspace_id": tx.workspace_id, **values})
    return id


async def set_hook(tx: Tx, values: Mapping[str, Any]) -> bool:
    return await db.fetch_value(tx, SQL.set_hook, {"workspace_id": tx.workspace_id, **values}) is not None


async def set_hook_secret(tx: Tx, id: int, secret: str, until: datetime) -> str | None:
    """Its name; None where there is no such. `secret` sealed."""
    values = {"workspace_id": tx.workspace_id, "id": id, "secret": secret, "until": until}
    name: str | None = await db.fetch_value(tx, SQL.set_hook_secret, values)
    return name


async def remove_hook(tx: Tx, id: int, now: datetime) -> str | None:
    """Its name; None where there is no such."""
    name: str | None = await db.fetch_value(
        tx, SQL.remove_hook, {"workspace_id": tx.workspace_id, "id": id, "now": now}
    )
    return name


@dataclass(frozen=True, kw_only=True)
class HookEvent:
    """Something to be told, and to whom; secrets as they are kept, sealed."""

    id: int
    hook_id: int
    conversation_id: int
    key: UUID
    event: str
    data: dict[str, Any]
    made_at: datetime
    attempts: int
    url: str
    secret: str
    secret_before: str | None
    secret_until: datetime | None
    failing_since: datetime | None


async def claim_event(tx: Tx, now: datetime, lease_until: datetime) -> HookEvent | None:
    values = {"workspace_id": tx.workspace_id, "now": now, "lease_until": lease_until}
    return await db.fetch_one(tx, HookEvent, SQL.claim_event, values)


async def set_told(
    tx: Tx,
    event: HookEvent,
    *,
    state: str,
    next_at: datetime | None,
    problem: str | None,
    now: datetime,
) -> bool:
    """False where a later try has overtaken this one."""
    values = {
        "workspace_id": tx.workspace_id,
        "id": event.id,
        "attempts": event.attempts,
        "state": state,
        "next_at": next_at,
        "problem": problem,
        "now": now,
    }
    return bool(await db.execute(tx, SQL.set_told, values))


async def set_hook_state(tx: Tx, id: int, *, failing_since: datetime | None, off_reason: str | None) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "failing_since": failing_since, "off_reason": off_reason}
    await db.execute(tx, SQL.set_hook_state, values)


async def list_events(tx: Tx, id: int, before: int | None, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "id": id, "before": before, "limit": limit}
    return await db.fetch_dicts(tx, SQL.list_events, values)


async def tell_again(tx: Tx, id: int, event_id: int | None, now: datetime) -> int:
    values = {"workspace_id": tx.workspace_id, "id": id, "event_id": event_id, "now": now}
    return await db.execute(tx, SQL.tell_again, values)
