"""The team: who is there, who has how much, who a team gives work to, and evening out. Used by ruling and the API."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from sorta.core import routing
from sorta.core.deciding import Heard
from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.core.routing import Candidate, Choice, Way, Work, even_out
from sorta.core.security import Happening
from sorta.core.targets import Priority
from sorta.core.titles import check_title
from sorta.core.working_time import WeeklyHours, read_spans, say_spans
from sorta.services.house import PRESENT_FOR, House, Scope
from sorta.services.security_log import note
from sorta.store import groups, people, sorting
from sorta.store import team as store
from sorta.store.db import Tx
from sorta.store.live import tell

LONGEST_REASON = 200
LONGEST_NAME = 60
MOST_TEAMS = 100


def may_reply(permissions: Sequence[str]) -> bool:
    """Whether who holds these answers people, in public or in private."""
    return not {Permission.REPLY_PUBLICLY, Permission.REPLY_PRIVATELY}.isdisjoint(permissions)


def is_off_shift(shift: Sequence[str] | None, zone: ZoneInfo, at: datetime) -> bool:
    """Whether a member with a shift of their own is not on it."""
    if shift is None:
        return False
    return not WeeklyHours(zone=zone, week=tuple(read_spans(text) for text in shift)).is_open(at)


@dataclass(frozen=True, kw_only=True)
class Given:
    """A conversation that a team gives to a member in a transaction which is not written yet; `load` is what it weighs."""

    team: int
    member: int
    at: datetime
    load: float


async def choose_member(tx: Tx, team_id: int, heard: Heard, zone: ZoneInfo, given: Sequence[Given]) -> Choice:
    """Whom a team gives a message's conversation to, by the team's way. `given` is what members got in this transaction."""
    rows = await store.list_candidates(tx, team_id, heard.person, heard.account, heard.at)
    if not rows:
        return Choice(member=None, reason="the team has no members who see this account")
    turns = {one.member: one.at for one in given if one.team == team_id}
    candidates = [
        Candidate(
            member=row["member_id"],
            name=row["name"],
            open=row["open"] + sum(one.member == row["member_id"] for one in given),
            load=row["load"] + sum(one.load for one in given if one.member == row["member_id"]),
            capacity=row["capacity"],
            is_away=row["is_away"],
            is_off_shift=is_off_shift(row["shift"], zone, heard.at),
            languages=frozenset(row["languages"]),
            given_at=turns.get(row["member_id"], row["given_at"]),
            knew_at=row["knew_at"],
        )
        for row in rows
    ]
    return routing.choose(Way(rows[0]["way"]), candidates, language=heard.language)


async def note_turns(tx: Tx, given: Sequence[Given]) -> None:
    """Whose turn was when. At a transaction's end: whoever gives meanwhile to the same teams waits no longer than for its writing."""
    last = {(one.team, one.member): one.at for one in given}
    if last:
        await store.set_turns(tx, sorted((team, member, at) for (team, member), at in last.items()))


