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
from sorta.core.learned import HEADS, LABELS, MEANINGS_COUNT, PIECES_COUNT, PLAIN_COUNT, Array, Weights, bend
from sorta.core.pieces import PLAIN, Features, Known, Terms, extract, list_pieces, list_words

#: A word or piece is learned when so many texts have it, the varied ones counted.
_KNOWN_FROM = 3
#: A meaning is learned when so many texts have it, in so many languages: what one of them alone says is said by its words.
_MEANT_FROM, _MEANT_IN = 6, 5
_VARIED_COUNT = 1.0
_SLACK = 2.0
_SLACK_OF_CHANCES = 0.1
#: So many parts the groups are in; each is judged by what was learned from the others. With few, the weights that chances are fitted by
#: have seen much less than those they are used with, and come out less sure than they may be.
_PARTS = 8
_FEWEST_GROUPS = 4
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
    feeling_words = FeelingWords(feeling)
    features = [extract(o.text, o.known, feeling_words) for o in both]
    texts = _count_all(features, _list_shared(both, features))
    holds = np.array([[head in o.labels or head == o.tone for head in HEADS] for o in both])
    counts = np.array([o.counts for o in both])
    groups = sorted({o.group for o in lessons}, key=lambda g: _throw(g, "part"))
    if len(groups) < _FEWEST_GROUPS:
        raise ValueError(f"{len(groups)} groups of texts are too few to learn from; there must be {_FEWEST_GROUPS}.")
    part = {group: n % _PARTS for n, group in enumerate(groups)}
    parts = np.array([part[o.group] for o in both])
    sums: Array = np.zeros((len(lessons), len(HEADS)))
    # One after the other: the library that fits draws from one row of chances for the whole process.
    for n in range(min(_PARTS, len(groups))):
        rest, mine = np.flatnonzero(parts != n), np.flatnonzero(parts[: len(lessons)] == n)
        sums[mine] = _Model(texts.take(rest), holds[rest], counts[rest]).sum_up(texts.take(mine))
    turn, shift = _fit_chances(holds[: len(lessons)], sums)
    whole = _Model(texts, holds, counts)
    words, pieces, meanings = (tuple(map(str, names)) for names in whole.names)
    return Weights(
        words=words,
        pieces=pieces,
        meanings=meanings,
        idf=np.concatenate([r.idf_ for r in whole.rarity]).astype(np.float32),
        coef=whole.coef.astype(np.float32),
        intercept=whole.intercept.astype(np.float32),
        turn=turn,
        shift=shift,
        feeling=feeling,
        learned_from=learned_from,
    )


def _list_shared(lessons: Sequence[Lesson], features: Sequence[Features]) -> list[str]:
    """The meanings that are learned from: those that texts of enough languages have."""
    languages: dict[str, set[str]] = {}
    for lesson, one in zip(lessons, features, strict=True):
        for name, _ in one.meanings:
            languages.setdefault(name, set()).add(lesson.language)
    within = min(_MEANT_IN, len({o.language for o in lessons}))
    return sorted(name for name, of in languages.items() if len(of) >= within)


@dataclass(frozen=True)
class _Counted:
    """How often each of some texts (the rows) has each of some words, pieces or meanings: `counts` is what they count in all,
    beside words, and one is learned when `known_from` of the texts have it."""

    names: Any
    times: Any
    counts: float
    known_from: int

    def take(self, rows: Any) -> "_Counted":
        return replace(self, times=self.times[rows])


def _count(terms: Sequence[Terms], counts: float, known_from: int, names: Sequence[str] | None = None) -> _Counted:
    from sklearn.feature_extraction.text import CountVectorizer

    counter = CountVectorizer(analyzer=_get_names, vocabulary=names)
    times = counter.fit_transform(terms)
    return _Counted(counter.get_feature_names_out(), times, counts, known_from)


def _get_names(terms: Terms) -> list[str]:
    return [name for name, _ in terms]


@dataclass(frozen=True)
class _Texts:
    """Texts as they are learned from."""

    counted: tuple[_Counted, ...]
    plain: Any

    def take(self, rows: Any) -> "_Texts":
        return _Texts(tuple(c.take(rows) for c in self.counted), self.plain[rows])


