"""Learning and judging: against scikit-learn's own pipeline, by hand, and on texts that chance makes."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sklearn.feature_extraction.text import TfidfVectorizer

from sorta.core.feeling_words import COUNTED, FeelingWords, count_meanings
from sorta.core.learned import HEADS, LABELS, TONES, Learned, Weights
from sorta.core.learning import Lesson, is_set_aside, learn, measure_calibration, vary
from sorta.core.pieces import PLAIN, Known, extract, list_meanings, list_pieces, list_tokens, list_words

FEELING = {
    "en": {
        "glad": ("good", "love*"),
        "sad": ("bad", "late"),
        "trouble": ("broke*",),
        "not": ("not", "never"),
        "ask": ("when",),
    }
}
SAID = {
    "where is the {} and when does it open?": ({"question"}, "neutral"),
    "the {} is broken again, nobody answers": ({"complaint"}, "negative"),
    "we loved the {}, what a good day": ({"praise"}, "positive"),
    "thanks for the {}": ({"thanks"}, "positive"),
    "buy {} cheap, write to me now": ({"spam"}, "neutral"),
    "the {} is next to the {}": (set(), "neutral"),
    "why is the {} still broken?": ({"question", "complaint"}, "negative"),
}
THINGS = ("tower", "ferry", "pool", "library", "garden", "tram", "shop", "bridge", "museum", "market")


def make_lessons() -> list[Lesson]:
    return [
        Lesson(text=said.format(a, b), language="en", labels=frozenset(labels), tone=tone, group=f"en someone {a}", known=Known(language="en"))
        for said, (labels, tone) in SAID.items()
        for a, b in itertools.permutations(THINGS, 2)
        if THINGS.index(b) - THINGS.index(a) in (1, -9)
    ]  # fmt: skip


@pytest.fixture(scope="module")
def weights() -> Weights:
    return learn(make_lessons(), feeling=FEELING, learned_from="these")


def test_the_same_texts_teach_the_same(weights: Weights) -> None:
    again = learn(make_lessons(), feeling=FEELING, learned_from="these")
    assert (again.words, again.pieces, again.meanings) == (weights.words, weights.pieces, weights.meanings)
    for name in ("idf", "coef", "intercept", "turn", "shift"):
        assert np.array_equal(getattr(again, name), getattr(weights, name)), name


@pytest.mark.parametrize(
    ("text", "label"),
    [("where is the windmill?", "question"), ("the windmill is broken", "complaint"), ("loved the windmill", "praise"), ("thanks for it", "thanks")],
)  # fmt: skip
def test_what_was_taught_is_told_of_something_new(weights: Weights, text: str, label: str) -> None:
    said = Learned(weights).judge(text, Known(language="en"))
    assert max(LABELS, key=lambda one: said.chances[one]) == label


def test_the_sums_are_those_of_scikit_learn(weights: Weights) -> None:
    """The reference: TfidfVectorizer with the same words and rarities, and a product of matrices."""
    texts = ["where is the broken tower?", "thanks thanks thanks", "nothing that it knows: zyx"]
    seen = [extract(t, Known(language="en"), FeelingWords(FEELING)) for t in texts]
    whole, first = [], 0
    for names, named, counts in (
        (weights.words, [list_words(s.tokens) for s in seen], 1.0),
        (weights.pieces, [list_pieces(s.tokens) for s in seen], 1.5),
        (weights.meanings, [s.meanings for s in seen], 1.2),
    ):
        assert names
        vectors = TfidfVectorizer(analyzer=list, sublinear_tf=True, vocabulary=list(names))
        vectors.idf_ = weights.idf[first : first + len(names)]
        whole.append(vectors.transform([[f for f, _ in of] for of in named]).toarray() * counts)
        first += len(names)
    sums = np.hstack([*whole, np.array([s.plain for s in seen]) * 0.6]) @ weights.coef + weights.intercept
    for text, expected in zip(texts, sums, strict=True):
        said = Learned(weights).judge(text, Known(language="en"))
        bounded = np.tanh(expected)
        bent = [*expected, *(max(0, s - at) for at in (-1, 0, 1) for s in expected)]
        bent += [a * b for a, b in itertools.combinations(bounded, 2)]
        turned = np.array(bent) @ weights.turn + weights.shift
        chances = 1 / (1 + np.exp(-turned[:5]))
        assert [said.chances[label] for label in LABELS] == pytest.approx(list(chances), abs=1e-5)
        powers = np.exp(turned[5:])
        assert [said.tones[tone] for tone in TONES] == pytest.approx(list(powers / powers.sum()), abs=1e-5)


@given(st.text(max_size=120))
def test_on_any_text_chances_are_chances_and_words_are_its_own(text: str) -> None:
    said = Learned(_ONE[0]).judge(text, Known())
    assert all(0 <= chance <= 1 for chance in said.chances.values())
    assert sum(said.tones.values()) == pytest.approx(1)
    assert set(said.words) == set(HEADS)
    assert all(word in text for words in said.words.values() for word in words)


_ONE: list[Weights] = []


@pytest.fixture(scope="module", autouse=True)
def _keep(weights: Weights) -> None:
    # A property test takes no fixture that is made once.
    _ONE[:] = [weights]


def test_what_means_the_same_is_the_same_in_two_languages() -> None:
    feeling = FeelingWords(
        {
            "en": {"still": ("still",), "nobody": ("no",), "say": ("answer*",), "glad": ("good",)},
            "de": {"still": ("noch",), "nobody": ("kein*",), "say": ("antwort*",), "glad": ("gut",)},
        }
    )
    english = extract("Still no answer", Known(language="en"), feeling)
    german = extract("Noch keine Antwort!", Known(language="de"), feeling)
    assert english.meanings == german.meanings
    assert sorted(name for name, _ in english.meanings) == [
        "^ still", "nobody", "nobody say", "say", "say $", "still", "still nobody", "still nobody say", "still say",
    ]  # fmt: skip
    assert dict(english.meanings)["still say"] == (0, 2)
    # In its order, and only close by; in a language without lists nothing means anything.
    assert "nobody still" in dict(extract("No, still good", Known(language="en"), feeling).meanings)
    far = dict(extract("still the one two three four good", Known(language="en"), feeling).meanings)
    assert "still glad" not in far
    assert "glad $" in far
    assert extract("Noch keine Antwort", Known(language="fi"), feeling).meanings == []


def test_a_meaning_is_learned_from_enough_languages_only() -> None:
    """What only one of two languages says is its words' to tell."""
    lessons = [
        replace(o, language=("en", "de")[n % 2], known=Known(language="en")) for n, o in enumerate(make_lessons())
    ]
    only = [replace(o, language="de" if "when" in o.text else "en") for o in make_lessons()]
    assert "ask" in learn(lessons, feeling=FEELING, learned_from="x").meanings
    assert "ask" not in learn(only, feeling=FEELING, learned_from="x").meanings


