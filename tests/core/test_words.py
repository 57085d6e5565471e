"""Whole words, folded. Folding by Unicode (UAX #15 NFKD, full case folding): the cases are the standard's own examples
where they have them (from memory), the rest hand-worked."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Invalid
from sorta.core.words import check_pattern, find_all, find_first, fold, fold_text, has_all


@pytest.mark.parametrize(
    ("text", "folded"),
    [
        ("Straße", "strasse"),  # full case folding, CaseFolding.txt
        ("ﬁsh", "fish"),  # compatibility decomposition of a ligature, UAX #15
        ("Å", "a"),  # the angstrom sign decomposes canonically, UAX #15
        ("ＡＢＣ", "abc"),  # full width, UAX #11 and #15
        ("Żółć", "zolc"),
        ("Rødgrød", "rodgrod"),  # no decomposition: our own table
        ("ΣΊΣΥΦΟΣ", "σισυφοσ"),  # final sigma folds as any sigma
    ],
)
def test_folding(text: str, folded: str) -> None:
    assert fold(text) == folded


@pytest.mark.parametrize(
    ("said", "text", "found"),
    [
        ("ray", "The RAY in the pool", "RAY"),
        ("ray", "X-rays and arrays", None),
        ("injur*", "He was Injured badly", "Injured"),
        ("injur*", "uninjured", None),
        ("cut on", "a cut  on its wing", "cut  on"),
        ("cut on", "a cut. On the other hand", None),
        ("cut on", "a cut upon", None),
        ("season pass*", "two season passes", "season passes"),
        ("schon", "Wie schön", "schön"),
        ('"not good"', "not good enough", "not good"),
        ("don't", "I don’t know", "don’t"),
        ("水族館", "素敵な水族館でした", "素敵な水族館でした"),
        ("child", "the child’s shoe", "child"),
        ("水族館", "no such place", None),
        ("30", "waited 30 min", "30"),
    ],
)
def test_whole_words_phrases_and_prefixes(said: str, text: str, found: str | None) -> None:
    assert find_first(said, fold_text(text)) == found


def test_all_found_once_and_as_written() -> None:
    text = fold_text("Hurt, HURT and bleeding")
    assert find_all(["hurt", "bleeding", "sick*"], text) == ("Hurt", "bleeding")
    assert has_all(["hurt", "bleeding"], text)
    assert not has_all(["hurt", "sick"], text)


def test_a_pattern_that_can_find_nothing_is_refused() -> None:
    for said in ("***", "  ", "!?"):
        with pytest.raises(Invalid, match="no letters"):
            check_pattern(said)
    with pytest.raises(Invalid, match="at most"):
        check_pattern("a" * 101)
    assert check_pattern("  two   words ") == "two words"


#: Words whose capitals lead back to them: 'ᾀ' becomes two letters when it is made a capital.
WORDS = st.text(st.characters(categories=["L", "N"]), min_size=1, max_size=8).filter(
    lambda word: word.upper().lower() == word.lower()
)


@given(st.lists(WORDS, min_size=1, max_size=6))
def test_every_word_of_a_text_is_found_in_it(words: list[str]) -> None:
    text = fold_text(" ".join(words))
    for word in words:
        assert (
            find_first(unicodedata.normalize("NFD", word.upper().lower()), text) is not None
            or not fold_text(word).words
        )
