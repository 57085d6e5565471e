"""Files to be sent along, without what is in them. Used by services.attachments."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("attachments")


@dataclass(frozen=True, kw_only=True)
class AttachmentRow:
    id: int
    conversation_id: int
    member_id: int
    sha256: str
    media_type: str
    name: str
    size: int
    description: str
    used_at: datetime | None


@dataclass(frozen=True, kw_only=True)
class LibraryRow:
    """A file of the workspace's own; `uses` says how many answers hold its content."""

    id: int
    sha256: str
    media_type: str
    name: str
    size: int
    description: str
    made_at: datetime
    made_by: str
    uses: int


async def lock_files(tx: Tx) -> None:
    await db.execute(tx, SQL.lock_files, {"workspace_id": tx.workspace_id})


async def add_attachment(tx: Tx, values: dict[str, Any]) -> int:
    id: int = await db.fetch_value(tx, SQL.add_attachment, {"workspace_id": tx.workspace_id, **values})
    return id


async def set_description(tx: Tx, id: int, member_id: int, description: str) -> bool:
    """Whether it is a file of the member's that no answer holds."""
    values = {"workspace_id": tx.workspace_id, "id": id, "member_id": member_id, "description": description}
    return await db.fetch_value(tx, SQL.set_description, values) is not None


async def list_attachments(tx: Tx, ids: Sequence[int]) -> list[AttachmentRow]:
    values = {"workspace_id": tx.workspace_id, "ids": list(ids)}
    return await db.fetch_all(tx, AttachmentRow, SQL.list_attachments, values)


async def set_attachments_used(tx: Tx, ids: Sequence[int], now: datetime) -> None:
    await db.execute(tx, SQL.set_attachments_used, {"workspace_id": tx.workspace_id, "ids": list(ids), "now": now})


async def remove_attachment(tx: Tx, id: int, member_id: int) -> str | None:
    """What was in it; None when there is no such file of the member's that could be taken away."""
    values = {"workspace_id": tx.workspace_id, "id": id, "member_id": member_id}
    found: str | None = await db.fetch_value(tx, SQL.remove_attachment, values)
    return found


async def remove_unused(tx: Tx, before: datetime) -> list[str]:
    rows = await db.fetch_dicts(tx, SQL.remove_unused, {"workspace_id": tx.workspace_id, "before": before})
    return [row["sha256"] for row in rows]


async def measure(tx: Tx, member_id: int) -> dict[str, int]:
    """Bytes: `put_by` of the member's files that no answer holds, `in_workspace` of all."""
    (row,) = await db.fetch_dicts(tx, SQL.measure, {"workspace_id": tx.workspace_id, "member_id": member_id})
    return row


async def list_needed(tx: Tx, sha256s: Sequence[str]) -> set[str]:
    rows = await db.fetch_dicts(tx, SQL.list_needed, {"workspace_id": tx.workspace_id, "sha256s": list(sha256s)})
    return {row["sha256"] for row in rows}


async def list_library(tx: Tx, id: int | None = None) -> list[LibraryRow]:
    return await db.fetch_all(tx, LibraryRow, SQL.list_library, {"workspace_id": tx.workspace_id, "id": id})


async def add_to_library(tx: Tx, values: dict[str, Any]) -> int | None:
    """Its number; None when the same content is there already."""
    id: int | None = await db.fetch_value(tx, SQL.add_to_library, {"workspace_id": tx.workspace_id, **values})
    return id


async def set_in_library(tx: Tx, id: int, *, name: str, description: str) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "name": name, "description": description}
    return await db.fetch_value(tx, SQL.set_in_library, values) is not None


async def remove_from_library(tx: Tx, id: int) -> str | None:
    """What was in it; None when there is no such file."""
    found: str | None = await db.fetch_value(tx, SQL.remove_from_library, {"workspace_id": tx.workspace_id, "id": id})
    return found
