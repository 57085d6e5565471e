"""What a text says by a model that has learned: how likely it is each thing, and which words weighed most.

The model is linear: the weights of a text's words, pieces of words, meanings and plain facts (core.pieces) are summed for each of the
things it can be. All the sums together, bent and in pairs, are made chances by a second linear model that was fitted on texts the
first had not seen (stacking: Wolpert, 1992; chances from sums: Platt, 1999; both from memory): a complaint that thanks, or praise
that is sad, is told by several sums at once. Weights are plain arrays. Learned by core.learning, used by services.reading.
"""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, TypeAlias

import numpy as np

from sorta.core.feeling_words import FeelingWords
from sorta.core.pieces import Features, Known, Token, cut_up, extract, list_words
from sorta.core.reading import ReadsAs, Tone

Array: TypeAlias = "np.ndarray[Any, Any]"
#: What a text can be; any of them together.
LABELS = tuple(label.value for label in ReadsAs)
#: How its writer feels; one of them.
TONES = tuple(tone.value for tone in Tone)
HEADS = (*LABELS, *TONES)
#: How much pieces of words, meanings and plain facts count beside words; chosen on the written texts, see docs/decisions/0031-reading.md.
PIECES_COUNT, MEANINGS_COUNT, PLAIN_COUNT = 1.5, 1.2, 0.6
_KINDS_COUNT = (1.0, PIECES_COUNT, MEANINGS_COUNT)
#: Of so many words it is remembered which pieces of them are known.
_REMEMBERED = 16_384
#: Where the sums are bent; chosen likewise.
_BENDS = (-1.0, 0.0, 1.0)
#: The pairs of sums.
_ONE, _OTHER = np.triu_indices(len(HEADS), 1)
#: A word is shown when it has such a share of what speaks for the outcome; so many are shown at most.
_SHARE, _MOST_SHOWN = 0.14, 4
_SMALL = 3
#: What is less likely is not shown, so its words are not looked for.
_WORTH = 0.3
_SHOWN = frozenset({"word", "number", "mark", "emoji", "money", "tag", "link"})


@dataclass(frozen=True, kw_only=True)
class Weights:
    """What was learned. `words`, `pieces` and `meanings` name the rows of `coef` in that order, PLAIN the last ones; a column is a head.

    `idf` is what each word, piece and meaning counts for its rarity. `turn` (a row for each of what `bend` makes, a column a head) and `shift`
    make chances of the sums. `feeling` are the lists of core.feeling_words, `learned_from` is the hash of what all was learned from.
    """

    words: tuple[str, ...]
    pieces: tuple[str, ...]
    meanings: tuple[str, ...]
    idf: Array
    coef: Array
    intercept: Array
    turn: Array
    shift: Array
    feeling: Mapping[str, Mapping[str, tuple[str, ...]]]
    learned_from: str


@dataclass(frozen=True, kw_only=True)
class Judged:
    """What a text says: the chance of each of LABELS and of each of TONES (these add up to 1), and the words that weighed most
    for each that may hold, as they stand in the text; none when no word stands out."""

    chances: Mapping[str, float]
    tones: Mapping[str, float]
    words: Mapping[str, tuple[str, ...]]