def _count_all(features: Sequence[Features], meanings: Sequence[str]) -> _Texts:
    return _Texts(
        (
            _count([list_words(f.tokens) for f in features], 1.0, _KNOWN_FROM),
            _count([list_pieces(f.tokens) for f in features], PIECES_COUNT, _KNOWN_FROM),
            _count([f.meanings for f in features], MEANINGS_COUNT, _MEANT_FROM, meanings),
        ),
        np.array([f.plain for f in features]) * PLAIN_COUNT,
    )


class _Model:
    """One fit: rarity, weights and intercepts of all heads."""

    def __init__(self, texts: _Texts, holds: Array, counts: Array) -> None:
        """`holds` has a row for each text and a column for each head."""
        from sklearn.feature_extraction.text import TfidfTransformer
        from sklearn.linear_model import LogisticRegression

        self.known = [np.flatnonzero(c.times.getnnz(axis=0) >= c.known_from) for c in texts.counted]
        self.names = [c.names[known] for c, known in zip(texts.counted, self.known, strict=True)]
        self.rarity = [
            TfidfTransformer(sublinear_tf=True).fit(c.times[:, known])
            for c, known in zip(texts.counted, self.known, strict=True)
        ]
        vectors = self._to_vectors(texts)
        fits = []
        for n in range(len(HEADS)):
            tells = self._measure_telling(vectors, holds[:, n])
            # The dual has one unknown a text and not one a word: four times as fast here, for the same weights.
            model = LogisticRegression(
                C=_SLACK, class_weight="balanced", solver="liblinear", dual=True, tol=0.01, random_state=0, max_iter=400
            ).fit(vectors.multiply(tells).tocsr(), holds[:, n], sample_weight=counts)
            fits.append((model.coef_[0] * tells, model.intercept_[0]))
        self.coef: Array = np.vstack([coef for coef, _ in fits]).T
        self.intercept: Array = np.array([intercept for _, intercept in fits])

    def _measure_telling(self, vectors: Any, holds: Array) -> Array:
        """How far each word, piece and meaning tells texts of a head from the others: a quarter of it counts beside its rarity. The logarithm of the
        ratio of its shares (Wang & Manning, Baselines and Bigrams, ACL 2012; from memory). A plain fact counts as it is."""
        named = vectors.shape[1] - len(PLAIN)
        there = vectors[:, :named] > 0
        among, elsewhere = (np.asarray(there[rows].sum(axis=0)).ravel() + 1.0 for rows in (holds, ~holds))
        told: Array = np.ones(vectors.shape[1])
        told[:named] = 0.75 + 0.25 * np.abs(np.log((among / among.sum()) / (elsewhere / elsewhere.sum())))
        return told

    def _to_vectors(self, texts: _Texts) -> Any:
        from scipy.sparse import csr_matrix, hstack

        named = (
            rarity.transform(c.times[:, known]) * c.counts
            for c, known, rarity in zip(texts.counted, self.known, self.rarity, strict=True)
        )
        return hstack([*named, csr_matrix(texts.plain)]).tocsr()

    def sum_up(self, texts: _Texts) -> Array:
        sums: Array = self._to_vectors(texts) @ self.coef + self.intercept
        return sums


def _fit_chances(holds: Array, sums: Array) -> tuple[Array, Array]:
    """What makes chances of the sums of texts that the weights had not seen; `holds` is as in _Model."""
    from sklearn.linear_model import LogisticRegression

    bent = bend(sums)

    def fit(is_so: Array) -> tuple[Array, Array]:
        fitted = LogisticRegression(C=_SLACK_OF_CHANCES, max_iter=3000).fit(bent, is_so)
        return fitted.coef_.T, fitted.intercept_

    fits = [fit(holds[:, n]) for n in range(len(LABELS))]
    fits.append(fit(holds[:, len(LABELS) :].argmax(axis=1)))
    return np.hstack([turn for turn, _ in fits]), np.hstack([shift for _, shift in fits])


def measure_calibration(chances: Sequence[float], holds: Sequence[bool], bins: int = 10) -> float:
    """The expected calibration error: how far, on average, chances lie from how often it was so, over `bins` of equal width
    (Naeini et al., 2015; from memory). 0 to 1."""
    given, so = np.asarray(chances, dtype=float), np.asarray(holds, dtype=float)
    which = np.minimum((given * bins).astype(int), bins - 1)
    return float(
        sum(abs(given[which == b].mean() - so[which == b].mean()) * (which == b).mean() for b in set(which.tolist()))
    )
