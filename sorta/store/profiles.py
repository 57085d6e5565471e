"""People as records: lists, facts, follow-ups, joining. Used by services.profiles and ingest."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any, LiteralString

from psycopg.types.json import Jsonb

from sorta.store import db
from sorta.store.db import Tx

SQL = db.Statements("profiles")

#: Orders of the list: (order by, condition for what comes after a place of `key` and `id`, the key).
ORDERS: dict[str, tuple[LiteralString, LiteralString, LiteralString]] = {
    "standing": (
        "coalesce(p.standing, -1) desc, p.id",
        "(coalesce(p.standing, -1) < %(key)s::smallint or (coalesce(p.standing, -1) = %(key)s::smallint and p.id > %(after)s))",
        "coalesce(p.standing, -1)",
    ),
    "name": ("lower(p.name), p.id", "(lower(p.name), p.id) > (%(key)s::text, %(after)s::bigint)", "lower(p.name)"),
    "lately": (
        "coalesce(p.points_at, p.first_at) desc, p.id desc",
        "(coalesce(p.points_at, p.first_at), p.id) < (%(key)s::timestamptz, %(after)s::bigint)",
        "coalesce(p.points_at, p.first_at)",
    ),
}
#: What each filter asks of a person; values are always bound.
FILTERS: dict[str, LiteralString] = {
    "words": "p.id in (select i.person_id from identity i where i.workspace_id = %(workspace_id)s and (i.folded like all(%(words)s::text[]) or (i.folded is null and i.name ilike %(said)s)) union select f.person_id from person_fact f where f.workspace_id = %(workspace_id)s and f.value ilike %(said)s)",
    "tag": "p.id in (select t.person_id from person_tag t where t.workspace_id = %(workspace_id)s and t.tag_id = any(%(tag)s))",
    "network": "p.id in (select i.person_id from identity i where i.workspace_id = %(workspace_id)s and i.network = any(%(network)s))",
    "blocked": "p.blocked = %(blocked)s",
    "standing": "p.standing >= %(standing)s",
    "reach": "p.id in (select i.person_id from identity i where i.workspace_id = %(workspace_id)s and i.reach >= %(reach)s)",
    "follow_up": "p.id in (select f.person_id from follow_up f where f.workspace_id = %(workspace_id)s and f.done_at is null)",
    "since": "p.first_at >= %(since)s",
}


def _compose(query: LiteralString, names: Iterable[str], after: LiteralString | None = None) -> LiteralString:
    parts = [FILTERS[name] for name in FILTERS if name in set(names)]
    return query.replace("{which}", " and ".join([*parts, after] if after else parts) or "true")


def make_list(order: str, names: Iterable[str], *, deep: bool) -> LiteralString:
    """The statement of a page of people in this order, through these filters, first or deep."""
    by, after, key = ORDERS[order]
    query = _compose(SQL.list_persons, names, after if deep else None)
    return query.replace("{order}", by).replace("{place}", f"{key}::text || '~' || p.id")


async def list_persons(
    tx: Tx,
    *,
    filters: Mapping[str, Any],
    order: str,
    cursor: Mapping[str, Any] | None,
    limit: int,
) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "limit": limit, **filters, **(cursor or {})}
    return await db.fetch_dicts(tx, make_list(order, filters, deep=cursor is not None), values)


async def count_persons(tx: Tx, filters: Mapping[str, Any]) -> int:
    query = _compose(SQL.count_persons, filters)
    return int(await db.fetch_value(tx, query, {"workspace_id": tx.workspace_id, **filters}))


async def is_person(tx: Tx, id: int) -> bool:
    return bool(await db.fetch_value(tx, SQL.is_person, {"workspace_id": tx.workspace_id, "id": id}))


async def get_joined_to(tx: Tx, id: int) -> int | None:
    found = await db.fetch_value(tx, SQL.get_joined_to, {"workspace_id": tx.workspace_id, "id": id})
    return None if found is None else int(found)


async def _list(tx: Tx, query: LiteralString, id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, query, {"workspace_id": tx.workspace_id, "id": id})


async def list_handles(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await _list(tx, SQL.list_handles, id)


async def list_contacts(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await _list(tx, SQL.list_contacts, id)


async def list_facts(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await _list(tx, SQL.list_facts, id)


async def list_joins(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await _list(tx, SQL.list_joins, id)


async def list_follow_ups(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await _list(tx, SQL.list_follow_ups, id)


async def list_open_follow_ups(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await _list(tx, SQL.list_open_follow_ups, id)


async def list_candidates(tx: Tx, id: int) -> list[dict[str, Any]]:
    return await _list(tx, SQL.list_candidates, id)


async def list_worth(tx: Tx, id: int, points: Mapping[str, int], reaction: int, now: datetime) -> list[dict[str, Any]]:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "points": Jsonb(dict(points)),
        "reaction": reaction,
        "now": now,
    }
    return await db.fetch_dicts(tx, SQL.list_worth, values)


async def set_points(tx: Tx, id: int, points: Mapping[str, int], reaction: int) -> None:
    values = {"workspace_id": tx.workspace_id, "id": id, "points": Jsonb(dict(points)), "reaction": reaction}
    await db.execute(tx, SQL.set_points, values)


async def add_fact(tx: Tx, id: int, *, name: str, value: str, member_id: int, now: datetime) -> int:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "name": name,
        "value": value,
        "member_id": member_id,
        "now": now,
    }
    return int(await db.fetch_value(tx, SQL.add_fact, values))


async def delete_fact(tx: Tx, id: int, fact_id: int) -> bool:
    return await db.execute(tx, SQL.delete_fact, {"workspace_id": tx.workspace_id, "id": id, "fact_id": fact_id}) > 0


async def add_marks(tx: Tx, marks: Sequence[tuple[str, str, int]]) -> None:
    """Marks as (kind, value, person)."""
    kinds, texts, persons = zip(*sorted(marks), strict=True)
    values = {"workspace_id": tx.workspace_id, "kinds": list(kinds), "texts": list(texts), "persons": list(persons)}
    await db.execute(tx, SQL.add_marks, values)


async def lock_persons(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    """Locks their handles and conversations first, then the people: the order of intake."""
    values = {"workspace_id": tx.workspace_id, "ids": list(ids)}
    await db.execute(tx, SQL.lock_identities, values)
    await db.execute(tx, SQL.lock_conversations, values)
    return await db.fetch_dicts(tx, SQL.lock_persons, values)


async def join(tx: Tx, *, to: int, gone: int, member_id: int, now: datetime) -> int:
    """Everything of one record goes to the other; the joining's number."""
    values: dict[str, Any] = {"workspace_id": tx.workspace_id, "to": to, "gone": gone}
    moved = await db.fetch_value(tx, SQL.move_all, values)
    await db.execute(tx, SQL.set_joined, values)
    values |= {"member_id": member_id, "now": now, "moved": Jsonb(moved)}
    return int(await db.fetch_value(tx, SQL.add_join, values))


