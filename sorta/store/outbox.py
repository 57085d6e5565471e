"""Replies on their way. Used by services.answers and services.delivery."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("outbox")


@dataclass(frozen=True, kw_only=True)
class Claimed:
    """A reply in our hands; `attempts` numbers the claim, so that an overtaken one is noticed."""

    id: int
    account_id: int
    conversation_id: int
    message_id: int
    key: UUID
    target: str
    recipient: str
    attempts: int
    queued_at: datetime
    leaves_at: datetime
    stuck: str | None
    what: str
    public: bool
    body: str
    attachments: list[dict[str, Any]]
    member_id: int | None


async def add_outgoing(conn: Conn, values: dict[str, Any]) -> int:
    id: int = await db.fetch_value(conn, SQL.add_outgoing, values)
    return id


async def withdraw_outgoing(conn: Conn, workspace_id: int, message_id: int, what: str) -> bool:
    values = {"workspace_id": workspace_id, "message_id": message_id, "what": what}
    return await db.fetch_value(conn, SQL.withdraw_outgoing, values) is not None


@dataclass(frozen=True, kw_only=True)
class AccountState:
    """The account that an entry goes out through."""

    id: int
    network: str
    silent_since: datetime | None
    ask_again_at: datetime | None


async def lock_accounts(conn: Conn, workspace_id: int, ids: Sequence[int]) -> dict[int, AccountState]:
    """The accounts that entries go out through, by entry, kept from other claims."""
    rows = await db.fetch_dicts(conn, SQL.lock_accounts, {"workspace_id": workspace_id, "ids": list(ids)})
    return {row.pop("outbox_id"): AccountState(**row) for row in rows}


@dataclass(frozen=True, kw_only=True)
class Pace:
    """How much of an account is being sent, and when its network was asked lately."""

    under_way: int
    tried: list[datetime]


async def get_pace(conn: Conn, workspace_id: int, account_id: int, lease_until: datetime, since: datetime) -> Pace:
    values = {"workspace_id": workspace_id, "account_id": account_id, "lease_until": lease_until, "since": since}
    (pace,) = await db.fetch_all(conn, Pace, SQL.get_pace, values)
    return pace


async def put_off(conn: Conn, workspace_id: int, id: int, at: datetime) -> None:
    await db.execute(conn, SQL.put_off, {"workspace_id": workspace_id, "id": id, "at": at})


async def claim_outgoing(
    conn: Conn, workspace_id: int, id: int, now: datetime, lease_until: datetime
) -> Claimed | None:
    values = {"workspace_id": workspace_id, "id": id, "now": now, "lease_until": lease_until}
    return await db.fetch_one(conn, Claimed, SQL.claim_outgoing, values)


async def set_outgoing(
    conn: Conn,
    workspace_id: int,
    claimed: Claimed,
    state: str,
    problem: str | None = None,
    not_before: datetime | None = None,
    *,
    maybe_out: bool = False,
) -> bool:
    """False when the claim was overtaken: then somebody else writes the outcome."""
    values = {
        "workspace_id": workspace_id,
        "id": claimed.id,
        "attempts": claimed.attempts,
        "state": state,
        "problem": problem,
        "not_before": not_before,
        "maybe_out": maybe_out,
    }
    return await db.fetch_value(conn, SQL.set_outgoing, values) is not None


async def set_delivered(conn: Conn, workspace_id: int, claimed: Claimed, external_id: str, at: datetime) -> bool:
    """It is out, a reply under the network's name for it. False as `set_outgoing`."""
    values = {
        "workspace_id": workspace_id,
        "id": claimed.id,
        "attempts": claimed.attempts,
        "external_id": external_id,
        "at": at,
    }
    return await db.fetch_value(conn, SQL.set_delivered, values) is not None


async def list_deliverable(
    conn: Conn, workspace_id: int, now: datetime, lease_until: datetime, *, most: int, account_id: int | None = None
) -> list[int]:
    """Up to `most` of each account, or of one."""
    values = {
        "workspace_id": workspace_id,
        "now": now,
        "lease_until": lease_until,
        "most": most,
        "account_id": account_id,
    }
    return [row["id"] for row in await db.fetch_dicts(conn, SQL.list_deliverable, values)]


async def list_next_of(conn: Conn, workspace_id: int, conversation_ids: Sequence[int]) -> dict[int, dict[str, Any]]:
    """What goes out next of each conversation where something waits."""
    values = {"workspace_id": workspace_id, "conversation_ids": list(conversation_ids)}
    return {row["conversation_id"]: row for row in await db.fetch_dicts(conn, SQL.list_next_of, values)}


async def list_late(conn: Conn, workspace_id: int, now: datetime, id: int | None = None) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_late, {"workspace_id": workspace_id, "now": now, "id": id})


async def set_stuck(conn: Conn, workspace_id: int, id: int, reason: str) -> bool:
    values = {"workspace_id": workspace_id, "id": id, "reason": reason}
    return await db.fetch_value(conn, SQL.set_stuck, values) is not None


async def list_stuck(conn: Conn, workspace_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(conn, SQL.list_stuck, {"workspace_id": workspace_id})


async def find_open(conn: Conn, workspace_id: int, person_id: int, message_id: int, what: str) -> str | None:
    """Who has asked the network for this already: of a message, or of a person where it is about them."""
    values = {"workspace_id": workspace_id, "person_id": person_id, "message_id": message_id, "what": what}
    found: str | None = await db.fetch_value(conn, SQL.find_open, values)
    return found


async def get_state(conn: Conn, workspace_id: int, message_id: int) -> tuple[str, bool] | None:
    """Where the reply of this message stands, and whether the network may have it unbeknown."""
    rows = await db.fetch_dicts(conn, SQL.get_state, {"workspace_id": workspace_id, "message_id": message_id})
    return (rows[0]["state"], rows[0]["maybe_out"]) if rows else None
