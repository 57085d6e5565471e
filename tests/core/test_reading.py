"""What a message reads as. Texts are ours; links and marks follow their usual shapes (common practice, no source)."""

import pytest

from sorta.core.errors import Invalid
from sorta.core.ports import Judgement
from sorta.core.reading import (
    ReadsAs,
    check_correction,
    is_bare_mention,
    is_only_thanks,
    list_links,
    read,
    strip_marks,
)
from tests.core.corpus import read_topics


def judge(text: str, sentiment: float = 0.0, **more):
    return read(text, Judgement(sentiment=sentiment, language="en"), **more)


@pytest.mark.parametrize(
    ("text", "sentiment", "expected"),
    [
        ("Are you open on the 26th?", 0, ReadsAs.QUESTION),
        ("Gilt die Jahreskarte auch an Feiertagen?", 0, ReadsAs.QUESTION),
        ("when do the snowdrops start", 0, ReadsAs.QUESTION),
        ("Charged twice for the family pass. Can you refund one?", -0.2, ReadsAs.COMPLAINT),
        ("Mit årskort virker ikke", 0, ReadsAs.COMPLAINT),
        ("Thank you, see you soon", 0.3, ReadsAs.THANKS),
        ("Dziękuję bardzo", 0, ReadsAs.THANKS),
        ("Lovely jellyfish hall", 0.6, ReadsAs.PRAISE),
        ("EARN 900 A DAY from home, link in profile", 0, ReadsAs.SPAM),
        ("so very sad and bad", -0.8, ReadsAs.COMPLAINT),
        ("Inky", 0, None),
    ],
)
def test_reads_as(text: str, sentiment: float, expected: ReadsAs | None) -> None:
    assert judge(text, sentiment).reads_as is expected


def test_the_words_that_decided_stand_in_the_text() -> None:
    reading = judge("Still no refund. It has been nine days.", -0.3)
    assert reading.words == ("still no", "refund")
    assert all(word in "still no refund. it has been nine days." for word in reading.words)


def test_a_cue_inside_another_word_is_none() -> None:
    assert judge("The whole queenly greatness").reads_as is None


@pytest.mark.parametrize(
    ("text", "bare"),
    [
        ("@kelpfan_9 you", True),
        ("@nordlys.nina this is literally us 😂", True),
        ("@saltyaunt can we go?", False),
        ("@penguinpete " + "x" * 31, False),
        ("no name here", False),
        ("mail me at a@b.example", False),
    ],
)
def test_bare_mention(text: str, bare: bool) -> None:
    assert is_bare_mention(text) is bare


def test_naming_us_is_not_naming_a_friend() -> None:
    assert judge("@brinewick hello", own_handles=["brinewick"]).bare_mention is False
    assert judge("@brinewick @tess hello", own_handles=["@brinewick"]).bare_mention is True


def test_links_and_marks() -> None:
    assert list_links("see https://a.example/b_(c) or www.d.example. ok") == ("https://a.example/b_(c", "www.d.example")
    assert strip_marks("@tess look #seals 🦭 https://a.example/x now") == "look now"


@pytest.mark.parametrize(
    ("field", "value", "kept"),
    [
        ("sentiment", "negative", -0.5),
        ("reads_as", "praise", "praise"),
        ("reads_as", None, None),
        ("language", "da", "da"),
    ],
)
def test_a_correction_that_can_be_said(field: str, value: str | None, kept: object) -> None:
    assert check_correction(field, value) == kept


@pytest.mark.parametrize(
    ("field", "value"), [("sentiment", "blue"), ("reads_as", "poem"), ("language", "Danish"), ("body", "x")]
)
def test_a_correction_that_cannot(field: str, value: str) -> None:
    with pytest.raises(Invalid):
        check_correction(field, value)


@pytest.mark.parametrize(
    "text",
    ["Thank you so much!", "Great, thanks 😀", "ok thx", "@harbour thanks a lot, all good!", "Vielen lieben Dank für die schnelle Hilfe",
     "Tusind tak for hjælpen", "Muchas gracias, muy amables", "Merci beaucoup pour votre aide", "Dziękuję bardzo!"],
)  # fmt: skip
def test_what_only_thanks(text: str) -> None:
    assert is_only_thanks(text)


@pytest.mark.parametrize(
    "text",
    ["", "👍", "Great", "Tak", "Tak, bardzo", "Thanks?", "Thanks, it is still broken", "Thanks for nothing", "no thank you",
     "Thank you, when do you open", "Thanks 48-1930", "thanks www.example.com/a", "Thanks, that was not what I asked",
     "Danke, aber es geht nicht", "gracias pero no", "Merci de me rappeler", "Great " * 30 + "thanks"],
)  # fmt: skip
def test_what_may_ask_for_more_is_not_only_thanks(text: str) -> None:
    assert not is_only_thanks(text)


def test_of_prompts_that_others_wrote_none_is_taken_for_thanks_alone() -> None:
    """chatterbot-corpus (see corpus.py): 723 things said to a machine that wait for an answer; looked through by hand, the
    few with thanks in them say more than that."""
    taken = [text for text, _ in read_topics() if is_only_thanks(text)]
    assert taken == []
