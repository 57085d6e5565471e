"""When a workspace works and how soon it promises answers; dues counted anew after a change. Used by all acts."""

import asyncio
import time
from collections.abc import Mapping, Sequence, Set
from dataclasses import asdict
from datetime import date, datetime, timedelta
from functools import cache
from typing import Any, TypeVar
from zoneinfo import ZoneInfo, available_timezones

from sorta.core import calendars
from sorta.core.errors import AskFirst, Invalid
from sorta.core.permissions import Permission
from sorta.core.slips import list_questions, list_skipped
from sorta.core.targets import (
    DEFAULT_MINUTES,
    Audience,
    Priority,
    Promise,
    PromiseHistory,
    Targets,
    get_audience,
    get_due,
)
from sorta.core.working_time import WeeklyHours, get_week, read_spans, say_spans
from sorta.services.house import House, Scope
from sorta.store import hours as store
from sorta.store.db import Tx
from sorta.store.live import tell

RECOUNT = "recount_dues"
#: For so many seconds a process goes by the hours it has read; after that it is counted once more, so that nothing
#: written meanwhile by the old ones stays.
KEPT_FOR = 5.0
#: How many are counted in one transaction: few at first, so that it is seen to move, then more.
_AT_FIRST, _AT_ONCE = 10, 1000
_LANES = 2
DAYS_AHEAD = 14
#: A year and a bit: both clock changes of a year are among them.
DAYS_SKIPPED = 380
MOST_SPECIAL = 400


async def get_promise(house: House, tx: Tx) -> Promise:
    """What the workspace promises, read anew every few seconds."""
    if (kept := _find_kept(house.promises, tx.workspace_id)) is not None:
        return kept
    row = await store.get_hours(tx)
    return _keep(house.promises, tx.workspace_id, Promise() if row is None else _read(row))


async def get_promises(house: House, tx: Tx) -> PromiseHistory:
    """What the workspace promised when, read anew every few seconds; before it was first set, what it is without."""
    if (kept := _find_kept(house.promise_histories, tx.workspace_id)) is not None:
        return kept
    rows = await store.list_promises(tx)
    history = PromiseHistory(later=tuple((row["begins"], _read(row)) for row in rows))
    return _keep(house.promise_histories, tx.workspace_id, history)


T = TypeVar("T")


def _find_kept(kept: Mapping[int, tuple[float, T]], workspace_id: int) -> T | None:
    found = kept.get(workspace_id)
    return found[1] if found is not None and time.monotonic() - found[0] < KEPT_FOR else None


def _keep(kept: dict[int, tuple[float, T]], workspace_id: int, fresh: T) -> T:
    """What was worked out of the hours stays with the object, so one that is unchanged is kept as it is."""
    before = kept.get(workspace_id)
    same = fresh if before is None or before[1] != fresh else before[1]
    kept[workspace_id] = (time.monotonic(), same)
    return same


def _forget(house: House, workspace_id: int) -> None:
    house.promises.pop(workspace_id, None)
    house.promise_histories.pop(workspace_id, None)


def _read(row: Mapping[str, Any]) -> Promise:
    return make_promise(row["time_zone"], row["week"], row["special"], row["targets"])


@cache
def _list_zones() -> Set[str]:
    """The time zones there are. Looked up once: each time goes through some six hundred files."""
    return available_timezones()


def check_zone(zone: str) -> None:
    """Raise Invalid unless there is such a time zone."""
    if zone not in _list_zones():
        raise Invalid(f"There is no time zone {zone!r}.", "time_zone")


def make_promise(
    zone: str, week: Sequence[str], special: Mapping[str, str], targets: Mapping[str, Mapping[str, int]]
) -> Promise:
    """Hours and targets from how they are written down. Raises Invalid with what is wrong."""
    check_zone(zone)
    if len(special) > MOST_SPECIAL:
        raise Invalid(f"At most {MOST_SPECIAL} special dates.", "special")
    try:
        dates = {date.fromisoformat(day): read_spans(text) for day, text in special.items()}
        minutes = {Audience(a): {Priority[p.upper()]: m for p, m in by.items()} for a, by in targets.items()}
    except (ValueError, KeyError) as error:
        raise Invalid(f"It cannot be read: {error}.", "special") from error
    hours = WeeklyHours(zone=ZoneInfo(zone), week=tuple(read_spans(text) for text in week), special=dates)
    return Promise(targets=Targets(minutes=minutes), hours=hours)


def _write_targets(targets: Targets) -> dict[str, dict[str, int]]:
    return {a.value: {p.name.lower(): m for p, m in by.items()} for a, by in targets.minutes.items()}


