"""The engine that reads messages here, and how accurate it has been. Used by ingest and the reading page.

Sentiment: VADER (Hutto & Gilbert, ICWSM 2014; package vaderSentiment), which knows English only; for texts
in other languages it finds few words and stays near 0. Language: py3langid, below 0.8 unknown.
"""

import functools
from typing import Any

import regex
from py3langid.langid import MODEL_FILE, LanguageIdentifier
from vaderSentiment.vaderSentiment import SentimentIntensityAnalyzer

from sorta.core.ports import Judgement
from sorta.core.reading import EMOJI, strip_marks
from sorta.services.house import House, Scope
from sorta.store import reading

#: The languages a text is taken for; with fewer to choose from short texts are told apart better.
LANGUAGES = ("en", "de", "da", "es", "fr", "pl", "nl", "sv", "it", "pt")
_CERTAIN = 0.8
#: The engine's work grows with the square of what it is given: so much of a text is judged, and so many emoji in it.
MOST_JUDGED, MOST_EMOJI = 1500, 30


@functools.cache
def _get_identifier() -> Any:
    """Loaded on first use: it takes a second and about 100 MB."""
    identifier = LanguageIdentifier.from_model_file(MODEL_FILE, norm_probs=True)
    identifier.set_languages(list(LANGUAGES))
    return identifier


@functools.cache
def _get_analyzer() -> Any:
    return SentimentIntensityAnalyzer()


def cut(text: str) -> str:
    """What of a text is judged: its beginning, with no more emoji than say something."""
    left = MOST_EMOJI

    def keep(found: regex.Match[str]) -> str:
        nonlocal left
        kept = found[0][: max(0, left)]
        left -= len(found[0])
        return kept

    return EMOJI.sub(keep, text[:MOST_JUDGED])


class LexiconReader:
    """Implements core.ports.Reader with VADER and py3langid."""

    def judge(self, text: str) -> Judgement:
        """See core.ports.Reader. Emoji count for the sentiment, not for the language."""
        text = cut(text)
        plain = strip_marks(text)
        language = None
        if any(c.isalpha() for c in plain):
            found, certainty = _get_identifier().classify(plain)
            language = str(found) if certainty >= _CERTAIN else None
        analyzer = _get_analyzer()
        sentiment = float(analyzer.polarity_scores(text)["compound"]) if language in (None, "en") else 0.0
        words = [w for w in dict.fromkeys(plain.lower().split()) if w.strip(".,!?;:'\"()") in analyzer.lexicon]
        return Judgement(
            sentiment=sentiment,
            language=language,
            sentiment_words=tuple(w.strip(".,!?;:'\"()") for w in words[:6]) if sentiment else (),
        )


async def get_accuracy(house: House, scope: Scope) -> dict[str, Any]:
    """How often what a message reads as, its sentiment and its language were left as read by those who sorted it."""
    async with house.db.transact(scope.workspace_id) as conn:
        rows = await reading.count_accuracy(conn, scope.workspace_id)
        latest = await reading.list_corrections(conn, scope.workspace_id, 20)
    return {"fields": rows, "latest": latest}
