"""A workspace's own reading: learned from the written texts and from what its members said of messages here; when it is learned
anew, what of it is kept for checking, and whether it takes over. Used by services.own_reading and services.lessons.
"""

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Protocol

from sorta.core.learned import LABELS

#: Of so few messages nothing is learned; and so many new ones there must be since the last time.
FEWEST, FEWEST_NEW = 20, 10
#: The latest that are learned from, and what one counts beside one of the written texts.
MOST, COUNTS = 2000, 3.0
#: Macro-F1 on the texts set aside moves so much by chance alone when a score of texts is added: less is no worse.
NO_WORSE_BY = 0.005
_TOLD = 5


@dataclass(frozen=True, kw_only=True)
class Told:
    """What members say of one message of theirs: any of LABELS, and one of TONES."""

    message: int
    text: str
    labels: frozenset[str]
    tone: str

    @property
    def is_kept(self) -> bool:
        """Whether it is kept for checking, and never learned from: half of them, always the same ones."""
        return hashlib.sha256(f"kept:{self.message}".encode()).digest()[0] % 2 == 0


@dataclass(frozen=True, kw_only=True)
class Marks:
    """How a reading did: of the texts set aside the macro-F1 over LABELS, and which of the messages kept it read right."""

    f1: float
    right: frozenset[int]


@dataclass(frozen=True, kw_only=True)
class Comparison:
    """The reading there was and the new one, on the same texts. `learned` messages were learned from, `kept` ones kept for checking;
    `better` and `worse` are the first of these that are read right only now, and only before."""

    learned: int
    kept: int
    before: Marks
    after: Marks
    better: tuple[int, ...] = field(default=())
    worse: tuple[int, ...] = field(default=())

    @property
    def takes_over(self) -> bool:
        """Whether the new one is better here, and no worse elsewhere."""
        return len(self.after.right) > len(self.before.right) and self.after.f1 >= self.before.f1 - NO_WORSE_BY


@dataclass(frozen=True, kw_only=True)
class Taught:
    """New weights, how they compare to those there were, and the hash of the texts they were learned with."""

    weights: bytes
    compared: Comparison
    based_on: str


class CannotLearn(Exception):
    """Learning did not come to an end; the sentence says why."""


class Teacher(Protocol):
    """Learns a workspace's own reading, beside whatever else goes on; nothing here waits for it but the clock's own duty."""

    async def learn(self, told: Sequence[Told], present: bytes | None) -> Taught:
        """From the written texts and what members say here. `present` are the weights that messages are read by here, None where
        these are everybody's. Raises CannotLearn."""
        ...


def compare(told: Sequence[Told], before: Marks, after: Marks) -> Comparison:
    """Set the marks of two readings side by side."""
    kept = [t.message for t in told if t.is_kept]
    return Comparison(
        learned=len(told) - len(kept),
        kept=len(kept),
        before=before,
        after=after,
        better=tuple(m for m in kept if m in after.right and m not in before.right)[:_TOLD],
        worse=tuple(m for m in kept if m in before.right and m not in after.right)[:_TOLD],
    )


def is_due(said: int, last: int | None, *, is_other_base: bool = False) -> bool:
    """Whether to learn anew, of `said` messages; `last` is how many there were the last time, whatever became of it. Texts
    that have changed since (`is_other_base`) are reason enough."""
    if said < FEWEST:
        return False
    return last is None or is_other_base or said - last >= FEWEST_NEW


def mark(told: Sequence[Told], read: Sequence[frozenset[str]], f1: float) -> Marks:
    """The marks of a reading that reads the messages kept, in their order, as `read`."""
    kept = [t for t in told if t.is_kept]
    return Marks(f1=f1, right=frozenset(t.message for t, labels in zip(kept, read, strict=True) if labels == t.labels))


def get_macro_f1(read: Sequence[frozenset[str]], held: Sequence[frozenset[str]]) -> float:
    """The mean over LABELS of the F1 of what was read against what held; a label that neither has is left out. 0 to 1."""
    found = []
    for label in LABELS:
        hit = sum(label in r and label in h for r, h in zip(read, held, strict=True))
        of = sum(label in r for r in read) + sum(label in h for h in held)
        if of:
            found.append(2 * hit / of)
    return sum(found) / len(found) if found else 0.0
