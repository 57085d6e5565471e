"""The written texts that reading is learned from, and learning from them. Used by main, the evaluation and the tests."""

import hashlib
import re
from collections.abc import Sequence
from pathlib import Path

from sorta.core import feeling_words, learned, learning, pieces, words
from sorta.core.feeling_words import KINDS
from sorta.core.learned import Learned, Weights
from sorta.core.learning import Lesson, is_set_aside, learn
from sorta.core.own_reading import COUNTS, CannotLearn, Marks, Taught, Told, compare, get_macro_f1, mark
from sorta.core.reading import list_held
from sorta.services.reader import LearnedReader, find_out
from sorta.store import weights

_LABELS = {"q": "question", "c": "complaint", "p": "praise", "t": "thanks", "s": "spam"}
_TONES = {"-": "negative", "0": "neutral", "+": "positive"}
_LINE = re.compile(r"(-|[qcpts]+) ([-+0]) (\S.*)")
_PART = re.compile(r"# author: (\w+)  topic: (\S.*)")


#: What the texts are learned from with: a change there is learned anew.
_METHOD = (words, feeling_words, pieces, learned, learning)


class Unwritten(ValueError):
    """A line of the written texts is not as texts/README.md says."""


def read_texts(folder: Path) -> list[Lesson]:
    """Every text of a folder's files, in a fixed order. Raises Unwritten with the file and the line that is wrong."""
    found: list[Lesson] = []
    for path in sorted(folder.glob("*.txt")):
        found += read_file(path)
    return found


def read_file(path: Path) -> list[Lesson]:
    """The texts of one file; its name begins with their language. Raises Unwritten."""
    language, group, found = path.name[:2], "", []
    for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
        if part := _PART.fullmatch(line):
            group = f"{language} {part[1]} {part[2]}"
            continue
        said = _LINE.fullmatch(line)
        if not said or not group:
            raise Unwritten(f"{path.name}, line {number}: “{line[:60]}” is neither a part nor a text.")
        labels = frozenset(_LABELS[c] for c in said[1] if c in _LABELS)
        found.append(make_lesson(said[3], language, labels, _TONES[said[2]], group))
    return found


def make_lesson(text: str, language: str, labels: frozenset[str], tone: str, group: str, counts: float = 1.0) -> Lesson:
    """A text to learn from, with what is known of its words and emoji."""
    return Lesson(
        text=text, language=language, labels=labels, tone=tone, group=group, known=find_out(text), counts=counts
    )


def read_feeling_words(folder: Path) -> dict[str, dict[str, tuple[str, ...]]]:
    """The lists of core.feeling_words, one file a language. Raises Unwritten."""
    found: dict[str, dict[str, tuple[str, ...]]] = {}
    for path in sorted((folder / "words").glob("*.txt")):
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
            kind, colon, words = line.partition(":")
            if not colon or kind not in KINDS:
                raise Unwritten(
                    f"{path.name}, line {number}: a list begins with one of {', '.join(KINDS)} and a colon."
                )
            found.setdefault(path.stem, {})[kind] = tuple(words.split())
    return found


def split(lessons: Sequence[Lesson]) -> tuple[list[Lesson], list[Lesson]]:
    """Those that are learned from, and those that are set aside for testing."""
    return [o for o in lessons if not is_set_aside(o.group)], [o for o in lessons if is_set_aside(o.group)]


def get_hash(folder: Path) -> str:
    """What learning depends on: the texts, and how they are learned from."""
    digest = hashlib.sha256()
    for path in [*sorted(folder.rglob("*.txt")), *(Path(m.__file__ or "") for m in _METHOD)]:
        digest.update(path.name.encode() + b"\0" + path.read_bytes() + b"\0")
    return digest.hexdigest()


def teach(folder: Path, path: Path) -> bool:
    """Learn from a folder's texts and keep it as `path`; False when that holds what would be learned already. Raises Unwritten."""
    learned_from = get_hash(folder)
    if weights.get_learned_from(path) == learned_from:
        return False
    taught, _ = split(read_texts(folder))
    weights.save(path, learn(taught, feeling=read_feeling_words(folder), learned_from=learned_from))
    return True


def relearn(folder: Path, told: Sequence[Told], present: Weights) -> Taught:
    """A workspace's own reading: from a folder's texts and what members say of messages, set beside the one it has now.

    Raises Unwritten, and CannotLearn when `present` was learned with other texts, so that the two cannot be compared.
    """
    based_on = get_hash(folder)
    if present.learned_from != based_on:
        raise CannotLearn(
            "The texts are not those that messages are read by; `python -m sorta.main learn` comes first."
        )
    taught, aside = split(read_texts(folder))
    own = [make_lesson(t.text, "", t.labels, t.tone, f"said of {t.message}", COUNTS) for t in told if not t.is_kept]
    fresh = learn([*taught, *own], feeling=read_feeling_words(folder), learned_from=based_on)
    before, after = (_mark(one, told, aside) for one in (present, fresh))
    return Taught(weights=weights.pack(fresh), compared=compare(told, before, after), based_on=based_on)


def _mark(judged_by: Weights, told: Sequence[Told], aside: Sequence[Lesson]) -> Marks:
    learned = Learned(judged_by)
    reader = LearnedReader(learned)
    f1 = get_macro_f1(
        [frozenset(list_held(learned.judge(o.text, o.known).chances)) for o in aside], [o.labels for o in aside]
    )
    return mark(told, [frozenset(list_held(reader.judge(t.text).chances)) for t in told if t.is_kept], f1)
