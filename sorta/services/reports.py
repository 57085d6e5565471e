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
from sorta.core.ports import Kind
from sorta.core.reports import (
    COLUMNS,
    ENDINGS,
    FIGURES,
    HOWS,
    Chosen,
    Counting,
    PeriodWaits,
    Value,
    Waits,
    age,
    break_down,
    choose,
    compare,
    count_days,
    count_spread,
    count_week,
)
from sorta.core.unusual import LONGEST_JUDGED, WEEKS, judge_period
from sorta.core.working_time import get_local_midnight
from sorta.networks.abilities import TABLE
from sorta.services.house import House, Scope
from sorta.store import accounts, trail
from sorta.store import reports as store
from sorta.store.db import Conn

#: What a report can be narrowed by.
FILTERS = store.FILTERS
LONGEST_NAME = 60
MOST_KEPT = 100
KINDS: tuple[str, ...] = tuple(kind.value for kind in Kind)
NETWORKS: tuple[str, ...] = tuple(TABLE)
#: What can be broken down, by the column that holds it; words stand for the numbers of those that have them.
BREAKDOWNS: Mapping[str, Sequence[str]] = {
    "account": (),
    "network": NETWORKS,
    "member": (),
    "team": (),
    "kind": KINDS,
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


@dataclass(frozen=True, kw_only=True)
class Loaded:
    """A period with its spells as they came from the database."""

    period: Period
    copied: store.Copied
    #: The place of each account's network in NETWORKS, from 1.
    networks: Mapping[int, int]

    def read(self) -> PeriodWaits:
        """The same to be counted. Takes time, and is for a thread."""
        columns = self.copied.read()
        known = np.array(sorted(self.networks) or [0])
        codes = np.array([self.networks.get(int(id), 0) for id in known], dtype=np.int16)
        columns["network"] = codes[np.searchsorted(known, columns["account"]).clip(max=len(known) - 1)]
        return PeriodWaits(period=self.period, waits=Waits(columns=columns))


async def _load(conn: Conn, scope: Scope, period: Period, ask: Ask) -> Loaded:
    codes = {
        "endings": [e.value for e in ENDINGS],
        "hows": [h.value for h in HOWS],
        "kinds": KINDS,
    }
    copied = await store.load_waits(
        conn,
        scope.workspace_id,
        period.begins,
        period.ends,
        ask.filters,
        codes,
        COLUMNS,
        working=ask.clock is Counting.WORKING,
    )
    networks = {
        row.id: NETWORKS.index(row.network) + 1 for row in await accounts.list_accounts(conn, scope.workspace_id)
    }
    return Loaded(period=period, copied=copied, networks=networks)


async def _load_arrivals(conn: Conn, scope: Scope, period: Period, filters: Mapping[str, Any]) -> store.Copied | None:
    """Of the period and of the weeks that its hours are judged by; None of one too long for that."""
    if period.count > LONGEST_JUDGED:
        return None
    begins = get_local_midnight(period.first - timedelta(days=7 * WEEKS), period.zone)
    return await store.load_arrivals(conn, scope.workspace_id, begins, period.ends, filters)


async def load(conn: Conn, scope: Scope, ask: Ask, now: datetime) -> Loaded:
    """The period that is asked for, with its spells. Raises Invalid."""
    return await _load(conn, scope, _read_period(ask, scope, now), ask)


async def get_report(house: House, scope: Scope, ask: Ask, now: datetime) -> dict[str, Any]:
    """All of a report's page. Raises Invalid for a period that is none."""
    scope.check(Permission.SEE_REPORTS)
    period = _read_period(ask, scope, now)
    compared = get_compared(period, ask.against)
    async with house.db.transact(scope.workspace_id) as conn:
        are_told = await trail.are_spells_told(conn, scope.workspace_id)
        this = await _load(conn, scope, period, ask)
        other = await _load(conn, scope, compared, ask)
        tags = await store.load_tags(conn, scope.workspace_id, period.begins, period.ends, ask.filters)
        arrivals = await _load_arrivals(conn, scope, period, ask.filters)
    figures = await house.reporting.do(_work_out, this, other, tags, arrivals, now)
    return {
        "first": period.first,
        "last": period.last,
        "compared_first": compared.first,
        "compared_last": compared.last,
        "time_zone": scope.zone.key,
        "are_told": are_told,
        **figures,
    }


def _work_out(
    loaded: Loaded,
    compared: Loaded,
    copied_tags: store.Copied,
    arrivals: store.Copied | None,
    now: datetime,
) -> dict[str, Any]:
    this, other, tags, at = loaded.read(), compared.read(), copied_tags.read(), now.timestamp()
    unusual = [] if arrivals is None else judge_period(arrivals.read()["since"], this.period, at)
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
        "week": asdict(count_week(this.waits, this.period, at)),
        "spread": asdict(count_spread(this.waits, this.period)),
        "breakdowns": [{"by": by, "rows": _list_rows(this, by, tags)} for by in BREAKDOWNS],
    }


