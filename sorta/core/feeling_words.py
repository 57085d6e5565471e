"""Words that mean much the same in every language: gladness, trouble, waiting, asking, ...; which follow which, and some of them
counted in a text as plain facts. Used by core.pieces, core.learned and core.learning.

The lists are written for this (texts/words), by language and by what they mean; `word*` stands for every word that begins so. What is
learned of a meaning in one language holds in all. Where the language of a text is not known, the words of all languages are looked
for, but for forms that mean one thing here and another there.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import TypeAlias

from sorta.core.words import fold

#: Meanings that are counted as plain facts.
_FACTS = (
    "glad", "sad", "trouble", "not", "wait", "time", "again", "nobody", "money", "broken", "dirt", "promise", "ask", "please", "book",
    "thanks", "staff", "family", "spam", "but", "very", "we", "you",
)  # fmt: skip
#: All meanings; those that say little by themselves say something by what stands beside them: "still" before "nobody", "if" before "glad".
KINDS = (
    *_FACTS, "still", "only", "if", "will", "was", "must", "can", "want", "say", "think", "because", "than", "until", "they", "all", "find",
    "go", "give", "open", "big", "small", "maybe", "this", "work", "thing", "food", "ride", "weather", "number", "paper", "health",
)  # fmt: skip
#: Meanings that say more together than each alone.
_TOGETHER = (
    ("time", "wait"), ("again", "trouble"), ("again", "broken"), ("not", "glad"), ("not", "broken"), ("but", "glad"), ("but", "sad"),
    ("staff", "glad"), ("staff", "sad"), ("nobody", "promise"), ("family", "glad"), ("money", "trouble"), ("very", "glad"), ("very", "sad"),
    ("please", "book"), ("ask", "book"),
)  # fmt: skip
COUNTED = (
    *(f"some {kind}" for kind in _FACTS), *(f"much {kind}" for kind in _FACTS), *(f"{a} with {b}" for a, b in _TOGETHER),
    "glad denied", "sad denied", "more glad than sad", "more sad than glad", "begins asking",
)  # fmt: skip
_ANY = ""
#: So far before a word stands what denies it, in words.
_REACH = 3
_MUCH = 3
_NOTHING: frozenset[str] = frozenset()
#: So many words are remembered by language with what they mean; most words of a message are among the commonest thousands.
_REMEMBERED = 20_000
#: What a word means, any of KINDS.
Lookup: TypeAlias = Callable[[str], frozenset[str]]


@dataclass(frozen=True)
class FeelingWords:
    """The lists of each language: by language, by kind, the words."""

    lists: Mapping[str, Mapping[str, tuple[str, ...]]]
    _lookups: dict[str, Lookup] = field(default_factory=dict, init=False, compare=False)

    def __post_init__(self) -> None:
        means: dict[str, dict[str, set[str]]] = {}
        for language, kinds in self.lists.items():
            said = [(word, kind) for kind in KINDS for word in kinds.get(kind, ())]
            self._lookups[language] = _make_lookup(said)
            for word, kind in said:
                means.setdefault(fold(word), {}).setdefault(language, set()).add(kind)
        agreed = [
            (word, kind)
            for word, by_language in means.items()
            for kind in set.intersection(*by_language.values())
            if len(by_language) == 1 or len({frozenset(k) for k in by_language.values()}) == 1
        ]
        self._lookups[_ANY] = _make_lookup(agreed)

    def mean(self, forms: Sequence[str], language: str | None) -> list[frozenset[str]]:
        """What each word of a text means, any of KINDS; nothing in a language without lists."""
        lookup = self._lookups.get(language or _ANY)
        return [lookup(form) if lookup else _NOTHING for form in forms]


def count_meanings(meant: Sequence[frozenset[str]]) -> list[float]:
    """The facts of COUNTED for what the words of a text mean, each 0 to 1."""
    counts = dict.fromkeys(KINDS, 0)
    denied = {"glad": 0, "sad": 0}
    for n, kinds in enumerate(meant):
        for kind in kinds:
            if kind in denied and any("not" in before for before in meant[max(0, n - _REACH) : n]):
                denied[kind] += 1
            else:
                counts[kind] += 1
    return [
        *(float(counts[kind] > 0) for kind in _FACTS),
        *(min(1.0, counts[kind] / _MUCH) for kind in _FACTS),
        *(float(counts[a] > 0 and counts[b] > 0) for a, b in _TOGETHER),
        float(denied["glad"] > 0),
        float(denied["sad"] > 0),
        float(counts["glad"] > counts["sad"]),
        float(counts["sad"] > counts["glad"]),
        float(bool(meant) and "ask" in meant[0]),
    ]


def _make_lookup(words: Sequence[tuple[str, str]]) -> Lookup:
    whole: dict[str, frozenset[str]] = {}
    begins: dict[str, frozenset[str]] = {}
    for word, kind in words:
        into = begins if word.endswith("*") else whole
        form = fold(word.rstrip("*"))
        into[form] = into.get(form, _NOTHING) | {kind}

    @lru_cache(_REMEMBERED)
    def look_up(word: str) -> frozenset[str]:
        form = fold(word)
        found = whole.get(form, _NOTHING)
        for end in range(2, len(form) + 1):
            found |= begins.get(form[:end], _NOTHING)
        return found

    return look_up
