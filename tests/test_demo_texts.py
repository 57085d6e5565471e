"""What the demo's people say: enough of it, in order, dealt so that nothing stands twice near itself."""

import random
import re
from collections import Counter
from itertools import pairwise

import pytest

from demo import themes
from demo.exchanges import SHARED, TEXTS, Deck, Exchange, Filling, Unreadable, _read_one, read
from demo.people import Crowd
from demo.saved_replies import LINKS, REPLIES
from sorta.core.answers import count_graphemes
from sorta.networks.abilities import TABLE

FILES = sorted(path.stem for path in TEXTS.glob("*.txt"))
EVERYTHING = [(name, one) for name in FILES for one in read(name)]


def test_there_are_enough_different_texts_in_six_languages() -> None:
    """The amounts are those of the demo's description: 1,200 different texts, six languages."""
    theirs = {text for _, one in EVERYTHING for is_theirs, text in one.turns if is_theirs}
    assert len(theirs) >= 1200
    languages = Counter(one.language for _, one in EVERYTHING for is_theirs, _ in one.turns if is_theirs)
    assert set(languages) == {"en", "de", "da", "es", "fr", "pl"}
    assert min(languages.values()) >= 40


@pytest.mark.parametrize("name", FILES)
def test_each_file_is_used_and_each_exchange_is_whole(name: str) -> None:
    assert name in {one.name for one in vars(themes).values() if isinstance(one, themes.Theme)}
    for one in read(name):
        # Nobody answers themselves, and what is filled in or linked to is known.
        assert not any(a[0] == b[0] for a, b in pairwise(one.turns)), one.opening
        for _, text in one.turns:
            left = re.findall(r"\{[^}]*\}", Filling(random.Random(1), ("ray",), ("Monday",)).fill(text))
            assert set(left) <= {f"{{link:{link}}}" for link, _ in LINKS}, text
        assert (one.stars is not None) == (name == "review"), one.opening


def test_an_answer_fits_somewhere_its_matter_is_written() -> None:
    for theme in (one for one in vars(themes).values() if isinstance(one, themes.Theme)):
        longest = max(TABLE[network].length_limit for network in theme.networks)
        for one in theme.exchanges:
            assert one.longest_answer + 26 <= longest, one.opening
            assert all(count_graphemes(text) <= 1000 for _, text in one.turns)


def test_what_is_saved_is_said_somewhere() -> None:
    said = {text for _, one in EVERYTHING for is_theirs, text in one.turns if not is_theirs}
    assert [key for key, *_ in REPLIES if SHARED[key] not in said] == []


def test_a_deck_deals_each_once_before_any_comes_again() -> None:
    all_of = tuple(Exchange(turns=((True, str(n)),)) for n in range(40))
    deck = Deck(all_of, random.Random(3))
    dealt = [deck.deal().opening for _ in range(400)]
    for first in range(0, 400, 40):
        assert len(set(dealt[first : first + 40])) == 40
    last: dict[str, int] = {}
    for at, text in enumerate(dealt):
        assert at - last.get(text, -40) >= 20, "what was said lately is said last"
        last[text] = at


def test_a_deck_looks_for_what_fits_and_says_when_nothing_does() -> None:
    all_of = tuple(Exchange(turns=((True, str(n)),), private=n == 7) for n in range(9))
    deck = Deck(all_of, random.Random(3))
    assert [deck.deal(lambda one: one.private).opening for _ in range(3)] == ["7", "7", "7"]
    assert len({deck.deal(lambda one: not one.private).opening for _ in range(8)}) == 8
    with pytest.raises(LookupError):
        deck.deal(lambda one: one.stars is not None)


@pytest.mark.parametrize("block", ["< we begin", "? what", "> hi\nno mark", ""])
def test_what_is_not_written_as_it_has_to_be_is_said(block: str) -> None:
    with pytest.raises(Unreadable):
        _read_one("x", block)


def test_people_have_names_of_one_language_and_their_own() -> None:
    crowd = Crowd(random.Random(5))
    found = [crowd.find(network, "pl", comes_back=False) for network in ("commonfold", "pixfern") for _ in range(150)]
    full = [str(actor["name"]) for actor in found if " " in str(actor["name"]) and not str(actor["name"]).endswith(".")]
    assert len(set(full)) == len(full)
    assert len(full) > 200
    again = [crowd.find("quillet", "en", comes_back=True)["handle"] for _ in range(300)]
    assert 30 < len(set(again)) < 290, "some come back"
