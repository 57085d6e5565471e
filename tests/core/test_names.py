"""Deceiving names: the controls of UAX #9 by their code points, mixed scripts as UTS #39 section 5.1 has them."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.names import clean_name, find_caution, list_scripts

#: Bidirectional classes of UAX #9 that a name has no use for.
TURNING = {"LRE", "RLE", "LRO", "RLO", "PDF", "LRI", "RLI", "FSI", "PDI"}


@pytest.mark.parametrize(
    ("name", "cleaned"),
    [
        ("Wilma Sund", "Wilma Sund"),
        ("evil\u202egnp.exe", "evil gnp.exe"),
        ("\u2066Ilse\u2069\r\nBcc: all@x.example", "Ilse Bcc: all@x.example"),
        ("a\u200bb\u2060c\ufeff", "a b c"),
        ("Familie 👨‍👩‍👧", "Familie 👨‍👩‍👧"),
        ("نور", "نور"),
        ("x" * 5000, "x" * 200),
        ("\0\x07", ""),
    ],
)
def test_what_turns_or_hides_is_taken_out(name: str, cleaned: str) -> None:
    assert clean_name(name) == cleaned


@given(st.text(max_size=60))
def test_nothing_that_turns_is_left(name: str) -> None:
    cleaned = clean_name(name)
    assert not TURNING & {unicodedata.bidirectional(c) for c in cleaned}
    assert clean_name(cleaned) == cleaned
    assert cleaned == "" or cleaned.isprintable() or "\u200d" in cleaned or not cleaned.isascii()


@pytest.mark.parametrize(
    ("handle", "cautious"),
    [
        ("brinewick", False),
        ("br\u0456newick", True),  # a Cyrillic і
        ("p\u03b1ypage", True),  # a Greek α
        ("зоопарк", False),
        ("水族館tokyo", False),
        ("アクアリウムtokyo水", False),
        ("수족관han水", False),
        ("ア수", True),
        ("tess_99 🐙", False),
    ],
)
def test_mixed_scripts_are_named(handle: str, cautious: bool) -> None:
    told = find_caution(handle)
    assert (told is not None) is cautious
    if told:
        assert all(script in told for script in list_scripts(handle))


def test_a_handle_like_ours_is_named() -> None:
    assert find_caution("@BrineWick", ["brinewick"]) == "The handle is written like one of ours."
    assert find_caution("brinewick2", ["brinewick"]) is None
