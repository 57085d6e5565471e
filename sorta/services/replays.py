"""What if: the last days played again with other people, hours, targets or rules, in the background. Used by the API and the worker."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
import structlog
from pydantic import TypeAdapter

from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.permissions import Permission
from sorta.core.replay import MOST_WORK, AskedReplay, CannotReplay, measure
from sorta.core.replay_scene import Past, SceneChange, Worker, make_scene
from sorta.core.routing import DEFAULT_CAPACITY, Way
from sorta.core.rules import Rule
from sorta.core.spells import Ending
from sorta.core.staffing import choose_handling
from sorta.core.targets import Audience, Priority, Promise, Targets
from sorta.core.trial import Trial
from sorta.core.waits import Counting, Waits, get_codes, is_one_of
from sorta.core.working_time import Span, WeeklyHours, get_local_midnight, read_spans
from sorta.services import waits
from sorta.services.hours import get_promise
from sorta.services.house import House, Scope
from sorta.services.members import get_zone
from sorta.services.replaying import FOUND
from sorta.services.ruling import BODY, make_heard, speak
from sorta.services.team import may_reply
from sorta.store import replays as store
from sorta.store import rules as rule_store
from sorta.store import sorting, team, texts
from sorta.store.db import Tx
from sorta.store.waits import Opened

log = structlog.get_logger()
PLAY = "play_what_if"
#: How what came out is written: with another shape, or another way to play, it is another.
VERSION = 1
LONGEST_DAYS = 28
MOST_NEW = 20
MOST_KEPT = 50
#: One of which nothing was heard for so many seconds is taken up again.
SILENT_FOR = 90.0
_AT_ONCE = 500
_NEVER = datetime(9000, 1, 1, tzinfo=UTC)


@dataclass(frozen=True, kw_only=True)
class NewPeople:
    """So many people more, with these hours from Monday on (none: the workspace's), in this team (none: in all)."""

    count: int
    shift: tuple[str, ...] | None = None
    team: int | None = None


@dataclass(frozen=True, kw_only=True)
class WhatIf:
    """What is to be played: how many days, and what is changed in them; what is None is as it is. `targets` are working minutes by
    audience and priority, `rules` which of them are on, `handling` how many minutes an answer takes, `given` whether teams give out."""

    days: int = 28
    clock: Counting = Counting.WORKING
    more: tuple[NewPeople, ...] = ()
    without: tuple[int, ...] = ()
    hours: tuple[str, ...] | None = None
    targets: Mapping[Audience, Mapping[str, int]] | None = None
    rules: Mapping[int, bool] = field(default_factory=dict)
    handling: int | None = None
    given: bool = True


_WHAT_IF: TypeAdapter[WhatIf] = TypeAdapter(WhatIf)


def _get_days(days: int, zone: ZoneInfo, now: datetime) -> tuple[datetime, datetime]:
    """The last so many days that are over."""
    today = now.astimezone(zone).date()
    return get_local_midnight(today - timedelta(days=days), zone), get_local_midnight(today, zone)


def _change_promise(asked: WhatIf, promise: Promise, zone: ZoneInfo) -> Promise:
    """Other hours and targets. Raises Invalid."""
    hours, targets = promise.hours, promise.targets
    if asked.hours is not None:
        special: Mapping[date, tuple[Span, ...]] = hours.special if isinstance(hours, WeeklyHours) else {}
        hours = WeeklyHours(zone=zone, week=tuple(read_spans(text) for text in asked.hours), special=special)
        # Hours that never open are told at once.
        hours.add_working_minutes(datetime.now(zone), 1)
    if asked.targets is not None:
        try:
            minutes = {a: {Priority[p.upper()]: n for p, n in by.items()} for a, by in asked.targets.items()}
        except KeyError as error:
            raise Invalid(f"There is no priority {error}.", "targets") from error
        targets = Targets(minutes=minutes)
    return Promise(targets=targets, hours=hours)


@dataclass(frozen=True, kw_only=True)
class _Team:
    """Who answers here, and how the teams give out."""

    workers: Sequence[Worker]
    ways: Mapping[int, Way]
    members: Mapping[int, str]


async def _read_team(house: House, workspace_id: int, now: datetime) -> _Team:
    async with house.db.transact(workspace_id) as tx:
        rows = await team.list_loads(tx, now)
        teams = await sorting.list_teams(tx)
    return _Team(
        workers=[
            Worker(
                id=r["member_id"],
                shift=None if r["shift"] is None else tuple(read_spans(text) for text in r["shift"]),
                away=None if r["away_from"] is None else (r["away_from"], r["away_until"] or _NEVER),
                capacity=r["capacity"],
                languages=frozenset(r["languages"]),
                teams=frozenset(t["id"] for t in teams if r["member_id"] in t["members"]),
            )
            for r in rows
            if may_reply(r["permissions"])
        ],
        ways={t["id"]: Way(t["way"]) for t in teams},
        members={r["member_id"]: r["name"] for r in rows},
    )


def _change_team(asked: WhatIf, found: _Team) -> list[Worker]:
    """Those who answer, without some and with others. Raises Invalid."""
    if unknown := set(asked.without) - {w.id for w in found.workers}:
        raise Invalid(f"Nobody who answers here has the number {min(unknown)}.", "without")
    if sum(more.count for more in asked.more) > MOST_NEW:
        raise Invalid(f"At most {MOST_NEW} people more.", "more")
    workers = [w for w in found.workers if w.id not in asked.without]
    for more in asked.more:
        if more.team is not None and more.team not in found.ways:
            raise Invalid(f"There is no team {more.team} in this workspace.", "more")
        week = None if more.shift is None else tuple(read_spans(text) for text in more.shift)
        if week is not None:
            # Hours that overlap are told at once.
            WeeklyHours(zone=ZoneInfo("UTC"), week=week)
        teams = frozenset(found.ways) if more.team is None else frozenset({more.team})
        workers += [Worker(id=0, shift=week, capacity=DEFAULT_CAPACITY, teams=teams)] * more.count
    if not workers:
        raise Invalid("Somebody has to be there who answers.", "without")
    return workers


async def start(house: House, scope: Scope, asked: WhatIf, now: datetime) -> int:
    """Have days played again; the number under which to ask for what came out. Raises Invalid with what cannot be, NotAllowed for who
    sees a part of what came in."""
    scope.check(Permission.SEE_REPORTS)
    if scope.limited:
        raise NotAllowed("Days are played again whole: that is for who sees every account.")
    if not 1 <= asked.days <= LONGEST_DAYS:
        raise Invalid(f"The last 1 to {LONGEST_DAYS} days can be played again.", "days")
    for week, where in ((asked.hours, "hours"), *((more.shift, "more") for more in asked.more)):
        if week is not None and len(week) != 7:
            raise Invalid("A week has seven days.", where)
    found = await _read_team(house, scope.workspace_id, now)
    _change_team(asked, found)
    begins, ends = _get_days(asked.days, scope.zone, now)
    async with house.db.transact(scope.workspace_id) as tx:
        _change_promise(asked, await get_promise(house, tx), scope.zone)
        rules = {row["id"] for row in await rule_store.list_rules(tx, now)}
        if unknown := set(asked.rules) - rules:
            raise Invalid(f"There is no rule {min(unknown)} in this workspace.", "rules")
        count = await store.count_waits(tx, begins, ends)
        if count > MOST_WORK:
            raise Invalid(
                f"In these days people waited {count:,} times; {MOST_WORK:,} can be played. Choose fewer days.", "days"
            )
        if not count:
            raise Invalid("Nothing came in in these days: there is nothing to play.", "days")
        if await store.is_playing(tx, scope.member_id):
            raise Invalid("One of yours is being played. Wait for it, or stop it first.", "days")
        id = await store.add_replay(
            tx,
            member_id=scope.member_id,
            asked=_WHAT_IF.dump_python(asked, mode="json"),
            now=now,
        )
        await store.forget_oldest(tx, MOST_KEPT)
        await _queue(house, tx, id)
    return id


async def _queue(house: House, tx: Tx, id: int) -> None:
    await house.queue.add_job(tx, PLAY, once=f"what_if:{id}", workspace_id=tx.workspace_id, replay_id=id)


async def take_up_silent(house: House, workspace_id: int, now: datetime) -> int:
    """Queue again whatever nothing was heard of: who played it is gone. How many. Run by the clock."""
    async with house.db.transact(workspace_id) as tx:
        silent = await store.list_silent(tx, SILENT_FOR)
        for id in silent:
            await _queue(house, tx, id)
    return len(silent)


def _show(row: Mapping[str, Any], scope: Scope) -> dict[str, Any]:
    shown = {**row, "mine": row["member_id"] == scope.member_id}
    if row["result"] is not None and row["result"].get("version") != VERSION:
        shown |= {"state": "failed", "result": None, "problem": "It was played by another version of Sorta. Ask again."}
    return shown


async def list_replays(house: House, scope: Scope) -> list[dict[str, Any]]:
    """What was asked in this workspace, by anybody, the newest first."""
    scope.check(Permission.SEE_REPORTS)
    async with house.db.transact(scope.workspace_id) as tx:
        return [_show(row, scope) for row in await store.list_replays(tx)]


async def get_replay(house: House, scope: Scope, id: int) -> dict[str, Any]:
    """How far one has come, and what came out. Raises NotFound."""
    scope.check(Permission.SEE_REPORTS)
    async with house.db.transact(scope.workspace_id) as tx:
        row = await store.get_replay(tx, id)
    if row is None:
        raise NotFound("There is no such question in this workspace; it may have been forgotten.")
    return _show(row, scope)


async def forget(house: House, scope: Scope, id: int) -> None:
    """Forget one of one's own; one that is being played is stopped. Raises NotFound."""
    scope.check(Permission.SEE_REPORTS)
    async with house.db.transact(scope.workspace_id) as tx:
        if not await store.delete_replay(tx, scope.member_id, id):
            raise NotFound("There is no such question of yours.")


async def run(house: House, workspace_id: int, id: int, now: datetime) -> None:
    """Play to the end, or until nobody wants it any more. Run by the worker; safe to run twice."""
    async with house.db.transact(workspace_id) as tx:
        row = await store.get_replay(tx, id)
        if row is None or row["state"] in ("done", "failed"):
            return
        await store.set_progress(tx, id, 0, 0)

    async def tell(done: int, total: int) -> bool:
        async with house.db.transact(workspace_id) as tx:
            return await store.set_progress(tx, id, done, total)

    try:
        asked = _WHAT_IF.validate_python(row["asked"])
        if house.replayer is None:
            raise CannotReplay("Nothing here can play days again.")
        prepared, told = await _prepare(house, workspace_id, asked, row["made_at"], now)
        found = await house.replayer.compare(prepared, tell)
    except (CannotReplay, Invalid) as error:
        async with house.db.transact(workspace_id) as tx:
            await store.set_problem(tx, id, str(error))
        log.warning("days could not be played again", workspace=workspace_id, reason=str(error))
        return
    if found is None:
        return
    async with house.db.transact(workspace_id) as tx:
        result = {"version": VERSION, **told, **FOUND.dump_python(found, mode="json")}
        await store.set_result(tx, id, result)


async def _prepare(
    house: House, workspace_id: int, asked: WhatIf, made_at: datetime, now: datetime
) -> tuple[AskedReplay, dict[str, Any]]:
    """Both scenes, and what is told of them besides what comes out."""
    async with house.db.transact(workspace_id) as tx:
        zone = await get_zone(tx)
        promise = await get_promise(house, tx)
    begins, ends = _get_days(asked.days, zone, made_at)
    loaded = await waits.load(house, workspace_id, begins, ends, {}, asked.clock, Opened.ALL_WHOLE)
    found = await _read_team(house, workspace_id, now)
    after = _change_promise(asked, promise, zone), _change_team(asked, found)
    changes = await _list_changes(house, workspace_id, asked, begins, ends, zone, promise) if asked.rules else []

    def make() -> tuple[AskedReplay, dict[str, Any]]:
        past = Past(waits=loaded.read(), begins=begins, ends=ends, zone=zone, kinds=waits.KINDS)
        order = past.order
        if len(order) > MOST_WORK:
            raise Invalid(
                f"People waited {len(order):,} times; {MOST_WORK:,} can be played. Choose fewer days.", "days"
            )
        before = make_scene(past, promise, found.workers, found.ways)
        really = measure(before, past.get_ended(), asked.clock)
        timed = _list_timed(past.waits.take(order))
        took = choose_handling(asked.handling, timed)
        prepared = AskedReplay(
            before=before,
            after=make_scene(past, after[0], after[1], found.ways, changes=changes, give_out=asked.given),
            timed=timed if took.source == "timed" else (),
            mean=took.seconds,
            counting=asked.clock,
            first_half=really["first_half"],
        )
        return prepared, {
            "first": begins.astimezone(zone).date().isoformat(),
            "last": (ends - timedelta(hours=1)).astimezone(zone).date().isoformat(),
            "waits": len(order),
            "really": {name: None if np.isnan(value) else value for name, value in really.items()},
            "source": took.source,
            "handling": took.seconds,
            "runs": prepared.runs,
            "changed_waits": len(changes),
            "names": {str(id): name for id, name in found.members.items()},
        }

    return await house.reporting.do(make)


def _list_timed(all_waits: Waits) -> list[float]:
    """How long answers took of which it is known."""
    by_members = is_one_of(all_waits["ended_by"], get_codes(Ending.ANSWERED)) & (all_waits["member"] != 0)
    timed = all_waits["handling"][by_members]
    return [float(s) for s in timed[~np.isnan(timed)]]


async def _list_changes(
    house: House,
    workspace_id: int,
    asked: WhatIf,
    begins: datetime,
    ends: datetime,
    zone: ZoneInfo,
    promise: Promise,
) -> list[SceneChange]:
    """What comes out differently with other rules switched on; by what tries rules on the past."""
    async with house.db.transact(workspace_id) as tx:
        rows = await rule_store.list_rules(tx, begins)
        groups = await rule_store.list_groups_of(tx)
        spoken = await texts.get_languages(tx)

    def read(switched: Mapping[int, bool]) -> list[Rule]:
        return [
            Rule(
                id=r["id"],
                version=r["version"],
                body=speak(house, BODY.validate_python(r["body"]), spoken),
                on=switched.get(r["id"], r["switched_on"]),
            )
            for r in rows
        ]

    trial = Trial(read({}), read(asked.rules), 0, most_listed=MOST_WORK)
    known: dict[int, tuple[int, datetime]] = {}
    after = (begins, 0)
    while True:
        async with house.db.transact(workspace_id) as tx:
            page = await rule_store.list_heard(tx, since=begins, until=ends, after=after, limit=_AT_ONCE)
        trial.take(make_heard(r, promise=promise, zone=zone, groups=groups) for r in page)
        known |= {r.id: (r.conversation_id, r.arrived_at) for r in page}
        if len(page) < _AT_ONCE:
            break
        after = (page[-1].arrived_at, page[-1].id)
    return [
        SceneChange(conversation=known[e.message][0], at=known[e.message][1], comes=e.comes, goes=e.goes)
        for e in trial.examples
    ]
