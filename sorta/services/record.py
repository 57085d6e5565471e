"""The record of changes, read, taken out as a table, and checked. Used by the API and by main.

Nothing here writes it: the tables do, whoever changes them (decision 0044).
"""

from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from sorta.core.permissions import Permission
from sorta.core.record import THINGS, Chain, Entry, read
from sorta.core.security import Happening
from sorta.core.tables import Cell
from sorta.core.working_time import get_local_midnight
from sorta.services.house import House, Scope
from sorta.services.security_log import note
from sorta.store import people, sorting
from sorta.store import record as store
from sorta.store.db import Tx

PAGE, AT_ONCE = 100, 1000
_HEAD = (
    "Number",
    "When (universal time)",
    "Who",
    "From where",
    "What",
    "Name",
    "Done",
    "Where in it",
    "Before",
    "After",
)


@dataclass(frozen=True, kw_only=True)
class Ask:
    """Which entries: of one kind of thing (a key of THINGS), by one member, within days of the workspace's clock."""

    what: str | None = None
    member_id: int | None = None
    since: date | None = None
    until: date | None = None


@dataclass(frozen=True, kw_only=True)
class _Names:
    members: Mapping[int, str]
    teams: Mapping[int, str]


async def _read_names(tx: Tx) -> _Names:
    teams = {t["id"]: t["name"] for t in await sorting.list_teams(tx)}
    return _Names(members=await people.list_names(tx), teams=teams)


def _name(entry: Entry, names: _Names) -> str | None:
    """What it is called; members and teams by their names."""
    if entry.name is not None:
        return entry.name
    member, team = entry.key.get("member_id"), entry.key.get("team_id")
    said = [names.members.get(member, "somebody")] if member is not None else []
    if team is not None:
        said.append(f"in {names.teams.get(team, 'a team that is gone')}")
    return " ".join(said) or entry.key.get("key")


async def list_entries(house: House, scope: Scope, ask: Ask, before: int | None = None) -> list[dict[str, Any]]:
    """The newest first, `before` an entry's number. For who manages members. Raises NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        entries = await _load(tx, scope, ask, before, PAGE)
        names = await _read_names(tx)
    return [_tell(entry, names) for entry in entries]


async def _load(tx: Tx, scope: Scope, ask: Ask, before: int | None, limit: int) -> list[Entry]:
    rows = await store.list_entries(
        tx,
        before=before,
        what=ask.what,
        member_id=ask.member_id,
        since=None if ask.since is None else get_local_midnight(ask.since, scope.zone),
        until=None if ask.until is None else get_local_midnight(ask.until + timedelta(days=1), scope.zone),
        limit=limit,
    )
    return [read(row.said) for row in rows]


def _tell(entry: Entry, names: _Names) -> dict[str, Any]:
    return {
        "n": entry.n,
        "at": entry.at,
        "by": None if entry.member_id is None else names.members.get(entry.member_id, "Somebody"),
        "came_from": entry.came_from,
        "thing": entry.thing,
        "name": _name(entry, names),
        "did": entry.did,
        "lines": [{"where": line.where, "before": line.before, "after": line.after} for line in entry.lines],
        "more": entry.more,
    }


async def export(house: House, scope: Scope, ask: Ask, now: datetime) -> AsyncIterator[list[Sequence[Cell]]]:
    """The same as rows of a table, one for each thing that is otherwise; written down. Raises NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    scope.check(Permission.EXPORT)
    async with house.db.transact(scope.workspace_id) as tx:
        await note(tx, scope, Happening.EXPORTED, "the record of changes")
    return _list_parts(house, scope, ask)


async def _list_parts(house: House, scope: Scope, ask: Ask) -> AsyncIterator[list[Sequence[Cell]]]:
    yield [_HEAD]
    before: int | None = None
    while True:
        async with house.db.transact(scope.workspace_id) as tx:
            entries = await _load(tx, scope, ask, before, AT_ONCE)
            names = await _read_names(tx)
        yield [row for entry in entries for row in _make_rows(_tell(entry, names))]
        if len(entries) < AT_ONCE:
            return
        before = entries[-1].n


def _make_rows(told: Mapping[str, Any]) -> list[Sequence[Cell]]:
    first = (
        told["n"],
        told["at"].isoformat(),
        told["by"] or "by itself",
        told["came_from"] or "",
        told["thing"],
        told["name"] or "",
        told["did"],
    )
    lines = told["lines"] or [{"where": "", "before": None, "after": None}]
    return [(*first, line["where"], line["before"] or "", line["after"] or "") for line in lines]


@dataclass(frozen=True, kw_only=True)
class Checked:
    """Whether a workspace's record holds together, in a sentence."""

    holds: bool
    says: str


async def check_record(house: House, workspace_id: int) -> Checked:
    """Follow the chain from its beginning. Part of the check command."""
    chain = Chain()
    seen = 0
    while True:
        async with house.db.transact(workspace_id) as tx:
            rows = await store.list_chain(tx, seen, AT_ONCE)
        for row in rows:
            chain.follow(row.n, row.said, row.hash)
            seen = row.n
        if len(rows) < AT_ONCE:
            break
    if chain.broken is not None:
        return Checked(holds=False, says=f"the record of changes does not hold: {chain.broken}")
    end = f", its end {chain.end[:16]}" if chain.count else ""
    return Checked(holds=True, says=f"the record of {chain.count} changes holds{end}")


def list_things() -> list[dict[str, str]]:
    """What changes can be about."""
    return [{"key": key, "words": words} for key, words in sorted(THINGS.items(), key=lambda one: one[1])]