@given(st.lists(st.lists(st.sampled_from(["a", "b", "c"]), max_size=3, unique=True), max_size=40))
def test_meanings_grow_no_faster_than_a_text(meant: list[list[str]]) -> None:
    tokens = list_tokens("x " * len(meant))
    found = list_meanings(tokens, meant)
    assert len(found) <= len(meant) * (3 + 4 * 9 + 27) + 6
    assert all(list(at) == sorted(set(at)) and at[-1] - at[0] < len(meant) for _, at in found)


@given(st.text(max_size=200))
def test_tokens_stand_in_order_and_within_the_text(text: str) -> None:
    at = 0
    for token in list_tokens(text):
        assert at <= token.start < token.end <= len(text)
        at = token.end


@pytest.mark.parametrize(
    ("text", "forms"),
    [
        ("Soooo good!!!", ["soo", "good", "!!"]),
        ("see https://a.example/b?c @anna.k #fun", ["see", "<link>", "<name>", "<tag>"]),
        ("14:30 or 1.250 €", ["00:00", "or", "0.000", "€"]),
        ("child's l’eau", ["child's", "l'eau"]),
        ("Ｗｉｄｅ ¿Qué? …", ["wide", "?", "qué", "?", "..."]),
        ("ok :) 👍🏽", ["ok", "😀", "👍🏽"]),
        ("mail a@b.example now", ["mail", "a", "<link>", "now"]),
    ],
)
def test_tokens(text: str, forms: list[str]) -> None:
    """Common practice, no source."""
    assert [t.form for t in list_tokens(text)] == forms


