"""What is said of rules, against brute force: every message there can be is put to random sets of rules, and `decide`, which
knows nothing of conflicts, says what comes out.

The messages are all combinations of a few values for each fact, chosen so that every condition can hold and fail; the
conditions are drawn from those facts by chance. Shares found and false alarms are printed: run with -s.
"""

import itertools
import random
from collections import Counter
from contextlib import suppress
from dataclasses import replace

import pytest

from sorta.core.conflicts import RuleWarning, is_impossible, list_warnings
from sorta.core.deciding import Heard, decide, meets
from sorta.core.errors import Invalid
from sorta.core.meeting import BUDGET, Table
from sorta.core.parking import ParkFor
from sorta.core.ports import Kind
from sorta.core.reading import ReadsAs, Sureness
from sorta.core.rules import (
    Action,
    AddTags,
    AnswerWith,
    Anything,
    BareMention,
    Condition,
    Conditions,
    FirstMessage,
    GiveTo,
    HandItOver,
    HasWords,
    HideIt,
    HoursAre,
    KindIs,
    LanguageIs,
    LikeIt,
    NobodyAnswered,
    ParkIt,
    PersonHasTag,
    ReachIs,
    ReadsAsOneOf,
    Rule,
    RuleBody,
    SentimentIs,
    SetPriority,
    SettleIt,
    StopHere,
    WindowIs,
    check_body,
)  # fmt: skip
from sorta.core.targets import Priority
from sorta.core.words import fold_text
from tests.core.test_rules import AT, HEARD

#: Each combination of the words that conditions look for: 'raymond' for what only the prefix finds.
TEXTS = [". ".join(p for p in parts if p) for parts in itertools.product(["", "ray"], ["", "rays"], ["", "raymond"], ["", "cut", "cut on"])]  # fmt: skip
FACTS: dict[str, list[dict[str, object]]] = {
    "kind": [{"kind": kind} for kind in (Kind.COMMENT, Kind.REVIEW, Kind.MENTION, Kind.REPLY)],
    "text": [{"text": fold_text(text)} for text in TEXTS],
    "sentiment": [
        {"sentiment": value, "sentiment_chance": chance}
        for value in (None, -1.0, -0.5, -0.3, -0.2, 0.0, 0.3, 0.4, 0.5, 1.0)
        for chance in (0.6, 0.8, 0.95)
    ],
    "reads": [{"chances": {ReadsAs.COMPLAINT: c, ReadsAs.SPAM: s}} for c in (0.1, 0.8, 0.95) for s in (0.1, 0.7, 0.9)],
    "reach": [{"reach": value} for value in (None, 0, 40, 60)],
    "open": [{"is_open": value} for value in (True, False)],
    "language": [{"language": value} for value in (None, "en", "da")],
    "mention": [{"mentions_other": m, "other_characters": n} for m in (True, False) for n in (5, 15, 25)],
    "first": [{"first_message": a, "answered": b} for a in (True, False) for b in (True, False)],
    "tags": [{"person_tags": frozenset(tags)} for tags in ((), (1,), (2,), (1, 2))],
    "time": [{"at": AT.replace(day=day, hour=hour)} for day in (20, 21, 22) for hour in (5, 12, 23)],
}
PARTS: dict[str, list[Condition]] = {
    "kind": [KindIs(kinds=kinds) for kinds in ((Kind.COMMENT,), (Kind.REVIEW, Kind.MENTION), (Kind.COMMENT, Kind.REVIEW))],
    "text": [HasWords(mode=mode, words=words) for mode in ("any", "all", "none") for words in (("ray",), ("ray*",), ("cut", "ray"), ("cut on",), ("cut on", "rays"))],
    "sentiment": [SentimentIs(at_most=-0.5), SentimentIs(at_least=0.3), SentimentIs(at_least=-0.2, at_most=0.3), SentimentIs(at_most=0.5), SentimentIs(at_most=-0.5, sureness=Sureness.SURE)],
    "reads": [ReadsAsOneOf(reads_as=labels, sureness=s) for labels in ((ReadsAs.COMPLAINT,), (ReadsAs.COMPLAINT, ReadsAs.SPAM)) for s in (None, Sureness.SURE)],
    "reach": [ReachIs(at_least=40), ReachIs(at_least=60)],
    "open": [HoursAre(inside=True), HoursAre(inside=False)],
    "language": [LanguageIs(languages=("en",)), LanguageIs(languages=("en", "da"))],
    "mention": [BareMention(at_most=10), BareMention(at_most=20), BareMention(at_most=20, none_of=("cut",))],
    "first": [FirstMessage(), NobodyAnswered()],
    "tags": [PersonHasTag(tags=(1,)), PersonHasTag(tags=(1, 2))],
    "time": [WindowIs(days=(4,), starts=600, ends=1440), WindowIs(days=(4, 5), starts=1320, ends=360), WindowIs(days=(5, 6), starts=0, ends=1440)],
}  # fmt: skip
ACTIONS: list[Action] = [
    SetPriority(priority=Priority.URGENT),
    SetPriority(priority=Priority.LOW),
    GiveTo(team=1),
    GiveTo(member=2),
    AnswerWith(language="any", text="Hello"),
    AnswerWith(language="da", text="Hej"),
    SettleIt(),
    ParkIt(choice=ParkFor.TOMORROW),
    HandItOver(desk=1),
    AddTags(tags=(1,)),
    LikeIt(),
    HideIt(),
    StopHere(),
]


