"""What a learned model sees of a text: its words, the pieces of them, what its words mean and in which order, and a few plain facts. Used by core.learned and core.learning.

A text is cut into tokens, each with where it stands, so that what weighed most can be shown in the writer's own letters.
Everything here is linear in the text's length.
"""

import itertools
import math
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TypeAlias

import regex

from sorta.core.feeling_words import COUNTED, FeelingWords, count_meanings

#: Link, name, hashtag, word, number, emoji, marks: in this order, so that a link is not taken for words.
_TOKEN = regex.compile(
    r"""(?P<link>(?:https?://|www\.)\S+|\b[\p{L}\d-]+(?:\.[\p{L}\d-]+)*\.(?:example|com|org|net|io|me|info)\b\S*)
    |(?P<name>(?<![\w.@])@[\w.\-]*\w(?:@[\w.\-]*\w)?)
    |(?P<tag>(?<!\w)\#\w+)
    |(?P<number>\p{N}[\p{N}.,:]*)
    |(?P<word>[\p{L}\p{M}]+(?:['’ʼ-][\p{L}\p{M}]+)*)
    |(?P<emoji>(?:[\p{Extended_Pictographic}\p{Regional_Indicator}][\p{Emoji_Modifier}\u200d\ufe0f]*)+)
    |(?P<money>\p{Sc})
    |(?P<mark>[?¿؟？]+|[!¡！]+|\.{2,}|…|>{2,})""",
    regex.VERBOSE,
)  # fmt: skip
_LONG = regex.compile(r"(\p{L})\1{2,}")
_FACES = {":)": "😀", ":-)": "😀", ":(": "🙁", ":-(": "🙁", ":D": "😀", ";)": "😉", ";-)": "😉", ":/": "😕"}
_FACE = regex.compile(r"(?<!\S)(?::-?\)|:-?\(|:D|;-?\)|:/)(?!\S)")
#: Pieces of words have so many letters, the space around a word counted.
SHORTEST, LONGEST = 2, 5
#: Words come again and again: of so many it is remembered how the model knows them.
_REMEMBERED = 16_384
#: No word is longer to the model: what goes on beyond says nothing more.
LONGEST_WORD = 40
#: A link, a name and a hashtag are the same whichever they are.
_STANDS_FOR = {kind: f"<{kind}>" for kind in ("link", "name", "tag")}
_STAND_FOR = frozenset(_STANDS_FOR.values())
PLAIN = (
    "asks", "ends asking", "shouts", "exclaims", "trails off", "number", "several numbers", "money", "link", "names somebody",
    "names several", "hashtag", "emoji", "emoji glad", "emoji sad", "no letters", "length", "short", "drawn out", "lines",
    "English glad", "English sad", *COUNTED,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Token:
    """A part of a text: its kind, how the model knows it, and where it stands."""

    kind: str
    form: str
    start: int
    end: int


#: What a text has of words, pieces or meanings, each with the tokens it is from.
Terms: TypeAlias = list[tuple[str, tuple[int, ...]]]


@lru_cache(maxsize=16)
def list_tokens(text: str) -> tuple[Token, ...]:
    """The tokens of a text, in order; each text is asked for several times in a row. Folded: case, width, digits to 0, letters drawn out to two; accents are kept."""
    text = _FACE.sub(lambda m: _pad(_FACES[m[0]], len(m[0])), text)
    found = []
    for match in _TOKEN.finditer(text):
        kind = match.lastgroup or ""
        found.append(Token(kind, _fold(kind, match[0]), *match.span()))
    return tuple(found)


def _pad(face: str, length: int) -> str:
    return face + " " * (length - len(face))


@lru_cache(maxsize=_REMEMBERED)
def _fold(kind: str, said: str) -> str:
    match kind:
        case "link" | "name" | "tag":
            return _STANDS_FOR[kind]
        case "number":
            return regex.sub(r"\p{N}", "0", said.rstrip(".,:"))[:8]
        case "mark":
            return {"…": "...", "¿": "?", "؟": "?", "？": "?", "¡": "!", "！": "!"}.get(said[0], said[0]) * min(
                2, len(said)
            )
        case "emoji":
            return said.replace("\ufe0f", "")[:4]
    plain = unicodedata.normalize("NFKC", said.replace("’", "'").replace("ʼ", "'")).casefold()
    return _LONG.sub(r"\1\1", plain)[:LONGEST_WORD]


def list_words(tokens: Sequence[Token]) -> Terms:
    """Words and pairs of neighbours, each with the tokens it is made of."""
    forms = [t.form for t in tokens]
    found: Terms = [(form, (n,)) for n, form in enumerate(forms)]
    found += [(f"{a} {b}", (n, n + 1)) for n, (a, b) in enumerate(itertools.pairwise(forms))]
    return found


def cut_up(form: str) -> tuple[str, ...]:
    """The pieces of a word, of SHORTEST to LONGEST letters with a space at either end; none of what stands for a link, a name or a hashtag."""
    if form in _STAND_FOR:
        return ()
    whole = f" {form} "
    lengths = range(SHORTEST, min(LONGEST, len(whole)) + 1)
    return tuple(whole[at : at + length] for length in lengths for at in range(len(whole) - length + 1))


def list_pieces(tokens: Sequence[Token]) -> Terms:
    """Pieces of each token, each with the token it is from."""
    return [(piece, (n,)) for n, token in enumerate(tokens) for piece in cut_up(token.form)]


#: So far apart two words still say something together, in tokens.
_TOGETHER_WITHIN = 4
#: What means something without being a word, by its kind.
_MEANT_BY_KIND = frozenset({"number", "money", "link", "emoji"})


def list_meanings(tokens: Sequence[Token], meant: Sequence[Sequence[str]]) -> Terms:
    """What the tokens mean (`meant`, for each of them), each with the tokens it is from: single meanings, two in their order
    that stand close to each other, three in a row of those that mean something, and what a text begins and ends with.

    "Still no answer" and "Immer noch keine Antwort" are the same here, which they are to none of their letters.
    """
    there = [(n, kinds) for n, kinds in enumerate(meant) if kinds]
    found: Terms = [(kind, (n,)) for n, kinds in there for kind in kinds]
    for at, (n, kinds) in enumerate(there):
        for m, others in there[at + 1 : at + 1 + _TOGETHER_WITHIN]:
            if m - n > _TOGETHER_WITHIN:
                break
            found += [(f"{a} {b}", (n, m)) for a in kinds for b in others]
    for (n, first), (m, second), (o, third) in zip(there, there[1:], there[2:], strict=False):
        found += [(f"{a} {b} {c}", (n, m, o)) for a in first for b in second for c in third]
    if there:
        (begins, first), (ends, last) = there[0], there[-1]
        found += [(f"^ {kind}", (begins,)) for kind in first] + [(f"{kind} $", (ends,)) for kind in last]
    return found


def list_meant(tokens: Sequence[Token], words: Sequence[frozenset[str]]) -> list[list[str]]:
    """For each token what it means, in a fixed order; `words` are the meanings of those that are words."""
    of_words = iter(words)
    return [
        sorted(next(of_words)) if t.kind == "word" else [t.kind] if t.kind in _MEANT_BY_KIND else [] for t in tokens
    ]


@dataclass(frozen=True, kw_only=True)
class Known:
    """What is known of a text beside its letters: its language or None, how it feels by its words if it may be English (-1 to 1),
    and how its emoji feel."""

    language: str | None = None
    english: float | None = None
    emoji: float = 0.0


def list_plain(text: str, tokens: Sequence[Token], known: Known, words: Sequence[frozenset[str]]) -> list[float]:
    """The facts of PLAIN, each 0 to 1, `words` being what those among the tokens mean; that it asks counts twice, for few things say so much."""
    kinds = [t.kind for t in tokens]
    marks = [t.form for t in tokens if t.kind == "mark"]
    letters = [c for c in text if c.isalpha()]
    upper = sum(c.isupper() for c in letters)
    numbers, names = kinds.count("number"), kinds.count("name")
    asks = any(m[0] == "?" for m in marks)
    return [
        2.0 * asks,
        2.0 * (bool(tokens) and tokens[-1].form[0] == "?"),
        upper / len(letters) if len(letters) >= 8 and upper > len(letters) / 3 else 0.0,
        min(1.0, sum(len(m) for m in marks if m[0] == "!") / 3),
        float("..." in marks or ".." in marks),
        float(numbers > 0),
        float(numbers > 1),
        float("money" in kinds),
        float("link" in kinds),
        float(names > 0),
        float(names > 1),
        float("tag" in kinds),
        float("emoji" in kinds),
        max(0.0, known.emoji),
        max(0.0, -known.emoji),
        float(not letters),
        min(1.0, math.log1p(len(text)) / 6),
        float(kinds.count("word") <= 3),
        float(bool(_LONG.search(text))),
        float("\n" in text.strip()),
        max(0.0, known.english or 0.0),
        max(0.0, -(known.english or 0.0)),
        *count_meanings(words),
    ]


@dataclass(frozen=True, kw_only=True)
class Features:
    """All that a model sees of a text; its words and their pieces are in its tokens (list_words, list_pieces)."""

    tokens: tuple[Token, ...]
    meanings: Terms
    plain: list[float]


def extract(text: str, known: Known, feeling: FeelingWords) -> Features:
    """Look at a text."""
    tokens = list_tokens(text)
    words = feeling.mean([t.form for t in tokens if t.kind == "word"], known.language)
    return Features(
        tokens=tokens,
        meanings=list_meanings(tokens, list_meant(tokens, words)),
        plain=list_plain(text, tokens, known, words),
    )
