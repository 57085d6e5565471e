"""Figures of reports, each computed a second time with pandas, NumPy, SciPy or statsmodels over spells that chance made, across
both clock changes of a year; and published values (percentiles as NumPy and pandas compute them, Wilson's by Newcombe, 1998)."""

import re
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats
from statsmodels.stats.proportion import confint_proportions_2indep, proportion_confint

from sorta.core.errors import Invalid
from sorta.core.explaining import decompose, explain
from sorta.core.intervals import TOO_FEW, draw_quantiles, get_order_interval, get_quantile
from sorta.core.periods import (
    LONGEST,
    Against,
    Named,
    Period,
    get_cells,
    get_compared,
    get_period,
    measure_cells,
)
from sorta.core.ports import Kind
from sorta.core.reports import (
    BY_NAME,
    FIGURES,
    SENTIMENTS,
    Chosen,
    PeriodWaits,
    Unit,
    break_down,
    choose,
    compare,
    count_days,
    count_sentiments,
    count_spread,
    count_week,
    list_moods,
    list_promised,
    measure,
    pick_came_in,
)
from sorta.core.targets import Audience, Priority, Targets, get_audience
from sorta.core.waits import COLUMNS, ENDINGS, HOWS, Waits, narrow

BERLIN = ZoneInfo("Europe/Berlin")
KINDS = tuple(kind.value for kind in Kind)
#: Zones with clock changes within the periods, half hours, and a change of half an hour (Lord Howe).
ZONES = ["Europe/Berlin", "America/St_Johns", "Asia/Kolkata", "Australia/Lord_Howe", "Pacific/Auckland"]
OCTOBER = Period(first=date(2026, 10, 12), last=date(2026, 11, 8), zone=BERLIN)
MARCH = Period(first=date(2026, 3, 16), last=date(2026, 4, 12), zone=BERLIN)