def make_set(chance: random.Random) -> tuple[list[Rule], list[Heard]]:
    """A few rules over a few facts, and every message there can be of these facts."""
    facts = ["language", *chance.sample([f for f in FACTS if f != "language"], 2)]
    if "mention" in facts and "text" not in facts:
        facts[-1 if facts[-1] != "mention" else -2] = "text"

    def part(depth: int) -> Condition:
        if depth < 2 and chance.random() < 0.3:
            of = chance.choice(["all", "any", "none"])
            return Conditions(of=of, parts=tuple(part(depth + 1) for _ in range(chance.randint(1, 3))))
        return chance.choice(PARTS[chance.choice(facts)])

    rules = []
    for id in range(1, chance.randint(4, 9)):
        when = Conditions(
            of=chance.choice(["all", "all", "any", "none"]), parts=tuple(part(0) for _ in range(chance.randint(1, 3)))
        )
        rules.append(Rule(id=id, version=1, body=_make_body(chance, when)))
    heards = []
    for values in itertools.product(*(FACTS[f] for f in facts)):
        changes: dict[str, object] = {}
        for value in values:
            changes |= value
        heards.append(replace(HEARD, **changes))
    return rules, heards


def _make_body(chance: random.Random, when: Conditions) -> RuleBody:
    while True:
        body = RuleBody(name="x", when=when, then=tuple(chance.sample(ACTIONS, chance.randint(1, 3))))
        with suppress(Invalid):
            return check_body(body)


def find_by_force(rules: list[Rule], heards: list[Heard]) -> set[tuple[int, str, int | None, str | None]]:
    """What is so, by putting every message to the rules."""
    met, reached, acted = set(), set(), set()
    against: set[tuple[int, str, int | None, str | None]] = set()
    bodies = {rule.id: rule.body for rule in rules}
    for heard in heards:
        met |= {rule.id for rule in rules if meets(rule.body.when, heard) is not None}
        for match in decide(rules, heard):
            reached.add(match.rule.id)
            if match.effects:
                acted.add(match.rule.id)
            for lost in match.lost:
                if lost.to is None or lost.to.id >= match.rule.id or lost.action.type == "like":
                    continue
                theirs = [a for a in bodies[lost.to.id].then if a.type == lost.action.type]
                if lost.action not in theirs:
                    against.add((match.rule.id, "disagrees", lost.to.id, lost.action.type))
    so: set[tuple[int, str, int | None, str | None]] = set()
    for rule in rules:
        if rule.id not in met:
            so.add((rule.id, "never", None, None))
        elif rule.id not in reached:
            so.add((rule.id, "stopped", None, None))
        elif rule.id not in acted and any(not isinstance(a, StopHere) for a in rule.body.then):
            so.add((rule.id, "shadowed", None, None))
    return so | {one for one in against if not any(one[0] == other[0] for other in so)}


def _key(w: RuleWarning) -> tuple[int, str, int | None, str | None]:
    return (w.rule, w.kind, w.other, w.what) if w.kind == "disagrees" else (w.rule, w.kind, None, None)


def test_what_is_said_of_rules_is_what_brute_force_finds() -> None:
    chance = random.Random(20261127)
    so_many, found_many, false_alarms = Counter[str](), Counter[str](), Counter[str]()
    for _ in range(250):
        rules, heards = make_set(chance)
        so, said = find_by_force(rules, heards), {_key(w) for w in list_warnings(rules)}
        so_many.update(kind for _, kind, _, _ in so)
        found_many.update(kind for _, kind, _, _ in so & said)
        false_alarms.update(kind for _, kind, _, _ in said - so)
    for kind in ("never", "stopped", "shadowed", "disagrees"):
        print(f"{kind:10} {found_many[kind]:4} of {so_many[kind]:4} found, {false_alarms[kind]} false alarms")
    assert all(so_many[kind] >= 20 for kind in ("never", "stopped", "shadowed", "disagrees"))
    for kind, share in (("never", 0.95), ("stopped", 0.95), ("shadowed", 0.95), ("disagrees", 0.8)):
        assert found_many[kind] >= share * so_many[kind], kind
    assert false_alarms["never"] == false_alarms["stopped"] == false_alarms["shadowed"] == 0


