"""Suggestions: what was answered to messages like this one.

Measured on chatterbot-corpus 1.3.3 (CHECKS 6), topics in the place of saved replies, against the reference BM25 of
rank-bm25 and against the most used; `make bench` prints the whole table.
"""

import random

from rank_bm25 import BM25Okapi

from sorta.core.suggesting import Answered, Suggester
from tests.core.corpus import read_topics


def test_it_finds_more_than_bm25_and_the_most_used() -> None:
    pairs = read_topics()
    random.Random(7).shuffle(pairs)
    names = sorted({topic for _, topic in pairs})
    held, known = pairs[:150], pairs[150:1150]
    suggester = Suggester([Answered(text=text, reply=names.index(topic)) for text, topic in known])
    bm25 = BM25Okapi([text.lower().split() for text, _ in known])
    most = max(names, key=[topic for _, topic in known].count)
    ours = theirs = used = 0
    for text, topic in held:
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
    assert abs(sum(r.score for r in ranked) - 1) < 1e-6
    assert [r.reply for r in Suggester(answered).rank("are you open saturday", {2})] in ([], [2])
    assert Suggester(answered).rank("When do you open on Saturday?", {1})[0].likeness > 0.99


def test_nothing_is_suggested_from_nothing() -> None:
    assert Suggester([]).rank("anything", {1}) == ()
    assert Suggester([Answered(text="!!!", reply=1), Answered(text="  ", reply=2)]).rank("anything", {1}) == ()
    one = Suggester([Answered(text="When do you open?", reply=1)])
    assert one.rank("When do you open?", {1})[0].score == 1
    assert one.rank("zzzz qqqq", {1}) == ()
    assert one.rank("", {1}) == ()
