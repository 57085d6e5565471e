"""Which saved reply answers a message like this one: learned from what was answered here. Used by services.texts.

How well each reply fits is a kernel ridge regression over words, pairs of words and pieces of words; its answers for texts it was not
fitted on, each text or each reply left out, follow from one matrix (Rasmussen & Williams, Gaussian Processes for Machine Learning, 2006,
5.4.2; from memory, and tested against fitting anew). On these, and on messages that no saved reply was used for, the chance is fitted
that a reply fits: so it can be low for all, and then nothing is offered. Measured in `make bench` on the topics of chatterbot-corpus.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any, TypeAlias

import numpy as np

#: Of this many answers, the latest, it learns; and of so many messages that were answered in one's own words.
MOST_LEARNED, MOST_OTHERS = 1500, 300
#: Something is put in front of somebody when one of it fits more often than not; each of it fits so often at least.
OFFERED_FROM, BESIDE_FROM = 0.5, 0.2
#: Of so few, nobody knows better than this how often one fits.
HIGHEST = 0.97
#: How much the fit may give way, and how much words count beside their pieces.
_SLACKS, _WORDS = (0.2, 0.5, 1.0), 0.5
#: What makes a chance of (score, lead, likeness) while there are few answers to fit it on: the mean over small sets of the corpus's topics in
#: six languages that are not measured by. It counts as so many answers beside those there are.
_USUAL, _USUAL_COUNTS = (5.0, 1.3, 1.5, -3.2), 30
_LOOKED_AT = 3
#: From this likeness on two messages say the same.
_THE_SAME = 0.95
#: How a chance is said, from the highest that is not above it.
_SAID = (
    (0.9, "9 in 10"),
    (0.8, "4 in 5"),
    (0.75, "3 in 4"),
    (2 / 3, "2 in 3"),
    (0.5, "1 in 2"),
    (1 / 3, "1 in 3"),
    (0.25, "1 in 4"),
    (0.2, "1 in 5"),
)

Array: TypeAlias = np.ndarray[Any, Any]


@dataclass(frozen=True, kw_only=True)
class Answered:
    """A message, and the saved reply it was answered with."""

    text: str
    reply: int


@dataclass(frozen=True, kw_only=True)
class Suggestion:
    """A saved reply; `chance` that it fits, `likeness` from 0 to 1 of `like`, the likest message that was answered with it, among `times`
    of them. The chances of several add up to 1 at most."""

    reply: int
    chance: float
    likeness: float
    like: str
    times: int


def load_library() -> None:
    """Load what learning needs: a second in which this process does nothing else, so best before it serves anybody."""
    import sklearn.feature_extraction.text
    import sklearn.linear_model  # noqa: F401


class Suggester:
    """Learns once from `answered`, newest last, and then ranks saved replies for a text. `others` are messages that were answered in
    one's own words: what no saved reply was used for."""

    def __init__(self, answered: Sequence[Answered], others: Sequence[str] = ()) -> None:
        self.answered = [a for a in answered[-MOST_LEARNED:] if a.text.strip()]
        if not self.answered:
            return
        try:
            self._seen: Any = self._learn_words([a.text for a in self.answered])
        except ValueError:
            # Not one word in any of them ("!!!"): nothing to learn from.
            self.answered = []
            return
        self._replies = np.unique([a.reply for a in self.answered])
        self._of = np.searchsorted(self._replies, [a.reply for a in self.answered])
        alike = np.asarray((self._seen @ self._seen.T).todense())
        targets = np.eye(len(self._replies))[self._of]
        inverse = self._fit(alike, targets)
        self._weights: Array = inverse @ targets
        self._chance = self._fit_chance(alike, inverse, targets, [text for text in others if text.strip()])

    def _fit(self, alike: Array, targets: Array) -> Array:
        """The inverse of the likenesses with the slack that most texts find their reply by when they are left out."""
        tried = []
        for slack in _SLACKS:
            inverse = np.linalg.inv(alike + slack * np.eye(len(alike)))
            left = leave_each_out(inverse, inverse @ targets, targets)
            tried.append((int((left.argmax(axis=1) == self._of).sum()), inverse))
        found: Array = max(tried, key=lambda one: one[0])[1]
        return found

    def _learn_words(self, texts: Sequence[str]) -> Any:
        # Here and not above: see load_library.
        from sklearn.feature_extraction.text import TfidfVectorizer

        self._words = TfidfVectorizer(ngram_range=(1, 2), sublinear_tf=True, token_pattern=r"(?u)\b\w+\b").fit(texts)
        self._pieces = TfidfVectorizer(analyzer="char_wb", ngram_range=(2, 5), sublinear_tf=True).fit(texts)
        return self._see(texts)

    def _see(self, texts: Sequence[str]) -> Any:
        from scipy.sparse import hstack

        both = [self._words.transform(texts) * _WORDS, self._pieces.transform(texts)]
        return hstack(both).tocsr() / np.hypot(1, _WORDS)

    def _fit_chance(self, alike: Array, inverse: Array, targets: Array, others: Sequence[str]) -> Array:
        """What makes a chance of what speaks for a reply, fitted on texts that were left out."""
        from sklearn.linear_model import LogisticRegression

        left, apart = (
            leave_each_out(inverse, self._weights, targets),
            leave_replies_out(inverse, self._weights, targets),
        )
        # What was used for the very same words fits too, whichever of them was used this time.
        right = (alike >= _THE_SAME) @ targets > 0
        none_alike = np.where(targets @ targets.T > 0, 0.0, alike)
        np.fill_diagonal(alike, 0.0)
        facts, fits, counts = [], [], []

        def look(scores: Array, alike: Array, right: Array | None, counted: float) -> None:
            for place in range(min(_LOOKED_AT, scores.shape[1])):
                seen, which = self._weigh(scores, alike, place)
                facts.append(seen)
                fits.append(np.zeros(len(seen), bool) if right is None else right[np.arange(len(seen)), which])
                counts.append(np.full(len(seen), counted))

        # A reply that was used once cannot be found again without that once: that says nothing of it.
        again = np.flatnonzero(np.bincount(self._of)[self._of] > 1)
        look(left[again], alike[again], right[again], 1.0)
        if len(self._replies) > 1:
            look(apart, none_alike, right, 1.0)
        if others:
            seen = np.asarray((self._see(others[-MOST_OTHERS:]) @ self._seen.T).todense())
            look(seen @ self._weights, seen, None, min(1.0, len(self.answered) / len(seen)))
        fitted = np.concatenate(fits)
        if fitted.all() or not fitted.any():
            return np.array(_USUAL)
        fit = LogisticRegression(C=10.0).fit(np.concatenate(facts), fitted, sample_weight=np.concatenate(counts))
        own = np.append(fit.coef_[0], fit.intercept_[0])
        share = len(self.answered) / (len(self.answered) + _USUAL_COUNTS)
        mixed: Array = share * own + (1 - share) * np.array(_USUAL)
        return mixed

    def _weigh(self, scores: Array, alike: Array, place: int, among: Array | None = None) -> tuple[Array, Array]:
        """Of the reply at a place: how well it fits, by how much better than the best other, how like the likest message is; and which
        it is."""
        open_ = scores if among is None else np.where(among, scores, -np.inf)
        order = np.argsort(-open_, axis=1, kind="stable")
        rows, which = np.arange(len(scores)), order[:, place]
        best_other = open_[rows, order[:, 1 if place == 0 else 0]] if scores.shape[1] > 1 else np.zeros(len(scores))
        lead = np.clip(scores[rows, which] - best_other, -1, 1)
        likest = np.where(self._of[None, :] == which[:, None], alike, 0.0).max(axis=1)
        return np.stack([scores[rows, which], lead, likest], axis=1), which

    def rank(self, text: str, among: Collection[int]) -> tuple[Suggestion, ...]:
        """Those of `among` that were used here, best first."""
        if not self.answered or not text.strip():
            return ()
        open_ = np.isin(self._replies, list(among))
        alike = np.asarray((self._seen @ self._see([text]).T).todense()).ravel()
        if not open_.any() or not alike.any():
            return ()
        scores = (alike @ self._weights)[None, :]
        found = []
        for place in range(int(open_.sum())):
            facts, which = self._weigh(scores, alike[None, :], place, open_[None, :])
            chance = 1 / (1 + np.exp(-np.clip(facts[0] @ self._chance[:3] + self._chance[3], -30, 30)))
            of = np.flatnonzero(self._of == which[0])
            best = of[np.lexsort((of, alike[of]))[-1]]
            found.append((int(self._replies[which[0]]), float(chance), int(best), len(of)))
        whole = max(1.0, sum(chance for _, chance, _, _ in found))
        return tuple(
            Suggestion(
                reply=reply,
                chance=min(chance / whole, HIGHEST),
                likeness=min(float(alike[best]), 1.0),
                like=self.answered[best].text,
                times=times,
            )
            for reply, chance, best, times in found
        )


