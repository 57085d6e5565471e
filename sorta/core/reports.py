"""Figures of reports, from answer spells: what came in, how soon it was answered, what stayed open (docs/metrics.md).

Everything is computed over columns of numbers, one value a spell; nothing is asked of a database or a clock. Checked against
pandas, NumPy and statsmodels in tests/core/test_reports.py. Used by services.reports.
"""

import math
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from scipy import special

from sorta.core.errors import Invalid
from sorta.core.facts import SettledAs
from sorta.core.intervals import (
    TAIL,
    TOO_FEW,
    Share,
    draw_quantiles,
    get_order_interval,
    get_quantile,
    get_share,
    get_share_difference,
)
from sorta.core.periods import Period, get_cells, get_day_numbers, measure_cells
from sorta.core.spells import Ending, Phase
from sorta.core.targets import Priority, Targets, get_audience
from sorta.core.waits import HOWS, Mask, Waits, as_mask, get_codes, is_one_of


class Unit(StrEnum):
    """What a figure is counted in."""

    CASES = "cases"
    SECONDS = "seconds"
    SHARE = "share"


@dataclass(frozen=True, kw_only=True)
class Value:
    """A figure of one period: its value, None where there is nothing to say, with a 95 % interval, and of how many cases and
    conversations it tells."""

    value: float | None
    low: float | None = None
    high: float | None = None
    cases: int
    conversations: int
    #: Of shares: how many of the cases.
    hits: int | None = None
    #: Of lengths of time: their mean, which stands beside the quantile and never alone.
    mean: float | None = None

    @property
    def is_too_few(self) -> bool:
        """Whether nothing should be concluded from it."""
        return self.cases < TOO_FEW


@dataclass(frozen=True, kw_only=True)
class Change:
    """A figure against the period it is compared with: the difference with a 95 % interval, None where either says too little."""

    before: Value
    difference: float | None
    low: float | None
    high: float | None

    @property
    def stands_out(self) -> bool:
        """Whether it is more than chance makes: the interval leaves out nothing having changed."""
        return self.low is not None and self.high is not None and (self.low > 0 or self.high < 0)


Pick = Callable[[Waits, Period], Mask]


def pick_began(waits: Waits, period: Period) -> Mask:
    """Every wait that began in the period."""
    return as_mask((waits["since"] >= period.begins.timestamp()) & (waits["since"] < period.ends.timestamp()))


def _ended(waits: Waits, period: Period) -> Mask:
    return as_mask((waits["ended"] >= period.begins.timestamp()) & (waits["ended"] < period.ends.timestamp()))


def _is_ended_by(waits: Waits, *endings: Ending) -> Mask:
    return is_one_of(waits["ended_by"], get_codes(*endings))


def _is_answer(waits: Waits) -> Mask:
    return _is_ended_by(waits, Ending.ANSWERED, Ending.OUTSIDE)


def _is_settled(waits: Waits, *hows: SettledAs) -> Mask:
    codes = [HOWS.index(how) + 1 for how in hows]
    return as_mask(_is_ended_by(waits, Ending.SETTLED) & is_one_of(waits["how"], codes))


def pick_came_in(waits: Waits, period: Period) -> Mask:
    """Conversations that began in the period: their first spell opened in it."""
    return as_mask(pick_began(waits, period) & (waits["first"] == 1))


def pick_asked(waits: Waits, period: Period) -> Mask:
    """Of those that came in, the ones that asked for an answer: neither settled as needing none, nor as junk, nor taken back."""
    unasked = _is_ended_by(waits, Ending.REMOVED) | _is_settled(waits, SettledAs.NO_REPLY_NEEDED, SettledAs.JUNK)
    return as_mask(pick_came_in(waits, period) & ~unasked)


def got_one(waits: Waits) -> Mask:
    """Those that have been answered, also where that was said by settling them as answered."""
    return as_mask(_is_answer(waits) | _is_settled(waits, SettledAs.ANSWERED))


def pick_first(waits: Waits, period: Period) -> Mask:
    """First answers that went out in the period."""
    return as_mask(pick_answers(waits, period) & (waits["first"] == 1))


def pick_answers(waits: Waits, period: Period) -> Mask:
    """All answers that went out in the period."""
    return as_mask(_ended(waits, period) & _is_answer(waits))


def was_kept(waits: Waits) -> Mask:
    """Those that ended by the instant promised."""
    return as_mask(waits["ended"] <= waits["due"])


def pick_without_reply(waits: Waits, period: Period) -> Mask:
    """What was settled in the period without an answer."""
    return as_mask(_ended(waits, period) & _is_ended_by(waits, Ending.SETTLED))


