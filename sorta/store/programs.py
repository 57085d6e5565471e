"""Tokens of programs, and where and what they are told. Used by services.programs."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("programs")


async def list_tokens(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_tokens, {"workspace_id": workspace_id})


async def add_token(conn: Conn, workspace_id: int, values: Mapping[str, Any]) -> int:
    id: int = await db.fetch_value(conn, SQL.add_token, {"workspace_id": workspace_id, **values})
    return id


async def revoke_token(conn: Conn, workspace_id: int, id: int, now: datetime) -> str | None:
    """Its name; None where there is none that opens anything."""
    name: str | None = await db.fetch_value(
        conn, SQL.revoke_token, {"workspace_id": workspace_id, "id": id, "now": now}
    )
    return name


async def find_token(conn: Conn, workspace_id: int, token_hash: bytes, now: datetime) -> dict[str, Any] | None:
    values = {"workspace_id": workspace_id, "token_hash": token_hash, "now": now}
    return await db.fetch_dict(conn, SQL.find_token, values)


async def touch_token(conn: Conn, workspace_id: int, id: int, now: datetime) -> None:
    await db.execute(conn, SQL.touch_token, {"workspace_id": workspace_id, "id": id, "now": now})


async def list_hooks(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_hooks, {"workspace_id": workspace_id})


async def add_hook(conn: Conn, workspace_id: int, values: Mapping[str, Any]) -> int:
    id: int = await db.fetch_value(conn, SQL.add_hook, {"workspace_id": workspace_id, **values})
    return id


async def set_hook(conn: Conn, workspace_id: int, values: Mapping[str, Any]) -> bool:
    return await db.fetch_value(conn, SQL.set_hook, {"workspace_id": workspace_id, **values}) is not None


async def set_hook_secret(conn: Conn, workspace_id: int, id: int, secret: str, until: datetime) -> str | None:
    """Its name; None where there is no such. `secret` sealed."""
    values = {"workspace_id": workspace_id, "id": id, "secret": secret, "until": until}
    name: str | None = await db.fetch_value(conn, SQL.set_hook_secret, values)
    return name


async def remove_hook(conn: Conn, workspace_id: int, id: int, now: datetime) -> str | None:
    """Its name; None where there is no such."""
    name: str | None = await db.fetch_value(conn, SQL.remove_hook, {"workspace_id": workspace_id, "id": id, "now": now})
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


async def claim_event(conn: Conn, workspace_id: int, now: datetime, lease_until: datetime) -> HookEvent | None:
    values = {"workspace_id": workspace_id, "now": now, "lease_until": lease_until}
    return await db.fetch_one(conn, HookEvent, SQL.claim_event, values)


async def set_told(
    conn: Conn,
    workspace_id: int,
    event: HookEvent,
    *,
    state: str,
    next_at: datetime | None,
    problem: str | None,
    now: datetime,
) -> bool:
    """False where a later try has overtaken this one."""
    values = {
        "workspace_id": workspace_id,
        "id": event.id,
        "attempts": event.attempts,
        "state": state,
        "next_at": next_at,
        "problem": problem,
        "now": now,
    }
    return bool(await db.execute(conn, SQL.set_told, values))


async def set_hook_state(
    conn: Conn, workspace_id: int, id: int, *, failing_since: datetime | None, off_reason: str | None
) -> None:
    values = {"workspace_id": workspace_id, "id": id, "failing_since": failing_since, "off_reason": off_reason}
    await db.execute(conn, SQL.set_hook_state, values)


async def list_events(conn: Conn, workspace_id: int, id: int, before: int | None, limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": workspace_id, "id": id, "before": before, "limit": limit}
    return await db.fetch_dicts(conn, SQL.list_events, values)


async def tell_again(conn: Conn, workspace_id: int, id: int, event_id: int | None, now: datetime) -> int:
    values = {"workspace_id": workspace_id, "id": id, "event_id": event_id, "now": now}
    return await db.execute(conn, SQL.tell_again, values)
