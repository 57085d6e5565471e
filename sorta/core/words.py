"""Words as rules look for them: whole words; case, accents and width folded; phrases; prefix* (PRODUCT.md 6).

Folding is Unicode's: NFKD without its combining marks, then full case folding (UAX #15, and section 3.13 of the
standard), and the few Latin letters that have no decomposition. Used by core.rules.
"""

import unicodedata
from bisect import bisect_left
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

import regex

from sorta.core.errors import Invalid

_WORD = regex.compile(r"[\p{L}\p{N}][\p{L}\p{N}\p{M}]*(?:['’][\p{L}\p{N}]+)*")
#: Scripts that put no spaces between words: there a word is found wherever it stands.
_UNSPACED = regex.compile(r"[\p{Han}\p{Hiragana}\p{Katakana}\p{Thai}\p{Lao}\p{Khmer}\p{Myanmar}]")
_LETTERS = str.maketrans({"ø": "o", "ł": "l", "đ": "d", "ħ": "h", "ı": "i", "æ": "ae", "œ": "oe", "’": "'"})
LONGEST_PATTERN = 100


@lru_cache(maxsize=8192)
def fold(text: str) -> str:
    """A text with case, accents and width folded."""
    plain = "".join(c for c in unicodedata.normalize("NFKD", text) if not unicodedata.combining(c))
    return unicodedata.normalize("NFC", plain).casefold().translate(_LETTERS)


@dataclass(frozen=True, kw_only=True)
class Folded:
    """A text made ready for looking: its words folded, with where each stands in the original."""

    text: str
    words: tuple[str, ...]
    spans: tuple[tuple[int, int], ...]
    #: All words with one space around each, and where each begins there.
    joined: str
    starts: tuple[int, ...]
    known: frozenset[str] = field(compare=False)

    def get_original(self, first: int, last: int) -> str:
        """The words from `first` to `last` (inclusive) as they were written."""
        return self.text[self.spans[first][0] : self.spans[last][1]]


def fold_text(text: str) -> Folded:
    """Make a text ready for looking."""
    words, spans, starts, at = [], [], [], 1
    for found in _WORD.finditer(text):
        folded = fold(found.group())
        words.append(folded)
        spans.append(found.span())
        starts.append(at)
        at += len(folded) + 1
    joined = f" {' '.join(words)} " if words else ""
    return Folded(
        text=text, words=tuple(words), spans=tuple(spans), joined=joined, starts=tuple(starts), known=frozenset(words)
    )


@dataclass(frozen=True, kw_only=True)
class _Pattern:
    """One thing to look for: `parts` are its folded words; a prefix ends in any letters."""

    said: str
    parts: tuple[str, ...]
    is_prefix: bool
    is_unspaced: bool


@lru_cache(maxsize=4096)
def _read(said: str) -> _Pattern:
    plain = said.strip().strip('"“”„«»').strip()
    is_prefix = plain.endswith("*")
    folded = fold_text(plain.rstrip("*"))
    return _Pattern(said=said, parts=folded.words, is_prefix=is_prefix, is_unspaced=bool(_UNSPACED.search(plain)))


def check_pattern(said: str) -> str:
    """A word, phrase or prefix* as it is kept. Raises Invalid when nothing could ever be found by it."""
    plain = " ".join(said.split())
    if len(plain) > LONGEST_PATTERN:
        raise Invalid(f"A word to look for has at most {LONGEST_PATTERN} characters.", "words")
    if not _read(plain).parts:
        raise Invalid(f"‘{said}’ has no letters or digits to look for.", "words")
    return plain


def find_first(said: str, text: Folded) -> str | None:
    """What a word, phrase or prefix* finds first, as it stands in the original; None when it finds nothing."""
    pattern = _read(said)
    if not pattern.parts:
        return None
    if pattern.is_unspaced:
        return _find_anywhere(pattern, text)
    if len(pattern.parts) == 1 and not pattern.is_prefix:
        if pattern.parts[0] not in text.known:
            return None
        at = text.words.index(pattern.parts[0])
        return text.get_original(at, at)
    needle = " " + " ".join(pattern.parts) + ("" if pattern.is_prefix else " ")
    found = text.joined.find(needle)
    if found < 0:
        return None
    first = bisect_left(text.starts, found + 1)
    return text.get_original(first, first + len(pattern.parts) - 1)


def _find_anywhere(pattern: _Pattern, text: Folded) -> str | None:
    needle = "".join(pattern.parts)
    for at, word in enumerate(text.words):
        if needle in word:
            return text.get_original(at, at)
    return None


def find_all(words: Iterable[str], text: Folded) -> tuple[str, ...]:
    """What of some words stands in a text, each once, as it stands there."""
    return tuple(dict.fromkeys(f for f in (find_first(w, text) for w in words) if f is not None))


def has_all(words: Sequence[str], text: Folded) -> bool:
    """Whether every one of some words stands in a text."""
    return all(find_first(w, text) is not None for w in words)
