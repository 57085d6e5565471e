"""Where what waits stood, day by day: what was open at each day's end, by its phase. Used by services.reports.

Everything is computed over columns of numbers, as in `core.reports`. Checked against `core.spells.get_phase_at` in
tests/core/test_stands.py.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from sorta.core.spells import Phase
from sorta.core.waits import Column, Waits, as_mask, make_keys

#: What stands for a phase in the columns: its place in these, from 1.
PHASES: tuple[Phase, ...] = tuple(Phase)
#: The columns of stretches and their types, as `core.waits.COLUMNS`: each since when a spell stood where, in their order (`place`).
STRETCHES: Mapping[str, str] = {"conversation": "i8", "seq": "i4", "place": "i4", "phase": "i2", "begun": "t8"}


@dataclass(frozen=True)
class Stands:
    """Stretches of spells as days' ends see them: each from the number of the first end at which it stands to before that of another."""

    conversation: Column
    phase: Column
    first: npt.NDArray[np.int64]
    after: npt.NDArray[np.int64]

    @classmethod
    def read(cls, waits: Waits, stretches: Mapping[str, Column], ends: Sequence[float]) -> "Stands":
        """Of these spells, by their stretches (see STRETCHES); what belongs to others is left out. `ends` are instants, rising."""
        keys = make_keys(waits["conversation"], waits["seq"])
        order = np.argsort(keys)
        found = make_keys(stretches["conversation"], stretches["seq"])
        at = np.searchsorted(keys, found, sorter=order).clip(max=max(len(keys) - 1, 0))
        known = as_mask(keys[order[at]] == found) if len(keys) else np.zeros(len(found), dtype=np.bool_)
        rows = np.flatnonzero(known)
        rows = rows[np.lexsort((stretches["place"][rows], found[rows]))]
        spell, begun, mine = order[at[rows]], stretches["begun"][rows], found[rows]
        ended = waits["ended"][spell]
        over = np.where(np.isnan(ended), np.inf, ended)
        is_first = np.concatenate([np.ones(min(len(mine), 1), dtype=bool), mine[1:] != mine[:-1]])
        until = _list_ends(np.cumsum(is_first) - 1, begun, over)
        edges = np.asarray(ends)
        opened = np.searchsorted(edges, waits["since"][spell], side="right")
        first = np.where(is_first, opened, np.maximum(opened, np.searchsorted(edges, begun, side="left")))
        after = np.minimum(np.searchsorted(edges, until, side="left"), np.searchsorted(edges, over, side="left"))
        stands = after > first
        return cls(
            waits["conversation"][spell][stands],
            stretches["phase"][rows][stands],
            first[stands].astype(np.int64),
            after[stands].astype(np.int64),
        )

    def count(self, days: int) -> dict[Phase, list[int]]:
        """How many stood where at each of so many ends."""
        counted = {}
        for code, phase in enumerate(PHASES, 1):
            mine = as_mask(self.phase == code)
            change = np.bincount(self.first[mine], minlength=days + 1) - np.bincount(
                self.after[mine], minlength=days + 1
            )
            counted[phase] = [int(n) for n in np.cumsum(change)[:days]]
        return counted

    def choose(self, day: int, phase: Phase) -> npt.NDArray[np.int64]:
        """The conversations that stood there at the end of that number, each once."""
        mine = as_mask((self.phase == PHASES.index(phase) + 1) & (self.first <= day) & (self.after > day))
        found: npt.NDArray[np.int64] = np.unique(self.conversation[mine])
        return found


def _list_ends(spell: npt.NDArray[np.int64], begun: Column, over: Column) -> Column:
    """When each stretch ended: when any later one of its spell began, else when that was over. Stretches of a spell follow each other."""
    until = over.copy()
    left = np.bincount(spell)[spell] - _number_within(spell) - 1
    for n in range(1, int(left.max(initial=0)) + 1):
        rows = np.flatnonzero(left == n)
        until[rows] = np.minimum(begun[rows + 1], until[rows + 1])
    return until


def _number_within(spell: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    numbers: npt.NDArray[np.int64] = np.arange(len(spell)) - np.searchsorted(spell, spell)
    return numbers
