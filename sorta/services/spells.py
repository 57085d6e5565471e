"""Answer spells as rows: told by the core from a trail, written with the events that change them. Used by services.trail."""

from collections.abc import Awaitable, Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from sorta.core.events import Arrived, Corrected, Event, list_undone
from sorta.core.reading import Tone, get_tone
from sorta.core.spells import Phase, Spell, fold, measure_phases
from sorta.core.targets import PromiseHistory, get_audience, get_due
from sorta.services.events import read_events
from sorta.services.hours import get_promises
from sorta.services.house import House
from sorta.store import trail as store
from sorta.store.db import Tx

#: How many conversations are told in one transaction.
AT_ONCE = 100
_BANDS = {Tone.NEGATIVE: -1, Tone.NEUTRAL: 0, Tone.POSITIVE: 1, None: None}
#: What `core.spells` measures by phase, and its columns.
_SPENT = {"parked_s": Phase.PARKED, "review_s": Phase.IN_REVIEW, "advice_s": Phase.ADVICE, "case_s": Phase.CASE}


@dataclass(frozen=True, kw_only=True)
class Told:
    """A conversation's row, its whole trail, and what is read of messages of theirs that are not written yet, by message."""

    row: Mapping[str, Any]
    events: Sequence[Event]
    said: Mapping[int, Mapping[str, Any]] = field(default_factory=dict)
    #: Whether nothing of it is written yet.
    is_new: bool = False


def make_rows(
    told: Told, spells: Iterable[Spell], readings: Mapping[int, Mapping[str, Any]], promises: PromiseHistory
) -> list[dict[str, Any]]:
    """The spells of one conversation as they are kept. `readings` is what each message of theirs reads as now."""
    return [_make_row(told, spell, {**readings, **told.said}, promises) for spell in spells]


def _make_row(
    told: Told, spell: Spell, readings: Mapping[int, Mapping[str, Any]], promises: PromiseHistory
) -> dict[str, Any]:
    row = {
        "conversation_id": told.row["id"],
        "seq": spell.seq,
        **{name: told.row[name] for name in ("account_id", "network", "kind", "public")},
        "first": spell.first,
        "since": spell.since.isoformat(),
        "phases": [[at.astimezone(UTC).isoformat(), phase.value] for at, phase in spell.phases],
    }
    end = spell.end
    if end is None:
        return row
    spent = measure_phases(spell, end.at)
    language, sentiment = _read_at(told.events, readings, end.seq)
    audience = get_audience(told.row["kind"], public=told.row["public"])
    due = get_due(spell.since, end.facts.priority, audience, promises.get_at(end.at))
    assert due is not None
    return row | {
        "ended_at": end.at.isoformat(),
        "ended_by": end.by.value,
        "how": end.how.value if end.how else None,
        "ended_seq": end.seq,
        "member_id": end.member,
        "rule_id": end.rule,
        "reply_id": end.reply,
        "owner_id": end.facts.owner,
        "team_id": end.facts.team,
        "priority": int(end.facts.priority),
        "language": language,
        "sentiment": _BANDS[get_tone(sentiment)],
        "tags": list(end.facts.tags),
        "clock_s": (end.at - spell.since).total_seconds(),
        "work_s": promises.measure_working_minutes(spell.since, end.at) * 60,
        **{column: spent[phase].total_seconds() for column, phase in _SPENT.items()},
        "handling_s": None if end.handling is None else end.handling.total_seconds(),
        "due": due.isoformat(),
    }


def _read_at(
    events: Sequence[Event], readings: Mapping[int, Mapping[str, Any]], seq: int
) -> tuple[str | None, float | None]:
    """Language and sentiment of their latest message when the trail had come to `seq`: what was corrected since had not been
    said yet."""
    undone = list_undone(events)
    heard = [(e.at, e.seq, e.what.message) for e in events if isinstance(e.what, Arrived) and e.seq <= seq]
    *_, message = max(heard)
    now = readings.get(message, {})
    then = {"language": now.get("language"), "sentiment": now.get("sentiment")}
    for event in reversed(events):
        if event.seq <= seq or event.seq in undone:
            continue
        match event.what:
            case Corrected(message=of, field=field, was=was) if of == message and field in then:
                then[field] = was
            case _:
                pass
    return then["language"], then["sentiment"]


@dataclass(frozen=True, kw_only=True)
class Anew:
    """Spells to be written in place of those there were: of which conversations, and their rows."""

    ids: Sequence[int] = ()
    rows: Sequence[dict[str, Any]] = ()


async def tell_anew(house: House, tx: Tx, told: Sequence[Told]) -> tuple[list[dict[str, Any]], Anew]:
    """The spells of these conversations: those that new ones open, to be written with them, and those of all others."""
    if not told:
        return [], Anew()
    folded = [(one, fold(one.events)) for one in told]
    plain: list[tuple[Told, tuple[Spell, ...]]] = []
    others: list[tuple[Told, tuple[Spell, ...]]] = []
    for one, spells in folded:
        is_plain = one.is_new and all(s.end is None for s in spells)
        (plain if is_plain else others).append((one, spells))
    promises, readings = PromiseHistory(), {}
    if others:
        promises = await get_promises(house, tx)
        ended = [one.row["id"] for one, spells in others if any(s.end is not None for s in spells)]
        readings = {row["id"]: row for row in await store.list_readings(tx, ended)} if ended else {}
    opened = [row for one, spells in plain for row in make_rows(one, spells, readings, promises)]
    rows = [row for one, spells in others for row in make_rows(one, spells, readings, promises)]
    return opened, Anew(ids=[one.row["id"] for one, _ in others], rows=rows)


async def write_anew(tx: Tx, anew: Anew) -> None:
    """Write what `tell_anew` told."""
    if anew.ids:
        await store.write_spells(tx, anew.ids, list(anew.rows))


async def tell_once(house: House, workspace_id: int, now: datetime) -> None:
    """Tell the spells of a workspace that was there before spells were kept, once."""
    async with house.db.transact(workspace_id) as tx:
        told = await store.are_spells_told(tx)
    if not told:
        await tell_all(house, workspace_id)


async def tell_all(house: House, workspace_id: int) -> int:
    """Tell the spells of every conversation of a workspace anew, some at a time; how many conversations."""
    done = await _go_through(house, workspace_id, write_anew)
    async with house.db.transact(workspace_id) as tx:
        await store.set_spells_told(tx)
    return done


async def find_other_spells(house: House, workspace_id: int) -> list[int]:
    """Conversations whose spells are not what their trail says; empty is right. Part of the check command."""
    wrong: list[int] = []

    async def look(tx: Tx, anew: Anew) -> None:
        wrong.extend(await store.list_other_spells(tx, anew.ids, list(anew.rows)))

    await _go_through(house, workspace_id, look)
    return wrong


async def _go_through(house: House, workspace_id: int, do: Callable[[Tx, Anew], Awaitable[None]]) -> int:
    """Tell every conversation's spells from its trail and do something with them, some at a time; how many conversations."""
    after, done = 0, 0
    while True:
        async with house.db.transact(workspace_id) as tx:
            rows = await store.list_to_tell(tx, after, AT_ONCE)
            trails = await store.list_trails(tx, [row["id"] for row in rows])
            told = [Told(row=row, events=read_events(trails[row["id"]])) for row in rows]
            _, anew = await tell_anew(house, tx, told)
            await do(tx, anew)
        done += len(rows)
        if len(rows) < AT_ONCE:
            return done
        after = rows[-1]["id"]
