"""Who works in a workspace no more, and what was theirs. Used by services.leaving."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("leaving")


@dataclass(frozen=True, kw_only=True)
class FormerRow:
    id: int
    name: str
    initials: str
    role: str
    left_at: datetime
    let_go_by: int
    to_owner: int | None
    to_team: int | None


@dataclass(frozen=True, kw_only=True)
class LeftRow:
    """Something that is still with a former member: `what` is owned, proposal or scheduled."""

    what: str
    id: int
    conversation_id: int
    member_id: int


async def list_former(tx: Tx) -> list[FormerRow]:
    return await db.fetch_all(tx, FormerRow, SQL.list_former, {"workspace_id": tx.workspace_id})


async def count_work(tx: Tx, member_id: int) -> dict[str, Any]:
    (row,) = await db.fetch_dicts(tx, SQL.count_work, {"workspace_id": tx.workspace_id, "member_id": member_id})
    return row


async def let_go(
    tx: Tx,
    member_id: int,
    *,
    by: int,
    to_owner: int | None,
    to_team: int | None,
    follow_ups_to: int,
    now: datetime,
) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "member_id": member_id,
        "by": by,
        "to_owner": to_owner,
        "to_team": to_team,
        "follow_ups_to": follow_ups_to,
        "now": now,
    }
    await db.execute(tx, SQL.let_go, values)


async def end_sessions(conn: Conn, member_id: int) -> None:
    await db.execute(conn, SQL.end_sessions, {"member_id": member_id})


async def share_draft(tx: Tx, member_id: int, conversation_id: int) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "conversation_id": conversation_id}
    await db.execute(tx, SQL.share_draft, values)


async def list_left(tx: Tx, limit: int) -> list[LeftRow]:
    return await db.fetch_all(tx, LeftRow, SQL.list_left, {"workspace_id": tx.workspace_id, "limit": limit})