class Learned:
    """Judges texts by weights."""

    def __init__(self, weights: Weights) -> None:
        self.weights = weights
        self._feeling = FeelingWords(weights.feeling)
        rows = itertools.count()
        self._words, self._pieces, self._meanings = (
            {name: next(rows) for name in names} for names in (weights.words, weights.pieces, weights.meanings)
        )
        #: Where the rows of each kind end, and how much the kind counts.
        self._ends = list(itertools.accumulate(map(len, (self._words, self._pieces, self._meanings))))
        self._find_pieces = lru_cache(_REMEMBERED)(self._look_up_pieces)

    def judge(self, text: str, known: Known) -> Judged:
        """Judge one text."""
        features = extract(text, known, self._feeling)
        found = self._find(features)
        rows, times, at = found.rows, found.times, len(self.weights.idf)
        values = np.concatenate([self._count(rows, times), np.array(features.plain) * PLAIN_COUNT])
        coef = np.concatenate([self.weights.coef[rows], self.weights.coef[at:]])
        chances, tones = to_chances(values @ coef + self.weights.intercept, self.weights.turn, self.weights.shift)
        told = _weigh(found, coef[: len(rows)] * values[: len(rows), None], len(features.tokens))
        return Judged(
            chances=dict(zip(LABELS, map(float, chances), strict=True)),
            tones=dict(zip(TONES, map(float, tones), strict=True)),
            words={
                head: _say(text, features.tokens, told[:, n].tolist()) if chance > _WORTH else ()
                for n, (head, chance) in enumerate(zip(HEADS, (*chances, *tones), strict=True))
            },
        )

    def _look_up_pieces(self, form: str) -> Array:
        return np.array([row for piece in cut_up(form) if (row := self._pieces.get(piece)) is not None], dtype=np.intp)

    def _find(self, features: Features) -> "_TextRows":
        """Which of the known words, pieces and meanings a text has."""
        found: list[tuple[int, tuple[int, ...]]] = []
        for terms, known in ((list_words(features.tokens), self._words), (features.meanings, self._meanings)):
            found += [(row, tokens) for name, tokens in terms if (row := known.get(name)) is not None]
        pieces = [self._find_pieces(token.form) for token in features.tokens]
        each = np.concatenate([np.array([row for row, _ in found], dtype=np.intp), *pieces])
        rows, which, times = np.unique(each, return_inverse=True, return_counts=True)
        # Each piece is of one token.
        owners = [len(tokens) for _, tokens in found]
        of_tokens = np.array([n for _, tokens in found for n in tokens], dtype=np.intp)
        return _TextRows(
            rows=rows,
            times=times,
            which=np.concatenate([np.repeat(which[: len(found)], owners), which[len(found) :]]),
            tokens=np.concatenate([of_tokens, np.repeat(np.arange(len(pieces)), [len(rows) for rows in pieces])]),
        )

    def _count(self, rows: Array, times: Array) -> Array:
        """How much a text has of each row: term frequency (1 + log) by rarity, each kind of a length of its own."""
        values: Array = (1 + np.log(times)) * self.weights.idf[rows]
        begins = 0
        for end, counts in zip(np.searchsorted(rows, self._ends), _KINDS_COUNT, strict=True):
            part = values[begins:end]
            length = float(np.sqrt(part @ part))
            if length:
                part *= counts / length
            begins = end
        return values


@dataclass(frozen=True, kw_only=True)
class _TextRows:
    """The rows of the weights that a text has, in their order, and how often; and for each token that is in one of them, which row (its place
    in `rows`) and which token."""

    rows: Array
    times: Array
    which: Array
    tokens: Array


def _weigh(found: _TextRows, weighed: Array, tokens: int) -> Array:
    """What each token adds to the sum of each head: a row's weight is shared among the tokens it is from."""
    shared = weighed / np.maximum(1, np.bincount(found.which, minlength=len(weighed)))[:, None]
    cells = found.tokens[:, None] * len(HEADS) + np.arange(len(HEADS))
    told = np.bincount(cells.ravel(), weights=shared[found.which].ravel(), minlength=tokens * len(HEADS))
    return told.reshape(tokens, len(HEADS))


def bend(sums: Array) -> Array:
    """What chances are made of: the sums of HEADS (the last axis), each bent at three places, and their products in pairs."""
    bounded = np.tanh(sums)
    bends = (np.maximum(0, sums - at) for at in _BENDS)
    bent: Array = np.concatenate([sums, *bends, bounded[..., _ONE] * bounded[..., _OTHER]], axis=-1)
    return bent


def to_chances(sums: Array, turn: Array, shift: Array) -> tuple[Array, Array]:
    """The chances that belong to the sums of HEADS: those of LABELS each by itself, those of TONES adding up to 1."""
    turned = bend(sums) @ turn + shift
    of_labels, of_tones = turned[..., : len(LABELS)], turned[..., len(LABELS) :]
    powers = np.exp(of_tones - of_tones.max(axis=-1, keepdims=True))
    return 1 / (1 + np.exp(-np.clip(of_labels, -30, 30))), powers / powers.sum(axis=-1, keepdims=True)


def _say(text: str, tokens: Sequence[Token], told: Sequence[float]) -> tuple[str, ...]:
    """The words that speak most for a head, in the order they stand; neighbours are said together."""
    speaks = [n for n, token in enumerate(tokens) if told[n] > 0 and token.kind in _SHOWN]
    whole = sum(told[n] for n in speaks)
    most = sorted(speaks, key=lambda n: -told[n])[:_MOST_SHOWN]
    shown = sorted(n for n in most if told[n] >= _SHARE * whole)
    runs: list[list[int]] = []
    for n in shown:
        if runs and n == runs[-1][-1] + 1:
            runs[-1].append(n)
        else:
            runs.append([n])
    told_runs = [run for run in runs if not all(_is_small(tokens[n]) for n in run)]
    return tuple(dict.fromkeys(text[tokens[run[0]].start : tokens[run[-1]].end] for run in told_runs))


def _is_small(token: Token) -> bool:
    """A word so short that by itself it explains nothing to anybody, however much it weighed: "for", "not", "que"."""
    return token.kind == "word" and token.form.isascii() and len(token.form) <= _SMALL
