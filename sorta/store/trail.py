"""Conversations, their messages and their trail. Used by services.trail, services.ingest and the acts."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("trail")


@dataclass(frozen=True, kw_only=True)
class Resolved:
    """One message's surroundings; `conversation` is the whole row, None when it is new."""

    n: int
    known: bool
    message_id: int
    identity_id: int
    person_id: int
    blocked: bool
    post_id: int | None
    conversation: dict[str, Any] | None
    conversation_id: int
    early: list[dict[str, Any]] | None
    is_new_person: bool
    standing: int | None
    rules_version: int
    time_zone: str
    is_held: bool
    on_ad: bool
    person_tags: list[int]


@dataclass(frozen=True, kw_only=True)
class TrailRow:
    seq: int
    kind: str
    at: datetime
    member_id: int | None
    data: dict[str, Any]


@dataclass(frozen=True, kw_only=True)
class MessageRow:
    id: int
    account_id: int
    external_id: str | None
    inbound: bool
    kind: str
    public: bool
    member_id: int | None
    body: str
    url: str | None
    sent_at: datetime
    edited_at: datetime | None
    removed_at: datetime | None
    removed_by: int | None
    language: str | None
    sentiment: float | None
    reads_as: list[str] | None
    evidence: dict[str, Any] | None
    rating: int | None
    attachments: list[dict[str, Any]]
    hidden: bool
    liked: bool
    reposted: bool
    rule_id: int | None
    rule_name: str | None
    author_name: str | None
    author_handle: str | None
    delivery: str | None
    problem: str | None
    not_before: datetime | None
    attempts: int | None
    leaves_at: datetime | None
    maybe_out: bool
    stuck: str | None
    translations: list[dict[str, Any]]
    #: Of each rule that left something undone: its name, what it did, and what it lost.
    not_done: list[dict[str, Any]]


@dataclass(frozen=True, kw_only=True)
class LastInbound:
    id: int
    external_id: str
    identity_id: int
    identity_external_id: str
    handle: str
    sent_at: datetime


@dataclass(frozen=True, kw_only=True)
class KnownAs:
    """A message that is here, by the network's name for it."""

    external_id: str
    id: int
    conversation_id: int


@dataclass(frozen=True, kw_only=True)
class KnownMessage:
    id: int
    conversation_id: int
    inbound: bool
    body: str
    sent_at: datetime
    edited_at: datetime | None
    removed_at: datetime | None


@dataclass(frozen=True, kw_only=True)
class PostRow:
    id: int
    title: str
    body: str
    url: str | None
    published_at: datetime | None
    author: str | None
    comments: int
    reactions: int


async def resolve_messages(
    tx: Tx, account_id: int, network: str, now: datetime, items: list[dict[str, Any]]
) -> list[Resolved]:
    values = {
        "workspace_id": tx.workspace_id,
        "account_id": account_id,
        "network": network,
        "now": now,
        "items": Jsonb(items),
    }
    return await db.fetch_all(tx, Resolved, SQL.resolve_messages, values)


async def write_trail(
    tx: Tx,
    *,
    new: list[dict[str, Any]],
    changed: list[dict[str, Any]],
    messages: list[dict[str, Any]],
    events: list[dict[str, Any]],
    opened: list[dict[str, Any]],
    notice: str,
) -> None:
    """The one statement that writes conversations: always with the events that changed them, and the spells that new ones open."""
    values = {
        "workspace_id": tx.workspace_id,
        "new": Jsonb(new),
        "changed": Jsonb(changed),
        "changed_ids": [row["id"] for row in changed],
        "messages": Jsonb(messages),
        "events": Jsonb(events),
        "opened": Jsonb(opened),
        "notice": notice,
    }
    await db.execute(tx, SQL.write_trail, values)


async def write_spells(tx: Tx, ids: Sequence[int], spells: list[dict[str, Any]]) -> None:
    """All spells of these conversations, in place of those there were."""
    values = {"workspace_id": tx.workspace_id, "ids": list(ids), "spells": Jsonb(spells)}
    await db.execute(tx, SQL.write_spells, values)


async def list_spells(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_spells, {"workspace_id": tx.workspace_id, "id": id})


async def list_to_tell(tx: Tx, after: int, limit: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_to_tell, {"workspace_id": tx.workspace_id, "after": after, "limit": limit})


async def list_other_spells(tx: Tx, ids: Sequence[int], spells: list[dict[str, Any]]) -> list[int]:
    values = {"workspace_id": tx.workspace_id, "ids": list(ids), "spells": Jsonb(spells)}
    return [row["id"] for row in await db.fetch_dicts(tx, SQL.list_other_spells, values)]


