"""Answer spells as columns of numbers, one value a spell: what they hold, and how they are narrowed. Used by core.reports and
services.waits.
"""

from collections.abc import Collection, Mapping
from enum import StrEnum
from typing import Any

import numpy as np
import numpy.typing as npt

from sorta.core.facts import SettledAs
from sorta.core.spells import Ending

Mask = npt.NDArray[np.bool_]
Column = npt.NDArray[Any]

#: What stands for how a spell ended, and for how it was settled, in the columns: the place in these, from 1; 0 is not.
ENDINGS: tuple[Ending, ...] = tuple(Ending)
HOWS: tuple[SettledAs, ...] = tuple(SettledAs)
#: So wide is a language's code in the columns, filled up with spaces.
LANGUAGE_WIDTH = 8


def get_codes(*words: Ending) -> list[int]:
    """What stands for these endings."""
    return [ENDINGS.index(word) + 1 for word in words]


def is_one_of(codes: Column, wanted: Collection[int]) -> Mask:
    """Where a column of small numbers holds one of a few: ten times as quick as looking each one up in a set."""
    mask = np.zeros(len(codes), dtype=np.bool_)
    for code in wanted:
        mask |= codes == code
    return mask


class Counting(StrEnum):
    """How waiting is counted."""

    WORKING = "working"
    CLOCK = "clock"


#: The columns of spells and their types, as a copy has them: i whole numbers, f others, t instants (NaN where there is none), b yes or
#: no, s letters. Instants are told as seconds since 1970, lengths as seconds, NaN where there is none; 0 is nobody or nothing.
#: `clock` and `work` are how long they waited, on the clock and in working time; what follows, how much of it they were parked, in
#: review, waiting for advice and with a case; `handling` is how long writing took.
COLUMNS: Mapping[str, str] = {
    "conversation": "i8",
    "seq": "i4",
    "first": "b1",
    "public": "b1",
    "since": "t8",
    "ended": "t8",
    "ended_by": "i2",
    "how": "i2",
    "member": "i8",
    "owner": "i8",
    "team": "i8",
    "account": "i8",
    "kind": "i2",
    "priority": "i2",
    "sentiment": "i2",
    "language": f"s{LANGUAGE_WIDTH}",
    "clock": "f8",
    "work": "f8",
    "parked": "f4",
    "review": "f4",
    "advice": "f4",
    "case": "f4",
    "handling": "f4",
    "due": "t8",
}
#: The column that says how long they waited as a report counts it.
LENGTHS: Mapping[Counting, str] = {Counting.WORKING: "work", Counting.CLOCK: "clock"}


def make_keys(conversation: Column, seq: Column) -> npt.NDArray[np.int64]:
    """One number for each spell: no trail has a million events."""
    keys: npt.NDArray[np.int64] = conversation.astype(np.int64) * 1_000_000 + seq
    return keys


def as_mask(values: Any) -> Mask:
    """The same as yes or no."""
    return np.asarray(values, dtype=np.bool_)


class Waits:
    """Spells as columns of one length, each taken when it is asked for. What an open one has no value for is NaN, or 0."""

    def __init__(
        self,
        columns: Mapping[str, Column],
        tags: Column | None = None,
        *,
        of: "Waits | None" = None,
        rows: npt.NDArray[np.intp] | None = None,
    ) -> None:
        """`tags` are pairs of a spell's place and a tag. Of others (`of`), only some `rows`, with other `columns` in place of theirs."""
        self._columns, self._tags, self._of, self._rows = dict(columns), tags, of, rows

    def __getitem__(self, name: str) -> Column:
        if name not in self._columns:
            self._columns[name] = self._make(name)
        return self._columns[name]

    def _make(self, name: str) -> Column:
        if self._of is not None:
            return self._of[name] if self._rows is None else self._of[name][self._rows]
        if name != "place":
            raise KeyError(name)
        # The conversations numbered from 0, so that different ones can be counted without sorting each time.
        return np.unique(self["conversation"], return_inverse=True)[1]

    def __len__(self) -> int:
        if self._rows is not None:
            return len(self._rows)
        return len(self["since"])

    @property
    def tags(self) -> Column:
        """Pairs of a spell's place and a tag, one for each tag of each spell."""
        if self._tags is None:
            tags = np.zeros((0, 2), dtype=np.int64) if self._of is None else self._of.tags
            if self._of is not None and self._rows is not None:
                places = np.full(len(self._of), -1, dtype=np.int64)
                places[self._rows] = np.arange(len(self._rows))
                tags = np.column_stack([places[tags[:, 0]], tags[:, 1]])
                tags = tags[tags[:, 0] >= 0]
            self._tags = tags
        return self._tags

    def count_conversations(self) -> int:
        """How many conversations they are of."""
        places = self["place"]
        seen = np.zeros(int(places.max(initial=-1)) + 1, dtype=np.bool_)
        seen[places] = True
        return int(np.count_nonzero(seen))

    def take(self, rows: npt.NDArray[np.intp]) -> "Waits":
        """Those at these places."""
        return Waits({}, of=self, rows=rows)

    def where(self, mask: Mask) -> "Waits":
        """Those for which it holds."""
        return self.take(np.flatnonzero(mask))

    def replace(self, **columns: Column) -> "Waits":
        """The same with other columns in place of theirs."""
        return Waits(columns, of=self)

    def as_of(self, instant: float) -> "Waits":
        """As they were known at an instant: what began later is not there, what ended later is open."""
        known = self.where(as_mask(self["since"] < instant))
        later = known["ended"] > instant
        return known.replace(
            ended=np.where(later, np.nan, known["ended"]), ended_by=np.where(later, 0, known["ended_by"])
        )

    def between(self, begins: float, ends: float) -> "Waits":
        """Those in which somebody waited at some time between two instants."""
        return self.where(as_mask((self["since"] < ends) & ~(self["ended"] < begins)))


def _get_responsible(waits: Waits) -> Column:
    """Who answered or settled it; of what nobody did, who had it."""
    return np.where(waits["member"] != 0, waits["member"], waits["owner"])


def narrow(waits: Waits, filters: Mapping[str, Collection[Any]]) -> Waits:
    """Those that every filter lets through: numbers or codes as the columns have them, by column; `member` is who answered, else
    who had it; `language` a code; `tag` any of these tags; `conversation` any of these."""
    mask = np.ones(len(waits), dtype=np.bool_)
    for name, wanted in filters.items():
        values = list(wanted)
        if name == "member":
            mask &= np.isin(_get_responsible(waits), values)
        elif name == "language":
            mask &= np.isin(waits["language"], [value.ljust(LANGUAGE_WIDTH).encode() for value in values])
        elif name == "tag":
            pairs = waits.tags
            has = np.zeros(len(waits), dtype=np.bool_)
            has[pairs[np.isin(pairs[:, 1], values), 0]] = True
            mask &= has
        else:
            mask &= np.isin(waits[name], values)
    return waits if mask.all() else waits.where(mask)
