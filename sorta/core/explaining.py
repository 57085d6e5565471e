"""What changed, and why: the change of a share taken apart, exactly, into who there was more of and who did otherwise.

The decomposition is Kitagawa's (1955): with w the weight of a part and r its share, the change is the sum over the parts of
(change of w) x (mean of r, against the mean of the whole) and (change of r) x (mean of w). Of a median the share is taken that was
answered within what the median was before. Used by services.reports.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from sorta.core.intervals import TOO_FEW
from sorta.core.periods import get_cells
from sorta.core.reports import Change, Figure, PeriodWaits
from sorta.core.waits import Mask

#: What a change is taken apart by.
BY: tuple[str, ...] = ("account", "kind", "priority", "member", "team", "weekday", "hours")
#: How many parts are named; the others are one.
NAMED = 3


@dataclass(frozen=True, kw_only=True)
class Part:
    """One part's doing in a change: by being more or less of the whole, and by doing otherwise. As shares, not percent."""

    key: int
    mix: float
    rate: float
    cases: int
    cases_before: int

    @property
    def whole(self) -> float:
        """Both together."""
        return self.mix + self.rate


@dataclass(frozen=True, kw_only=True)
class Explanation:
    """A change taken apart by one thing: the parts that did most, and all others; together the change."""

    figure: str
    by: str
    #: Of a median: within how many seconds the share is taken.
    within: float | None
    change: float
    parts: list[Part]
    rest: float


def decompose(keys: npt.NDArray[Any], hits: Mask, keys_before: npt.NDArray[Any], hits_before: Mask) -> list[Part]:
    """The change of a share by the values of a key. Raises ValueError where either has no cases."""
    if not len(keys) or not len(keys_before):
        raise ValueError("a share of nothing has not changed")
    values = np.unique(np.concatenate([keys, keys_before]))

    def count(k: npt.NDArray[Any], h: Mask) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
        at = np.searchsorted(values, k)
        n = np.bincount(at, minlength=len(values)).astype(np.float64)
        return n, np.bincount(at, weights=h.astype(np.float64), minlength=len(values)).astype(np.float64)

    (n1, x1), (n0, x0) = count(keys, hits), count(keys_before, hits_before)
    w1, w0 = n1 / n1.sum(), n0 / n0.sum()
    # A part that was not there, or is not any more, did as all did: what it changes is who there is.
    whole1, whole0 = x1.sum() / n1.sum(), x0.sum() / n0.sum()
    r1, r0 = (
        np.divide(x1, n1, out=np.full(len(n1), np.nan), where=n1 > 0),
        np.divide(x0, n0, out=np.full(len(n0), np.nan), where=n0 > 0),
    )
    r1, r0 = np.where(np.isnan(r1), r0, r1), np.where(np.isnan(r0), r1, r0)
    mean = (whole1 + whole0) / 2
    mix, rate = (w1 - w0) * ((r1 + r0) / 2 - mean), (r1 - r0) * (w1 + w0) / 2
    return [
        Part(key=int(v), mix=float(m), rate=float(r), cases=int(a), cases_before=int(b))
        for v, m, r, a, b in zip(values, mix, rate, n1, n0, strict=True)
    ]


def _get_keys(told: PeriodWaits, mask: Mask, by: str) -> npt.NDArray[Any]:
    if by in ("weekday", "hours"):
        cells = get_cells(told.waits["since"][mask], told.period)
        # Quarters of a day.
        return cells // 24 if by == "weekday" else cells % 24 // 6
    keys: npt.NDArray[Any] = told.waits[by][mask]
    return keys


def explain(figure: Figure, change: Change, this: PeriodWaits, other: PeriodWaits) -> Explanation | None:
    """The breakdown that tells most of a figure's change: the one whose parts of some size explain most of it one by one. None
    where the change may be chance, or cannot be told from few cases."""
    if not change.stands_out or change.before.value is None or (figure.hits is None and figure.quantile is None):
        return None
    within = None if figure.quantile is None else change.before.value
    masks = [figure.pick(t.waits, t.period) for t in (this, other)]

    def get_hits(told: PeriodWaits, mask: Mask) -> Mask:
        if within is not None:
            return np.asarray(told.waits["length"][mask] <= within)
        assert figure.hits is not None
        return figure.hits(told.waits)[mask]

    hits = [get_hits(t, m) for t, m in zip((this, other), masks, strict=True)]
    best: tuple[float, str, list[Part]] | None = None
    whole = float(hits[0].mean() - hits[1].mean())
    for by in BY:
        keys = [_get_keys(t, m, by) for t, m in zip((this, other), masks, strict=True)]
        parts = decompose(keys[0], hits[0], keys[1], hits[1])
        if len(parts) < 2:
            continue
        told = [p for p in parts if min(p.cases, p.cases_before) >= TOO_FEW or abs(p.mix) > abs(p.rate)]
        ordered = sorted(told, key=lambda p: -p.whole * np.sign(whole))
        for n in range(1, min(NAMED, len(parts) - 1, len(ordered)) + 1):
            # How much a few parts explain beyond what as many of so many would if all did alike.
            gain = sum(p.whole for p in ordered[:n]) / whole - n / len(parts) if whole else 0.0
            if best is None or gain > best[0]:
                best = (gain, by, ordered[:n])
    if best is None:
        return None
    _, by, named = best
    return Explanation(
        figure=figure.name,
        by=by,
        within=within,
        change=whole,
        parts=named,
        rest=whole - sum(p.whole for p in named),
    )
