"""Everything that is kept of conversations beside their trails, compared with what the trails give. For the check command.

Nothing is mended here. What a row says that no trail knows (GIVEN) is left alone; a test falsifies every other column.
"""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from datetime import datetime, timedelta
from typing import Any

from sorta.core.events import (
    AnsweredOutside,
    Arrived,
    Edited,
    Event,
    ModerationDone,
    Removed,
    Replied,
    list_undone,
)
from sorta.core.facts import get_move
from sorta.core.moves import replay
from sorta.core.ports import Moderation
from sorta.core.targets import Promise, get_audience, get_due
from sorta.services.events import read_events
from sorta.services.hours import get_promise
from sorta.services.house import House
from sorta.services.spells import find_other_spells
from sorta.services.trail import make_preview, read_facts
from sorta.store import checking as store
from sorta.store import trail
from sorta.store.db import Tx

AT_ONCE = 500
#: What a conversation was given when it began, or its person was called when they last wrote: no trail says it.
GIVEN = frozenset(
    {
        "id", "workspace_id", "post_id", "thread_key", "kind", "public", "network", "person_name", "handle", "created_at",
        "first_contact", "standing", "erased_at",
    }
)  # fmt: skip
#: Facts whose column is called otherwise.
_COLUMNS = {"owner": "owner_id", "team": "team_id"}
#: What an act on the network leaves on a message: the column, and whether it is so.
_LEAVES = {
    Moderation.LIKE: ("liked", True),
    Moderation.UNLIKE: ("liked", False),
    Moderation.HIDE: ("hidden", True),
    Moderation.SHOW: ("hidden", False),
    Moderation.REPOST: ("reposted", True),
}


@dataclass
class _Told:
    """What a trail says of its messages."""

    theirs: set[int] = field(default_factory=set)
    ours: set[int] = field(default_factory=set)
    withdrawn: set[int] = field(default_factory=set)
    edited: set[int] = field(default_factory=set)
    removed: set[int] = field(default_factory=set)
    left: dict[int, dict[str, bool]] = field(default_factory=lambda: defaultdict(dict))
    #: The latest of theirs, and the number of the last that came.
    latest: int | None = None
    last_seq: int = 0

    @classmethod
    def read(cls, events: Sequence[Event]) -> "_Told":
        told, undone = cls(), list_undone(events)
        latest: tuple[datetime, int] | None = None
        for event in events:
            match event.what:
                case Arrived(message=message):
                    told.theirs.add(message)
                    told.last_seq = event.seq
                    if latest is None or (event.at, event.seq) >= latest:
                        latest, told.latest = (event.at, event.seq), message
                case Replied(message=message):
                    (told.withdrawn if event.seq in undone else told.ours).add(message)
                case AnsweredOutside(message=message):
                    told.ours.add(message)
                case Edited(message=message):
                    told.edited.add(message)
                case Removed(message=message):
                    told.removed.add(message)
                case ModerationDone(message=message, what=what) if what in _LEAVES:
                    column, is_so = _LEAVES[what]
                    told.left[message][column] = is_so
                case _:
                    pass
        return told


async def find_differences(house: House, workspace_id: int, now: datetime) -> dict[int, list[str]]:
    """Conversations of which something is kept otherwise than their trail gives it, each with what: columns of its row, 'messages' and
    what of them, 'spells', 'filing'. Empty is right."""
    found: dict[int, list[str]] = {id: ["spells"] for id in await find_other_spells(house, workspace_id)}
    after = 0
    while True:
        async with house.db.transact(workspace_id, steady=True) as tx:
            rows = await store.list_rows(tx, after, AT_ONCE)
            if rows:
                for id, wrong in (await _look(house, tx, rows, now)).items():
                    found.setdefault(id, []).extend(wrong)
        if len(rows) < AT_ONCE:
            return dict(sorted(found.items()))
        after = rows[-1]["id"]


async def find_other_counts(house: House, workspace_id: int) -> list[str]:
    """What is counted otherwise than there is, in words; empty is right."""
    async with house.db.transact(workspace_id, steady=True) as tx:
        wrong = await store.list_other_counts(tx)
    return [f"{w['move']}, {w['dimension']} {w['value']}: {w['kept']} kept, {w['counted']} there" for w in wrong]


