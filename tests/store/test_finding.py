"""What is written for PostgreSQL finds there what it is said to find: its search is held to a plain look through the words."""

from collections.abc import Iterator
from typing import Any

import psycopg
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dev.cluster import Cluster
from sorta.core.finding import Term, list_asked, matches, read_search, write_query, write_vector

#: Words that meet, of scripts with and without spaces, with signs between and around.
pieces = st.sampled_from(["pass", "Season", "Ødegård", "odegard", "B-2207", "48-1930", "2207", "水族館", "水", "o'neil", "x", "-", "*", '"', "@", "ß", "ﬁn", "คน", "мир", "\\", "'"])  # fmt: skip
texts = st.lists(pieces, max_size=8).map(" ".join) | st.text(
    st.characters(codec="utf-8", exclude_characters="\x00"), max_size=30
)


@pytest.fixture(scope="module")
def db(pg: Cluster) -> Iterator[psycopg.Connection[Any]]:
    with pg.admin() as conn:
        yield conn


def has(term: Term, words: list[str]) -> bool:
    wanted = list(term.words)
    for at in range(len(words) - len(wanted) + 1):
        here = words[at : at + len(wanted)]
        if here[:-1] == wanted[:-1] and (here[-1].startswith(wanted[-1]) if term.is_prefix else here[-1] == wanted[-1]):
            return True
    return False


@given(texts, texts, st.booleans())
def test_the_store_finds_what_a_plain_look_finds(
    db: psycopg.Connection[Any], text: str, said: str, typing: bool
) -> None:
    terms = read_search(said, typing=typing)
    if not terms:
        return
    words = [
        word
        for term in read_search(f"“{text.replace('”', ' ').replace('“', ' ')}”", typing=False)
        for word in term.words
    ]
    if any(sign in text for sign in '"“”„«»') or len(text) > 250:
        words = [
            w
            for w, _ in sorted(((w, p) for w, ps in read_vector(db, text).items() for p in ps), key=lambda one: one[1])
        ]
    expected = all(has(term, words) != term.is_not for term in terms)
    found = db.execute("select %s::tsvector @@ %s::tsquery", [write_vector(text), write_query(terms)]).fetchone()
    assert found == (expected,)
    # Listening asks the same of what a network brings, without the store.
    assert matches(terms, text) == expected
    assert all(isinstance(word, str) for word in list_asked(terms))


def read_vector(db: psycopg.Connection[Any], text: str) -> dict[str, list[int]]:
    """The words of a vector with their places, as PostgreSQL has read them."""
    rows = db.execute("select lexeme, positions from unnest(%s::tsvector)", [write_vector(text)]).fetchall()
    return dict(rows)
