"""Words as rules look for them: whole words; case, accents and width folded; phrases; prefix* (docs/trade.md 6).

Folding is Unicode's: NFKD, without the marks of scripts whose marks are accents, full case folding (UAX #15, and section 3.13 of the
standard), without what is not seen (Default_Ignorable_Code_Point), and the few Latin letters that have no decomposition. Marks that make
another letter stay: those of Cyrillic, kana, Thai and the scripts of India. Used by core.rules, core.texts and core.feeling_words.
"""

import unicodedata
from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

import regex

from sorta.core.errors import Invalid

_UNSPACED_CLASS = r"\p{Han}\p{Hiragana}\p{Katakana}\p{Thai}\p{Lao}\p{Khmer}\p{Myanmar}"
#: A word begins with a letter or digit; marks, and what is not seen, belong to it. It ends where a script without spaces begins or ends, and
#: at an apostrophe: of "child's" and "l'eau" people mean "child" and "eau".
_WORD = regex.compile(
    rf"[{_UNSPACED_CLASS}ー々ﾞﾟ][{_UNSPACED_CLASS}ー々ﾞﾟ\p{{M}}\p{{Cf}}]*"
    rf"|(?![{_UNSPACED_CLASS}ﾞﾟ])[\p{{L}}\p{{N}}](?:(?![{_UNSPACED_CLASS}ﾞﾟ])[\p{{L}}\p{{N}}\p{{M}}\p{{Cf}}])*"
)
#: Scripts that put no spaces between words: there a word is found wherever it stands.
_UNSPACED = regex.compile(rf"[{_UNSPACED_CLASS}]")
#: What nobody sees, the stretching of Arabic words, and the box around a digit.
_UNSEEN = regex.compile(r"[\p{Default_Ignorable_Code_Point}\u0640\u20e3]")
#: An accent is a mark on a letter of one of these.
_ACCENTED = regex.compile(r"([\p{Latin}\p{Greek}\p{Arabic}\p{Hebrew}])\p{M}+")
_LETTERS = str.maketrans(
    {"ø": "o", "ł": "l", "đ": "d", "ħ": "h", "ı": "i", "æ": "ae", "œ": "oe", "ð": "d", "þ": "th", "’": "'"}
)
#: Between two words this ends a sentence; a full stop does not after so short a word ("St. Pauli", "No. 5").
_ENDS = regex.compile(r"[!?…。！？؟।]|\n|[.](?=\s|$)")
_SHORT = 2
_TITLES = frozenset({"mrs", "prof", "bzw", "str", "tel", "nr", "ave", "sra", "mme", "mgr", "inz"})
LONGEST_PATTERN = 100


@lru_cache(maxsize=8192)
def fold(text: str) -> str:
    """A text with case, accents and width folded, without what is not seen."""
    plain = unicodedata.normalize("NFKD", _UNSEEN.sub("", text))
    plain = unicodedata.normalize("NFC", _ACCENTED.sub(r"\1", plain)).casefold().translate(_LETTERS)
    # Full case folding can bring a mark of its own along.
    return _ACCENTED.sub(r"\1", plain)


def is_unspaced(word: str) -> bool:
    """Whether a word is of a script that puts no spaces between words."""
    return _UNSPACED.search(word) is not None


@dataclass(frozen=True, kw_only=True)
class Folded:
    """A text made ready for looking: its words folded, with where each stands in the original."""

    text: str
    words: tuple[str, ...]
    spans: tuple[tuple[int, int], ...]
    #: All words with one space around each and a line's end where a sentence ends, and where each word begins there.
    joined: str
    starts: tuple[int, ...]
    known: frozenset[str] = field(compare=False)

    def get_original(self, first: int, last: int) -> str:
        """The words from `first` to `last` (inclusive) as they were written."""
        return self.text[self.spans[first][0] : self.spans[last][1]]


def fold_text(text: str) -> Folded:
    """Make a text ready for looking."""
    words: list[str] = []
    spans: list[tuple[int, int]] = []
    starts: list[int] = []
    joined = [" "]
    at = 1
    for found in _WORD.finditer(text):
        folded = fold(found.group())
        if not folded:
            continue
        if spans and _is_parted(text[spans[-1][1] : found.start()], words[-1]):
            joined.append("\n ")
            at += 2
        words.append(folded)
        spans.append(found.span())
        starts.append(at)
        joined.append(f"{folded} ")
        at += len(folded) + 1
    return Folded(
        text=text,
        words=tuple(words),
        spans=tuple(spans),
        joined="".join(joined) if words else "",
        starts=tuple(starts),
        known=frozenset(words),
    )


def _is_parted(between: str, before: str) -> bool:
    """Whether a sentence ends between two words."""
    ended = _ENDS.search(between)
    if ended is None:
        return False
    return ended[0] != "." or not (len(before) <= _SHORT or before in _TITLES or before.isdigit())


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
    return _Pattern(said=said, parts=folded.words, is_prefix=is_prefix, is_unspaced=is_unspaced(plain))


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
    if len(pattern.parts) == 1 and not pattern.is_prefix and not pattern.is_unspaced:
        if pattern.parts[0] not in text.known:
            return None
        at = text.words.index(pattern.parts[0])
        return text.get_original(at, at)
    needle = " ".join(pattern.parts)
    if not pattern.is_unspaced:
        needle = f" {needle}" if pattern.is_prefix else f" {needle} "
    found = text.joined.find(needle)
    if found < 0:
        return None
    first = bisect_right(text.starts, found if pattern.is_unspaced else found + 1) - 1
    return text.get_original(first, first + len(pattern.parts) - 1)


def find_all(words: Iterable[str], text: Folded) -> tuple[str, ...]:
    """What of some words stands in a text, each once, as it stands there."""
    return tuple(dict.fromkeys(f for f in (find_first(w, text) for w in words) if f is not None))


def has_all(words: Sequence[str], text: Folded) -> bool:
    """Whether every one of some words stands in a text."""
    return all(find_first(w, text) is not None for w in words)
