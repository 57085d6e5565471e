"""What a message reads as. Texts are ours; links and marks follow their usual shapes (common practice, no source)."""

import pytest

from sorta.core.errors import Invalid
from sorta.core.ports import Judgement
from sorta.core.reading import (
    BAND,
    LEVELS,
    NOT_SURE,
    ReadsAs,
    Sureness,
    Tone,
    check_correction,
    get_tone,
    get_tone_chance,
    is_bare_mention,
    is_only_thanks,
    list_chances,
    read,
    say_sureness,
    strip_marks,
)
from tests.core.corpus import read_topics


def judge(text: str, chances: dict[str, float] | None = None, tones: tuple[float, float, float] = (0, 1, 0), **more):
    judged = Judgement(
        language="en",
        chances=dict.fromkeys(ReadsAs, 0.0) | (chances or {}),
        tones=dict(zip(("negative", "neutral", "positive"), tones, strict=True)),
        words={"complaint": ("still no", "refund"), "negative": ("still no",), "positive": ("love",)},
    )
    return read(text, judged, **more)


@pytest.mark.parametrize(
    ("chances", "shown"),
    [
        ({}, ()),
        ({"complaint": 0.4}, ()),
        ({"complaint": 0.41}, (NOT_SURE,)),
        ({"complaint": 0.59, "spam": 0.5}, (NOT_SURE,)),
        ({"complaint": 0.6}, ("complaint",)),
        ({"complaint": 0.6, "spam": 0.5}, ("complaint",)),
        ({"thanks": 0.9, "question": 0.7, "complaint": 0.1}, ("question", "thanks")),
    ],
)
def test_what_is_likely_enough_is_said_and_else_that_it_is_not_sure(
    chances: dict[str, float], shown: tuple[str, ...]
) -> None:
    assert judge("Still no refund.", chances).reads_as == shown


@pytest.mark.parametrize(
    ("tones", "sentiment", "words"),
    [
        ((0.9, 0.1, 0.0), -0.9, ("still no",)),
        ((0.6, 0.0, 0.4), -BAND, ("still no",)),
        ((0.4, 0.0, 0.6), BAND, ("love",)),
        ((0.0, 0.65, 0.35), BAND - 0.01, ()),
        ((0.2, 0.6, 0.2), 0.0, ()),
        ((0.3, 0.4, 0.3), None, ()),
        ((0.41, 0.0, 0.59), None, ()),
    ],
)
def test_a_sentiment_never_contradicts_its_tone(
    tones: tuple[float, float, float], sentiment: float | None, words: tuple[str, ...]
) -> None:
    reading = judge("I love it, but still no refund.", tones=tones)
    assert reading.sentiment == pytest.approx(sentiment)
    assert reading.sentiment_words == words
    likeliest = max(Tone, key=lambda t: reading.tones[t])
    assert get_tone(reading.sentiment) == (likeliest if sentiment is not None else None)


def test_what_a_member_said_is_certain_and_what_was_kept_without_chances_is_likely() -> None:
    kept = {"chances": {"complaint": 0.93, "question": 0.2}, "tones": {"negative": 0.8}, "corrected": []}
    assert list_chances(["complaint"], kept)[ReadsAs.COMPLAINT] == 0.93
    assert get_tone_chance(-0.6, kept) == 0.8
    said = {**kept, "corrected": ["reads_as", "sentiment"]}
    assert list_chances(["question"], said)[ReadsAs.QUESTION] == 1.0
    assert list_chances(["question"], said)[ReadsAs.COMPLAINT] == 0.0
    assert get_tone_chance(-0.5, said) == 1.0
    assert list_chances(["complaint"], {"chances": {}})[ReadsAs.COMPLAINT] == LEVELS[Sureness.LIKELY]
    assert get_tone_chance(None, kept) == 0.0
    for nothing in ({}, None, {"tones": None}):
        assert get_tone_chance(-0.6, nothing) == LEVELS[Sureness.LIKELY]


@pytest.mark.parametrize(
    ("text", "bare"),
    [
        ("@kelpfan_9 you", True),
        ("@nordlys.nina this is literally us 😂", True),
        ("@saltyaunt can we go?", False),
        ("@penguinpete " + "x" * 31, False),
        ("no name here", False),
        ("@anna@social.example look at this one, so nice", True),
        ("mail me at a@b.example", False),
    ],
)
def test_bare_mention(text: str, bare: bool) -> None:
    assert is_bare_mention(text) is bare


def test_naming_us_is_not_naming_a_friend() -> None:
    assert judge("@brinewick hello", own_handles=["brinewick"]).bare_mention is False
    assert judge("@brinewick @tess hello", own_handles=["@brinewick"]).bare_mention is True
    assert judge("@brinewick.fan hello", own_handles=["brinewick"]).bare_mention is True
    assert judge("@brinewick@social.example hello", own_handles=["brinewick"]).bare_mention is True
    assert judge("hello @brinewick.", own_handles=["brinewick"]).bare_mention is False
    assert judge("hello @Brinewick!", own_handles=["brinewick"]).bare_mention is False


def test_links_and_marks() -> None:
    links = (
        "see https://a.example/b_(c) or www.d.example. ok",
        "看https://a.example/x。好",
        "»https://a.example/x« and “http://b.example/y”",
    )
    assert [judge(text).links for text in links] == [
        ("https://a.example/b_(c)",),
        ("https://a.example/x",),
        ("https://a.example/x", "http://b.example/y"),
    ]
    assert strip_marks("@tess look #seals 🦭 https://a.example/x now") == "look now"


@pytest.mark.parametrize(
    ("field", "value", "kept"),
    [
        ("sentiment", "negative", -0.5),
        ("reads_as", ["thanks", "question"], ["question", "thanks"]),
        ("reads_as", [], []),
        ("language", "da", "da"),
    ],
)
def test_a_correction_that_can_be_said(field: str, value: object, kept: object) -> None:
    assert check_correction(field, value) == kept


@pytest.mark.parametrize(
    ("field", "value"),
    [("sentiment", "blue"), ("reads_as", ["poem"]), ("reads_as", None), ("language", "Danish"), ("body", "x")],
)
def test_a_correction_that_cannot(field: str, value: object) -> None:
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


@pytest.mark.parametrize(("chance", "said"), [(1.0, "sure"), (0.9, "sure"), (0.89, "likely"), (0.7, "likely"), (0.69, "perhaps"), (0.6, "perhaps"), (0.59, "not_sure"), (0.0, "not_sure")])  # fmt: skip
def test_how_sure_a_chance_is_said_to_be(chance: float, said: str) -> None:
    assert say_sureness(chance) == said