def pick_handed_over(waits: Waits, period: Period) -> Mask:
    """What was handed over to another desk in the period."""
    return as_mask(_ended(waits, period) & _is_ended_by(waits, Ending.HANDED_OVER))


def pick_open_at(waits: Waits, instant: float) -> Mask:
    """Those in which somebody waited at an instant."""
    return as_mask((waits["since"] < instant) & ~(waits["ended"] <= instant))


@dataclass(frozen=True, kw_only=True)
class Figure:
    """A figure: what it is called, what it says in one sentence, over which spells it is taken, and how."""

    name: str
    title: str
    says: str
    unit: Unit
    pick: Pick
    #: The column of the instant that puts a spell into the period.
    at: str = "ended"
    #: Of a share, which of those picked count.
    hits: Callable[[Waits], Mask] | None = None
    #: Of a length of time, which quantile.
    quantile: float | None = None
    #: Whether it is about what came in, and so grows for a while after the period: it is compared as the other period stood when it
    #: was as old.
    grows: bool = False


FIGURES: tuple[Figure, ...] = (
    Figure(
        name="came_in",
        title="Conversations that came in",
        says="Conversations whose first message of theirs arrived in the period.",
        unit=Unit.CASES,
        pick=pick_came_in,
        at="since",
    ),
    Figure(
        name="answered",
        title="Answered, of those that asked for it",
        says="Of the conversations that came in, without those settled as junk or as needing no reply and those taken back:"
        " the ones whose first wait an answer has ended by now; before, as it stood when that time was as old.",
        unit=Unit.SHARE,
        pick=pick_asked,
        at="since",
        hits=got_one,
        grows=True,
    ),
    Figure(
        name="first_half",
        title="First answer, half within",
        says="Of the first answers that went out in the period, half came within this time of the first message (the median).",
        unit=Unit.SECONDS,
        pick=pick_first,
        quantile=0.5,
    ),
    Figure(
        name="first_nine",
        title="First answer, 9 of 10 within",
        says="Of the first answers that went out in the period, nine of ten came within this time (the 90th percentile, linear).",
        unit=Unit.SECONDS,
        pick=pick_first,
        quantile=0.9,
    ),
    Figure(
        name="kept",
        title="Within its target",
        says="Of all answers that went out in the period, those that were out by the instant their target fell on.",
        unit=Unit.SHARE,
        pick=pick_answers,
        hits=was_kept,
    ),
    Figure(
        name="answers",
        title="Answers",
        says="Waits that an answer ended in the period, by a member, a rule or on the network itself.",
        unit=Unit.CASES,
        pick=pick_answers,
    ),
    Figure(
        name="all_half",
        title="Every answer, half within",
        says="Of all answers that went out in the period, half came within this time of the earliest message they answered.",
        unit=Unit.SECONDS,
        pick=pick_answers,
        quantile=0.5,
    ),
    Figure(
        name="all_nine",
        title="Every answer, 9 of 10 within",
        says="Of all answers that went out in the period, nine of ten came within this time.",
        unit=Unit.SECONDS,
        pick=pick_answers,
        quantile=0.9,
    ),
    Figure(
        name="without_reply",
        title="Settled without a reply",
        says="Waits that ended in the period because somebody, or a rule, settled the conversation without an answer.",
        unit=Unit.CASES,
        pick=pick_without_reply,
    ),
    Figure(
        name="handed_over",
        title="Handed over",
        says="Waits that ended in the period because the matter was handed over to another desk.",
        unit=Unit.CASES,
        pick=pick_handed_over,
    ),
)
BY_NAME: Mapping[str, Figure] = {figure.name: figure for figure in FIGURES}


def measure(figure: Figure, waits: Waits, period: Period) -> Value:
    """A figure over a period."""
    picked = waits.where(figure.pick(waits, period))
    cases, conversations = len(picked), picked.count_conversations()
    if figure.hits is not None:
        share = get_share(int(np.count_nonzero(figure.hits(picked))), cases)
        value = share.hits / share.of if share.of else None
        return Value(
            value=value, low=share.low, high=share.high, cases=cases, conversations=conversations, hits=share.hits
        )
    if figure.quantile is None:
        return Value(value=float(cases), cases=cases, conversations=conversations)
    if cases == 0:
        return Value(value=None, cases=0, conversations=0)
    lengths = np.sort(picked["length"])
    low, high = get_order_interval(lengths, figure.quantile)
    return Value(
        value=get_quantile(lengths, figure.quantile),
        low=low,
        high=high,
        cases=cases,
        conversations=conversations,
        mean=float(np.mean(lengths)),
    )


