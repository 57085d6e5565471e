"""What was said as exports and imports of it need it. Used by services.streams."""

from collections.abc import Sequence
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("streams")


async def list_conversations(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_conversations, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def list_messages(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_messages, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def find_accounts(tx: Tx, named: Sequence[tuple[str, str]]) -> dict[tuple[str, str], int]:
    """The number of each account that is connected, by its network and its name there."""
    values = {
        "workspace_id": tx.workspace_id,
        "networks": [network for network, _ in named],
        "accounts": [account for _, account in named],
    }
    rows = await db.fetch_dicts(tx, SQL.find_accounts, values)
    return {(row["network"], row["external_id"]): row["id"] for row in rows}
