"""What a text says by a model that has learned: how likely it is each thing, and which words weighed most.

The model is linear: the weights of a text's words, pieces of words, meanings and plain facts (core.pieces) are summed for each of the
things it can be. All the sums together, bent and in pairs, are made chances by a second linear model that was fitted on texts the
first had not seen (stacking: Wolpert, 1992; chances from sums: Platt, 1999; both from memory): a complaint that thanks, or praise
that is sad, is told by several sums at once. Weights are plain arrays. Learned by core.learning, used by services.reading.
"""

import itertools
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeAlias

import numpy as np

from sorta.core.feeling_words import FeelingWords
from sorta.core.pieces import PLAIN, Features, Known, Terms, Token, extract
from sorta.core.reading import ReadsAs, Tone

Array: TypeAlias = "np.ndarray[Any, Any]"
#: What a text can be; any of them together.
LABELS = tuple(label.value for label in ReadsAs)
#: How its writer feels; one of them.
TONES = tuple(tone.value for tone in Tone)
HEADS = (*LABELS, *TONES)
#: How much pieces of words, meanings and plain facts count beside words; chosen on the written texts, see docs/decisions/0031-reading.md.
PIECES_COUNT, MEANINGS_COUNT, PLAIN_COUNT = 1.5, 1.2, 0.6
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

    def judge(self, text: str, known: Known) -> Judged:
        """Judge one text."""
        features = extract(text, known, self._feeling)
        rows, values, owners = self._find_rows(features)
        coef = self.weights.coef[rows]
        sums = values @ coef + self.weights.intercept
        chances, tones = to_chances(sums, self.weights.turn, self.weights.shift)
        told = self._weigh(features.tokens, coef * values[:, None], owners)
        return Judged(
            chances=dict(zip(LABELS, map(float, chances), strict=True)),
            tones=dict(zip(TONES, map(float, tones), strict=True)),
            words={
                head: _say(text, features.tokens, told[:, n]) if chance > _WORTH else ()
                for n, (head, chance) in enumerate(zip(HEADS, (*chances, *tones), strict=True))
            },
        )

    def _find_rows(self, features: Features) -> tuple[Array, Array, list[tuple[int, ...]]]:
        """The rows of the weights that a text has, how much it has of each, and the tokens each is from."""
        counted = [
            self._count(features.words, self._words, 1.0),
            self._count(features.pieces, self._pieces, PIECES_COUNT),
            self._count(features.meanings, self._meanings, MEANINGS_COUNT),
        ]
        first = len(self.weights.idf)
        rows = np.concatenate([*(c[0] for c in counted), np.arange(first, first + len(PLAIN))])
        values = np.concatenate([*(c[1] for c in counted), np.array(features.plain) * PLAIN_COUNT])
        return rows, values, [owners for c in counted for owners in c[2]]

    def _count(
        self, found: Terms, known: Mapping[str, int], counts: float
    ) -> tuple[Array, Array, list[tuple[int, ...]]]:
        """Term frequency (1 + log) by rarity, of length `counts` in all."""
        times: Counter[int] = Counter()
        owners: dict[int, list[int]] = {}
        for form, tokens in found:
            row = known.get(form)
            if row is not None:
                times[row] += 1
                owners.setdefault(row, []).extend(tokens)
        rows = np.array(list(times), dtype=np.intp)
        values = (1 + np.log(np.array(list(times.values()), dtype=float))) * self.weights.idf[rows]
        length = float(np.sqrt(values @ values))
        return rows, values * (counts / length) if length else values, [tuple(owners[row]) for row in times]

    def _weigh(self, tokens: Sequence[Token], weighed: Array, owners: Sequence[tuple[int, ...]]) -> Array:
        """What each token adds to the sum of each head: a row's weight is shared among the tokens it is from."""
        told: Array = np.zeros((len(tokens), len(HEADS)))
        if owners:
            whose = np.fromiter((t for of in owners for t in of), dtype=np.intp)
            times = np.array([len(of) for of in owners])
            np.add.at(told, whose, np.repeat(weighed[: len(owners)] / times[:, None], times, axis=0))
        return told


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


def _say(text: str, tokens: Sequence[Token], told: Array) -> tuple[str, ...]:
    """The words that speak most for a head, in the order they stand; neighbours are said together."""
    speaks = [n for n, token in enumerate(tokens) if told[n] > 0 and token.kind in _SHOWN]
    whole = sum(float(told[n]) for n in speaks)
    most = sorted(speaks, key=lambda n: -float(told[n]))[:_MOST_SHOWN]
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
