"""What closes an answer. The rules are our own, docs/trade.md 7; initials behind the last word on short networks: common practice, no source."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.answers import LONGEST_SIGN_OFF, check_sign_off, count_graphemes, get_sign_off, prepare_reply
from sorta.core.errors import Invalid
from sorta.networks.abilities import COMMONFOLD, QUILLET, TABLE


@pytest.mark.parametrize(
    ("line", "kept"),
    [("", ""), ("  – {initials} ", "– {initials}"), ("{first name}, Visitor  care", "{first name}, Visitor care")],
)
def test_a_line_is_kept_tidied(line: str, kept: str) -> None:
    assert check_sign_off(line) == kept


@pytest.mark.parametrize("line", ["{surname}", "{initials} {link:x}", "x" * (LONGEST_SIGN_OFF + 1), "a\u0000b"])
def test_a_line_that_nothing_could_fill_is_refused(line: str) -> None:
    with pytest.raises(Invalid) as refused:
        check_sign_off(line)
    assert refused.value.field == "sign_off"


def test_it_stands_where_the_network_has_it() -> None:
    ilse = {"name": "Ilse Brandt", "initials": "IB"}
    assert get_sign_off(QUILLET, "– {initials}", **ilse) == " – IB"
    assert get_sign_off(COMMONFOLD, "{first name}, Visitor care", **ilse) == "\nIlse, Visitor care"
    assert get_sign_off(COMMONFOLD, "", **ilse) == ""
    # A rule has no initials; a team's line it can use.
    assert get_sign_off(COMMONFOLD, "– {initials}", name=None, initials=None) == ""
    assert get_sign_off(COMMONFOLD, "Visitor care", name=None, initials=None) == "\nVisitor care"


def test_it_counts_and_stands_once() -> None:
    short = replace(QUILLET, length_limit=20)
    assert prepare_reply(short, "eleven char", "ab", public=True, sign_off=" – IB") == "@ab eleven char – IB"
    with pytest.raises(Invalid, match="Too long"):
        prepare_reply(short, "twelve chars", "ab", public=True, sign_off=" – IB")
    assert prepare_reply(QUILLET, "Done – IB", "ab", public=True, sign_off=" – IB") == "@ab Done – IB"
    # The team's name at the end of a sentence is no sign-off on a line of its own.
    said = prepare_reply(COMMONFOLD, "Ask for Visitor care", "ab", public=True, sign_off="\nVisitor care")
    assert said == "Ask for Visitor care\nVisitor care"
    with pytest.raises(Invalid, match="Write something"):
        prepare_reply(QUILLET, " – IB", "ab", public=True, sign_off=" – IB")


@given(st.text(min_size=1, max_size=60), st.sampled_from(sorted(TABLE)), st.booleans())
def test_what_was_closed_once_is_not_closed_again(text: str, network: str, public: bool) -> None:
    abilities = TABLE[network]
    sign_off = get_sign_off(abilities, "– {initials}", name="Ilse Brandt", initials="IB")
    try:
        once = prepare_reply(abilities, text, "ab", public=public, sign_off=sign_off)
    except Invalid:
        return
    assert prepare_reply(abilities, once, "ab", public=public, sign_off=sign_off) == once
    assert count_graphemes(once) <= abilities.length_limit
