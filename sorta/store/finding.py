"""Finding people and messages, and what is still to be made ready for it. Used by services.finding."""

from collections.abc import Sequence
from typing import Any

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("finding")


async def find_people(tx: Tx, *, patterns: Sequence[str], pattern: str, limit: int) -> list[dict[str, Any]]:
    """In whose name or handle all the folded `patterns` stand; of one that is not made ready yet, `pattern` as it is written."""
    values = {"workspace_id": tx.workspace_id, "patterns": list(patterns), "pattern": pattern, "limit": limit}
    return await db.fetch_dicts(tx, SQL.find_people, values)


async def find_messages(tx: Tx, *, query: str, words: Sequence[str], limit: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "query": query, "words": list(words), "limit": limit}
    return await db.fetch_dicts(tx, SQL.find_messages, values)


async def list_unread(tx: Tx, limit: int) -> list[tuple[int, str]]:
    rows = await db.fetch_dicts(tx, SQL.list_unread, {"workspace_id": tx.workspace_id, "limit": limit})
    return [(row["id"], row["body"]) for row in rows]


async def set_words(tx: Tx, found: Sequence[tuple[int, str, str]]) -> None:
    """Each a message's number, what it says, and what it is found by."""
    ids, bodies, vectors = ([one[n] for one in found] for n in range(3))
    values = {"workspace_id": tx.workspace_id, "ids": ids, "bodies": bodies, "vectors": vectors}
    await db.execute(tx, SQL.set_words, values)


async def has_unread(tx: Tx) -> bool:
    return bool(await db.fetch_value(tx, SQL.has_unread, {"workspace_id": tx.workspace_id}))


async def list_unfolded(tx: Tx, limit: int) -> list[tuple[int, str, str]]:
    rows = await db.fetch_dicts(tx, SQL.list_unfolded, {"workspace_id": tx.workspace_id, "limit": limit})
    return [(row["id"], row["name"], row["handle"]) for row in rows]


async def set_folded(tx: Tx, found: Sequence[tuple[int, str, str, str]]) -> None:
    """Each an identity's number, its name and handle, and both as they are found."""
    ids, names, handles, folded = ([one[n] for one in found] for n in range(4))
    values = {"workspace_id": tx.workspace_id, "ids": ids, "names": names, "handles": handles, "folded": folded}
    await db.execute(tx, SQL.set_folded, values)


async def list_known(tx: Tx, *, messages: int, limit: int) -> dict[str, int]:
    """The words of the messages that came last and of names, with how often each stands there."""
    values = {"workspace_id": tx.workspace_id, "messages": messages, "limit": limit}
    known = {row["word"]: int(row["n"]) for row in await db.fetch_dicts(tx, SQL.list_words, values)}
    for row in await db.fetch_dicts(tx, SQL.list_name_words, {"workspace_id": tx.workspace_id, "limit": limit}):
        for word in row["folded"].split():
            known[word] = known.get(word, 0) + 1
    return known