def test_what_bars_is_found_wherever_it_stands_among_what_does_not() -> None:
    """A rule that hides bars the like above it, also when it does something else first."""
    rules = [
        Rule(id=1, version=1, body=RuleBody(name="Like", when=Conditions(parts=(Anything(),)), then=(LikeIt(),))),
        Rule(id=2, version=1, body=RuleBody(name="Hide", when=Conditions(parts=(Anything(),)), then=(AddTags(tags=(1,)), HideIt()))),
    ]  # fmt: skip
    assert [(one.rule, one.kind, one.other) for one in list_warnings(rules)] == [(1, "shadowed", 2)]


def test_specific_with_stop_above_and_general_below_is_no_contradiction() -> None:
    specific = Conditions(parts=(KindIs(kinds=(Kind.REVIEW,)), HasWords(words=("ray",))))
    general = Conditions(parts=(HasWords(words=("ray",)),))
    then = (SetPriority(priority=Priority.URGENT), StopHere())
    rules = [
        Rule(id=1, version=1, body=RuleBody(name="s", when=specific, then=then)),
        Rule(id=2, version=1, body=RuleBody(name="g", when=general, then=(SetPriority(priority=Priority.LOW),))),
    ]
    assert list_warnings(rules) == []


def test_work_is_bounded_and_what_was_not_decided_is_warned_of_by_nobody() -> None:
    """Parity of many words: nothing is decided before all of them are."""
    words = [f"w{n}" for n in range(14)]

    def odd(of: list[str]) -> Conditions:
        if len(of) == 1:
            return Conditions(parts=(HasWords(words=(of[0],)),))
        a, b = odd(of[: len(of) // 2]), odd(of[len(of) // 2 :])
        even = Conditions(of="none", parts=(a,)), Conditions(of="none", parts=(b,))
        one, two = Conditions(parts=(a, even[1])), Conditions(parts=(b, even[0]))
        return Conditions(of="any", parts=(one, two))

    both = Conditions(parts=(odd(words), Conditions(of="none", parts=(odd(words),))))
    table = Table.of((both,))
    assert table.is_possible(table.read(both))
    assert table._spare == 0
    assert is_impossible(Conditions(parts=(odd(words[:4]), Conditions(of="none", parts=(odd(words[:4]),)))))
    assert BUDGET <= 4_000


@pytest.mark.parametrize(
    ("then", "other"),
    [((LikeIt(),), False), ((SetPriority(priority=Priority.LOW),), True)],
    ids=["adds up", "one wins"],
)
def test_only_what_one_wins_can_disagree(then: tuple[Action, ...], other: bool) -> None:
    when = Conditions(parts=(HasWords(words=("ray",)),))
    rules = [
        Rule(id=1, version=1, body=RuleBody(name="a", when=when, then=(SetPriority(priority=Priority.URGENT),))),
        Rule(id=2, version=1, body=RuleBody(name="b", when=when, then=(*then, AddTags(tags=(1,))))),
    ]
    assert bool(list_warnings(rules)) is other


def test_which_of_several_rules_above_is_named() -> None:
    """One that does it alone, though another takes part before it; of those who do it together the first that takes part."""

    def stop(id: int, *parts: HasWords | KindIs) -> Rule:
        return Rule(id=id, version=1, body=RuleBody(name=f"r{id}", when=Conditions(parts=parts), then=(StopHere(),)))

    lido, ray = HasWords(words=("lido",)), HasWords(words=("ray",))
    alone = [stop(1, lido), stop(2, ray), stop(3, ray, KindIs(kinds=(Kind.REVIEW,)))]
    assert [(one.rule, one.kind, one.other) for one in list_warnings(alone)] == [(3, "stopped", 2)]
    mention, comment, review = (KindIs(kinds=(kind,)) for kind in (Kind.MENTION, Kind.COMMENT, Kind.REVIEW))
    together = [stop(1, mention), stop(2, comment), stop(3, review), stop(4, KindIs(kinds=(Kind.COMMENT, Kind.REVIEW)))]
    assert [(one.rule, one.kind, one.other) for one in list_warnings(together)] == [(4, "stopped", 2)]
