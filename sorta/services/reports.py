"""Reports: figures over a period, each with what it is compared with and the conversations behind it. Used by the API."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from datetime import date, datetime, timedelta
from typing import Any

import numpy as np
import numpy.typing as npt

from sorta.core.errors import Invalid, NotFound
from sorta.core.explaining import explain
from sorta.core.periods import Against, Named, Period, get_compared, get_period, get_today
from sorta.core.permissions import Permission
from sorta.core.reports import (
    BY_NAME,
    FIGURES,
    Chosen,
    PeriodWaits,
    Value,
    age,
    break_down,
    choose,
    compare,
    count_days,
    count_sentiments,
    count_spread,
    count_week,
    get_day_end,
    list_moods,
    list_promised,
)
from sorta.core.spells import Phase
from sorta.core.staffing import measure_open
from sorta.core.targets import Promise
from sorta.core.unusual import LONGEST_JUDGED, WEEKS, judge_period
from sorta.core.waits import Counting, as_mask
from sorta.core.working_time import get_local_midnight, get_week
from sorta.services import waits
from sorta.services.hours import get_promise
from sorta.services.house import House, Scope
from sorta.store import reports as store
from sorta.store import trail
from sorta.store import unusual as unusual_store
from sorta.store.waits import Opened

LONGEST_NAME = 60
MOST_KEPT = 100
#: What can be broken down, by the column that holds it; words stand for the numbers of those that have them.
BREAKDOWNS: Mapping[str, Sequence[str]] = {
    "account": (),
    "network": waits.NETWORKS,
    "member": (),
    "team": (),
    "kind": waits.KINDS,
    "priority": (),
    "sentiment": (),
    "tag": (),
}


@dataclass(frozen=True, kw_only=True)
class Ask:
    """What a report is about: its period and what that is compared with, how waiting is counted, and the filters by name."""

    period: Named = Named.DAYS_28
    since: date | None = None
    until: date | None = None
    against: Against = Against.BEFORE
    clock: Counting = Counting.WORKING
    filters: Mapping[str, Any] = field(default_factory=dict)


def _read_period(ask: Ask, scope: Scope, now: datetime) -> Period:
    return get_period(ask.period, get_today(now, scope.zone), scope.zone, ask.since, ask.until)


async def load(house: House, scope: Scope, ask: Ask, now: datetime) -> tuple[Period, waits.Loaded]:
    """The period that is asked for, with its spells. Raises Invalid."""
    period = _read_period(ask, scope, now)
    return period, await waits.load(house, scope.workspace_id, period.begins, period.ends, ask.filters, ask.clock)


async def get_report(house: House, scope: Scope, ask: Ask, now: datetime) -> dict[str, Any]:
    """All of a report's page. Raises Invalid for a period that is none."""
    scope.check(Permission.SEE_REPORTS)
    period = _read_period(ask, scope, now)
    compared = get_compared(period, ask.against)
    begins, ends = min(period.begins, compared.begins), max(period.ends, compared.ends)
    if period.count <= LONGEST_JUDGED:
        # Its hours are judged by the weeks before.
        begins = min(begins, get_local_midnight(period.first - timedelta(days=7 * WEEKS), period.zone))
    loaded = await waits.load(house, scope.workspace_id, begins, ends, ask.filters, ask.clock)
    async with house.db.transact(scope.workspace_id) as tx:
        are_told = await trail.are_spells_told(tx)
        false_alarms = await unusual_store.get_false_alarms(tx)
        promise = await get_promise(house, tx)
    figures = await house.reporting.do(_work_out, loaded, period, compared, false_alarms, promise, now)
    return {
        "first": period.first,
        "last": period.last,
        "compared_first": compared.first,
        "compared_last": compared.last,
        "time_zone": scope.zone.key,
        "are_told": are_told,
        "false_alarms": false_alarms,
        **figures,
    }


def _work_out(
    loaded: waits.Loaded, period: Period, compared: Period, false_alarms: float, promise: Promise, now: datetime
) -> dict[str, Any]:
    all_waits, at = loaded.read(), now.timestamp()
    this, other = PeriodWaits.choose(all_waits, period), PeriodWaits.choose(all_waits, compared)
    unusual = []
    if period.count <= LONGEST_JUDGED:
        first = all_waits.where(as_mask((all_waits["first"] == 1) & (all_waits["since"] < period.ends.timestamp())))
        unusual = judge_period(first["since"], period, at, false_alarms)
    # Targets are in working time; beside time on the clock they would stand at the wrong place.
    promised = (
        [asdict(one) for one in list_promised(this.waits, period, promise.targets, waits.KINDS)]
        if loaded.counting is Counting.WORKING
        else []
    )
    figures, explanations = [], []
    for figure in FIGURES:
        value, change = compare(figure, this, other, at)
        told = explain(figure, change, this, age(figure, this, other, at))
        if told is not None:
            parts = [{**asdict(p), "key": _say_key(told.by, p.key)} for p in told.parts]
            explanations.append({**asdict(told), "parts": parts})
        figures.append(
            {
                "name": figure.name,
                "title": figure.title,
                "says": figure.says,
                "unit": figure.unit.value,
                **_show(value),
                "before": _show(change.before),
                "difference": change.difference,
                "difference_low": change.low,
                "difference_high": change.high,
                "stands_out": change.stands_out,
            }
        )
    return {
        "figures": figures,
        "explanations": explanations,
        "unusual": [{**asdict(one), "months": one.months} for one in unusual],
        "days": {"days": this.period.days, **asdict(count_days(this.waits, this.period, at))},
        "week": {**asdict(count_week(this.waits, this.period, at)), "open": measure_open(get_week(promise.hours))},
        "sentiments": asdict(count_sentiments(this.waits, this.period)),
        "moods": [{**asdict(row), "share": _show(row.share)} for row in list_moods(this.waits, this.period)],
        "spread": {**asdict(count_spread(this.waits, this.period)), "promised": promised},
        "breakdowns": [{"by": by, "rows": _list_rows(this, by)} for by in BREAKDOWNS],
    }


