"""Replies on their way. Used by services.answers and services.delivery."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sorta.store import db
from sorta.store.db import Conn, Tx

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


async def withdraw_outgoing(tx: Tx, message_id: int, what: str) -> bool:
    values = {"workspace_id": tx.workspace_id, "message_id": message_id, "what": what}
    return await db.fetch_value(tx, SQL.withdraw_outgoing, values) is not None


@dataclass(frozen=True, kw_only=True)
class AccountState:
    """The account that an entry goes out through."""

    id: int
    network: str
    silent_since: datetime | None
    ask_again_at: datetime | None


async def lock_accounts(tx: Tx, ids: Sequence[int]) -> dict[int, AccountState]:
    """The accounts that entries go out through, by entry, kept from other claims."""
    rows = await db.fetch_dicts(tx, SQL.lock_accounts, {"workspace_id": tx.workspace_id, "ids": list(ids)})
    return {row.pop("outbox_id"): AccountState(**row) for row in rows}


@dataclass(frozen=True, kw_only=True)
class Pace:
    """How much of an account is being sent, and when its network was asked lately."""

    under_way: int
    tried: list[datetime]


async def get_pace(tx: Tx, account_id: int, lease_until: datetime, since: datetime) -> Pace:
    values = {"workspace_id": tx.workspace_id, "account_id": account_id, "lease_until": lease_until, "since": since}
    (pace,) = await db.fetch_all(tx, Pace, SQL.get_pace, values)
    return pace


async def put_off(tx: Tx, id: int, at: datetime) -> None:
    await db.execute(tx, SQL.put_off, {"workspace_id": tx.workspace_id, "id": id, "at": at})


async def claim_outgoing(tx: Tx, id: int, now: datetime, lease_until: datetime) -> Claimed | None:
    values = {"workspace_id": tx.workspace_id, "id": id, "now": now, "lease_until": lease_until}
    return await db.fetch_one(tx, Claimed, SQL.claim_outgoing, values)


async def set_outgoing(
    tx: Tx,
    claimed: Claimed,
    state: str,
    problem: str | None = None,
    not_before: datetime | None = None,
    *,
    maybe_out: bool = False,
) -> bool:
    """False when the claim was overtaken: then somebody else writes the outcome."""
    values = {
        "workspace_id": tx.workspace_id,
        "id": claimed.id,
        "attempts": claimed.attempts,
        "state": state,
        "problem": problem,
        "not_before": not_before,
        "maybe_out": maybe_out,
    }
    return await db.fetch_value(tx, SQL.set_outgoing, values) is not None


async def set_delivered(tx: Tx, claimed: Claimed, external_id: str, at: datetime) -> bool:
    """It is out, a reply under the network's name for it. False as `set_outgoing`."""
    values = {
        "workspace_id": tx.workspace_id,
        "id": claimed.id,
        "attempts": claimed.attempts,
        "external_id": external_id,
        "at": at,
    }
    return await db.fetch_value(tx, SQL.set_delivered, values) is not None


async def list_deliverable(
    tx: Tx, now: datetime, lease_until: datetime, *, most: int, account_id: int | None = None
) -> list[int]:
    """Up to `most` of each account, or of one."""
    values = {
        "workspace_id": tx.workspace_id,
        "now": now,
        "lease_until": lease_until,
        "most": most,
        "account_id": account_id,
    }
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_deliverable, values)]


async def list_next_of(tx: Tx, conversation_ids: Sequence[int]) -> dict[int, dict[str, Any]]:
    """What goes out next of each conversation where something waits."""
    values = {"workspace_id": tx.workspace_id, "conversation_ids": list(conversation_ids)}
    return {row["conversation_id"]: row for row in await db.fetch_dicts(tx, SQL.list_next_of, values)}


async def list_late(tx: Tx, now: datetime, id: int | None = None) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_late, {"workspace_id": tx.workspace_id, "now": now, "id": id})


async def set_stuck(tx: Tx, id: int, reason: str) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "reason": reason}
    return await db.fetch_value(tx, SQL.set_stuck, values) is not None


async def list_stuck(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_stuck, {"workspace_id": tx.workspace_id})


async def find_open(tx: Tx, person_id: int, message_id: int, what: str) -> str | None:
    """Who has asked the network for this already: of a message, or of a person where it is about them."""
    values = {"workspace_id": tx.workspace_id, "person_id": person_id, "message_id": message_id, "what": what}
    found: str | None = await db.fetch_value(tx, SQL.find_open, values)
    return found


async def get_state(tx: Tx, message_id: int) -> tuple[str, bool] | None:
    """Where the reply of this message stands, and whether the network may have it unbeknown."""
    rows = await db.fetch_dicts(tx, SQL.get_state, {"workspace_id": tx.workspace_id, "message_id": message_id})
    return (rows[0]["state"], rows[0]["maybe_out"]) if rows else None
