"""Support desks and the cases they hold for us. Used by services.cases."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("cases")


async def list_desks(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_desks, {"workspace_id": tx.workspace_id})


async def get_desk(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_desk, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def add_desk(tx: Tx, **values: Any) -> int:
    id: int = await db.fetch_value(tx, SQL.add_desk, {"workspace_id": tx.workspace_id, **values})
    return id


async def set_desk(tx: Tx, id: int, *, name: str, follow_hours: int) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "name": name, "follow_hours": follow_hours}
    return await db.fetch_value(tx, SQL.set_desk, values) is not None


async def change_hook_secret(tx: Tx, id: int, sealed: str, until: datetime) -> str | None:
    """The desk's name, None when there is none."""
    values = {"workspace_id": tx.workspace_id, "id": id, "sealed": sealed, "until": until}
    name: str | None = await db.fetch_value(tx, SQL.change_hook_secret, values)
    return name


async def get_latest(tx: Tx, conversation_id: int, desk_id: int | None) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id, "desk_id": desk_id}
    rows = await db.fetch_dicts(tx, SQL.get_latest, values)
    return rows[0] if rows else None


async def add_case(tx: Tx, **values: Any) -> int:
    id: int = await db.fetch_value(tx, SQL.add_case, {"workspace_id": tx.workspace_id, **values})
    return id


async def add_messages(tx: Tx, id: int, messages: Sequence[int]) -> None:
    await db.execute(tx, SQL.add_messages, {"workspace_id": tx.workspace_id, "id": id, "messages": list(messages)})


async def list_passable(tx: Tx, conversation_id: int) -> list[int]:
    values = {"workspace_id": tx.workspace_id, "conversation_id": conversation_id}
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_passable, values)]


async def touch_case(tx: Tx, id: int, *, now: datetime, leaves_at: datetime) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "now": now, "leaves_at": leaves_at}
    await db.execute(tx, SQL.touch_case, values)


async def get_case(tx: Tx, id: int) -> dict[str, Any] | None:
    """Its row, locked, and its conversation's before it: whoever wants both takes them in this order."""
    values = {"workspace_id": tx.workspace_id, "id": id}
    await db.execute(tx, SQL.lock_conversation, values)
    rows = await db.fetch_dicts(tx, SQL.get_case, values)
    return rows[0] if rows else None


async def find_case(tx: Tx, desk_id: int, external_id: str) -> int | None:
    values = {"workspace_id": tx.workspace_id, "desk_id": desk_id, "external_id": external_id}
    id: int | None = await db.fetch_value(tx, SQL.find_case, values)
    return id


async def list_unpassed(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_unpassed, {"workspace_id": tx.workspace_id, "id": id})


async def set_opened(tx: Tx, id: int, *, external_id: str, reference: str, url: str, now: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "external_id": external_id, "reference": reference, "url": url}
    return await db.fetch_value(tx, SQL.set_opened, {**values, "now": now}) is not None


async def set_passed(tx: Tx, id: int, message_id: int, now: datetime) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "message_id": message_id, "now": now}
    await db.execute(tx, SQL.set_passed, values)


async def set_tries(tx: Tx, id: int, *, tries: int, next_at: datetime | None, problem: str) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "tries": tries, "next_at": next_at, "problem": problem}
    await db.execute(tx, SQL.set_tries, values)


async def set_done(tx: Tx, id: int, now: datetime) -> None:
    await db.execute(tx, SQL.set_done, {"workspace_id": tx.workspace_id, "id": id, "now": now})


async def set_state(tx: Tx, id: int, *, state: str, at: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "state": state, "at": at}
    return await db.fetch_value(tx, SQL.set_state, values) is not None


async def add_remark(tx: Tx, id: int, *, external_id: str, by_name: str, text: str, at: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "id": id, "external_id": external_id, "by_name": by_name, "text": text}
    return await db.fetch_value(tx, SQL.add_remark, {**values, "at": at}) is not None


async def list_due(tx: Tx, now: datetime) -> list[int]:
    rows = await db.fetch_dicts(tx, SQL.list_due, {"workspace_id": tx.workspace_id, "now": now})
    return [row["id"] for row in rows]


async def delete_case(tx: Tx, id: int) -> bool:
    return await db.fetch_value(tx, SQL.delete_case, {"workspace_id": tx.workspace_id, "id": id}) is not None


async def delete_unpassed(tx: Tx, id: int) -> int:
    return len(await db.fetch_dicts(tx, SQL.delete_unpassed, {"workspace_id": tx.workspace_id, "id": id}))


async def list_cases(tx: Tx, **filters: Any) -> list[dict[str, Any]]:
    every = dict.fromkeys(("states", "desk_id", "conversation_id", "person_id", "opened_by", "words"))
    return await db.fetch_dicts(tx, SQL.list_cases, {"workspace_id": tx.workspace_id, **every, **filters})


async def count_states(tx: Tx) -> dict[str, int]:
    rows = await db.fetch_dicts(tx, SQL.count_states, {"workspace_id": tx.workspace_id})
    return {row["state"]: row["total"] for row in rows}
