"""What the desk shows and remembers per member: queue, counts, drafts, presence, find. Used by services.desk."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, LiteralString

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("desk")
#: Where what is never due stands: the largest whole number that a browser holds exactly.
NEVER: LiteralString = "9007199254740991"

#: What the queue is ordered by: the column, its type, and a whole number that stands in the same order.
_COLUMNS: dict[str, tuple[LiteralString, LiteralString, LiteralString]] = {
    "due": (
        "sort_due",
        "timestamptz",
        f"case when c.sort_due = 'infinity' then {NEVER} else (extract(epoch from c.sort_due) * 1000000)::bigint end",
    ),
    "rank": ("sort_rank", "smallint", "c.sort_rank"),
    "standing": ("sort_standing", "smallint", "c.sort_standing"),
    "last_at": ("last_at", "timestamptz", "(extract(epoch from c.last_at) * 1000000)::bigint"),
    "id": ("id", "bigint", "c.id"),
}
#: All columns of one order sort the same way, so that the comparison with a place is one range of an index.
ORDERS: dict[str, tuple[str, ...]] = {
    "due": ("due", "rank", "id"),
    "newest": ("last_at", "id"),
    "oldest": ("last_at", "id"),
    "priority": ("rank", "due", "id"),
    "standing": ("standing", "due", "id"),
}
DOWN = frozenset({"newest"})
#: The moves stand in the statement itself, so that indexes of the open ones can be used by a prepared one.
MOVES: tuple[LiteralString, ...] = ("unsorted", "our_move", "in_review", "their_move", "parked", "settled")
#: What a row can read as; these stand in the statement for the same reason.
READINGS: tuple[LiteralString, ...] = ("question", "complaint", "praise", "thanks", "spam", "not_sure")
#: What a conversation is filed under, when one value is asked for: walked in the order of due by an index of its own.
_FILED: dict[str, LiteralString] = {
    "watched": "t.under = 'watch' and t.value = %(member_id)s",
    "tag_one": "t.under = 'tag' and t.value = %(tag_one)s",
    "person_tag_one": "t.under = 'person_tag' and t.value = %(person_tag_one)s",
}
_FILED_IDS: LiteralString = "select t.conversation_id from filing t where t.workspace_id = %(workspace_id)s and "
#: Filters that hold one value walk their index in the order of due; several values cannot, and are sorted.
_ONE: dict[str, LiteralString] = {
    "team_one": "team_id = %(team_one)s",
    "account_one": "account_id = %(account_one)s",
    "network_one": "network = %(network_one)s",
    "kind_one": "kind = %(kind_one)s",
    "sentiment_one": "sentiment_band = %(sentiment_one)s",
    **{f"reads_as_{label}": f"'{label}' = any(reads_as)" for label in READINGS},
    "language_one": "language = %(language_one)s",
    "priority_one": "sort_rank = -(%(priority_one)s::smallint)",
    "owner_one": "owner_id = %(owner_one)s",
    "owner_nobody": "owner_id is null",
    "private": "not public",
    **{name: f"id in ({_FILED_IDS}{which})" for name, which in _FILED.items()},
}
#: A band of due is a part of any index in that order.
_DUE = frozenset({"due_from", "due_until"})
#: What each filter asks of a conversation; values are always bound.
FILTERS: dict[str, LiteralString] = {
    **{f"move_{move}": f"move = '{move}'" for move in MOVES},
    "owner": "(owner_id = any(%(owner)s) or (%(nobody)s and owner_id is null))",
    "team": "team_id = any(%(team)s)",
    "account": "account_id = any(%(account)s)",
    "network": "network = any(%(network)s)",
    "group": "account_id in (select unnest(g.accounts) from account_group g where g.workspace_id = %(workspace_id)s and g.id = any(%(group)s))",
    "kind": "kind = any(%(kind)s)",
    "public": "public = %(public)s",
    "tag": f"id in ({_FILED_IDS}t.under = 'tag' and t.value = any(%(tag)s))",
    "person_tag": f"id in ({_FILED_IDS}t.under = 'person_tag' and t.value = any(%(person_tag)s))",
    "sentiment": "sentiment_band = any(%(sentiment)s)",
    "reads_as": "reads_as && %(reads_as)s",
    "bare_mention": "bare_mention = %(bare_mention)s",
    "language": "language = any(%(language)s)",
    "priority": "priority = any(%(priority)s)",
    "due_from": "sort_due >= %(due_from)s",
    "due_until": "sort_due < %(due_until)s",
    "since": "last_at >= %(since)s",
    "until": "last_at < %(until)s",
    "unread": "not exists (select from read_mark u where u.member_id = %(member_id)s and u.conversation_id = conversation.id and u.seq >= conversation.last_inbound_seq)",
    "attachment": "has_attachment",
    "words": "id = any(array(select search_conversations(%(workspace_id)s, %(words)s, 100000)))",
    "common_words": "exists (select from message m where m.conversation_id = conversation.id and m.workspace_id = %(workspace_id)s and m.words @@ (select %(common_words)s::tsquery) offset 0)",
    "person": "person_id = %(person)s",
    "ids": "id = any(%(ids)s)",
    **_ONE,
}
#: That index is walked, and each conversation looked up as it comes (`offset 0` keeps the planner from turning that around;
#: the order and the limit stand around both, so that it knows that a page is all that is wanted).
_FILED_SOURCE: LiteralString = (
    "filing t cross join lateral (select * from conversation k where k.id = t.conversation_id offset 0) conversation"
)
#: In it, each column of that order has a name of its own.
_FILED_AS: dict[LiteralString, LiteralString] = {
    "sort_due": "its_due",
    "sort_rank": "its_rank",
    "id": "conversation_id",
}
#: A period in the order of due: its conversations come from an index that holds all it takes to sort them.
_OF_PERIOD: LiteralString = "id = any(array(select id from conversation where workspace_id = %(workspace_id)s and "


def narrow(filters: Mapping[str, Any]) -> dict[str, Any]:
    """The same filters as the statements have them: one value alone by its own fragment, the move in the text."""
    values = dict(filters)
    if "move" in values:
        values[f"move_{values.pop('move')}"] = True
    if values.get("public") is False:
        del values["public"]
        values["private"] = True
    owners = values.get("owner")
    if owners is not None and not owners and values.get("nobody"):
        del values["owner"], values["nobody"]
        values["owner_nobody"] = True
    elif owners is not None and len(owners) == 1 and not values.get("nobody"):
        values["owner_one"] = values.pop("owner")[0]
        del values["nobody"]
    if len(values.get("reads_as") or ()) == 1:
        values[f"reads_as_{values.pop('reads_as')[0]}"] = True
    for name in (
        "team",
        "account",
        "network",
        "kind",
        "sentiment",
        "language",
        "priority",
        "tag",
        "person_tag",
    ):
        if len(values.get(name) or ()) == 1:
            values[f"{name}_one"] = values.pop(name)[0]
    return values


def is_walked(names: Iterable[str]) -> bool:
    """Whether an index holds these filters in the order of due, so that one plan is right for every value."""
    named = set(names) - _DUE
    moves = {name for name in named if name.startswith("move_")}
    rest = named - moves
    # Over all moves there is no such index, and forbidding to sort would only make it dear.
    return len(moves) == 1 and len(rest) <= 1 and rest <= {*_ONE, "attachment", "unread", "common_words"}


def choose_preparing(names: Iterable[str]) -> bool | None:
    """Whether a page through these filters may be prepared. A period may not: a plan for any length takes a third of all for it."""
    return False if "since" in set(names) else None


def compose(names: Iterable[str]) -> LiteralString:
    """The conditions of these filters, joined; only named fragments ever become SQL."""
    named = set(names)
    return " and ".join([FILTERS[name] for name in FILTERS if name in named]) or "true"


def make_list(order: str, names: Iterable[str], *, deep: bool, backwards: bool = False) -> LiteralString:
    """The statement of a page in this order, through these filters, first or deep; backwards, from the end up."""
    return fill_page(SQL.list_rows, order, names, deep=deep, backwards=backwards)


def _place(order: str) -> LiteralString:
    """Where a row stands in this order: whole numbers, of which the first two that differ say which row comes first."""
    minus: LiteralString = "-" if order in DOWN else ""
    return f"json_build_array({', '.join([f'{minus}({_COLUMNS[name][2]})' for name in ORDERS[order]])})"


def _walk(order: str, *, filed: bool, backwards: bool) -> tuple[LiteralString, LiteralString]:
    """What the rows are ordered by, and the condition for what comes after a place; backwards the same index, read from its other end."""
    columns = [_COLUMNS[name][0] for name in ORDERS[order]]
    if filed:
        columns = [_FILED_AS[column] for column in columns]
    down = (order in DOWN) != backwards
    way: LiteralString = " desc" if down else ""
    bound = [f"%({name})s::{_COLUMNS[name][1]}" for name in ORDERS[order]]
    beyond: LiteralString = "<" if down else ">"
    return ", ".join([f"{c}{way}" for c in columns]), f"({', '.join(columns)}) {beyond} ({', '.join(bound)})"


def fill_page(
    query: LiteralString, order: str, names: Iterable[str], *, deep: bool, backwards: bool = False
) -> LiteralString:
    """`query` with its {source}, {which}, {order} and {place} filled in."""
    named = set(names)
    moves = [f"move_{move}" for move in MOVES if f"move_{move}" in named]
    filed = [name for name in _FILED if name in named]
    source: LiteralString = "conversation"
    which = compose(named)
    walks_filing = order == "due" and bool(filed) and len(moves) == 1
    by, after = _walk(order, filed=walks_filing, backwards=backwards)
    if walks_filing:
        source = _FILED_SOURCE
        rest = compose(named - {filed[0], moves[0]}).replace("sort_due", "its_due")
        which = f"t.workspace_id = %(workspace_id)s and {_FILED[filed[0]]} and its_{FILTERS[moves[0]]} and {rest}"
    elif order == "due" and "since" in named and named <= {*moves, "since", "until"}:
        which = f"{_OF_PERIOD}{which}{f' and {after}' if deep else ''} order by {by} limit %(limit)s))"
        deep = False
    if deep:
        which = f"{which} and {after}"
    for name, filled in (("place", _place(order)), ("order", by), ("source", source), ("which", which)):
        query = query.replace(f"{{{name}}}", filled)
    return query


@dataclass(frozen=True, kw_only=True)
class MoveCount:
    move: str
    total: int


@dataclass(frozen=True, kw_only=True)
class ValueCount:
    dimension: str
    value: str
    n: int


@dataclass(frozen=True, kw_only=True)
class BandCount:
    move: str
    total: int
    late: int
    within_hour: int
    later_today: int
    after_today: int
    not_due: int


@dataclass(frozen=True, kw_only=True)
class Draft:
    mode: str
    body: str
    shared: bool
    attachments: list[int]
    account: int | None
    rev: int


@dataclass(frozen=True, kw_only=True)
class Presence:
    member_id: int
    conversation_id: int
    doing: str


async def list_rows(
    tx: Tx,
    member_id: int,
    *,
    filters: Mapping[str, Any],
    order: str,
    after: Mapping[str, Any] | None,
    limit: int,
    backwards: bool = False,
    are_common: bool = False,
) -> str:
    """A page of the queue as JSON text: twice as fast here as through objects. Backwards it holds the last rows, or those
    before `after`, the last first. `are_common`: its words stand everywhere."""
    asked = narrow(filters)
    if are_common:
        # Walking the queue and looking into each conversation finds a page soonest when most have the words.
        asked["common_words"] = asked.pop("words")
    if order == "due" and is_walked(asked):
        await db.execute(tx, SQL.plan_once, {})
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "limit": limit, **asked, **(after or {})}
    query = make_list(order, asked, deep=after is not None, backwards=backwards)
    text: str = await db.fetch_value(tx, query, values, prepare=choose_preparing(asked))
    return text


async def are_common(conn: Conn, words: Sequence[str]) -> bool:
    """Whether each of these words (with a star, whatever goes on from it) stands in so many messages that looking into conversations finds a page soonest."""
    return bool(await db.fetch_value(conn, SQL.is_common, {"words": list(words)}))


async def list_ids(tx: Tx, member_id: int, *, filters: Mapping[str, Any], limit: int) -> list[tuple[int, int]]:
    """Each with the newest number of its trail."""
    asked = narrow(filters)
    query = SQL.list_ids.replace("{which}", compose(asked))
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "limit": limit, **asked}
    return [(row["id"], row["seq"]) for row in await db.fetch_dicts(tx, query, values)]


async def count_some(tx: Tx, member_id: int, *, filters: Mapping[str, Any], limit: int) -> int:
    """How many there are, at most `limit`."""
    asked = narrow(filters)
    query = SQL.count_some.replace("{which}", compose(asked))
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "limit": limit, **asked}
    (row,) = await db.fetch_dicts(tx, query, values)
    return int(row["n"])


async def count_moves(tx: Tx) -> list[MoveCount]:
    return await db.fetch_all(tx, MoveCount, SQL.count_moves, {"workspace_id": tx.workspace_id})


async def count_values(tx: Tx, member_id: int, move: str, *, seen: bool = False) -> list[ValueCount]:
    """Of every dimension, those kept and those counted when asked; with `seen` all are counted, of what the connection sees."""
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "move": move}
    kept = await db.fetch_all(tx, ValueCount, SQL.count_values_seen if seen else SQL.count_values, values)
    flags = await db.fetch_all(tx, ValueCount, make_flags(move), values)
    return kept + [one for one in flags if one.n]


def make_flags(move: str) -> LiteralString:
    """The statement that counts the flags of one move."""
    return SQL.count_flags.replace("{move}", compose([f"move_{move}"]))


async def count_bands(
    tx: Tx, member_id: int, *, filters: Mapping[str, Any], edges: Mapping[str, datetime]
) -> list[BandCount]:
    """By move, each band of due; without filters only what is open, for the rest is counted elsewhere."""
    asked = narrow(filters)
    which: LiteralString = compose(asked) if asked else "move <> 'settled'"
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, **asked, **edges}
    return await db.fetch_all(tx, BandCount, SQL.count_bands.replace("{which}", which), values)


async def fold_tally(tx: Tx) -> None:
    await db.execute(tx, SQL.fold_tally, {"workspace_id": tx.workspace_id})


async def set_read(tx: Tx, member_id: int, conversation_id: int, seq: int) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "member_id": member_id,
        "conversation_id": conversation_id,
        "seq": seq,
    }
    await db.execute(tx, SQL.set_read, values)


async def set_draft(
    tx: Tx,
    member_id: int,
    conversation_id: int,
    *,
    mode: str,
    body: str,
    shared: bool,
    attachments: list[int],
    account: int | None,
    now: datetime,
    rev: int = 0,
) -> int | None:
    """The number of this writing; None when other words were kept since number `rev`, which stay."""
    values = {
        "workspace_id": tx.workspace_id,
        "member_id": member_id,
        "conversation_id": conversation_id,
        "mode": mode,
        "body": body,
        "shared": shared,
        "attachments": attachments,
        "account": account,
        "now": now,
        "rev": rev,
    }
    made: int | None = await db.fetch_value(tx, SQL.set_draft, values)
    return made


async def list_shared_drafts(tx: Tx, member_id: int, conversation_id: int) -> list[dict[str, Any]]:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "conversation_id": conversation_id}
    return await db.fetch_dicts(tx, SQL.list_shared_drafts, values)


async def get_draft(tx: Tx, member_id: int, conversation_id: int, mode: str) -> Draft | None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "conversation_id": conversation_id, "mode": mode}
    return await db.fetch_one(tx, Draft, SQL.get_draft, values)


async def list_drafts(tx: Tx, member_id: int, conversation_id: int) -> list[Draft]:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "conversation_id": conversation_id}
    return await db.fetch_all(tx, Draft, SQL.list_drafts, values)


async def delete_draft(tx: Tx, member_id: int, conversation_id: int, mode: str) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "conversation_id": conversation_id, "mode": mode}
    await db.execute(tx, SQL.delete_draft, values)


async def set_presence(
    tx: Tx,
    member_id: int,
    conversation_id: int,
    doing: str,
    *,
    now: datetime,
    present_since: datetime,
    notice: str,
) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "member_id": member_id,
        "conversation_id": conversation_id,
        "doing": doing,
        "now": now,
        "present_since": present_since,
        "notice": notice,
    }
    await db.execute(tx, SQL.set_presence, values)


async def get_open_since(tx: Tx, member_id: int, conversation_id: int, present_since: datetime) -> datetime | None:
    """Since when a member heard of since then has had a conversation open without a break."""
    values = {
        "workspace_id": tx.workspace_id,
        "member_id": member_id,
        "conversation_id": conversation_id,
        "present_since": present_since,
    }
    since: datetime | None = await db.fetch_value(tx, SQL.get_open_since, values)
    return since


async def delete_presence(tx: Tx, member_id: int, notice: str) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "notice": notice}
    await db.execute(tx, SQL.delete_presence, values)


async def list_presence(tx: Tx, since: datetime) -> list[Presence]:
    values = {"workspace_id": tx.workspace_id, "since": since}
    return await db.fetch_all(tx, Presence, SQL.list_presence, values)
