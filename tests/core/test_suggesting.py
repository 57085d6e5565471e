"""Suggestions: what was answered to messages like this one.

Measured on chatterbot-corpus 1.3.3 (CHECKS 6), topics in the place of saved replies, against the reference BM25 of
rank-bm25 and against the most used; `make bench` prints the whole table.
"""

import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from rank_bm25 import BM25Okapi
from sklearn.kernel_ridge import KernelRidge

from sorta.core.suggesting import (
    HIGHEST,
    OFFERED_FROM,
    Answered,
    Suggester,
    Suggestion,
    leave_each_out,
    leave_replies_out,
    list_offered,
    say_chance,
)
from sorta.main import TEXTS
from tests.core.corpus import read_topics, take_few


def test_it_finds_more_than_bm25_and_the_most_used() -> None:
    pairs = read_topics()
    random.Random(7).shuffle(pairs)
    names = sorted({topic for _, topic in pairs})
    held, known = pairs[:150], pairs[150:1150]
    suggester = Suggester([Answered(text=text, reply=names.index(topic)) for text, topic in known])
    bm25 = BM25Okapi([text.lower().split() for text, _ in known])
    most = max(names, key=[topic for _, topic in known].count)
    ours = theirs = used = 0
    for text, topic in held[:60]:
        ranked = suggester.rank(text, range(len(names)))
        ours += bool(ranked) and names[ranked[0].reply] == topic
        scores = bm25.get_scores(text.lower().split())
        theirs += known[int(scores.argmax())][1] == topic
        used += most == topic
    assert ours > theirs > used


def test_what_speaks_for_it_is_shown() -> None:
    answered = [
        Answered(text="When do you open on Saturday?", reply=1),
        Answered(text="what are your opening hours", reply=1),
        Answered(text="My ticket was charged twice, I want my money back", reply=2),
        Answered(text="Refund please, the queue was two hours", reply=2),
    ]
    ranked = Suggester(answered).rank("are you open saturday", {1, 2})
    assert ranked[0].reply == 1
    assert (ranked[0].like, ranked[0].times) == ("When do you open on Saturday?", 2)
    assert 0.3 < ranked[0].likeness < 1
    assert ranked[0].chance > ranked[1].chance
    assert [r.reply for r in Suggester(answered).rank("are you open saturday", {2})] == [2]
    assert Suggester(answered).rank("When do you open on Saturday?", {1})[0].likeness > 0.99


def test_nothing_is_suggested_from_nothing() -> None:
    assert Suggester([]).rank("anything", {1}) == ()
    assert Suggester([Answered(text="!!!", reply=1), Answered(text="  ", reply=2)]).rank("anything", {1}) == ()
    one = Suggester([Answered(text="When do you open?", reply=1)])
    assert OFFERED_FROM < one.rank("When do you open?", {1})[0].chance <= HIGHEST
    assert one.rank("When do you open?", {2}) == ()
    assert one.rank("zzzz qqqq", {1}) == ()
    assert one.rank("", {1}) == ()


def test_with_three_examples_a_reply_it_finds_more_and_where_nothing_fits_nothing_is_offered() -> None:
    """What is off every topic: English messages of ours about other things. `make bench` prints more."""
    names = sorted({topic for _, topic in read_topics()})
    known, held = take_few(read_topics(), 3, 1)
    suggester = Suggester([Answered(text=text, reply=names.index(topic)) for text, topic in known])
    bm25 = BM25Okapi([text.lower().split() for text, _ in known])
    ours = theirs = 0
    chances, rights = [], []
    for text, topic in held[:60]:
        ranked = suggester.rank(text, range(len(names)))
        rights.append(bool(ranked) and names[ranked[0].reply] == topic)
        chances.append(ranked[0].chance if ranked else 0.0)
        ours += rights[-1]
        theirs += known[int(bm25.get_scores(text.lower().split()).argmax())][1] == topic
    assert ours > theirs
    offered = [right for right, chance in zip(rights, chances, strict=True) if chance >= OFFERED_FROM]
    assert len(offered) >= 10
    assert sum(offered) >= 0.75 * len(offered)
    lines = (TEXTS / "en-1.txt").read_text().splitlines()
    off = [line.split(" ", 2)[2] for line in lines if line and not line.startswith("#")][:60]
    wrong = [
        text for text in off if (found := suggester.rank(text, range(len(names)))) and found[0].chance >= OFFERED_FROM
    ]
    assert len(wrong) <= 0.05 * len(off), wrong[:5]


