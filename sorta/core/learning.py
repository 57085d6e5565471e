"""Learning what core.learned judges by, from texts that say what they are.

Every text is learned from twice: as it is, and as people also send it (with a link, a name or a tag, without accents, in
capitals), so that these say nothing by themselves. Used by services.lessons.
"""

import hashlib
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from sorta.core.feeling_words import FeelingWords
from sorta.core.learned import HEADS, LABELS, PIECES_COUNT, PLAIN_COUNT, TONES, Array, Weights, bend
from sorta.core.pieces import PLAIN, Known, list_pieces, list_plain, list_tokens, list_words

#: A word or piece is learned when so many texts have it, the varied ones counted.
_KNOWN_FROM = 3
_VARIED_COUNT = 1.0
_SLACK = 2.0
_SLACK_OF_CHANCES = 0.1
_PARTS = 4
_LINKS = ("https://short.example/a1", "http://photos.example/p/77", "www.paper.example/story", "https://t.example/XyZ9")
_TAGS = ("#sunday", "#love", "#fail", "#family", "#news", "#nofilter")
_NAMES = ("@anna.k", "@the_town", "@northside", "@jo_99")


@dataclass(frozen=True, kw_only=True)
class Lesson:
    """A text and what it is: any of LABELS and one of TONES. `group` is who wrote it about what, `language` what it is written in,
    `known` what is found out about it; `counts` is its weight beside one of the written texts."""

    text: str
    language: str
    labels: frozenset[str]
    tone: str
    group: str
    known: Known
    counts: float = 1.0


def is_set_aside(group: str) -> bool:
    """Whether what somebody wrote about something is kept for testing and never learned from: a fifth of all."""
    return _throw(group, "aside") % 5 == 0


def _throw(text: str, salt: str) -> int:
    return int.from_bytes(hashlib.sha256(f"{salt}:{text}".encode()).digest()[:8])


