"""The engine that reads messages here. Made by main; used by ingest and by services.lessons.

What a text says: learned weights (core.learned). Language: py3langid, judged among all it knows, so that a Norwegian text is not
called Danish. How an English text feels: the mean of the learned and of VADER (Hutto & Gilbert, ICWSM 2014; package vaderSentiment).
"""

import functools
from pathlib import Path
from typing import Any

import regex
from py3langid.langid import MODEL_FILE, LanguageIdentifier
from vaderSentiment.vaderSentiment import SentimentIntensityAnalyzer

from sorta.core.learned import LABELS, TONES, Learned, Weights
from sorta.core.pieces import Known, list_tokens
from sorta.core.ports import Judgement
from sorta.core.reading import EMOJI, strip_marks
from sorta.store import weights

#: The languages a text is taken for; one in any other is unknown.
LANGUAGES = ("en", "de", "da", "es", "fr", "pl", "nl", "sv", "it", "pt")
#: The likeliest of all languages must be one of ours, and so likely beside the others of ours.
_CERTAIN = 0.7
#: From this length on the thirds of a text are judged too: what is in two languages is in none.
_PARTED_FROM = 60
_SHORTEST = 4
_LOOKED_AT = 20
#: The engine's work grows with what it is given: so much of a text is judged, and so many emoji in it.
MOST_JUDGED, MOST_EMOJI = 1500, 30
_LETTER = regex.compile(r"\p{L}")
_LATIN = regex.compile(r"\p{Latin}")


@functools.cache
def _get_identifier() -> Any:
    """Loaded on first use: it takes a second and about 100 MB."""
    return LanguageIdentifier.from_model_file(MODEL_FILE, norm_probs=True)


@functools.cache
def _get_analyzer() -> Any:
    return SentimentIntensityAnalyzer()


def feel_english(text: str) -> float:
    """How an English text feels by its words, -1 to 1: VADER's compound."""
    return float(_get_analyzer().polarity_scores(text)["compound"])


def feel_emoji(text: str) -> float:
    """How the emoji of a text feel, -1 to 1, by what they are called."""
    said = "".join(t.form for t in list_tokens(text) if t.kind == "emoji")
    return feel_english(said) if said else 0.0


def find_out(text: str) -> Known:
    """What is known of a text before it is judged."""
    language = identify(text)
    return Known(
        language=language,
        english=feel_english(text) if language in (None, "en") else None,
        emoji=feel_emoji(text),
    )


def cut(text: str) -> str:
    """What of a text is judged: its beginning, with no more emoji than say something."""
    left = MOST_EMOJI

    def keep(found: regex.Match[str]) -> str:
        nonlocal left
        kept = found[0][: max(0, left)]
        left -= len(found[0])
        return kept

    return EMOJI.sub(keep, text[:MOST_JUDGED])


def identify(text: str) -> str | None:
    """The language of a text, links and names left out; None where it is none of ours, mixed or too short to tell."""
    plain = strip_marks(text)
    letters = _LETTER.findall(plain)
    # Ours are all written in Latin letters; what is not is in none of them.
    if len(letters) < _SHORTEST or len(_LATIN.findall(plain)) < 0.9 * len(letters):
        return None
    found = _judge_language(plain)
    if found is not None and len(plain) >= _PARTED_FROM:
        words = plain.split(" ")
        third = max(1, -(-len(words) // 3))
        parts = {_judge_language(" ".join(words[n : n + third])) for n in range(0, len(words), third)}
        return found if parts - {None} <= {found} else None
    return found


def _judge_language(plain: str) -> str | None:
    language, chance = _get_identifier().classify(plain)
    if language not in LANGUAGES:
        return None
    if chance < _CERTAIN:
        # What comes further down adds nothing that could be seen.
        ranked = _get_identifier().rank(plain)[:_LOOKED_AT]
        if chance < _CERTAIN * sum(c for other, c in ranked if other in LANGUAGES):
            return None
    return str(language)


class LearnedReader:
    """Implements core.ports.Reader by weights that were learned (services.lessons)."""

    def __init__(self, learned: Learned) -> None:
        self._learned = learned

    @property
    def weights(self) -> Weights:
        """What it judges by."""
        return self._learned.weights

    @property
    def learned_from(self) -> str:
        """See core.ports.Reader."""
        return self.weights.learned_from

    @classmethod
    def load(cls, path: Path) -> "LearnedReader":
        """By the weights in a file. Raises store.weights.NoWeights."""
        return cls(Learned(weights.load(path)))

    @classmethod
    def unpack(cls, packed: bytes) -> "LearnedReader":
        """By weights as store.weights.pack has them. Raises store.weights.NoWeights."""
        return cls(Learned(weights.unpack(packed)))

    def judge(self, text: str) -> Judgement:
        """See core.ports.Reader."""
        text = cut(text)
        if not list_tokens(text):
            return Judgement(language=None, chances=dict.fromkeys(LABELS, 0.0), tones=_make_tones(0.0))
        known = find_out(text)
        said = self._learned.judge(text, known)
        tones = said.tones
        if known.language == "en" and known.english is not None:
            words = _make_tones(known.english)
            tones = {tone: (tones[tone] + words[tone]) / 2 for tone in TONES}
        return Judgement(language=known.language, chances=said.chances, tones=tones, words=said.words)


def _make_tones(compound: float) -> dict[str, float]:
    return {"negative": max(0.0, -compound), "neutral": 1.0 - abs(compound), "positive": max(0.0, compound)}