def test_messages_answered_in_own_words_make_it_careful() -> None:
    known, held = take_few(read_topics(), 30, 2)
    names = sorted({topic for _, topic in read_topics()})
    apart = {"trivia", "science", "history"}
    answered = [Answered(text=text, reply=names.index(topic)) for text, topic in known if topic not in apart]
    others = [text for text, topic in known if topic in apart]
    asked = [text for text, topic in held[:60] if topic in apart]

    def add_up(suggester: Suggester) -> float:
        return sum(ranked[0].chance for text in asked if (ranked := suggester.rank(text, range(len(names)))))

    assert len(asked) > 10
    assert add_up(Suggester(answered, others)) < 0.95 * add_up(Suggester(answered))


@settings(max_examples=30)
@given(st.integers(0, 10_000))
def test_leaving_out_is_as_fitting_anew(seed: int) -> None:
    """Against the regression fitted anew on what is left, by scikit-learn."""
    dice = np.random.default_rng(seed)
    rows, of = dice.normal(size=(12, 5)), dice.integers(0, 3, 12)
    if len(set(of.tolist())) < 3:
        return
    alike, targets = rows @ rows.T, np.eye(3)[of]
    inverse = np.linalg.inv(alike + 0.4 * np.eye(12))
    weights = inverse @ targets
    each, replies = leave_each_out(inverse, weights, targets), leave_replies_out(inverse, weights, targets)
    for n in range(12):
        rest = np.arange(12) != n
        anew = KernelRidge(alpha=0.4).fit(rows[rest], targets[rest]).predict(rows[[n]])[0]
        assert np.allclose(each[n], anew)
        rest = of != of[n]
        anew = KernelRidge(alpha=0.4).fit(rows[rest], targets[rest]).predict(rows[[n]])[0]
        assert np.allclose(np.delete(replies[n], of[n]), np.delete(anew, of[n]))


@settings(max_examples=25)
@given(
    st.lists(st.tuples(st.text(max_size=12), st.integers(1, 4)), max_size=12),
    st.lists(st.text(max_size=12), max_size=4),
    st.text(max_size=20),
)
def test_chances_add_up_to_one_at_most_and_none_is_certain(
    given_: list[tuple[str, int]], others: list[str], asked: str
) -> None:
    ranked = Suggester([Answered(text=text, reply=reply) for text, reply in given_], others).rank(asked, {1, 2, 3})
    assert sum(r.chance for r in ranked) <= 1 + 1e-9
    assert all(0 <= r.chance <= HIGHEST and 0 <= r.likeness <= 1 for r in ranked)
    assert {r.reply for r in ranked} <= {1, 2, 3}
    assert len({r.reply for r in ranked}) == len(ranked)


def test_a_chance_is_said_as_people_say_it() -> None:
    assert [say_chance(c) for c in (0.97, 0.9, 0.85, 0.78, 0.7, 0.5, 0.4, 0.27, 0.2, 0.1)] == [
        "9 in 10", "9 in 10", "4 in 5", "3 in 4", "2 in 3", "1 in 2", "1 in 3", "1 in 4", "1 in 5", "seldom",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("chances", "offered"),
    [
        ((0.6, 0.3, 0.05), (0, 1)),
        ((0.5,), (0,)),
        ((0.3, 0.4), (1, 0)),
        ((0.3, 0.1, 0.1), ()),
        ((0.9, 0.1), (0,)),
        ((), ()),
    ],
)
def test_beside_one_that_fits_others_are_offered_and_nothing_where_none_does(
    chances: tuple[float, ...], offered: tuple[int, ...]
) -> None:
    ranked = [Suggestion(reply=n, chance=c, likeness=0.5, like="x", times=1) for n, c in enumerate(chances)]
    assert [s.reply for s in list_offered(ranked)] == list(offered)