async def get_team(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """Every member with what they have in hand and whether they are there, and the teams with their ways."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_loads(tx, now)
        teams = await sorting.list_teams(tx)
    return {"members": [describe_load(row, scope.zone, now) for row in rows], "teams": teams}


def describe_load(row: Mapping[str, Any], zone: ZoneInfo, now: datetime) -> dict[str, Any]:
    """A member with what they have in hand, and whether they are there."""
    working = [cell for cell in row["open"] if cell["move"] in ("unsorted", "our_move", "in_review")]
    return {
        **row,
        "is_away": _is_away(row, now),
        "is_off_shift": is_off_shift(row["shift"], zone, now),
        "in_hand": sum(cell["n"] for cell in working),
        "late": sum(cell["late"] for cell in working),
        "load": sum(routing.WEIGHTS[Priority(cell["priority"])] * cell["n"] for cell in working),
        "may_answer": Permission.SORT in row["permissions"],
        "may_reply": may_reply(row["permissions"]),
    }


def _is_away(row: Mapping[str, Any], now: datetime) -> bool:
    begins, ends = row["away_from"], row["away_until"]
    return begins is not None and begins <= now and (ends is None or ends > now)


async def set_availability(
    house: House,
    scope: Scope,
    member_id: int,
    *,
    capacity: int,
    languages: Sequence[str],
    away_from: datetime | None,
    away_until: datetime | None,
    away_reason: str,
    shift: Sequence[str] | None,
    now: datetime,
) -> None:
    """When a member works and how much they take; one's own, or anybody's for who manages members. Raises Invalid."""
    if member_id != scope.member_id:
        scope.check(Permission.MANAGE_MEMBERS)
    if away_from is not None and away_until is not None and away_until <= away_from:
        raise Invalid("Away ends after it begins.", "away_until")
    if len(away_reason) > LONGEST_REASON:
        raise Invalid(f"A reason has at most {LONGEST_REASON} characters.", "away_reason")
    tidy = None if shift is None else [say_spans(read_spans(text)) for text in shift]
    if tidy is not None and len(tidy) != 7:
        raise Invalid("A shift has seven days.", "shift")
    given = {
        "capacity": capacity,
        "languages": list(dict.fromkeys(code.lower() for code in languages)),
        "away_from": away_from,
        "away_until": away_until,
        "away_reason": away_reason.strip() or None,
        "shift": tidy,
    }
    async with house.db.transact(scope.workspace_id) as tx:
        if member_id not in {row["member_id"] for row in await store.list_loads(tx, now)}:
            raise NotFound("That member does not work in this workspace.")
        await store.set_availability(tx, member_id, given)
        await tell(tx, "team")


async def set_team(house: House, scope: Scope, id: int | None, *, name: str, members: Collection[int]) -> int:
    """A new team (`id` None), or what one is called and who is in it, from now on; its number. Raises Invalid, NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        await people.lock_roles(tx)
        teams = await sorting.list_teams(tx)
        if id is not None and id not in {t["id"] for t in teams}:
            raise NotFound("There is no such team in this workspace.")
        if id is None and len(teams) >= MOST_TEAMS:
            raise Invalid(f"A workspace has at most {MOST_TEAMS} teams.", "name")
        others = [t["name"] for t in teams if t["id"] != id]
        said = check_title(name, "A team’s name", LONGEST_NAME, others=others, one="a team")
        if not set(members) <= {m.id for m in await people.list_members(tx)}:
            raise Invalid("The team names a member who does not work here.", "members")
        kind = Happening.TEAM_ADDED if id is None else Happening.TEAM_CHANGED
        if id is None:
            id = await sorting.add_team(tx, said, sorted(set(members)))
        else:
            await store.set_team(tx, id, said, sorted(set(members)))
        await note(tx, scope, kind, said, team=id)
        await tell(tx, "team")
    return id


async def set_way(house: House, scope: Scope, team_id: int, way: Way) -> None:
    """How a team chooses from now on. Raises NotFound."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        if not await store.set_way(tx, team_id, way.value):
            raise NotFound("There is no such team in this workspace.")
        await tell(tx, "team")


async def list_work(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """The open work that members have in hand."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.list_work(tx, now - PRESENT_FOR)


def _list_takers(
    team: frozenset[int] | None, blind: frozenset[int] | None, everybody: frozenset[int]
) -> frozenset[int] | None:
    """Who can get a conversation: its team's members, of those who see its account; None is everybody."""
    return team if blind is None else (everybody if team is None else team) - blind


async def propose_evening(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """Passes that would even out the load, each with the conversation it is about; nothing is done.

    What a team has been given stays within it; what somebody is in the middle of stays with them: it waits for approval or
    for advice, an answer is being written, is on its way or set for later, or its owner has it open.
    """
    async with house.db.transact(scope.workspace_id) as tx:
        loads = await store.list_loads(tx, now)
        work = await store.list_work(tx, now - PRESENT_FOR)
        teams = {t["id"]: frozenset(t["members"]) for t in await sorting.list_teams(tx)}
        blind = await groups.list_blind(tx)
    everybody = frozenset(row["member_id"] for row in loads)
    candidates = [
        Candidate(
            member=row["member_id"],
            name=row["name"],
            capacity=row["capacity"],
            is_away=_is_away(row, now),
            is_off_shift=is_off_shift(row["shift"], scope.zone, now),
            languages=frozenset(row["languages"]),
        )
        for row in loads
        if Permission.SORT in row["permissions"]
    ]
    piles = [
        Work(
            conversation=row["id"],
            owner=row["owner_id"],
            priority=Priority(row["priority"]),
            language=row["language"],
            is_pinned=row["move"] == "in_review" or row["is_drafted"] or row["is_busy"],
            is_begun=row["is_begun"],
            team=_list_takers(teams.get(row["team_id"]), blind.get(row["account_id"]), everybody),
        )
        for row in work
    ]
    about = {row["id"]: row for row in work}
    passes = await house.workshop.do(even_out, candidates, piles)
    return [{"giver": p.giver, "taker": p.taker, **about[p.conversation]} for p in passes]