@dataclass(frozen=True, kw_only=True)
class PeriodWaits:
    """A period and the spells in which somebody waited in it."""

    period: Period
    waits: Waits

    @classmethod
    def choose(cls, waits: Waits, period: Period) -> "PeriodWaits":
        """Those of the period among others."""
        return cls(period=period, waits=waits.between(period.begins.timestamp(), period.ends.timestamp()))


def age(figure: Figure, this: PeriodWaits, other: PeriodWaits, now: float) -> PeriodWaits:
    """What a figure is compared with: of one that grows the other period as it stood when it was as old as this one is."""
    if not figure.grows:
        return other
    then = other.period.begins.timestamp() + now - this.period.begins.timestamp()
    return PeriodWaits(period=other.period, waits=other.waits.as_of(then))


def compare(figure: Figure, this: PeriodWaits, other: PeriodWaits, now: float) -> tuple[Value, Change]:
    """A figure over a period and its change against another one. Where the period is not over `now`, counts are compared over
    the days that are, with as many of the other."""
    value = measure(figure, this.waits, this.period)
    before = measure(figure, age(figure, this, other, now).waits, other.period)
    difference = low = high = None
    if figure.unit is Unit.CASES:
        difference, low, high = _compare_counts(figure, this, other, now)
    elif value.value is not None and before.value is not None and not (value.is_too_few or before.is_too_few):
        difference = value.value - before.value
        if figure.unit is Unit.SHARE:
            low, high = get_share_difference(_get_share(value), _get_share(before))
        elif figure.quantile is not None:
            low, high = _get_quantile_difference(figure, this, other)
    return value, Change(before=before, difference=difference, low=low, high=high)


def _get_share(value: Value) -> Share:
    return get_share(value.hits or 0, value.cases)


def _get_quantile_difference(figure: Figure, this: PeriodWaits, other: PeriodWaits) -> tuple[float, float]:
    if figure.quantile is None:
        raise ValueError(f"{figure.name} is no quantile")
    # The same figures give the same interval.
    chance = np.random.default_rng(1)
    drawn = []
    for one in (this, other):
        lengths = one.waits.where(figure.pick(one.waits, one.period))["length"]
        drawn.append(draw_quantiles(np.sort(lengths), figure.quantile, chance))
    low, high = np.quantile(drawn[0] - drawn[1], [TAIL, 1 - TAIL])
    return float(low), float(high)


def _compare_counts(
    figure: Figure, this: PeriodWaits, other: PeriodWaits, now: float
) -> tuple[float | None, float | None, float | None]:
    """The difference of counts over as many whole days; its interval from how much days differ among themselves (Welch's, by
    Student's distribution), none under five days."""
    days = sum(1 for edge in this.period.list_edges()[1:] if edge.timestamp() <= now)
    days = min(days, other.period.count)
    # A time in which nobody wrote at all is one before there was anything, and says nothing.
    if days == 0 or not len(other.waits):
        return None, None, None
    counts = []
    for one in (this, other):
        picked = one.waits.where(figure.pick(one.waits, one.period))
        numbers = get_day_numbers(picked[figure.at], one.period.list_edges())
        counts.append(np.bincount(numbers, minlength=one.period.count)[:days].astype(np.float64))
    difference = float(counts[0].sum() - counts[1].sum())
    if days < TOO_FEW:
        return difference, None, None
    spread = math.sqrt(days * float(np.var(counts[0], ddof=1) + np.var(counts[1], ddof=1)))
    reach = float(special.stdtrit(2 * days - 2, 1 - TAIL)) * spread
    return difference, difference - reach, difference + reach


@dataclass(frozen=True, kw_only=True)
class Days:
    """Day by day: what came in, what was answered, how many waited when the day ended; None for days that are not over."""

    came_in: list[int]
    answers: list[int]
    without_reply: list[int]
    open_at_end: list[int | None]


def count_days(waits: Waits, period: Period, now: float) -> Days:
    """The counts of each day of a period."""
    edges = period.list_edges()

    def count(mask: Mask, column: str) -> list[int]:
        numbers = get_day_numbers(waits[column][mask], edges)
        return [int(n) for n in np.bincount(numbers, minlength=period.count)[: period.count]]

    since, ended = np.sort(waits["since"]), np.sort(waits["ended"][~np.isnan(waits["ended"])])
    over = [e.timestamp() for e in edges[1:]]
    waiting = [
        int(np.searchsorted(since, at, side="left") - np.searchsorted(ended, at, side="right")) if at <= now else None
        for at in over
    ]
    return Days(
        came_in=count(pick_came_in(waits, period), "since"),
        answers=count(pick_answers(waits, period), "ended"),
        without_reply=count(pick_without_reply(waits, period), "ended"),
        open_at_end=waiting,
    )


