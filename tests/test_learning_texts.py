"""The texts that reading is to be learned from are in order, and none of them is the demo's."""

import functools
import re
from collections import Counter
from pathlib import Path

import pytest

from sorta.core.learning import Lesson
from sorta.core.words import fold_text
from sorta.services.lessons import Unwritten, get_hash, read_texts
from sorta.services.lessons import split as split_texts
from sorta.settings import LEARNED
from sorta.store import weights

ROOT = Path(__file__).parent.parent
FILES = sorted((ROOT / "texts").glob("*.txt"))
LINE = re.compile(r"(-|[qcpts]+) ([-+0]) (\S.*)")
#: Words in a row that would be the demo's own.
IN_A_ROW = 5


@functools.cache
def read_ours() -> list[Lesson]:
    return read_texts(ROOT / "texts")


def read_lines(path: Path) -> list[tuple[str, str, str]]:
    found = []
    for number, line in enumerate(path.read_text().splitlines(), 1):
        if line.startswith("#"):
            assert re.fullmatch(r"# author: \w+  topic: \S.*", line), f"{path.name}:{number}"
            continue
        matched = LINE.fullmatch(line)
        assert matched, f"{path.name}:{number}: {line}"
        found.append((matched[1], matched[2], matched[3]))
    return found


@pytest.mark.parametrize("path", FILES, ids=lambda p: p.stem)
def test_each_line_says_what_it_is(path: Path) -> None:
    lines = read_lines(path)
    assert len(lines) >= 40
    for labels, feeling, text in lines:
        assert len(set(labels)) == len(labels), text
        assert len(text) <= 300
        assert not ("s" in labels and feeling == "+"), text
        assert not (labels in ("p", "t", "pt") and feeling == "-"), text


def test_no_text_stands_twice_in_a_language() -> None:
    told: Counter[tuple[str, str]] = Counter()
    for path in FILES:
        told.update((path.stem[:2], fold_text(text).text.casefold()) for _, _, text in read_lines(path))
    assert [one for one, times in told.items() if times > 1] == []


def split(text: str) -> list[str]:
    return re.findall(r"\w+", fold_text(text).text.casefold())


def test_none_of_them_is_the_demos() -> None:
    files = sorted([*(ROOT / "demo").glob("*.py"), *(ROOT / "demo" / "texts").glob("*.txt")])
    said = split(" . ".join(p.read_text() for p in files))
    rows = {tuple(said[n : n + IN_A_ROW]) for n in range(len(said) - IN_A_ROW + 1)}
    taken = []
    for path in FILES:
        for _, _, text in read_lines(path):
            words = split(text)
            if any(tuple(words[n : n + IN_A_ROW]) in rows for n in range(len(words) - IN_A_ROW + 1)):
                taken.append((path.name, text))
    assert taken == []


def test_set_aside_is_a_fifth_and_none_of_it_is_learned_from() -> None:
    taught, aside = split_texts(read_ours())
    assert 0.15 < len(aside) / (len(taught) + len(aside)) < 0.3
    assert {o.group for o in taught}.isdisjoint(o.group for o in aside)


def test_none_of_what_is_learned_from_is_in_the_second_hand() -> None:
    taught = {fold_text(o.text).text.casefold() for o in read_ours()}
    second = read_texts(ROOT / "tests" / "reading" / "second_hand")
    assert len(second) >= 300
    assert [o.text for o in second if fold_text(o.text).text.casefold() in taught] == []


def test_the_weights_are_of_these_texts() -> None:
    assert weights.get_learned_from(LEARNED) == get_hash(ROOT / "texts")


@pytest.mark.parametrize(
    ("lines", "wrong"),
    [
        ("q - no part yet", "line 1"),
        ("# author: a  topic: b\nx 0 what", "line 2"),
        ("# author: a  topic: b\nq 0", "line 2"),
    ],
)
def test_a_line_that_says_nothing_is_named(tmp_path: Path, lines: str, wrong: str) -> None:
    (tmp_path / "en-1.txt").write_text(lines)
    with pytest.raises(Unwritten, match=wrong):
        read_texts(tmp_path)


@pytest.mark.parametrize("content", [b"", b"PK not an archive", b"\x80\x04."])
def test_a_file_that_holds_no_weights_is_told(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "reading.npz"
    path.write_bytes(content)
    with pytest.raises(weights.NoWeights):
        weights.load(path)
    assert weights.get_learned_from(path) is None