def make_frame(seed: int, period: Period, n: int = 900) -> pd.DataFrame:
    """Spells by chance, from a week before a period to a week after it; some of them open."""
    chance = np.random.default_rng(seed)
    begins, ends = period.begins.timestamp() - 7 * 86400, period.ends.timestamp() + 7 * 86400
    since = np.floor(chance.uniform(begins, ends, n))
    clock = np.floor(chance.lognormal(8, 1.6, n))
    is_open = chance.random(n) < 0.1
    by = np.where(is_open, 0, chance.integers(1, len(ENDINGS) + 1, n))
    frame = pd.DataFrame(
        {
            "conversation": chance.integers(1, n // 2, n),
            "seq": np.arange(n),
            "first": chance.integers(0, 2, n),
            "since": since,
            "ended": np.where(is_open, np.nan, since + clock),
            "ended_by": by,
            "how": np.where(by == 3, chance.integers(1, 4, n), 0),
            "clock": np.where(is_open, np.nan, clock),
            "work": np.where(is_open, np.nan, np.floor(clock * chance.random(n))),
            "due": since + chance.choice([3600, 14400, 86400], n),
            "account": chance.integers(1, 4, n),
            "priority": chance.integers(0, 4, n),
        }
    )
    for name in COLUMNS:
        if name not in frame:
            frame[name] = 0
    return frame


def to_waits(frame: pd.DataFrame, length: str = "clock") -> Waits:
    kinds = {"t8": "f8", "b1": "i2", "s8": "S8"}
    columns = {name: frame[name].to_numpy().astype(kinds.get(kind, kind)) for name, kind in COLUMNS.items()}
    return Waits({**columns, "length": columns[length]})


def localise(seconds: pd.Series, period: Period) -> pd.Series:
    return pd.to_datetime(seconds, unit="s", utc=True).dt.tz_convert(period.zone.key)


class Reference:
    """The figures told a second time, from docs/metrics.md, with pandas."""

    def __init__(self, frame: pd.DataFrame, period: Period) -> None:
        frame = frame.assign(
            began=localise(frame["since"], period),
            over=localise(frame["ended"], period),
            by=[None if c == 0 else ENDINGS[c - 1].value for c in frame["ended_by"]],
            settled=[None if c == 0 else HOWS[c - 1].value for c in frame["how"]],
        )
        first, last = pd.Timestamp(period.first), pd.Timestamp(period.last)
        began_on, over_on = (frame[c].dt.tz_localize(None).dt.normalize() for c in ("began", "over"))
        self.frame, self.period, self.began_on, self.over_on = frame, period, began_on, over_on
        began, over = began_on.between(first, last), over_on.between(first, last)
        answer = frame["by"].isin(["answered", "outside"])
        came = began & (frame["first"] == 1)
        needless = (frame["by"] == "removed") | (
            (frame["by"] == "settled") & frame["settled"].isin(["no_reply_needed", "junk"])
        )
        got = answer | ((frame["by"] == "settled") & (frame["settled"] == "answered"))
        self.masks = {
            "came_in": came,
            "answered": came & ~needless,
            "first_half": over & answer & (frame["first"] == 1),
            "first_nine": over & answer & (frame["first"] == 1),
            "kept": over & answer,
            "answers": over & answer,
            "all_half": over & answer,
            "all_nine": over & answer,
            "without_reply": over & (frame["by"] == "settled"),
            "handed_over": over & (frame["by"] == "handed_over"),
        }
        self.hits = {"answered": got, "kept": frame["ended"] <= frame["due"]}

    def tell(self, name: str, column: str) -> float:
        picked = self.frame[self.masks[name]]
        if name in self.hits:
            return float(self.hits[name][self.masks[name]].mean())
        if name.endswith(("half", "nine")):
            return float(picked[column].quantile(0.5 if name.endswith("half") else 0.9))
        return float(len(picked))


@pytest.mark.parametrize("period", [OCTOBER, MARCH])
@pytest.mark.parametrize("column", ["work", "clock"])
@pytest.mark.parametrize("seed", range(12))
def test_every_figure_is_what_pandas_says(seed: int, column: str, period: Period) -> None:
    frame = make_frame(seed, period)
    waits, reference = to_waits(frame, column), Reference(frame, period)
    for figure in FIGURES:
        value = measure(figure, waits, period)
        mask = reference.masks[figure.name]
        assert value.value == pytest.approx(reference.tell(figure.name, column), rel=1e-12), figure.name
        if figure.quantile is not None:
            mean = reference.frame[reference.masks[figure.name]][column].mean()
            assert value.mean == pytest.approx(float(mean), rel=1e-12)
        assert value.cases == int(mask.sum())
        assert value.conversations == frame["conversation"][mask].nunique()
        if figure.hits is not None:
            low, high = proportion_confint(value.hits, value.cases, method="wilson")
            assert (value.low, value.high) == pytest.approx((low, high), abs=1e-9)


@pytest.mark.parametrize("seed", range(6))
def test_a_figure_and_its_list_are_as_many(seed: int) -> None:
    frame = make_frame(seed, OCTOBER)
    waits, reference = to_waits(frame), Reference(frame, OCTOBER)
    for figure in FIGURES:
        found = choose(waits, OCTOBER, Chosen(figure=figure.name))
        assert found.tolist() == sorted(set(frame["conversation"][reference.masks[figure.name]])), figure.name
        assert len(found) == measure(figure, waits, OCTOBER).conversations
        if figure.hits is not None:
            for hits in (True, False):
                mask = reference.masks[figure.name] & (reference.hits[figure.name] == hits)
                found = choose(waits, OCTOBER, Chosen(figure=figure.name, hits=hits))
                assert found.tolist() == sorted(set(frame["conversation"][mask]))


@pytest.mark.parametrize("figure", ["came_in", "open_at_end"])
def test_a_day_that_the_period_does_not_have_is_refused(figure: str) -> None:
    waits = to_waits(make_frame(1, OCTOBER))
    assert choose(waits, OCTOBER, Chosen(figure=figure, day=OCTOBER.count - 1)) is not None
    with pytest.raises(Invalid, match="no day number"):
        choose(waits, OCTOBER, Chosen(figure=figure, day=OCTOBER.count))


@pytest.mark.parametrize("period", [OCTOBER, MARCH])
@pytest.mark.parametrize("seed", range(6))
def test_days_and_hours_are_what_pandas_says_and_add_up(seed: int, period: Period) -> None:
    frame = make_frame(seed, period)
    waits, reference, over = to_waits(frame), Reference(frame, period), period.ends.timestamp() + 1
    days, week = count_days(waits, period, over), count_week(waits, period, over)
    dates = pd.date_range(str(period.first), str(period.last))
    came, answers = reference.masks["came_in"], reference.masks["answers"]
    by_day = reference.began_on[came].value_counts().reindex(dates, fill_value=0).sort_index()
    assert days.came_in == by_day.tolist()
    by_day = reference.over_on[answers].value_counts().reindex(dates, fill_value=0).sort_index()
    assert days.answers == by_day.tolist()
    assert sum(days.came_in) == sum(week.came_in) == int(came.sum())
    assert sum(days.answers) == sum(week.answers) == int(answers.sum())
    for n, day in enumerate(dates):
        midnight = (day + pd.Timedelta(days=1)).tz_localize(period.zone.key).timestamp()
        waiting = (frame["since"] < midnight) & ~(frame["ended"] <= midnight)
        assert days.open_at_end[n] == int(waiting.sum())
        assert choose(waits, period, Chosen(figure="open_at_end", day=n)).tolist() == sorted(
            set(frame["conversation"][waiting])
        )
        some = choose(waits, period, Chosen(figure="came_in", day=n))
        assert some.tolist() == sorted(set(frame["conversation"][came & (reference.began_on == day)]))
    told = reference.frame[came]
    cells = told["began"].dt.day_of_week * 24 + told["began"].dt.hour
    assert week.came_in == cells.value_counts().reindex(range(168), fill_value=0).sort_index().tolist()
    done = reference.frame[answers]
    by_cell = done.groupby(done["over"].dt.day_of_week * 24 + done["over"].dt.hour)["clock"]
    for cell, lengths in by_cell:
        assert week.median[cell] == (None if len(lengths) < TOO_FEW else pytest.approx(lengths.median()))
    minutes = {a: {p: 100 * n + p for p in Priority} for n, a in enumerate(Audience, 1)}
    promised = list_promised(waits, period, Targets(minutes=minutes), KINDS)
    held = frame[reference.masks["first_half"]]
    audience = [get_audience(KINDS[k - 1], public=bool(p)) for k, p in zip(held["kind"], held["public"], strict=True)]
    expected = pd.Series(
        [60 * minutes[a][Priority(p)] for a, p in zip(audience, held["priority"], strict=True)], dtype=int
    ).value_counts()
    assert {one.seconds: one.cases for one in promised} == expected.to_dict()
    spread = count_spread(waits, period)
    assert sum(spread.counts) == measure(BY_NAME["first_half"], waits, period).cases


@pytest.mark.parametrize("column", ["account", "priority"])
def test_breakdowns_add_up_to_the_whole_and_each_is_the_figure_of_its_part(column: str) -> None:
    frame = make_frame(3, OCTOBER)
    rows = break_down(to_waits(frame), OCTOBER, column)
    assert sum(r.came_in for r in rows) == measure(BY_NAME["came_in"], to_waits(frame), OCTOBER).cases
    for row in rows:
        part = to_waits(frame[frame[column] == row.key])
        assert row.answers == measure(BY_NAME["answers"], part, OCTOBER).cases
        assert row.kept == measure(BY_NAME["kept"], part, OCTOBER)
    twice = np.array([(n, 7 + n % 2) for n in range(len(frame))])
    tagged = break_down(Waits({}, twice, of=to_waits(frame)), OCTOBER, "tag")
    assert {r.key for r in tagged} == {7, 8}
    assert sum(r.came_in for r in tagged) == sum(r.came_in for r in rows)


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("period", [OCTOBER, MARCH])
def test_sentiments_by_day_and_account_are_those_of_pandas(seed: int, period: Period) -> None:
    chance = np.random.default_rng(seed)
    frame = make_frame(seed, period)
    frame = frame.assign(sentiment=chance.choice([-9, -1, 0, 1], len(frame)))
    waits = to_waits(frame)
    days = localise(frame["since"], period).dt.tz_localize(None).dt.normalize()
    first = (frame["first"] == 1) & days.between(pd.Timestamp(period.first), pd.Timestamp(period.last))
    expected = frame[first].groupby([days[first], frame["sentiment"][first]]).size()
    told = count_sentiments(waits, period)
    for name, code in SENTIMENTS.items():
        by_day = [int(expected.get((pd.Timestamp(day), code), 0)) for day in period.days]
        assert getattr(told, name) == by_day
    rows = list_moods(waits, period)
    for row in rows:
        part = frame[first & (frame["account"] == row.key) & (frame["sentiment"] != -9)]
        assert (row.negative, row.neutral, row.positive) == tuple(
            int((part["sentiment"] == c).sum()) for c in (-1, 0, 1)
        )
        low, high = proportion_confint(row.negative, len(part), method="wilson")
        assert (row.share.low, row.share.high) == (pytest.approx(low), pytest.approx(high))
        assert row.share.conversations == part["conversation"].nunique()
    assert sum(r.negative for r in rows) == sum(told.negative)
    assert list_moods(to_waits(frame.assign(sentiment=-9)), period) == []


@pytest.mark.parametrize("seed", range(5))
def test_spells_are_narrowed_as_pandas_would(seed: int) -> None:
    frame, chance = make_frame(seed, OCTOBER), np.random.default_rng(seed)
    n = len(frame)
    frame = frame.assign(
        member=np.where(chance.random(n) < 0.5, chance.integers(1, 4, n), 0),
        owner=chance.integers(0, 4, n),
        public=chance.integers(0, 2, n),
        language=chance.choice(["de      ", "da      ", "        "], n),
    )
    tags = np.array(
        sorted({(int(a), int(b)) for a, b in zip(chance.integers(0, n, n), chance.integers(1, 4, n), strict=True)})
    )
    waits = Waits({}, tags, of=to_waits(frame))
    who = frame["member"].where(frame["member"] != 0, frame["owner"])
    tagged = frame.index.isin([a for a, b in tags if b == 2])
    asked: list[tuple[dict[str, list[Any]], pd.Series]] = [
        ({"account": [1, 3]}, frame["account"].isin([1, 3])),
        ({"member": [2]}, who == 2),
        ({"language": ["de"]}, frame["language"].str.strip() == "de"),
        ({"tag": [2]}, pd.Series(tagged)),
        ({"public": [False], "tag": [2], "member": [1, 3]}, (frame["public"] == 0) & tagged & who.isin([1, 3])),
        ({"conversation": [5, 7]}, frame["conversation"].isin([5, 7])),
        ({"account": []}, frame["account"] < 0),
    ]
    for filters, expected in asked:
        found = narrow(waits, filters)
        assert found["seq"].tolist() == frame["seq"][expected].tolist(), filters
        # What belongs to a spell goes with it, also when it is narrowed twice.
        again = found.between(OCTOBER.begins.timestamp(), OCTOBER.ends.timestamp())
        told = {(int(again["seq"][row]), int(tag)) for row, tag in again.tags}
        kept = set(again["seq"].tolist())
        assert told == {(int(a), int(b)) for a, b in tags if int(a) in kept}
        still = found.as_of(OCTOBER.begins.timestamp())
        assert not (still["ended"] > OCTOBER.begins.timestamp()).any()


@pytest.mark.parametrize("name", ZONES)
@pytest.mark.parametrize("days", [(date(2026, 3, 1), date(2026, 4, 30)), (date(2026, 9, 20), date(2026, 11, 10))])
def test_cells_of_the_week_are_those_of_the_clock_on_the_wall(name: str, days: tuple[date, date]) -> None:
    period = Period(first=days[0], last=days[1], zone=ZoneInfo(name))
    instants = np.arange(period.begins.timestamp(), period.ends.timestamp(), 600)
    local = localise(pd.Series(instants), period)
    assert get_cells(instants, period).tolist() == (local.dt.day_of_week * 24 + local.dt.hour).tolist()
    hours = measure_cells(period, period.ends.timestamp())
    assert hours.sum() == (period.ends - period.begins).total_seconds() / 3600
    assert measure_cells(period, period.begins.timestamp() + 7200).sum() == 2


def test_an_hour_that_is_skipped_has_no_time_and_one_that_comes_twice_has_two() -> None:
    """Berlin: 29 March 2026 has no hour 2, 25 October 2026 has it twice (zone database)."""
    for day, hours in ((date(2026, 3, 29), 0), (date(2026, 10, 25), 2)):
        period = Period(first=day, last=day, zone=BERLIN)
        cells = measure_cells(period, period.ends.timestamp())
        assert cells[6 * 24 + 2] == hours
        assert cells.sum() == 24 + hours - 1


def test_published_percentiles_and_numpys() -> None:
    values = np.array([3, 7, 8, 12, 15, 20, 60, 240, 1440], dtype=float)
    assert (get_quantile(values, 0.5), get_quantile(values, 0.9)) == pytest.approx((15, 480))


@settings(max_examples=200, deadline=None)
@given(st.lists(st.floats(0, 1e7), min_size=1, max_size=80), st.sampled_from([0.5, 0.9]))
def test_quantiles_are_numpys_and_lie_in_their_interval(values: list[float], q: float) -> None:
    ordered = np.sort(np.array(values))
    assert get_quantile(ordered, q) == pytest.approx(float(np.quantile(ordered, q)), rel=1e-9, abs=1e-6)
    low, high = get_order_interval(ordered, q)
    assert low in ordered
    assert high in ordered
    assert low <= high


@pytest.mark.parametrize("q", [0.5, 0.9])
@pytest.mark.parametrize("n", [40, 300])
def test_the_intervals_hold_what_they_promise(q: float, n: int) -> None:
    """Of 2,000 samples of a known distribution at least 95 % (within chance) hold its quantile; SciPy's own order-statistic
    interval says the same bounds."""
    chance, held = np.random.default_rng(n), 0
    truth = float(stats.lognorm.ppf(q, 1.2))
    for _ in range(2000):
        low, high = get_order_interval(np.sort(chance.lognormal(0, 1.2, n)), q)
        held += low <= truth <= high
    assert held / 2000 > 0.935
    sample = np.sort(chance.lognormal(0, 1.2, n))
    theirs = stats.quantile_test(sample, p=q).confidence_interval(confidence_level=0.95)
    ours = get_order_interval(sample, q)
    ranks = [int(np.searchsorted(sample, v)) for v in (*ours, theirs.low, theirs.high)]
    assert abs(ranks[0] - ranks[2]) <= 1
    assert abs(ranks[1] - ranks[3]) <= 1


def test_drawn_quantiles_are_spread_like_those_of_resamples() -> None:
    chance = np.random.default_rng(5)
    sample = np.sort(chance.lognormal(0, 1, 200))
    drawn = draw_quantiles(sample, 0.9, chance)
    resampled = np.quantile(chance.choice(sample, (4000, 200)), 0.9, axis=1)
    assert np.mean(drawn) == pytest.approx(np.mean(resampled), rel=0.05)
    assert np.std(drawn) == pytest.approx(np.std(resampled), rel=0.15)


def test_a_difference_of_shares_is_newcombes() -> None:
    """statsmodels' `confint_proportions_2indep(method='newcomb')`, over chance's shares."""
    for seed in range(8):
        one, other = (
            PeriodWaits(period=p, waits=to_waits(make_frame(seed + k, p))) for k, p in ((0, OCTOBER), (50, MARCH))
        )
        value, change = compare(BY_NAME["kept"], one, other, OCTOBER.ends.timestamp())
        assert value.hits is not None
        low, high = confint_proportions_2indep(
            value.hits, value.cases, change.before.hits, change.before.cases, method="newcomb"
        )
        assert (change.low, change.high) == pytest.approx((low, high), abs=1e-9)


def test_what_has_not_changed_seldom_stands_out_and_what_has_does() -> None:
    """Of figures of the same world in two periods about one in twenty stands out by chance; a wait twice as long does."""
    stood, asked = 0, 0
    before = get_compared(OCTOBER, Against.BEFORE)
    for seed in range(60):
        one = PeriodWaits(period=OCTOBER, waits=to_waits(make_frame(seed, OCTOBER, 700)))
        other = PeriodWaits(period=before, waits=to_waits(make_frame(seed + 1000, before, 700)))
        for name in ("came_in", "answered", "first_half", "first_nine", "kept"):
            _, change = compare(BY_NAME[name], one, other, OCTOBER.ends.timestamp())
            stood, asked = stood + change.stands_out, asked + 1
    assert stood / asked < 0.09
    slower = make_frame(1, OCTOBER, 700).assign(clock=lambda f: f["clock"] * 2.5)
    _, change = compare(
        BY_NAME["first_half"],
        PeriodWaits(period=OCTOBER, waits=to_waits(slower)),
        PeriodWaits(period=before, waits=to_waits(make_frame(2, before, 700))),
        OCTOBER.ends.timestamp(),
    )
    assert change.stands_out
    assert change.difference is not None
    assert change.difference > 0


def test_few_cases_conclude_nothing_and_none_is_no_number() -> None:
    empty = to_waits(make_frame(1, OCTOBER, 20).iloc[:0])
    for figure in FIGURES:
        value = measure(figure, empty, OCTOBER)
        assert value.value == (0 if figure.unit is Unit.CASES else None)
        assert value.is_too_few
    assert break_down(empty, OCTOBER, "account") == []
    few = to_waits(make_frame(1, OCTOBER, 12))
    told = PeriodWaits(period=OCTOBER, waits=few)
    _, change = compare(BY_NAME["first_half"], told, PeriodWaits.choose(empty, MARCH), 0.0)
    assert (change.difference, change.stands_out) == (None, False)


def test_a_period_that_is_not_over_is_compared_over_the_days_that_are() -> None:
    week = Period(first=date(2026, 10, 5), last=date(2026, 10, 11), zone=BERLIN)
    before = get_compared(week, Against.BEFORE)
    rows = [(period.begins + timedelta(days=n, hours=5)).timestamp() for period in (week, before) for n in range(7)]
    frame = make_frame(1, week, 14).assign(since=rows, first=1)
    now = datetime(2026, 10, 8, 12, tzinfo=UTC).timestamp()
    frame = frame[frame["since"] < now]
    one, other = (PeriodWaits(period=p, waits=to_waits(frame)) for p in (week, before))
    _, change = compare(BY_NAME["came_in"], one, other, now)
    assert change.difference == 0
    assert count_days(one.waits, week, now).open_at_end[3:] == [None] * 4
    assert int(np.count_nonzero(pick_came_in(one.waits, week))) == 4


TODAY = date(2026, 11, 28)


@pytest.mark.parametrize(
    ("named", "first", "last"),
    [
        (Named.TODAY, (11, 28), (11, 28)),
        (Named.YESTERDAY, (11, 27), (11, 27)),
        (Named.THIS_WEEK, (11, 23), (11, 28)),
        (Named.LAST_WEEK, (11, 16), (11, 22)),
        (Named.THIS_MONTH, (11, 1), (11, 28)),
        (Named.LAST_MONTH, (10, 1), (10, 31)),
        (Named.DAYS_7, (11, 22), (11, 28)),
        (Named.DAYS_28, (11, 1), (11, 28)),
        (Named.DAYS_90, (8, 31), (11, 28)),
    ],
)
def test_periods_by_their_name(named: Named, first: Any, last: Any) -> None:
    period = get_period(named, TODAY, BERLIN)
    assert (period.first, period.last) == (date(2026, *first), date(2026, *last))


def test_what_periods_are_compared_with() -> None:
    week = get_period(Named.LAST_WEEK, TODAY, BERLIN)
    days = {a: (get_compared(week, a).first, get_compared(week, a).last) for a in Against}
    assert days == {
        Against.BEFORE: (date(2026, 11, 9), date(2026, 11, 15)),
        Against.WEEK: (date(2026, 11, 9), date(2026, 11, 15)),
        Against.MONTH: (date(2026, 10, 16), date(2026, 10, 22)),
        Against.YEAR: (date(2025, 11, 16), date(2025, 11, 22)),
    }
    leap = Period(first=date(2028, 2, 29), last=date(2028, 3, 31), zone=BERLIN)
    assert get_compared(leap, Against.YEAR).first == date(2027, 2, 28)
    assert get_compared(leap, Against.MONTH).last == date(2028, 2, 29)


def test_an_exact_period_that_is_none_is_refused_with_a_reason() -> None:
    for first, last in ((None, None), (date(2026, 2, 1), date(2026, 1, 1)), (date(2020, 1, 1), date(2026, 1, 1))):
        with pytest.raises(Invalid):
            get_period(Named.EXACT, TODAY, BERLIN, first, last)
    whole = get_period(Named.EXACT, TODAY, BERLIN, date(2026, 1, 1), date(2026, 1, 1) + timedelta(days=LONGEST - 1))
    edges = whole.list_edges()
    assert len(edges) == LONGEST + 1
    assert {(b - a).total_seconds() / 3600 for a, b in pairwise(edges)} == {23, 24, 25}


def test_a_change_is_exactly_what_its_parts_did() -> None:
    """Property of Kitagawa's decomposition: mix and rate of all parts add up to the change."""
    for seed in range(200):
        chance = np.random.default_rng(seed)
        sides = []
        for _ in range(2):
            n = int(chance.integers(1, 400))
            keys = chance.integers(0, int(chance.integers(1, 9)), n)
            sides.append((keys, chance.random(n) < chance.random(9)[keys]))
        parts = decompose(*sides[0], *sides[1])
        whole = sides[0][1].mean() - sides[1][1].mean()
        assert sum(p.whole for p in parts) == pytest.approx(whole, abs=1e-12)


def test_simpsons_paradox_is_told_apart() -> None:
    """Every part does better, and the whole does worse, for there is more of the harder part (the kidney stones of Charig et al.,
    1986, figures from memory: 81/87 and 192/263 against 234/270 and 55/80)."""

    def make(small: tuple[int, int], large: tuple[int, int]) -> tuple[Any, Any]:
        keys = np.array([0] * small[1] + [1] * large[1])
        hits = np.concatenate([np.arange(small[1]) < small[0], np.arange(large[1]) < large[0]])
        return keys, hits

    parts = decompose(*make((81, 87), (192, 263)), *make((234, 270), (55, 80)))
    assert sum(p.whole for p in parts) == pytest.approx(273 / 350 - 289 / 350)
    assert all(p.rate > 0 for p in parts)
    assert sum(p.mix for p in parts) < 0


def test_what_tells_most_of_a_change_is_found_and_nothing_is_made_up() -> None:
    before = get_compared(OCTOBER, Against.BEFORE)
    other = PeriodWaits(period=before, waits=to_waits(make_frame(7, before)))
    frame = make_frame(8, OCTOBER)
    slow = frame.assign(clock=np.where(frame["account"] == 2, frame["clock"] * 12, frame["clock"]))
    this = PeriodWaits(period=OCTOBER, waits=to_waits(slow))
    figure, now = BY_NAME["first_half"], OCTOBER.ends.timestamp()
    _, change = compare(figure, this, other, now)
    told = explain(figure, change, this, other)
    assert told is not None
    assert (told.by, told.parts[0].key) == ("account", 2)
    assert sum(p.whole for p in told.parts) + told.rest == pytest.approx(told.change)
    same = PeriodWaits(period=OCTOBER, waits=to_waits(make_frame(7, OCTOBER)))
    _, change = compare(figure, same, other, now)
    assert explain(figure, change, same, other) is None


def test_what_grows_is_compared_as_it_stood_when_it_was_as_old() -> None:
    """The same week twice, the second not over: what has not been answered yet is no worse than the other was by then."""
    week = Period(first=date(2026, 10, 5), last=date(2026, 10, 11), zone=BERLIN)
    before = get_compared(week, Against.BEFORE)
    frame = make_frame(4, before, 2000)
    shift = week.begins.timestamp() - before.begins.timestamp()
    later = frame.assign(since=frame["since"] + shift, ended=frame["ended"] + shift, due=frame["due"] + shift)
    now = week.begins.timestamp() + 3.4 * 86400
    one = PeriodWaits(period=week, waits=to_waits(later).as_of(now))
    other = PeriodWaits(period=before, waits=to_waits(frame))
    value, change = compare(BY_NAME["answered"], one, other, now)
    assert value == change.before
    whole = measure(BY_NAME["answered"], other.waits, before)
    assert whole.cases > value.cases


def test_the_page_has_words_for_the_list_of_every_figure() -> None:
    page = (Path(__file__).parents[2] / "web" / "src" / "lib" / "reports.ts").read_text()
    listed = re.search(r"export const LISTED[^{]*\{(.*?)\n\}", page, re.DOTALL)
    assert listed is not None
    assert set(re.findall(r"^  (\w+):", listed[1], re.MULTILINE)) == {f.name for f in FIGURES} | {"open_at_end"}