#: How a sentiment stands in its column, by what it is called in a report; anything else was not read.
SENTIMENTS: Mapping[str, int] = {"negative": -1, "neutral": 0, "positive": 1}


@dataclass(frozen=True, kw_only=True)
class Sentiments:
    """How those that came in read when their first wait ended, or read now: day by day. What was not read is in none."""

    negative: list[int]
    neutral: list[int]
    positive: list[int]


def count_sentiments(waits: Waits, period: Period) -> Sentiments:
    """The sentiments of each day of a period."""
    came, edges = waits.where(pick_came_in(waits, period)), period.list_edges()
    days = get_day_numbers(came["since"], edges)
    counts = {
        name: np.bincount(days[came["sentiment"] == code], minlength=period.count)[: period.count].tolist()
        for name, code in SENTIMENTS.items()
    }
    return Sentiments(**counts)


@dataclass(frozen=True, kw_only=True)
class MoodRow:
    """How those that came in to one account read: how many of each, and the share of negative ones."""

    key: int
    negative: int
    neutral: int
    positive: int
    share: Value


def list_moods(waits: Waits, period: Period) -> list[MoodRow]:
    """The sentiments by account, those with most that was read first."""
    came = waits.where(pick_came_in(waits, period))
    rows = []
    for account in np.unique(came["account"]).tolist():
        part = came.where(as_mask(came["account"] == account))
        counts = {name: int(np.count_nonzero(part["sentiment"] == code)) for name, code in SENTIMENTS.items()}
        if not (read := sum(counts.values())):
            continue
        share = get_share(counts["negative"], read)
        value = Value(
            value=share.hits / share.of,
            low=share.low,
            high=share.high,
            cases=read,
            conversations=part.where(is_one_of(part["sentiment"], SENTIMENTS.values())).count_conversations(),
            hits=share.hits,
        )
        rows.append(MoodRow(key=account, **counts, share=value))
    return sorted(rows, key=lambda row: (-row.share.cases, row.key))


@dataclass(frozen=True, kw_only=True)
class Week:
    """The hours of the week on the workspace's wall clock, 168 cells from Monday 0: of each how many hours the period has, what
    came in and was answered in it, and the median wait of what was answered in it (seconds; None under five)."""

    hours: list[float]
    came_in: list[int]
    answers: list[int]
    median: list[float | None]


def count_week(waits: Waits, period: Period, now: float) -> Week:
    """The hours of the week in a period."""
    began, answers = pick_came_in(waits, period), waits.where(pick_answers(waits, period))
    arrived = np.bincount(get_cells(waits["since"][began], period), minlength=168)
    cells, lengths = get_cells(answers["ended"], period), answers["length"]
    order = np.lexsort((lengths, cells))
    cells, lengths = cells[order], lengths[order]
    edges = np.searchsorted(cells, np.arange(169))
    median = [get_quantile(lengths[a:b], 0.5) if b - a >= TOO_FEW else None for a, b in pairwise(edges)]
    return Week(
        hours=[float(h) for h in measure_cells(period, now)],
        came_in=[int(n) for n in arrived],
        answers=[int(n) for n in np.diff(edges)],
        median=median,
    )


def measure_arrivals(waits: Waits, period: Period, now: float) -> list[float]:
    """How many waits begin in each hour of the week, an hour that has passed of it."""
    began = get_cells(waits["since"][pick_began(waits, period)], period)
    hours = measure_cells(period, now)
    rates = np.divide(np.bincount(began, minlength=168), hours, out=np.zeros(168), where=hours > 0)
    return [float(rate) for rate in rates]


#: Edges of the bars of a distribution of waiting: a minute to some weeks, each half a doubling (seconds).
BARS: tuple[float, ...] = tuple(60 * 2 ** (n / 2) for n in range(30))


@dataclass(frozen=True, kw_only=True)
class Spread:
    """How long first answers took: bars on a scale of doubling times, the last one open above."""

    edges: list[float]
    counts: list[int]
    #: Of each bar, how many were out by the instant promised.
    kept: list[int]


def count_spread(waits: Waits, period: Period) -> Spread:
    """The distribution of first answers of a period. The first bar holds all below its upper edge."""
    picked = waits.where(pick_first(waits, period))
    which = np.searchsorted(np.asarray(BARS[1:]), picked["length"], side="right")
    kept = was_kept(picked)
    return Spread(
        edges=list(BARS),
        counts=[int(n) for n in np.bincount(which, minlength=len(BARS))],
        kept=[int(n) for n in np.bincount(which[kept], minlength=len(BARS))],
    )