def _say_key(by: str, key: int) -> str:
    """A value as the API names it: the word of what has one, else its number."""
    words = BREAKDOWNS.get(by, ())
    return words[key - 1] if words and key else str(key)


def _list_rows(this: PeriodWaits, by: str, tags: Mapping[str, npt.NDArray[Any]]) -> list[dict[str, Any]]:
    keys = _pair(this.waits, tags) if by == "tag" else None
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
        for row in break_down(this.waits, this.period, by, keys)
    ]


def _pair(waits: Waits, tags: Mapping[str, npt.NDArray[Any]]) -> npt.NDArray[np.int64]:
    """(row of the spell, tag), for each tag of each spell."""
    order = np.lexsort((waits["seq"], waits["conversation"]))
    have = _make_keys(waits["conversation"][order], waits["seq"][order])
    want = _make_keys(tags["conversation"], tags["seq"])
    at = np.minimum(np.searchsorted(have, want), max(len(have) - 1, 0))
    found = have[at] == want if len(have) else np.zeros(len(want), dtype=bool)
    return np.column_stack([order[at[found]], tags["tag"][found]]).astype(np.int64)


def _make_keys(conversation: npt.NDArray[Any], seq: npt.NDArray[Any]) -> npt.NDArray[np.int64]:
    """One number for each spell: no trail has a million events."""
    keys: npt.NDArray[np.int64] = conversation.astype(np.int64) * 1_000_000 + seq
    return keys


def _show(value: Value) -> dict[str, Any]:
    return {**asdict(value), "too_few": value.is_too_few}


async def list_doings(house: House, scope: Scope, ask: Ask, now: datetime) -> dict[str, Any]:
    """What was done in a period by rules, approvals, saved replies, links and cases; of the whole workspace. Raises Invalid."""
    scope.check(Permission.SEE_REPORTS)
    period = _read_period(ask, scope, now)
    async with house.db.transact(scope.workspace_id) as conn:
        return await store.list_doings(conn, scope.workspace_id, period.begins, period.ends)


async def list_behind(house: House, scope: Scope, ask: Ask, chosen: Chosen, now: datetime) -> list[int]:
    """The conversations that a figure of a report counts, each once: computed by what counts them."""
    scope.check(Permission.SEE_REPORTS)
    async with house.db.transact(scope.workspace_id) as conn:
        loaded = await load(conn, scope, ask, now)

    def find() -> list[int]:
        told = loaded.read()
        found: list[int] = choose(told.waits, told.period, chosen).tolist()
        return found

    return await house.reporting.do(find)


async def list_kept(house: House, scope: Scope) -> list[dict[str, Any]]:
    """Reports that are kept under a name: one's own and shared ones."""
    scope.check(Permission.SEE_REPORTS)
    async with house.db.transact(scope.workspace_id) as conn:
        return await store.list_kept(conn, scope.workspace_id, scope.member_id)


async def keep(house: House, scope: Scope, *, name: str, shared: bool, query: str, now: datetime) -> int:
    """Keep what a report is about under a name; one's own of that name is replaced. Raises Invalid."""
    scope.check(Permission.SEE_REPORTS)
    said = " ".join(name.split())
    if not 1 <= len(said) <= LONGEST_NAME:
        raise Invalid(f"A report has a name of 1 to {LONGEST_NAME} characters.", "name")
    async with house.db.transact(scope.workspace_id) as conn:
        if await store.count_kept(conn, scope.workspace_id, scope.member_id) >= MOST_KEPT:
            raise Invalid(f"A member keeps at most {MOST_KEPT} reports. Forget one first.", "name")
        return await store.add_kept(
            conn, scope.workspace_id, scope.member_id, name=said, shared=shared, query=query, now=now
        )


async def forget(house: House, scope: Scope, id: int) -> None:
    """Forget a report of one's own. Raises NotFound."""
    scope.check(Permission.SEE_REPORTS)
    async with house.db.transact(scope.workspace_id) as conn:
        if not await store.delete_kept(conn, scope.workspace_id, scope.member_id, id):
            raise NotFound("There is no such report of yours.")