async def _look(house: House, tx: Tx, rows: Sequence[Mapping[str, Any]], now: datetime) -> dict[int, list[str]]:
    ids = [row["id"] for row in rows]
    promise = await get_promise(house, tx)
    trails = {id: read_events(kept) for id, kept in (await trail.list_trails(tx, ids)).items()}
    told = {id: _Told.read(events) for id, events in trails.items()}
    said: dict[int, list[dict[str, Any]]] = {id: [] for id in ids}
    for message in await store.list_said(tx, ids):
        said[message["conversation_id"]].append(message)
    latest = await store.list_read(tx, [t.latest for t in told.values() if t.latest is not None])
    filed = set(await store.list_other_filing(tx, ids))
    wrong: dict[int, list[str]] = {}
    for row in rows:
        id = row["id"]
        found = [
            *_compare_facts(row, trails[id], promise, now),
            *_compare_summary(row, told[id], said[id], latest.get(told[id].latest or 0)),
            *_compare_messages(told[id], said[id]),
            *(["filing"] if id in filed else []),
        ]
        if found:
            wrong[id] = found
    return wrong


def _compare_facts(row: Mapping[str, Any], events: Sequence[Event], promise: Promise, now: datetime) -> list[str]:
    """Columns that are facts, and those that follow from them."""
    facts, kept = replay(events), read_facts(dict(row))
    wrong = [_COLUMNS.get(f.name, f.name) for f in fields(facts) if getattr(facts, f.name) != getattr(kept, f.name)]
    moves = {get_move(facts, now)}
    if facts.parked_until is not None:
        # What is parked comes back with the next round of the clock.
        moves.add(get_move(facts, facts.parked_until - timedelta(microseconds=1)))
    audience = get_audience(row["kind"], public=row["public"])
    due = get_due(facts.awaiting_since, facts.priority, audience, promise)
    return [
        *wrong,
        *([] if row["move"] in moves else ["move"]),
        *([] if row["awaiting_since"] == facts.awaiting_since else ["awaiting_since"]),
        *([] if row["due"] == due else ["due"]),
    ]


def _compare_summary(
    row: Mapping[str, Any], told: _Told, said: Sequence[Mapping[str, Any]], latest: Mapping[str, Any] | None
) -> list[str]:
    """Columns that sum up what was said."""
    theirs = [m for m in said if m["id"] in told.theirs]
    should: dict[str, Any] = {
        "messages": len(told.theirs | told.ours),
        "last_inbound_seq": told.last_seq,
        "has_attachment": any(m["has_attachment"] for m in theirs),
    }
    if said:
        should["last_at"] = max(m["sent_at"] for m in said)
    if theirs:
        should["last_inbound_at"] = max(m["sent_at"] for m in theirs)
        rated = [m for m in sorted(theirs, key=lambda m: (m["sent_at"], m["id"])) if m["rating"] is not None]
        should["rating"] = rated[-1]["rating"] if rated else None
    if latest is not None:
        should |= {name: latest[name] for name in ("sentiment", "reads_as", "language", "account_id")}
        should["bare_mention"] = bool((latest["evidence"] or {}).get("bare_mention"))
        # What was erased, in a row and in a message, was cut at its own length.
        if row["erased_at"] is None and "erased" not in latest["body"]:
            should["preview"] = make_preview(latest["body"])
    wrong = [name for name, value in should.items() if row[name] != value]
    # Two records that were joined and taken apart: where both wrote it stays with one of them.
    is_of_another = bool(theirs) and row["person_id"] not in {m["person_id"] for m in theirs}
    return [*wrong, *(["person_id"] if is_of_another else [])]


def _compare_messages(told: _Told, said: Sequence[Mapping[str, Any]]) -> list[str]:
    wrong = []
    if {m["id"] for m in said if m["inbound"]} != told.theirs:
        wrong.append("messages of theirs")
    if {m["id"] for m in said if not m["inbound"]} != told.ours | told.withdrawn:
        wrong.append("messages of ours")
    for column, there in (("edited", told.edited), ("removed", told.removed)):
        if {m["id"] for m in said if m[column]} != there:
            wrong.append(f"messages {column}")
    for column in ("liked", "hidden", "reposted"):
        if any(m[column] != told.left.get(m["id"], {}).get(column, False) for m in said):
            wrong.append(f"messages {column}")
    return wrong