async def get_join(tx: Tx, join_id: int) -> dict[str, Any] | None:
    rows = await db.fetch_dicts(tx, SQL.get_join, {"workspace_id": tx.workspace_id, "join_id": join_id})
    return rows[0] if rows else None


async def take_apart(tx: Tx, joined: Mapping[str, Any], now: datetime) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "to": joined["kept_id"],
        "gone": joined["gone_id"],
        "join_id": joined["id"],
        "moved": Jsonb(joined["moved"]),
        "now": now,
    }
    await db.execute(tx, SQL.move_back, values)


async def add_follow_up(
    tx: Tx, id: int, *, for_id: int, words: str, due_at: datetime, member_id: int, now: datetime
) -> int:
    values = {
        "workspace_id": tx.workspace_id,
        "id": id,
        "for_id": for_id,
        "words": words,
        "due_at": due_at,
        "member_id": member_id,
        "now": now,
    }
    return int(await db.fetch_value(tx, SQL.add_follow_up, values))


async def set_follow_up_done(tx: Tx, follow_up_id: int, done_by: int | None, done_at: datetime | None) -> int | None:
    """The person it is about; None when there is no such follow-up."""
    values = {"workspace_id": tx.workspace_id, "follow_up_id": follow_up_id, "done_by": done_by, "done_at": done_at}
    found = await db.fetch_value(tx, SQL.set_follow_up_done, values)
    return None if found is None else int(found)


async def list_due_follow_ups(tx: Tx, member_id: int) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_due_follow_ups, {"workspace_id": tx.workspace_id, "member_id": member_id})


async def is_partly_seen(tx: Tx, ids: Sequence[int]) -> bool:
    """Whether people have said more than who asks sees."""
    return bool(await db.fetch_value(tx, SQL.is_partly_seen, {"workspace_id": tx.workspace_id, "ids": list(ids)}))