async def set_spells_told(tx: Tx) -> None:
    await db.execute(tx, SQL.set_spells_told, {"workspace_id": tx.workspace_id})


async def are_spells_told(tx: Tx) -> bool:
    return bool(await db.fetch_value(tx, SQL.are_spells_told, {"workspace_id": tx.workspace_id}))


async def list_readings(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_readings, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def get_conversation(tx: Tx, id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_conversation, {"workspace_id": tx.workspace_id, "id": id})
    return rows[0] if rows else None


async def lock_conversations(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.lock_conversations, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def list_trail(tx: Tx, id: int) -> list[TrailRow]:
    return await db.fetch_all(tx, TrailRow, SQL.list_trail, {"workspace_id": tx.workspace_id, "id": id})


async def list_trails(tx: Tx, ids: Sequence[int]) -> dict[int, list[TrailRow]]:
    """The trails of several conversations, by conversation."""
    found: dict[int, list[TrailRow]] = {id: [] for id in ids}
    for row in await db.fetch_dicts(tx, SQL.list_trails, {"workspace_id": tx.workspace_id, "ids": list(ids)}):
        found[row.pop("conversation_id")].append(TrailRow(**row))
    return found


async def list_messages(tx: Tx, id: int) -> list[MessageRow]:
    return await db.fetch_all(tx, MessageRow, SQL.list_messages, {"workspace_id": tx.workspace_id, "id": id})


async def get_last_inbound(tx: Tx, id: int) -> LastInbound | None:
    values = {"workspace_id": tx.workspace_id, "id": id}
    return await db.fetch_one(tx, LastInbound, SQL.get_last_inbound, values)


async def get_message_by_external_id(tx: Tx, account_id: int, external_id: str) -> KnownMessage | None:
    values = {"workspace_id": tx.workspace_id, "account_id": account_id, "external_id": external_id}
    return await db.fetch_one(tx, KnownMessage, SQL.get_message_by_external_id, values)


async def list_known(tx: Tx, account_id: int, external_ids: Sequence[str]) -> dict[str, KnownAs]:
    """Which of them are here, each by the network's name for it."""
    values = {"workspace_id": tx.workspace_id, "account_id": account_id, "external_ids": list(external_ids)}
    return {one.external_id: one for one in await db.fetch_all(tx, KnownAs, SQL.list_known, values)}


async def set_message_text(tx: Tx, id: int, *, body: str, words: str | None, at: datetime) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "body": body, "words": words, "at": at}
    await db.execute(tx, SQL.set_message_text, values)


async def set_message_removed(tx: Tx, id: int, at: datetime) -> None:
    await db.execute(tx, SQL.set_message_removed, {"workspace_id": tx.workspace_id, "id": id, "at": at})


async def add_early_change(tx: Tx, account_id: int, external_id: str, body: str | None, at: datetime) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "account_id": account_id,
        "external_id": external_id,
        "body": body,
        "at": at,
    }
    await db.execute(tx, SQL.add_early_change, values)


async def set_post(tx: Tx, account_id: int, post: dict[str, Any]) -> None:
    values = {"workspace_id": tx.workspace_id, "account_id": account_id, **post}
    await db.execute(tx, SQL.set_post, values)


async def get_post(tx: Tx, id: int) -> PostRow | None:
    return await db.fetch_one(tx, PostRow, SQL.get_post, {"workspace_id": tx.workspace_id, "id": id})


async def has_public_reply(tx: Tx, id: int) -> bool:
    return bool(await db.fetch_value(tx, SQL.has_public_reply, {"workspace_id": tx.workspace_id, "id": id}))


async def list_gone_private(
    tx: Tx,
    *,
    account_id: int,
    person_id: int,
    private_id: int,
    since: datetime,
    until: datetime,
) -> list[dict[str, Any]]:
    values = {
        "workspace_id": tx.workspace_id,
        "account_id": account_id,
        "person_id": person_id,
        "private_id": private_id,
    }
    return await db.fetch_dicts(tx, SQL.list_gone_private, {**values, "since": since, "until": until})


async def list_linked(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    if not ids:
        return []
    return await db.fetch_dicts(tx, SQL.list_linked, {"workspace_id": tx.workspace_id, "ids": list(ids)})


async def list_thread(tx: Tx, post_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_thread, {"workspace_id": tx.workspace_id, "post_id": post_id})


async def add_reaction(conn: Conn, values: dict[str, Any]) -> None:
    await db.execute(conn, SQL.add_reaction, values)


async def next_message_id(conn: Conn) -> int:
    id: int = await db.fetch_value(conn, SQL.next_message_id, {})
    return id


async def list_parked_over(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_parked_over, {"workspace_id": tx.workspace_id, "now": now})
