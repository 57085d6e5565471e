"""Erasing a person: what there is of them, and each place their words lie in. Used by services.erasing and services.ingest."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("erasing")
#: In this order: what is found by names and words goes before those do.
STEPS = (
    "mark_accounts",
    "erase_links",
    "erase_aside",
    "erase_early",
    "erase_posts",
    "erase_translations",
    "erase_corrections",
    "erase_messages",
    "erase_conversations",
    "erase_trail",
    "erase_proposals",
    "erase_scheduled",
    "erase_outbox",
    "erase_drafts",
    "erase_remarks",
    "erase_cases",
    "erase_advice_answers",
    "erase_advice",
    "erase_alerts",
    "erase_told",
    "erase_hits",
    "erase_trials",
    "erase_facts",
    "erase_follow_ups",
    "erase_marks",
    "erase_person_tags",
    "erase_joins",
    "erase_reactions",
    "erase_identities",
    "erase_people",
    "erase_log",
)
#: The same for their names in the words of others.
UNNAMING = ("unname_translations", "unname_messages", "unname_conversations", "unname_trail")

#: What is handed out of a person's things, each with its statement; those that are in their profile are not among it.
TOLD = ("messages", "trail", "proposals", "scheduled", "cases", "questions", "reactions", "marks")


async def list_records(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_records, {"workspace_id": tx.workspace_id, "id": id})


async def list_conversations(tx: Tx, people: Sequence[int]) -> list[int]:
    values = {"workspace_id": tx.workspace_id, "people": list(people)}
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_conversations, values)]


async def list_names(tx: Tx, people: Sequence[int]) -> list[str]:
    values = {"workspace_id": tx.workspace_id, "people": list(people)}
    return [row["handle"] for row in await db.fetch_dicts(tx, SQL.list_names, values)]


async def list_unfinished(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_unfinished, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def is_heard_of(tx: Tx, ids: Sequence[int], before: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "ids": list(ids), "before": before}
    return bool(await db.fetch_value(tx, SQL.is_heard_of, values))


async def count_all(tx: Tx, people: Sequence[int], ids: Sequence[int]) -> dict[str, int]:
    values = {"workspace_id": tx.workspace_id, "people": list(people), "ids": list(ids)}
    return (await db.fetch_dicts(tx, SQL.count_all, values))[0]


async def list_mentioning(tx: Tx, ids: Sequence[int], pattern: str, keys: Sequence[str]) -> list[int]:
    """Reads every message and every word of the workspace's trails."""
    values = {"workspace_id": tx.workspace_id, "ids": list(ids), "pattern": pattern, "keys": list(keys)}
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_mentioning, values)]


async def tell_all(tx: Tx, people: Sequence[int], ids: Sequence[int]) -> dict[str, list[dict[str, Any]]]:
    """Every thing there is of people and of what was said to them, by what it is."""
    values = {"workspace_id": tx.workspace_id, "people": list(people), "ids": list(ids)}
    return {what: await db.fetch_dicts(tx, SQL.statements[f"tell_{what}"], values) for what in TOLD}


async def lock_all(tx: Tx, ids: Sequence[int]) -> None:
    await db.execute(tx, SQL.lock_all, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def unname(tx: Tx, others: Sequence[int], pattern: str, keys: Sequence[str]) -> None:
    """Names that `pattern` finds go from what was said in the conversations `others`, and from the words of their trails."""
    values = {"workspace_id": tx.workspace_id, "others": list(others), "pattern": pattern, "keys": list(keys)}
    for step in UNNAMING:
        await db.execute(tx, SQL.statements[step], values)


async def erase(
    tx: Tx,
    *,
    people: Sequence[int],
    ids: Sequence[int],
    name: str,
    keys: Sequence[str],
    now: datetime,
) -> list[str]:
    """Take the words of all places; the hashes of the files that were sent to them."""
    values = {
        "workspace_id": tx.workspace_id,
        "people": list(people),
        "ids": list(ids),
        "name": name,
        "keys": list(keys),
        "now": now,
    }
    for step in STEPS:
        await db.execute(tx, SQL.statements[step], values)
    return [row["sha256"] for row in await db.fetch_dicts(tx, SQL.take_files, values)]


async def add_erasure(tx: Tx, id: int, counts: dict[str, int], member_id: int | None, now: datetime) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "counts": Jsonb(counts), "member_id": member_id, "now": now}
    await db.execute(tx, SQL.add_erasure, values)


async def list_come_back(tx: Tx, account_id: int, names: Sequence[str]) -> list[str]:
    values = {"workspace_id": tx.workspace_id, "account_id": account_id, "names": list(names)}
    return [row["name"] for row in await db.fetch_dicts(tx, SQL.list_come_back, values)]