async def get_hours(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """The hours as written, the targets, and the coming two weeks as they will be counted."""
    async with house.db.transact(scope.workspace_id) as tx:
        row = await store.get_hours(tx)
    if row is None:
        by = {p.name.lower(): m for p, m in DEFAULT_MINUTES.items()}
        row = {
            "time_zone": scope.zone.key,
            "week": ["00:00-24:00"] * 7,
            "special": {},
            "targets": {a.value: dict(by) for a in Audience},
            "member_id": None,
            "changed_at": None,
            "progress": None,
        }
    hours = _read(row).hours
    assert isinstance(hours, WeeklyHours)
    today = now.astimezone(hours.zone).date()
    days = [today + timedelta(days=n) for n in range(DAYS_AHEAD)]
    ahead = [
        {"day": day, "hours": say_spans(hours.list_spans(day)), "special": day.isoformat() in row["special"]}
        for day in days
    ]
    skipped = [{"day": day, "words": words} for day, words in list_skipped(hours, today, DAYS_SKIPPED)]
    return {**row, "ahead": ahead, "is_open": hours.is_open(now), "skipped": skipped}


async def set_hours(
    house: House,
    scope: Scope,
    *,
    zone: str,
    week: Sequence[str],
    special: Mapping[str, str],
    targets: Mapping[str, Mapping[str, int]],
    now: datetime,
    sure: bool = False,
) -> None:
    """From now on the workspace works so; what is due is counted anew in the background. Raises Invalid; AskFirst for what
    looks like a slip, unless whoever sets it is `sure`."""
    scope.check(Permission.MANAGE_RULES)
    promise = make_promise(zone, week, special, targets)
    hours = promise.hours
    assert isinstance(hours, WeeklyHours)
    # Hours that never open are told at once, not with the next message.
    hours.add_working_minutes(now, 1)
    if not sure and (questions := list_questions(hours, promise.targets)):
        raise AskFirst(questions)
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_hours(
            tx,
            zone=zone,
            week=[say_spans(spans) for spans in hours.week],
            special={day.isoformat(): say_spans(spans) for day, spans in hours.special.items()},
            targets=_write_targets(promise.targets),
            member_id=scope.member_id,
            now=now,
        )
        total = await store.count_awaiting(tx)
        await store.set_progress(tx, {"done": 0, "total": total})
        again = now + timedelta(seconds=KEPT_FOR + 1)
        for begins, which in ((now, "first"), (again, "again")):
            await house.queue.add_job(
                tx, RECOUNT, once=f"dues:{scope.workspace_id}:{which}", at=begins, workspace_id=scope.workspace_id
            )
    _forget(house, scope.workspace_id)


async def read_calendar(house: House, scope: Scope, text: str, now: datetime) -> dict[str, Any]:
    """The special dates that an iCalendar file holds for the next two years, as they would be kept, and what of the file is
    left out, with the reason; nothing is kept yet."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        week = get_week((await get_promise(house, tx)).hours)
    today = now.astimezone(scope.zone).date()
    until = today.replace(day=1) + timedelta(days=365 * 2)
    found = await house.workshop.do(
        calendars.read_calendar, text, scope.zone, today, until, lambda day: tuple(sorted(week[day.weekday()]))
    )
    return {
        "dates": [{"day": one.day, "hours": say_spans(one.spans), "name": one.name} for one in found.dates],
        "left_out": [asdict(one) for one in found.left_out],
    }


async def write_calendar(house: House, scope: Scope, now: datetime) -> str:
    """The hours and special dates of the workspace as an iCalendar file."""
    async with house.db.transact(scope.workspace_id) as tx:
        promise = await get_promise(house, tx)
    hours = promise.hours
    if not isinstance(hours, WeeklyHours):
        hours = WeeklyHours(zone=scope.zone, week=(read_spans("0-24"),) * 7)
    begins = now.astimezone(hours.zone).date()
    return calendars.write_hours(hours, {}, begins=begins, stamp=now, domain=f"workspace-{scope.workspace_id}.sorta")


async def recount_dues(house: House, workspace_id: int) -> int:
    """Count every promised instant anew, some at a time; how many changed. Run by the worker; safe to run twice."""
    _forget(house, workspace_id)
    async with house.db.transact(workspace_id) as tx:
        progress = {"done": 0, "total": await store.count_awaiting(tx)}
    # Writing the rows' indexes is what takes the time; two connections share it.
    changed = await asyncio.gather(*(_recount_lane(house, workspace_id, lane, progress) for lane in range(_LANES)))
    async with house.db.transact(workspace_id) as tx:
        await store.set_progress(tx, None)
        await tell(tx, "everything")
    return sum(changed)


async def _recount_lane(house: House, workspace_id: int, lane: int, progress: dict[str, int]) -> int:
    """One share of the conversations, by their number; how many changed."""
    changed, after, at_once = 0, 0, _AT_FIRST
    while True:
        async with house.db.transact(workspace_id) as tx:
            promise = await get_promise(house, tx)
            rows = await store.list_awaiting(tx, after, at_once, lane, _LANES)
            dues = []
            for row in rows:
                audience = get_audience(row["kind"], public=row["public"])
                due = get_due(row["awaiting_since"], Priority(row["priority"]), audience, promise)
                if due is not None and due != row["due"]:
                    dues.append((row["id"], row["awaiting_since"], row["priority"], due))
            if dues:
                changed += await store.set_dues(tx, dues)
            progress["done"] += len(rows)
        if len(rows) < at_once:
            return changed
        after, at_once = rows[-1]["id"], min(2 * at_once, _AT_ONCE)
        # Of its own, for the row of the progress is one that both lanes would wait for.
        async with house.db.transact(workspace_id) as tx:
            await store.set_progress(tx, {**progress, "total": max(progress.values())})
            await tell(tx, "hours")
