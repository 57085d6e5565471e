"""Which saved reply answers a message like this one: learned from what was answered here. Used by services.texts.

A linear support vector machine over words, pairs of words and pieces of words says how well each saved reply fits;
beside it stands the likest message that was answered so. On the 21 English topics of chatterbot-corpus it finds more
than BM25 over the same messages (measured in `make bench`, tested in tests/core/test_suggesting.py).
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any

#: Of this many answers, the latest, it learns.
MOST_LEARNED = 1500
#: Below this likeness an earlier message says nothing about the one looked at.
LIKE_ENOUGH = 0.08


@dataclass(frozen=True, kw_only=True)
class Answered:
    """A message, and the saved reply it was answered with."""

    text: str
    reply: int


@dataclass(frozen=True, kw_only=True)
class Suggestion:
    """A saved reply; `score` from 0 to 1 among those asked for, `likeness` from 0 to 1 of `like`, the likest message
    that was answered with it, among `times` of them."""

    reply: int
    score: float
    likeness: float
    like: str
    times: int


def load_library() -> None:
    """Load what learning needs: a second in which this process does nothing else, so best before it serves anybody."""
    import sklearn.feature_extraction.text
    import sklearn.pipeline
    import sklearn.svm  # noqa: F401


class Suggester:
    """Learns once from `answered`, newest last, and then ranks saved replies for a text."""

    def __init__(self, answered: Sequence[Answered]) -> None:
        # Here and not above: see load_library.
        from sklearn.feature_extraction.text import TfidfVectorizer
        from sklearn.pipeline import make_union
        from sklearn.svm import LinearSVC

        self.answered = [a for a in answered[-MOST_LEARNED:] if a.text.strip()]
        self._model: Any = None
        if not self.answered:
            return
        words = TfidfVectorizer(ngram_range=(1, 2), sublinear_tf=True, token_pattern=r"(?u)\b\w+\b")
        pieces = TfidfVectorizer(analyzer="char_wb", ngram_range=(2, 4), sublinear_tf=True)
        self._vectors: Any = make_union(words, pieces)
        try:
            self._seen: Any = self._vectors.fit_transform([a.text for a in self.answered])
        except ValueError:
            # Not one word in any of them ("!!!"): nothing to learn from.
            self.answered = []
            return
        if len({a.reply for a in self.answered}) > 1:
            self._model = LinearSVC(random_state=0).fit(self._seen, [a.reply for a in self.answered])

    def rank(self, text: str, among: Collection[int]) -> tuple[Suggestion, ...]:
        """Those of `among` that were used for something like `text`, best first."""
        import numpy as np

        if not self.answered or not text.strip():
            return ()
        asked = self._vectors.transform([text])
        # Each half is of length one, so that half the product is their mean likeness.
        alike = np.asarray((self._seen @ asked.T).todense()).ravel() / 2
        decided = self._decide(asked)
        found = []
        for reply in sorted({a.reply for a in self.answered} & set(among)):
            of = [n for n, a in enumerate(self.answered) if a.reply == reply]
            best = max(of, key=lambda n: (alike[n], n))
            if alike[best] >= LIKE_ENOUGH:
                found.append((reply, decided.get(reply, 0.0), float(alike[best]), best, len(of)))
        if not found:
            return ()
        weights = np.exp(3 * (np.array([f[1] for f in found]) - max(f[1] for f in found)))
        shares = weights / weights.sum()
        ranked = [
            Suggestion(reply=f[0], score=float(s), likeness=min(f[2], 1.0), like=self.answered[f[3]].text, times=f[4])
            for f, s in zip(found, shares, strict=True)
        ]
        return tuple(sorted(ranked, key=lambda s: (-s.score, -s.likeness, s.reply)))

    def _decide(self, asked: Any) -> dict[int, float]:
        """How far the text lies on each reply's side."""
        if self._model is None:
            return {}
        values = self._model.decision_function(asked)[0]
        classes = [int(c) for c in self._model.classes_]
        if len(classes) == 2:
            return {classes[0]: -float(values), classes[1]: float(values)}
        return {c: float(v) for c, v in zip(classes, values, strict=True)}