def _say_key(by: str, key: int) -> str:
    """A value as the API names it: the word of what has one, else its number."""
    words = BREAKDOWNS.get(by, ())
    return words[key - 1] if words and key else str(key)


def _list_rows(this: PeriodWaits, by: str) -> list[dict[str, Any]]:
    return [
        {
            "key": _say_key(by, row.key),
            "came_in": row.came_in,
            "answers": row.answers,
            "without_reply": row.without_reply,
            "first_half": _show(row.first_half),
            "first_nine": _show(row.first_nine),
            "kept": _show(row.kept),
        }
        for row in break_down(this.waits, this.period, by)
    ]


def _show(value: Value) -> dict[str, Any]:
    return {**asdict(value), "too_few": value.is_too_few}


async def list_standing(house: House, scope: Scope, ask: Ask, now: datetime) -> dict[str, Any]:
    """Where what waited at each day's end stood; None for days that are not over. Raises Invalid."""
    scope.check(Permission.SEE_REPORTS)
    period = _read_period(ask, scope, now)
    over = [at for at in period.list_edges()[1:] if at <= now]
    counted: dict[Phase, list[int]] = {phase: [] for phase in Phase}
    if over:
        loaded = await _load_open(house, scope, ask, period, over)
        counted = await house.reporting.do(lambda: loaded.read_stands().count(len(over)))
    rest = [None] * (period.count - len(over))
    return {
        "days": period.days,
        "rows": [{"phase": phase.value, "open_at_end": [*counted[phase], *rest]} for phase in Phase],
    }


async def _load_open(
    house: House, scope: Scope, ask: Ask, period: Period, instants: Sequence[datetime]
) -> waits.Loaded:
    return await waits.load(
        house,
        scope.workspace_id,
        period.begins,
        period.ends,
        ask.filters,
        ask.clock,
        Opened.ALL_BARE,
        instants,
    )


async def list_doings(house: House, scope: Scope, ask: Ask, now: datetime) -> dict[str, Any]:
    """What was done in a period by rules, approvals, saved replies, links and cases; of the whole workspace. Raises Invalid."""
    scope.check(Permission.SEE_REPORTS)
    period = _read_period(ask, scope, now)
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.list_doings(tx, period.begins, period.ends)


async def list_behind(house: House, scope: Scope, ask: Ask, chosen: Chosen, now: datetime) -> list[int]:
    """The conversations that a figure of a report counts, each once: computed by what counts them."""
    scope.check(Permission.SEE_REPORTS)
    period = _read_period(ask, scope, now)
    if chosen.phase is not None:
        at, phase = get_day_end(period, chosen), chosen.phase
        standing = await _load_open(house, scope, ask, period, [at])
        return await house.reporting.do(lambda: _as_list(standing.read_stands().choose(0, phase)))
    figure = BY_NAME.get(chosen.figure)
    opened = Opened.ALL if figure is None else Opened.BEGUN if figure.at == "since" else Opened.NONE
    loaded = await waits.load(house, scope.workspace_id, period.begins, period.ends, ask.filters, ask.clock, opened)

    return await house.reporting.do(lambda: _as_list(choose(loaded.read(), period, chosen)))


def _as_list(ids: npt.NDArray[np.int64]) -> list[int]:
    found: list[int] = ids.tolist()
    return found


async def list_kept(house: House, scope: Scope) -> list[dict[str, Any]]:
    """Reports that are kept under a name: one's own and shared ones."""
    scope.check(Permission.SEE_REPORTS)
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.list_kept(tx, scope.member_id)


async def keep(house: House, scope: Scope, *, name: str, shared: bool, query: str, now: datetime) -> int:
    """Keep what a report is about under a name; one's own of that name is replaced. Raises Invalid."""
    scope.check(Permission.SEE_REPORTS)
    said = " ".join(name.split())
    if not 1 <= len(said) <= LONGEST_NAME:
        raise Invalid(f"A report has a name of 1 to {LONGEST_NAME} characters.", "name")
    async with house.db.transact(scope.workspace_id) as tx:
        if await store.count_kept(tx, scope.member_id) >= MOST_KEPT:
            raise Invalid(f"A member keeps at most {MOST_KEPT} reports. Forget one first.", "name")
        return await store.add_kept(tx, scope.member_id, name=said, shared=shared, query=query, now=now)


async def forget(house: House, scope: Scope, id: int) -> None:
    """Forget a report of one's own. Raises NotFound."""
    scope.check(Permission.SEE_REPORTS)
    async with house.db.transact(scope.workspace_id) as tx:
        if not await store.delete_kept(tx, scope.member_id, id):
            raise NotFound("There is no such report of yours.")