@dataclass(frozen=True, kw_only=True)
class Promised:
    """A target, in seconds of working time, and how many first answers are held to it."""

    seconds: int
    cases: int


def list_promised(waits: Waits, period: Period, targets: Targets, kinds: Sequence[str]) -> list[Promised]:
    """The targets that first answers of a period are held to by their audience and priority, the shortest first; `kinds` are the
    words of the numbers of kinds, from 1."""
    picked = waits.where(pick_first(waits, period))
    counts: Counter[int] = Counter()
    # Each of the three is a small number, so together they are one; counting those needs no sorting.
    numbers = (picked["kind"].astype(np.int64) * 2 + picked["public"]) * len(Priority) + picked["priority"]
    for number, n in enumerate(np.bincount(numbers)):
        if not n:
            continue
        rest, priority = divmod(number, len(Priority))
        kind, public = divmod(rest, 2)
        audience = get_audience(kinds[kind - 1] if kind else "", public=bool(public))
        counts[targets.minutes[audience][Priority(int(priority))]] += int(n)
    return [Promised(seconds=60 * minutes, cases=n) for minutes, n in sorted(counts.items())]


@dataclass(frozen=True, kw_only=True)
class Row:
    """One value of a breakdown: what came in and was answered there, first answers, and the share within target."""

    key: int
    came_in: int
    answers: int
    without_reply: int
    first_half: Value
    first_nine: Value
    kept: Value


def break_down(waits: Waits, period: Period, column: str) -> list[Row]:
    """A period's figures by the values of a column, most first; by `tag` a spell counts for each that it has."""
    rows: list[Row] = []
    spells, values = (waits.tags[:, 0], waits.tags[:, 1]) if column == "tag" else (np.arange(len(waits)), waits[column])
    order = np.argsort(values, kind="stable")
    found, begins = np.unique(values[order], return_index=True)
    groups = zip(found.tolist(), np.split(spells[order], begins)[1:], strict=True)
    for value, which in groups:
        part = waits.take(which)
        row = Row(
            key=value,
            came_in=int(np.count_nonzero(pick_came_in(part, period))),
            answers=int(np.count_nonzero(pick_answers(part, period))),
            without_reply=int(np.count_nonzero(pick_without_reply(part, period))),
            first_half=measure(BY_NAME["first_half"], part, period),
            first_nine=measure(BY_NAME["first_nine"], part, period),
            kept=measure(BY_NAME["kept"], part, period),
        )
        if row.came_in or row.answers or row.without_reply:
            rows.append(row)
    return sorted(rows, key=lambda r: (-r.came_in, -r.answers, r.key))


@dataclass(frozen=True, kw_only=True)
class Chosen:
    """What of a report a list is about: a figure, and where it was taken from a chart the day or the cell of the week."""

    figure: str
    day: int | None = None
    cell: int | None = None
    hits: bool | None = None
    #: Of what was open at a day's end: where it stood then.
    phase: Phase | None = None


def get_day_end(period: Period, chosen: Chosen) -> datetime:
    """When the day that is chosen ended, else the period's last. Raises Invalid for a day that the period does not have."""
    if chosen.day is not None and chosen.day >= period.count:
        raise Invalid(f"The period has {period.count} days, and no day number {chosen.day}.", "report")
    return period.list_edges()[(period.count - 1 if chosen.day is None else chosen.day) + 1]


def choose(waits: Waits, period: Period, chosen: Chosen) -> npt.NDArray[np.int64]:
    """The conversations that a figure counts, each once: of a share those that count (`hits` true), or those that do not.

    Raises Invalid for a day that the period does not have.
    """
    at = get_day_end(period, chosen).timestamp()
    if chosen.figure == "open_at_end":
        return np.unique(waits["conversation"][pick_open_at(waits, at)])
    figure = BY_NAME[chosen.figure]
    mask = figure.pick(waits, period)
    if figure.hits is not None and chosen.hits is not None:
        mask &= figure.hits(waits) == chosen.hits
    column = waits[figure.at]
    if chosen.day is not None:
        numbers = np.full(len(waits), -1)
        numbers[mask] = get_day_numbers(column[mask], period.list_edges())
        mask &= numbers == chosen.day
    if chosen.cell is not None:
        cells = np.full(len(waits), -1)
        cells[mask] = get_cells(column[mask], period)
        mask &= cells == chosen.cell
    return np.unique(waits["conversation"][mask])
