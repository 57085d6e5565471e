"""What one writes to find something: read, written for PostgreSQL, and shown in what was found.

The folding is held to Unicode in tests/core/test_words.py; what stands here is the language, and that what is written is found where it stands.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.finding import (
    Term,
    can_match,
    excerpt,
    finds_something,
    list_asked,
    list_whole_words,
    matches,
    part,
    read_search,
    suggest,
    write_query,
    write_vector,
)

texts = st.text(st.characters(codec="utf-8", exclude_characters="\x00"), max_size=80)


@pytest.mark.parametrize(
    ("said", "terms"),
    [
        ("queue", [Term(words=("queue",))]),
        ("Ødegård", [Term(words=("odegard",))]),
        ("B-2207", [Term(words=("b", "2207"))]),
        ("48-1930", [Term(words=("48", "1930"))]),
        ("@marek.rask", [Term(words=("marek", "rask"))]),
        ('"pass season"', [Term(words=("pass", "season"))]),
        ("“pass season”", [Term(words=("pass", "season"))]),
        ("„pass season“", [Term(words=("pass", "season"))]),
        ("«pass season»", [Term(words=("pass", "season"))]),
        ("pass -season", [Term(words=("pass",)), Term(words=("season",), is_not=True)]),
        ('pass -"long queue"', [Term(words=("pass",)), Term(words=("long", "queue"), is_not=True)]),
        ("pass−through", [Term(words=("pass", "through"))]),
        ("refund*", [Term(words=("refund",), is_prefix=True)]),
        ("水族館", [Term(words=("水", "族", "館"))]),
        ("- -- * \" ' @", []),
        ("-", []),
        ("😀", []),
        ('"pass sea', [Term(words=("pass", "sea"))]),
    ],
)
def test_what_is_written_is_read(said: str, terms: list[Term]) -> None:
    assert list(read_search(said, typing=False)) == terms


def test_the_last_word_may_go_on_while_one_types() -> None:
    assert [t.is_prefix for t in read_search("long que")] == [False, True]
    assert [t.is_prefix for t in read_search("long que ")] == [False, False]
    assert [t.is_prefix for t in read_search('"long que"')] == [False]
    assert read_search("B-22")[0] == Term(words=("b", "22"), is_prefix=True)


def test_what_only_must_not_stand_asks_for_nothing() -> None:
    assert not finds_something(read_search("-spam"))
    assert not finds_something(read_search(""))
    assert finds_something(read_search("-spam queue"))


def test_it_is_written_as_the_store_takes_it() -> None:
    terms = read_search('it is long -"a b" que')
    assert write_query(read_search("o'neil -x", typing=False)) == "('o' <-> 'neil') & !'x'"
    assert write_query(terms).endswith("& 'que':*")
    assert list_asked(read_search("B-22 -x")) == ["b", "22"]
    assert list_asked(read_search("-x B-22")) == ["b", "22*"]
    assert write_vector("Long, long queue") == "'long':1,2 'queue':3"


def test_an_enormous_text_is_found_by_its_beginning_and_takes_no_longer() -> None:
    assert len(write_vector("word " * 400_000)) < 2_000
    many = write_vector(" ".join(f"w{n}" for n in range(400_000)))
    assert len(many.encode()) < 1_000_000
    assert "'w0':1" in many
    assert len(write_vector("x" * 100_000)) < 400


@given(texts)
def test_what_was_found_is_shown_where_it_stands(text: str) -> None:
    for term in read_search(text, typing=False):
        if term.is_not:
            continue
        shown = excerpt(text, (term,))
        assert all(0 <= a < b <= len(shown.text) for a, b in shown.marks)


def test_the_piece_that_is_shown_has_what_was_found_in_it() -> None:
    text = "We came early. " * 30 + "The Ødegård pass does not open B-2207 any more. " + "It was fine. " * 30
    shown = excerpt(text, read_search("odegard b-2207 -nothing", typing=False))
    assert [shown.text[a:b] for a, b in shown.marks] == ["Ødegård", "B-2207"]
    assert shown.text.startswith("… ")
    assert shown.text.endswith(" …")
    assert len(shown.text) < 200
    short = excerpt("水族館は楽しい", read_search("族館", typing=False))
    assert [short.text[a:b] for a, b in short.marks] == ["族館"]


#: English words as they are often misspelled; from memory of lists of common misspellings (Birkbeck's and Wikipedia's).
MISSPELLED = {
    "recieve": "receive", "seperate": "separate", "definately": "definitely", "accomodate": "accommodate", "occured": "occurred",
    "adress": "address", "tommorow": "tomorrow", "begining": "beginning", "beleive": "believe", "calender": "calendar",
    "neccessary": "necessary", "wich": "which", "restarant": "restaurant", "foriegn": "foreign", "goverment": "government",
    "untill": "until", "wierd": "weird", "acheive": "achieve", "truely": "truly", "publically": "publicly",
}  # fmt: skip


def test_what_is_misspelled_is_taken_for_what_was_meant() -> None:
    known = dict.fromkeys(MISSPELLED.values(), 3) | dict.fromkeys(
        ["ticket", "season", "pass", "walrus", "refund", "queue"], 9
    )
    meant = {wrong: suggest(read_search(wrong), known) for wrong in MISSPELLED}
    assert [(wrong, got) for wrong, got in meant.items() if got != MISSPELLED[wrong]] == []


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("walrsu", "walrus"),
        ('"season pas"', None),
        ('"seson pass"', '"season pass"'),
        ("seson -refnud", "season -refnud"),
        ("walrus", None),
        ("walr", None),
        ("zzzzzz", None),
        ("ödegrad", "odegard"),
        ("tickte walrus", "ticket walrus"),
        ("", None),
        ("…", None),
    ],
)
def test_what_nothing_is_wrong_with_or_nothing_is_like_is_left(said: str, meant: str | None) -> None:
    known = {"season": 9, "pass": 2, "walrus": 3, "refund": 1, "ticket": 4, "odegard": 1}
    assert suggest(read_search(said), known) == meant


def test_of_two_as_like_the_more_used_is_meant() -> None:
    assert suggest(read_search("tixket"), {"ticket": 1, "tibket": 8}) == "tibket"


@given(st.lists(st.text(max_size=12), max_size=40), st.text(max_size=40))
def test_what_is_suggested_is_made_of_words_that_are_known(texts: list[str], said: str) -> None:
    known: dict[str, int] = {}
    for text in texts:
        for word in part(text):
            known[word] = known.get(word, 0) + 1
    meant = suggest(read_search(said), known)
    if meant is None:
        return
    for term in read_search(meant, typing=False):
        if not term.is_not:
            assert all(word in known or word in {w for t in read_search(said) for w in t.words} for word in term.words)


@pytest.mark.parametrize(
    ("said", "text", "is_found"),
    [
        ("seal pram", "A PRAM by the séal", True),
        ("seal pram", "seals, pram", False),
        ("seal* pram", "seals, pram", True),
        ('"pass season"', "season pass", False),
        ('"season pass"', "my season-pass", True),
        ("reef -job", "the reef, a job", False),
        ("reef -job", "the reef", True),
        ("2207", "booking B-2207", True),
        ("水族", "大水族館", True),
    ],
)
def test_it_holds_of_a_text_or_not(said: str, text: str, is_found: bool) -> None:
    assert matches(read_search(said, typing=False), text) == is_found


@pytest.mark.parametrize(
    ("said", "is_possible"),
    [
        ("reef -reef", False),
        ("reefs -reef*", False),
        ('"the big reef" -"big reef"', False),
        ("reef* -reefs", True),
        ("reef -job", True),
        ("-job", False),
        ("", False),
    ],
)
def test_what_must_be_there_and_must_not_is_never_found(said: str, is_possible: bool) -> None:
    assert can_match(read_search(said, typing=False)) == is_possible


@given(texts, texts)
def test_what_is_found_was_possible(said: str, text: str) -> None:
    terms = read_search(said, typing=False)
    if finds_something(terms) and matches(terms, text):
        assert can_match(terms)


def test_a_network_is_asked_for_the_words_as_they_are_written() -> None:
    said = '"Blå fisk" ØDEGÅRD reef* -job fisk … @marek.rask'
    assert list_whole_words(said, beginnings=False) == ["blå", "fisk", "ødegård", "@marek.rask"]
    assert list_whole_words(said, beginnings=True) == ["blå", "fisk", "ødegård", "reef", "@marek.rask"]
    assert list_whole_words("reef*", beginnings=False) == []
