"""Saved replies: tidied, checked, fitted, filled in."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Invalid
from sorta.core.texts import (
    Placeholders,
    SavedReplyBody,
    check_link_name,
    check_placeholders,
    check_saved_reply,
    fill_in,
    fits,
    is_use,
    list_links,
)

VALUES = Placeholders(first_name="Petra", account="Us", links={"tickets": "https://brinewick.example/t"})


@pytest.mark.parametrize(
    ("text", "filled"),
    [
        ("Thank you {first name}, says {account}.", "Thank you Petra, says Us."),
        ("Book here: {link:tickets}", "Book here: https://brinewick.example/t"),
        ("{ link: tickets }!", "https://brinewick.example/t!"),
        ("Gone: {link:nothing}.", "Gone:."),
        ("{first name}{first name}", "PetraPetra"),
        ("{what is this} {}", "{what is this} {}"),
        ("Hello {{first name}}", "Hello {Petra}"),
    ],
)
def test_placeholders_are_filled(text: str, filled: str) -> None:
    assert fill_in(text, VALUES) == filled


def test_what_is_not_known_is_left_out_with_its_space() -> None:
    nobody = Placeholders(first_name="", account="Us")
    assert fill_in("Thank you {first name}, says {account}.", nobody) == "Thank you, says Us."


@pytest.mark.parametrize(
    ("text", "neutral"),
    [
        ("Thank you for telling us, {first name}.", "Thank you for telling us."),
        ("Hi {first name|there}, we look into it.", "Hi there, we look into it."),
        ("Hello, {first name}, we look into it", "Hello, we look into it"),
        ("{first name}, we look into it", "We look into it"),
        ("{first name}: look\n{first name}! see", "Look\nSee"),
        ("Hi {first name}!", "Hi!"),
        ("Hi, {first name} and all", "Hi, and all"),
        ("For {first name | you}", "For you"),
        ("{first name}", ""),
    ],
)
def test_what_is_not_known_leaves_a_whole_sentence(text: str, neutral: str) -> None:
    check_placeholders(text, (), "text")
    assert fill_in(text, Placeholders(first_name="", account="Us")) == neutral
    known = fill_in(text, Placeholders(first_name="Petra", account="Us"))
    assert known == text.replace("{first name|there}", "Petra").replace("{first name | you}", "Petra").replace("{first name}", "Petra")  # fmt: skip


_WORDS = st.lists(st.sampled_from(["Thank you", "for telling us", ",", ".", "!", " ", "\n", "we look"]), max_size=6)


@given(_WORDS, _WORDS)
def test_no_comma_is_left_before_a_full_stop(before: list[str], after: list[str]) -> None:
    """By chance: what closes over a missing name leaves no space or comma before the end that was not there before."""
    text = f"{''.join(before)}{{first name}}{''.join(after)}"
    plain = fill_in(text, Placeholders(first_name="", account="Us"))
    for wrong in (",.", ", .", " ,", ",!", " !", " ."):
        assert plain.count(wrong) <= text.replace("{first name}", "N").count(wrong)


def test_a_name_that_looks_like_a_placeholder_is_not_filled_again() -> None:
    assert fill_in("Hi {first name}", Placeholders(first_name="{account}", account="Us")) == "Hi {account}"


@pytest.mark.parametrize("text", ["{firstname}", "{link:}", "{link:unknown}", "{}", "{Account}"])
def test_a_placeholder_that_nothing_fills_is_refused(text: str) -> None:
    with pytest.raises(Invalid) as refused:
        check_placeholders(f"Hello {text}", {"tickets"}, "text")
    assert refused.value.field == "text"


def test_a_saved_reply_is_tidied() -> None:
    body = SavedReplyBody(name="  Lost \n things ", text=" Look at {link:tickets} ", shortcut="/Lost-Things")
    made = check_saved_reply(body, {"tickets"})
    assert (made.name, made.text, made.shortcut) == ("Lost things", "Look at {link:tickets}", "lost-things")
    assert list_links(made.text + " {link:tickets} {link:other}") == ("tickets", "other")


@pytest.mark.parametrize(
    ("given", "field"),
    [
        ({"name": " "}, "name"),
        ({"name": "x" * 81}, "name"),
        ({"text": "  "}, "text"),
        ({"text": "x" * 2001}, "text"),
        ({"text": "{nobody}"}, "text"),
        ({"shortcut": "two words"}, "shortcut"),
        ({"shortcut": "x" * 25}, "shortcut"),
        ({"shortcut": "-x"}, "shortcut"),
    ],
)
def test_what_a_saved_reply_cannot_be(given: dict[str, str], field: str) -> None:
    with pytest.raises(Invalid) as refused:
        check_saved_reply(SavedReplyBody(**{"name": "x", "text": "x", **given}), ())
    assert refused.value.field == field


@pytest.mark.parametrize(
    ("body", "language", "does"),
    [
        ({}, None, True),
        ({"accounts": (1,)}, None, True),
        ({"accounts": (2,)}, None, False),
        ({"groups": (7,)}, None, True),
        ({"groups": (8,)}, None, False),
        ({"accounts": (2,), "groups": (7,)}, None, True),
        ({"language": "es"}, "es", True),
        ({"language": "es"}, "da", False),
        ({"language": "es"}, None, True),
        ({}, "da", True),
    ],
)
def test_which_conversations_it_is_for(body: dict[str, object], language: str | None, does: bool) -> None:
    saved = SavedReplyBody(name="x", text="x", **body)  # type: ignore[arg-type]
    assert fits(saved, account=1, groups={7}, language=language) is does


def test_a_use_keeps_at_least_half_of_the_words() -> None:
    saved = "Sorry about the queue, {first name}. The team is on it."
    assert is_use(saved, "Sorry about the queue, Petra. The team is on it.")
    assert is_use(saved, "Sorry about the queue. We have opened a second door.")
    assert not is_use(saved, "Ask at the ticket office.")
    assert not is_use("{first name}", "Petra")


@pytest.mark.parametrize("name", ["", "Two Words", "a" * 41, "-a", "ä", "a_b"])
def test_names_of_links(name: str) -> None:
    assert check_link_name(" Tickets-2 ") == "tickets-2"
    with pytest.raises(Invalid):
        check_link_name(name)