def list_offered(ranked: Sequence[Suggestion]) -> tuple[Suggestion, ...]:
    """What of a ranking is put in front of somebody, the likeliest first: nothing where nothing is likely to fit."""
    may = sorted((one for one in ranked if one.chance >= BESIDE_FROM), key=lambda one: -one.chance)
    return tuple(may) if sum(one.chance for one in may) >= OFFERED_FROM else ()


def say_chance(chance: float) -> str:
    """How often it fits, in words: "3 in 4"."""
    return next((words for lowest, words in _SAID if chance >= lowest), "seldom")


def leave_each_out(inverse: Array, weights: Array, targets: Array) -> Array:
    """What the regression says of each text when it is fitted on all the others. `inverse` is that of the likenesses with the slack on
    their diagonal, `weights` is `inverse @ targets`."""
    said: Array = targets - weights / np.diag(inverse)[:, None]
    return said


def leave_replies_out(inverse: Array, weights: Array, targets: Array) -> Array:
    """What it says of each text when it is fitted without any text that has the same target; that target itself is out of question."""
    said = np.zeros_like(targets)
    for n in range(targets.shape[1]):
        of = np.flatnonzero(targets[:, n])
        said[of] = targets[of] - np.linalg.solve(inverse[np.ix_(of, of)], weights[of])
        said[of, n] = -1.0
    return said
