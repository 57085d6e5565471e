"""Words that say how somebody feels, or that something went wrong: counted in a text as plain facts. Used by core.pieces.

The lists are written for this (texts/words), by language; `word*` stands for every word that begins so. Where the language of a text is
not known those of all languages are looked for, but for forms that say one thing here and another there.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from sorta.core.words import fold

KINDS = ("glad", "sad", "trouble", "not")
COUNTED = (
    "glad words", "sad words", "words of trouble", "glad words denied", "sad words denied", "any glad", "any sad", "any trouble",
    "more glad than sad", "more sad than glad",
)  # fmt: skip
_ANY = ""
#: So far before a word stands what denies it, in words.
_REACH = 3


@dataclass(frozen=True)
class _Forms:
    whole: Mapping[str, str]
    begins: Mapping[str, str]

    def get_kind(self, form: str) -> str | None:
        kind = self.whole.get(form)
        if kind is None:
            for end in range(len(form), 1, -1):
                kind = self.begins.get(form[:end])
                if kind is not None:
                    break
        return kind


@dataclass(frozen=True)
class FeelingWords:
    """The lists of each language: by language, by kind, the words."""

    lists: Mapping[str, Mapping[str, tuple[str, ...]]]
    _forms: dict[str, _Forms] = field(default_factory=dict, init=False, compare=False)

    def __post_init__(self) -> None:
        for language, kinds in self.lists.items():
            self._forms[language] = _make_forms([(word, kind) for kind in KINDS for word in kinds.get(kind, ())])
        said = [(word, kind) for kinds in self.lists.values() for kind in KINDS for word in kinds.get(kind, ())]
        kinds_of: dict[str, set[str]] = {}
        for word, kind in said:
            kinds_of.setdefault(fold(word), set()).add(kind)
        self._forms[_ANY] = _make_forms([(word, kind) for word, kind in said if len(kinds_of[fold(word)]) == 1])

    def count(self, forms: Sequence[str], language: str | None) -> list[float]:
        """The facts of COUNTED for the words of a text, each 0 to 1."""
        known = self._forms.get(language or _ANY)
        if known is None:
            return [0.0] * len(COUNTED)
        found = [known.get_kind(fold(form)) for form in forms]
        counts = dict.fromkeys(("glad", "sad", "trouble", "not glad", "not sad"), 0)
        for n, kind in enumerate(found):
            if kind in ("glad", "sad") and "not" in found[max(0, n - _REACH) : n]:
                counts[f"not {kind}"] += 1
            elif kind in counts:
                counts[kind or ""] += 1
        glad, sad, trouble = counts["glad"], counts["sad"], counts["trouble"]
        return [
            min(1.0, glad / 3),
            min(1.0, sad / 3),
            min(1.0, trouble / 4),
            min(1.0, counts["not glad"] / 2),
            min(1.0, counts["not sad"] / 2),
            float(glad > 0),
            float(sad > 0),
            float(trouble > 0),
            float(glad > sad),
            float(sad > glad),
        ]


def _make_forms(words: Sequence[tuple[str, str]]) -> _Forms:
    whole: dict[str, str] = {}
    begins: dict[str, str] = {}
    for word, kind in words:
        # The first kind that names a word keeps it.
        (begins if word.endswith("*") else whole).setdefault(fold(word.rstrip("*")), kind)
    return _Forms(whole, begins)