def vary(text: str) -> str:
    """The text as somebody else sends it; always in the same way."""
    dice = _throw(text, "vary")
    link, tag, name = _LINKS[dice // 8 % 4], _TAGS[dice // 8 % 6], _NAMES[dice // 64 % 4]
    plain = "".join(c for c in unicodedata.normalize("NFD", text) if not unicodedata.combining(c))
    return (
        f"{text} {link}", f"{name} {text}", f"{text} {tag}", plain, text.rstrip(".!"), f"{name} {text} {link}",
        text.upper() if dice // 8 % 3 == 0 else plain.lower(), f"{text} {tag} {link}",
    )[dice % 8]  # fmt: skip


def learn(
    lessons: Sequence[Lesson], *, feeling: Mapping[str, Mapping[str, tuple[str, ...]]], learned_from: str
) -> Weights:
    """The weights these texts teach; the same texts in the same order teach the same.

    Raises ValueError when one of LABELS or TONES is not among them, or too few groups wrote them.
    """
    both = [*lessons, *(replace(o, text=vary(o.text), counts=o.counts * _VARIED_COUNT) for o in lessons)]
    words = FeelingWords(feeling)
    seen = [_see(lesson, words) for lesson in both]
    part = {
        group: n % _PARTS for n, group in enumerate(sorted({o.group for o in lessons}, key=lambda g: _throw(g, "part")))
    }
    parts = np.array([part[o.group] for o in both])
    if len(part) < _PARTS:
        raise ValueError(f"{len(part)} groups of texts are too few to learn from; there must be {_PARTS}.")
    sums: Array = np.zeros((len(lessons), len(HEADS)))
    for n in range(_PARTS):
        rest = [i for i in range(len(both)) if parts[i] != n]
        mine = [i for i in range(len(lessons)) if parts[i] == n]
        model = _Model([both[i] for i in rest], [seen[i] for i in rest])
        sums[mine] = model.sum_up([seen[i] for i in mine])
    turn, shift = _fit_chances(lessons, sums)
    whole = _Model(both, seen)
    return Weights(
        words=tuple(map(str, whole.words.get_feature_names_out())),
        pieces=tuple(map(str, whole.pieces.get_feature_names_out())),
        idf=np.concatenate([whole.words.idf_, whole.pieces.idf_]).astype(np.float32),
        coef=whole.coef.astype(np.float32),
        intercept=whole.intercept.astype(np.float32),
        turn=turn,
        shift=shift,
        feeling=feeling,
        learned_from=learned_from,
    )


@dataclass(frozen=True)
class _Seen:
    words: list[str]
    pieces: list[str]
    plain: list[float]


def _see(lesson: Lesson, feeling: FeelingWords) -> _Seen:
    tokens = list_tokens(lesson.text)
    return _Seen(
        [w for w, _ in list_words(tokens)],
        [p for p, _ in list_pieces(tokens)],
        list_plain(lesson.text, tokens, lesson.known, feeling),
    )


class _Model:
    """One fit: rarity, weights and intercepts of all heads."""

    def __init__(self, lessons: Sequence[Lesson], seen: Sequence[_Seen]) -> None:
        from sklearn.feature_extraction.text import TfidfVectorizer
        from sklearn.linear_model import LogisticRegression

        def counted(of: Sequence[list[str]]) -> Any:
            return TfidfVectorizer(analyzer=list, sublinear_tf=True, min_df=_KNOWN_FROM).fit(of)

        self.words, self.pieces = counted([s.words for s in seen]), counted([s.pieces for s in seen])
        vectors = self._to_vectors(seen)
        counts = [lesson.counts for lesson in lessons]
        fits = []
        for head in HEADS:
            holds = np.array([head in o.labels or head == o.tone for o in lessons])
            tells = self._measure_telling(vectors, holds)
            model = LogisticRegression(
                C=_SLACK, class_weight="balanced", solver="liblinear", random_state=0, max_iter=400
            ).fit(vectors.multiply(tells).tocsr(), holds, sample_weight=counts)
            fits.append((model.coef_[0] * tells, model.intercept_[0]))
        self.coef: Array = np.vstack([coef for coef, _ in fits]).T
        self.intercept: Array = np.array([intercept for _, intercept in fits])

    def _measure_telling(self, vectors: Any, holds: Array) -> Array:
        """How far each word and piece tells texts of a head from the others: a quarter of it counts beside its rarity. The logarithm of the
        ratio of its shares (Wang & Manning, Baselines and Bigrams, ACL 2012; from memory). A plain fact counts as it is."""
        named = vectors.shape[1] - len(PLAIN)
        there = vectors[:, :named] > 0
        among, elsewhere = (np.asarray(there[rows].sum(axis=0)).ravel() + 1.0 for rows in (holds, ~holds))
        told: Array = np.ones(vectors.shape[1])
        told[:named] = 0.75 + 0.25 * np.abs(np.log((among / among.sum()) / (elsewhere / elsewhere.sum())))
        return told

    def _to_vectors(self, seen: Sequence[_Seen]) -> Any:
        from scipy.sparse import csr_matrix, hstack

        return hstack(
            [
                self.words.transform([s.words for s in seen]),
                self.pieces.transform([s.pieces for s in seen]) * PIECES_COUNT,
                csr_matrix(np.array([s.plain for s in seen]) * PLAIN_COUNT),
            ]
        ).tocsr()

    def sum_up(self, seen: Sequence[_Seen]) -> Array:
        sums: Array = self._to_vectors(seen) @ self.coef + self.intercept
        return sums


def _fit_chances(lessons: Sequence[Lesson], sums: Array) -> tuple[Array, Array]:
    """What makes chances of the sums of texts that the weights had not seen."""
    from sklearn.linear_model import LogisticRegression

    bent = bend(sums)

    def fit(holds: Any) -> tuple[Array, Array]:
        fitted = LogisticRegression(C=_SLACK_OF_CHANCES, max_iter=3000).fit(bent, holds)
        return fitted.coef_.T, fitted.intercept_

    fits = [fit([label in o.labels for o in lessons]) for label in LABELS]
    fits.append(fit([TONES.index(o.tone) for o in lessons]))
    return np.hstack([turn for turn, _ in fits]), np.hstack([shift for _, shift in fits])


def measure_calibration(chances: Sequence[float], holds: Sequence[bool], bins: int = 10) -> float:
    """The expected calibration error: how far, on average, chances lie from how often it was so, over `bins` of equal width
    (Naeini et al., 2015; from memory). 0 to 1."""
    given, so = np.asarray(chances, dtype=float), np.asarray(holds, dtype=float)
    which = np.minimum((given * bins).astype(int), bins - 1)
    return float(
        sum(abs(given[which == b].mean() - so[which == b].mean()) * (which == b).mean() for b in set(which.tolist()))
    )