GLAD = {"some glad": 1, "much glad": 1 / 3, "more glad than sad": 1}


def test_a_small_word_explains_nothing_by_itself(weights: Weights) -> None:
    """ "not" may weigh most; shown alone it says nothing to anybody. Beside another it is shown."""

    def explain(*words: str) -> tuple[str, ...]:
        complaint = np.array([5.0 if head == "complaint" else -5.0 for head in HEADS])
        heavy = replace(weights, coef=np.zeros_like(weights.coef), intercept=complaint)
        for word in words:
            heavy.coef[heavy.words.index(word)] = 9.0
        return Learned(heavy).judge("the tower is broken", Known(language="en")).words["complaint"]

    assert explain("is") == explain("the") == ()
    assert explain("is", "broken") == ("is broken",)
    assert explain("tower") == ("tower",)


@pytest.mark.parametrize(
    ("text", "language", "facts"),
    [
        ("good and lovely", "en", {**GLAD, "much glad": 2 / 3}),
        ("not good", "en", {"some not": 1, "much not": 1 / 3, "glad denied": 1}),
        ("never ever so very good", "en", {"some not": 1, "much not": 1 / 3, "not with glad": 1, **GLAD}),
        ("BROKEN and late", "en", {"some trouble": 1, "much trouble": 1 / 3, "some sad": 1, "much sad": 1 / 3, "more sad than glad": 1}),
        ("when good", "en", {**GLAD, "some ask": 1, "much ask": 1 / 3, "begins asking": 1}),
        ("good", "de", {}),
        ("good", None, GLAD),
    ],
)  # fmt: skip
def test_words_of_meaning(text: str, language: str | None, facts: dict[str, float]) -> None:
    """By hand: `not` reaches three words far; three of a meaning are much."""
    forms = [t.form for t in list_tokens(text)]
    found = dict(zip(COUNTED, count_meanings(FeelingWords(FEELING).mean(forms, language)), strict=True))
    assert found == pytest.approx(dict.fromkeys(COUNTED, 0.0) | facts)


def test_a_word_that_says_two_things_in_two_languages_says_nothing_where_the_language_is_unknown() -> None:
    two = FeelingWords({"en": {"glad": ("fast", "super")}, "de": {"sad": ("fast",), "glad": ("super",)}})
    assert two.mean(["fast"], None) == [set()]
    assert two.mean(["fast"], "en") == [{"glad"}]
    assert two.mean(["super"], None) == [{"glad"}]


def test_plain_facts_are_named_and_between_0_and_1() -> None:
    text = "WHY??? @a @b #c https://x.example 14 and 15 € 😡 ... " + "so " * 300
    facts = extract(text, Known(english=-1.0, emoji=-0.5), FeelingWords(FEELING)).plain
    assert len(facts) == len(PLAIN)
    assert all(0 <= fact <= 2 for fact in facts)


def test_calibration_error_by_hand() -> None:
    """Ten said .95 of which nine are so, ten said .25 of which five are so: half of .05 and half of .25. Worked by hand."""
    error = measure_calibration([0.95] * 10 + [0.25] * 10, [True] * 9 + [False] + [True, False] * 5)
    assert error == pytest.approx(0.15)
    assert measure_calibration([1.0, 0.0], [True, False]) == 0


def test_a_fifth_is_set_aside_and_a_text_is_varied_always_alike() -> None:
    aside = sum(is_set_aside(f"de someone {n}") for n in range(2000))
    assert 340 < aside < 460
    assert vary("Grüße aus Ålesund.") == vary("Grüße aus Ålesund.")
    assert len({vary(f"Text {n}").replace(str(n), "") for n in range(200)}) >= 8


def test_too_little_to_learn_from_is_said() -> None:
    with pytest.raises(ValueError, match="too few"):
        learn([o for o in make_lessons() if o.group.endswith(("tower", "pool"))], feeling=FEELING, learned_from="few")
