"""Rules: every condition and action by a table, precedence, evidence, warnings; fuzzed sets never throw.

The semantics are docs/trade.md 6; bounds are inclusive as it says 'at least' and 'at most'.
"""

import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, get_args
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sorta.core.conflicts import implies, is_impossible, list_warnings
from sorta.core.deciding import (
    AnswersSoFar,
    Heard,
    decide,
    get_answer_obstacle,
    meets,
)
from sorta.core.errors import Invalid
from sorta.core.parking import ParkFor
from sorta.core.ports import Kind
from sorta.core.reading import ReadsAs, Sureness
from sorta.core.rules import (
    DEEPEST,
    AccountIs,
    Action,
    AddTags,
    AnswerWith,
    Anything,
    AskConsent,
    BareMention,
    BringBack,
    Carries,
    Condition,
    Conditions,
    FirstContact,
    GiveTo,
    HandItOver,
    HasWords,
    HideIt,
    HoursAre,
    KindIs,
    LanguageIs,
    LetWatch,
    LikeIt,
    NetworkIs,
    OnAd,
    ParkIt,
    PersonHasTag,
    PostIs,
    RatingIs,
    ReachIs,
    ReadsAsOneOf,
    Rule,
    RuleBody,
    SentimentIs,
    SetPriority,
    SettleIt,
    StandingIs,
    StopHere,
    TellMembers,
    WindowIs,
    check_body,
    make_sure,
)  # fmt: skip
from sorta.core.targets import Priority
from sorta.core.trial import MOST_LISTED, Trial, list_names
from sorta.core.words import fold_text

AT = datetime(2026, 11, 20, 18, 30, tzinfo=UTC)  # a Friday
HEARD = Heard(
    message=1,
    conversation=1,
    person=1,
    kind=Kind.COMMENT,
    network="commonfold",
    account=1,
    groups=frozenset({7}),
    text=fold_text("The ray has a cut on its wing, @friend"),
    at=AT,
    is_open=False,
    mentions_other=True,
    other_characters=26,
    language="en",
    sentiment=-0.44,
    chances={ReadsAs.COMPLAINT: 0.8, ReadsAs.QUESTION: 0.95},
    sentiment_chance=0.8,
    reading_words={ReadsAs.COMPLAINT: ("cut on",)},
    person_tags=frozenset({5}),
    reach=50,
    standing=64,
    first_contact=True,
    post=3,
    on_ad=True,
    has_link=True,
)
ALL = Conditions(parts=(Anything(),))


def both(*parts: Condition) -> Conditions:
    return Conditions(parts=parts)


def rule(id: int, when: Conditions, *then: Any, on: bool = True) -> Rule:
    return Rule(id=id, version=1, body=RuleBody(name=f"Rule {id}", when=when, then=then), on=on)


@pytest.mark.parametrize(
    ("when", "holds"),
    [
        (KindIs(kinds=(Kind.COMMENT, Kind.MENTION)), True),
        (KindIs(kinds=(Kind.REVIEW,)), False),
        (NetworkIs(networks=("quillet",)), False),
        (NetworkIs(networks=("commonfold",)), True),
        (AccountIs(accounts=(2,), groups=(7,)), True),
        (AccountIs(accounts=(2,)), False),
        (HasWords(words=("wing", "fin")), True),
        (HasWords(mode="all", words=("wing", "fin")), False),
        (HasWords(mode="none", words=("fin", "tail")), True),
        (HasWords(mode="none", words=("fin", "wing")), False),
        (BareMention(at_most=26), True),
        (BareMention(at_most=25), False),
        (BareMention(at_most=30, none_of=("cut",)), False),
        (LanguageIs(languages=("da", "en")), True),
        (LanguageIs(languages=("da",)), False),
        (SentimentIs(at_most=-0.44), True),
        (SentimentIs(at_least=-0.43), False),
        (SentimentIs(at_least=-0.5, at_most=0), True),
        (ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,)), True),
        (ReadsAsOneOf(reads_as=(ReadsAs.PRAISE,)), False),
        (ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,), sureness=Sureness.SURE), False),
        (ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT, ReadsAs.QUESTION), sureness=Sureness.SURE), True),
        (RatingIs(at_most=5), False),
        (Carries(what="link"), True),
        (Carries(what="attachment"), False),
        (PersonHasTag(tags=(4, 5)), True),
        (PersonHasTag(tags=(4,)), False),
        (ReachIs(at_least=50), True),
        (ReachIs(at_least=51), False),
        (StandingIs(at_least=64), True),
        (StandingIs(at_least=65), False),
        (FirstContact(), True),
        (HoursAre(inside=False), True),
        (HoursAre(inside=True), False),
        (WindowIs(days=(4,), starts=1110, ends=1140), True),
        (WindowIs(days=(4,), starts=1111, ends=1140), False),
        (WindowIs(days=(3,), starts=1320, ends=1111), True),  # Thursday 22:00 until Friday 18:31
        (WindowIs(days=(4,), starts=1320, ends=1111), False),
        (PostIs(post=3), True),
        (OnAd(), True),
        (Conditions(of="any", parts=(OnAd(), RatingIs(at_most=1))), True),
        (Conditions(of="none", parts=(RatingIs(at_most=1),)), True),
        (Conditions(of="none", parts=(OnAd(),)), False),
        (Conditions(parts=(OnAd(), Conditions(of="any", parts=(RatingIs(at_most=1),)))), False),
    ],
)
def test_conditions(when: Condition, holds: bool) -> None:
    assert (meets(when, HEARD) is not None) is holds


def test_a_review_and_what_is_unknown() -> None:
    review = replace(HEARD, kind=Kind.REVIEW, rating=2, sentiment=None, reach=None, standing=None, language=None)
    assert meets(RatingIs(at_most=2), review) is not None
    for when in (SentimentIs(at_most=1), ReachIs(at_least=0), StandingIs(at_least=0), LanguageIs(languages=("en",))):
        assert meets(when, review) is None


def test_evidence_names_the_words_as_they_were_written() -> None:
    found = meets(both(HasWords(words=("WING",)), ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,))), HEARD)
    assert found is not None
    assert [(e.type, e.words) for e in found] == [("words", ("wing",)), ("reads_as", ("cut on",))]
    # What has no value of its own has none, and is not called so.
    (contact,) = meets(both(FirstContact()), HEARD) or ()
    assert (contact.value, contact.words) == (None, ())
    glad = replace(HEARD, sentiment=0.456, sentiment_words=("lovely",))
    (sentiment,) = meets(both(SentimentIs(at_least=0.4, sureness=Sureness.LIKELY)), glad) or ()
    assert (sentiment.type, sentiment.value, sentiment.words) == ("sentiment", "0.46", ("lovely",))


def test_the_first_rule_wins_what_has_one_value_and_tags_add_up() -> None:
    found = decide(
        [
            rule(1, ALL, SetPriority(priority=Priority.URGENT), AddTags(tags=(1,))),
            rule(2, ALL, SetPriority(priority=Priority.LOW), AddTags(tags=(2,)), LikeIt()),
            rule(3, ALL, LikeIt(), on=False),
        ],
        HEARD,
    )
    assert [m.rule.id for m in found] == [1, 2]
    assert found[0].effects == (SetPriority(priority=Priority.URGENT), AddTags(tags=(1,)))
    assert found[1].effects == (AddTags(tags=(2,)), LikeIt())
    assert [(lost.action.type, lost.to and lost.to.id) for lost in found[1].lost] == [("priority", 1)]


def test_stop_ends_the_reading() -> None:
    rules = [rule(1, both(RatingIs(at_most=5)), StopHere()), rule(2, ALL, LikeIt(), StopHere()), rule(3, ALL, HideIt())]
    assert [m.rule.id for m in decide(rules, HEARD)] == [2]


def test_what_a_member_set_by_hand_is_left_alone() -> None:
    then = (SetPriority(priority=Priority.LOW), GiveTo(team=1), AddTags(tags=(1, 2)), AddTags(tags=(1,), person=True))
    (found,) = decide([rule(1, ALL, *then)], HEARD, frozenset({"priority", "assign", "tag:1"}))
    assert found.effects == (AddTags(tags=(2,)), AddTags(tags=(1,), person=True))
    assert [(lost.action.type, lost.to) for lost in found.lost] == [("priority", None), ("assign", None), ("tag", None)]


@pytest.mark.parametrize(
    ("change", "field", "sentence"),
    [
        ({"name": "  "}, "name", "A rule has a name of 1 to 80 characters."),
        ({"name": "x" * 81}, "name", "A rule has a name of 1 to 80 characters."),
        ({"then": ()}, "then", "The rule does nothing yet: add what it should do."),
        (
            {"then": (SetPriority(priority=Priority.LOW), SetPriority(priority=Priority.HIGH))},
            "then",
            "A rule can do one thing of a kind: there are two of ‘priority’.",
        ),
        (
            {"then": (ParkIt(choice=ParkFor.TOMORROW), ParkIt(choice=ParkFor.THREE_HOURS))},
            "then",
            "A rule can do one thing of a kind: there are two of ‘park’.",
        ),
        (
            {"then": (SettleIt(), LikeIt(), ParkIt(choice=ParkFor.TOMORROW))},
            "then",
            "A rule cannot both settle it and park it.",
        ),
        ({"then": (BringBack(), HandItOver(desk=1))}, "then", "A rule cannot both bring it back and hand it over."),
        ({"then": (HideIt(), LikeIt())}, "then", "A rule cannot both hide it and like it."),
        ({"then": (LikeIt(), SettleIt(how="junk"))}, "then", "A rule cannot both settle it as junk and like it."),
        (
            {"then": (AnswerWith(language="any", text="Hm"), SettleIt(how="junk"))},
            "then",
            "A rule cannot both settle it as junk and answer it.",
        ),
        ({"then": (LikeIt(), GiveTo())}, "then", "Say to whom: one member or one team."),
        ({"then": (GiveTo(member=1, team=1),)}, "then", "Say to whom: one member or one team."),
        ({"then": (AnswerWith(text=" "),)}, "then", "An answer has 1 to 2000 characters, or is a saved reply."),
        (
            {"when": Conditions()},
            "when",
            "The rule has no condition: say when it acts, or that it acts on every message.",
        ),
        ({"when": both(Conditions())}, "when", "A group has no condition: add one, or take the group away."),
        ({"when": both(both(both(both(both(OnAd())))))}, "when", "Groups can stand in groups 4 deep."),
        ({"when": both(*[OnAd()] * 61)}, "when", "A rule has at most 60 conditions."),
        # A group counts, and so does each condition in it.
        ({"when": both(both(*[OnAd()] * 29), both(*[OnAd()] * 30))}, "when", "A rule has at most 60 conditions."),
    ],
)
def test_what_a_rule_cannot_be_is_said(change: dict[str, Any], field: str, sentence: str) -> None:
    body = replace(RuleBody(name="A rule", when=ALL, then=(LikeIt(),)), **change)
    with pytest.raises(Invalid) as told:
        check_body(body)
    assert (told.value.message, told.value.field) == (sentence, field)


def test_what_a_word_cannot_be_is_said() -> None:
    for words in (HasWords(words=("?!",)), BareMention(at_most=1, none_of=("?!",))):
        with pytest.raises(Invalid, match="no letters"):
            check_body(RuleBody(name="A rule", when=both(words), then=(LikeIt(),)))


@pytest.mark.parametrize(
    "change",
    [
        {"name": "x"},
        {"name": "x" * 80},
        {"when": both(both(both(both(OnAd()))))},
        {"when": both(both(*[OnAd()] * 29), both(*[OnAd()] * 29))},
        {"then": (AnswerWith(language="any", text="x"),)},
        {"then": (AnswerWith(language="any", text="x" * 2000),)},
        {"then": (AnswerWith(language="nds", text="Moin"), LikeIt(), SetPriority(priority=Priority.LOW))},
        {"then": (GiveTo(member=1), HideIt(), SettleIt(how="junk"))},
        {"then": (AnswerWith(language="any", text="Hm"), SettleIt())},
    ],
)
def test_what_a_rule_can_just_be_is_kept_as_it_is(change: dict[str, Any]) -> None:
    body = replace(RuleBody(name="A rule", when=ALL, then=(LikeIt(),)), **change)
    assert check_body(body) == body


@pytest.mark.parametrize(
    ("part", "sentence"),
    [
        (HasWords(words=()), "Say which words."),
        (BareMention(at_most=-1), "A bare mention has 0 to 500 other characters."),
        (BareMention(at_most=501), "A bare mention has 0 to 500 other characters."),
        (SentimentIs(), "Say how the sentiment should be."),
        (SentimentIs(at_least=-1.1), "Sentiment goes from -1 to 1, the lower bound first."),
        (SentimentIs(at_most=1.1), "Sentiment goes from -1 to 1, the lower bound first."),
        (KindIs(kinds=()), "Say which kinds."),
        (NetworkIs(networks=()), "Say which networks."),
        (AccountIs(), "Say which accounts or account groups."),
        (LanguageIs(languages=()), "Say which languages."),
        (ReadsAsOneOf(reads_as=()), "Say what it should read as."),
        (RatingIs(at_most=0), "A rating has 1 to 5 stars."),
        (RatingIs(at_most=6), "A rating has 1 to 5 stars."),
        (PersonHasTag(tags=()), "Say which tags."),
        (ReachIs(at_least=-1), "Reach and standing go from 0 to 100."),
        (StandingIs(at_least=101), "Reach and standing go from 0 to 100."),
        (WindowIs(days=(7,), starts=0, ends=10), "Say on which weekdays."),
        (WindowIs(days=(0,), starts=1440, ends=10), "Times lie within the day."),
        (WindowIs(days=(0,), starts=0, ends=1441), "Times lie within the day."),
    ],
)
def test_what_is_missing_in_a_condition_is_said_in_a_sentence(part: Condition, sentence: str) -> None:
    with pytest.raises(Invalid) as told:
        check_body(RuleBody(name="A rule", when=both(part), then=(LikeIt(),)))
    assert (told.value.message, told.value.field) == (sentence, "when")


@pytest.mark.parametrize(
    "part",
    [
        BareMention(at_most=0),
        BareMention(at_most=500),
        SentimentIs(at_least=-1),
        SentimentIs(at_most=1),
        SentimentIs(at_least=0.2, at_most=0.2),
        AccountIs(groups=(1,)),
        RatingIs(at_most=1),
        RatingIs(at_most=5),
        ReachIs(at_least=0),
        StandingIs(at_least=100),
        WindowIs(days=(0, 6), starts=1439, ends=1440),
    ],
)
def test_what_lies_just_within_is_taken(part: Condition) -> None:
    assert check_body(RuleBody(name="A rule", when=both(part), then=(LikeIt(),))).when.parts == (part,)


@pytest.mark.parametrize(
    ("action", "sentence"),
    [
        (AddTags(tags=()), "Say which tags."),
        (GiveTo(), "Say to whom: one member or one team."),
        (LetWatch(members=()), "Say which members."),
        (TellMembers(members=()), "Say which members."),
        (AnswerWith(text="Yes", language="english"), "A language is named by its two or three letters."),
        (AnswerWith(text="x" * 2001), "An answer has 1 to 2000 characters, or is a saved reply."),
        (AnswerWith(text="Yes", saved=1), "An answer is a text or a saved reply, not both."),
    ],
)
def test_what_is_missing_in_an_action_is_said_in_a_sentence(action: Any, sentence: str) -> None:
    with pytest.raises(Invalid) as told:
        check_body(RuleBody(name="A rule", when=ALL, then=(action,)))
    assert (told.value.message, told.value.field) == (sentence, "then")


# -- warnings --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("a", "b", "holds"),
    [
        (KindIs(kinds=(Kind.COMMENT,)), KindIs(kinds=(Kind.COMMENT, Kind.REVIEW)), True),
        (KindIs(kinds=(Kind.COMMENT, Kind.REVIEW)), KindIs(kinds=(Kind.COMMENT,)), False),
        (both(OnAd(), FirstContact()), OnAd(), True),
        (OnAd(), both(OnAd(), FirstContact()), False),
        (OnAd(), ALL, True),
        (HasWords(words=("a",)), HasWords(words=("A", "b")), True),
        (HasWords(mode="all", words=("a", "b")), HasWords(mode="all", words=("a",)), True),
        (HasWords(mode="none", words=("a", "b")), HasWords(mode="none", words=("a",)), True),
        (SentimentIs(at_most=-0.6), SentimentIs(at_most=-0.5), True),
        (SentimentIs(at_most=-0.4), SentimentIs(at_most=-0.5), False),
        (ReachIs(at_least=60), ReachIs(at_least=50), True),
        (Conditions(of="any", parts=(OnAd(), FirstContact())), OnAd(), False),
        (OnAd(), Conditions(of="any", parts=(OnAd(), FirstContact())), True),
    ],
)
def test_implication(a: Condition, b: Condition, holds: bool) -> None:
    assert implies(a, b) is holds


def test_rules_that_never_act_or_contradict_each_other_are_told() -> None:
    ads = both(OnAd())
    rules = [
        rule(1, ads, SetPriority(priority=Priority.HIGH)),
        rule(2, both(OnAd(), FirstContact()), SetPriority(priority=Priority.LOW)),
        rule(3, both(OnAd(), FirstContact()), SetPriority(priority=Priority.LOW), AddTags(tags=(1,))),
        rule(4, both(HoursAre(inside=True), HoursAre(inside=False)), LikeIt()),
        rule(5, both(PostIs(post=1)), LikeIt(), StopHere()),
        rule(6, both(PostIs(post=1), OnAd()), HideIt()),
        rule(7, both(PostIs(post=1)), HideIt(), on=False),
    ]
    assert [(w.rule, w.kind, w.other, w.what) for w in list_warnings(rules)] == [
        (2, "shadowed", 1, None),
        (3, "disagrees", 1, "priority"),
        (4, "never", None, None),
        (6, "stopped", 5, None),
    ]


# -- automatic answers -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("so_far", "why"),
    [
        ({}, None),
        ({"is_held": True}, "held"),
        ({"in_conversation": 1}, "answered_before"),
        ({"to_person": 1}, "person_today"),
        ({"by_rule": 19}, None),
        ({"by_rule": 20}, "storm"),
        ({"is_answered": True}, "member_answered"),
        ({"is_writing": True}, "member_writing"),
        ({"was_junk": True}, "junk"),
        ({"is_blocked": True}, "blocked"),
    ],
)
def test_the_limits_of_automatic_answers(so_far: dict[str, Any], why: str | None) -> None:
    assert get_answer_obstacle(HEARD, AnswersSoFar(**so_far)) == why


def test_of_all_that_speaks_against_an_answer_the_first_is_said() -> None:
    """What holds for the person and for all before what holds for this one; a storm, which stops the rule, last."""
    all_of = {"is_blocked": True, "was_junk": True, "is_held": True, "is_answered": True, "is_writing": True, "in_conversation": 1, "to_person": 1, "by_rule": 20}  # fmt: skip
    said = []
    while (why := get_answer_obstacle(HEARD, AnswersSoFar(**all_of))) is not None:
        said.append(why.value)
        del all_of[next(iter(all_of))]
    assert said == [
        "blocked",
        "junk",
        "held",
        "member_answered",
        "member_writing",
        "answered_before",
        "person_today",
        "storm",
    ]
    assert get_answer_obstacle(replace(HEARD, answered=True), AnswersSoFar()) == "member_answered"


def test_a_program_is_never_answered() -> None:
    assert get_answer_obstacle(replace(HEARD, automatic=True), AnswersSoFar()) == "automatic"


# -- trial -----------------------------------------------------------------------------------------------------


def hear(n: int, minutes: float, *, person: int | None = None) -> Heard:
    at = AT + timedelta(minutes=minutes)
    return replace(HEARD, message=n, conversation=n, person=n if person is None else person, at=at)


def test_a_trial_compares_and_keeps_examples() -> None:
    before = [rule(1, both(OnAd()), SetPriority(priority=Priority.HIGH))]
    after = [
        *before,
        rule(0, ALL, SetPriority(priority=Priority.LOW), SettleIt(), AnswerWith(language="any", text="Hello")),
    ]
    trial = Trial(before, after, 0)
    trial.take(hear(n, n * 60 * 25, person=n % 2) for n in range(4))
    assert (trial.messages, trial.matched, trial.answers) == (4, 4, 4)
    assert trial.before.counts == {"priority:2": 4}
    assert trial.after.counts == {"priority:2": 4, "settled:no_reply_needed": 4, "acknowledged:text:Hello": 4}
    assert trial.lost_to == {("priority", 1): 4}
    assert trial.examples[0].comes == ("acknowledged:text:Hello", "settled:no_reply_needed")
    assert (trial.examples[0].goes, trial.differing) == ((), 4)


EVERY_ACTION = [
    (SetPriority(priority=Priority.LOW), SetPriority(priority=Priority.HIGH)),
    (AddTags(tags=(1, 2)), AddTags(tags=(1, 3))),
    (AddTags(tags=(1,), person=True), AddTags(tags=(2,), person=True)),
    (GiveTo(team=1), GiveTo(member=1)),
    (LikeIt(), None),
    (HideIt(), None),
    (AnswerWith(language="any", text="Hello"), AnswerWith(language="any", text="Hello!")),
    (AnswerWith(language="any", text="Hello"), AnswerWith(language="any", text="Hello", answers=True)),
    (AnswerWith(language="any", saved=1), AnswerWith(language="any", saved=2)),
    (AnswerWith(language="any", text="Hello"), AnswerWith(language="any", text="Hello", offer=True)),
    (SettleIt(), SettleIt(how="answered")),
    (ParkIt(choice=ParkFor.TOMORROW), ParkIt(choice=ParkFor.NEXT_WEEK)),
    (HandItOver(desk=1), HandItOver(desk=2)),
    (LetWatch(members=(1,)), LetWatch(members=(2,))),
    (TellMembers(members=(1,)), TellMembers(members=(2,))),
    (AskConsent(), None),
    (BringBack(), None),
    (StopHere(), None),
]


@pytest.mark.parametrize(("was", "now"), EVERY_ACTION, ids=lambda a: getattr(a, "type", "nothing"))
def test_a_trial_tells_every_difference(was: Any, now: Any) -> None:
    """Changed, added or taken away: whatever an action brings about, a trial shows for each message that it changes."""
    keep = LetWatch(members=(9,))
    below = rule(2, ALL, LikeIt()) if isinstance(was, StopHere) else rule(2, ALL, keep)
    one, other = [rule(1, ALL, keep, was), below], [rule(1, ALL, keep, *([now] if now else [])), below]
    trial = Trial(one, other, 1)
    trial.take(hear(n, n * 60 * 25) for n in range(3))
    assert trial.differing == 3
    assert all(e.comes or e.goes for e in trial.examples)


def test_every_action_there_is_has_a_difference() -> None:
    assert {type(a) for pair in EVERY_ACTION for a in pair if a is not None} == set(get_args(get_args(Action)[0]))


def test_a_trial_lists_what_a_narrower_rule_meets_no_more_and_says_how_much_is_not_listed() -> None:
    before = [rule(1, ALL, LikeIt())]
    trial = Trial(before, [rule(1, both(HasWords(words=("nowhere",))), LikeIt())], 1)
    trial.take(hear(n, n) for n in range(MOST_LISTED + 5))
    assert (trial.matched, trial.differing, len(trial.examples), trial.unlisted) == (0, MOST_LISTED + 5, MOST_LISTED, 5)
    assert trial.examples[0].goes == ("liked",)


def test_a_day_between_two_answers_to_a_person_is_24_hours_when_the_clock_goes_back() -> None:
    """Europe/Berlin, 25 October 2026: from 2:30 to 2:30 the next day are 25 hours or 24, by which 2:30 it is."""
    zone = ZoneInfo("Europe/Berlin")
    after = [rule(0, ALL, AnswerWith(language="any", text="Hello"))]
    for fold, count in ((0, 2), (1, 2)):
        trial = Trial([], after, 0)
        start = datetime(2026, 10, 25, 2, 30, tzinfo=zone, fold=fold)
        trial.take([replace(HEARD, at=start, conversation=1), replace(HEARD, at=datetime(2026, 10, 26, 2, 30, tzinfo=zone), conversation=2)])  # fmt: skip
        assert trial.answers == count
    trial = Trial([], after, 0)
    trial.take([replace(HEARD, at=datetime(2026, 10, 24, 3, 15, tzinfo=zone), conversation=1), replace(HEARD, at=datetime(2026, 10, 25, 2, 45, tzinfo=zone, fold=1), conversation=2)])  # fmt: skip
    assert trial.answers == 2, "24 and a half hours on a clock that was put back"


def test_a_trial_keeps_the_limits_of_answers_and_sees_a_storm() -> None:
    after = [rule(0, ALL, AnswerWith(language="any", text="Hello"))]
    trial = Trial([], after, 0)
    trial.take([hear(1, 0), hear(2, 1, person=1), hear(1, 2)])
    assert trial.answers == 1
    trial = Trial([], after, 0)
    trial.take(hear(n, n / 10) for n in range(40))
    assert trial.answers == 20
    assert trial.after.stopped == {0}


# -- fuzzed ----------------------------------------------------------------------------------------------------

WORDS = st.lists(st.sampled_from(["ray", "cut on", "wing*", "水", "30", "é"]), min_size=1, max_size=3, unique=True).map(
    tuple
)
PLAIN = st.one_of(
    st.builds(KindIs, kinds=st.lists(st.sampled_from(list(Kind)), min_size=1, max_size=3).map(tuple)),
    st.builds(HasWords, mode=st.sampled_from(["any", "all", "none"]), words=WORDS),
    st.builds(BareMention, at_most=st.integers(0, 40), none_of=WORDS),
    st.builds(SentimentIs, at_most=st.floats(-1, 1)),
    st.builds(ReachIs, at_least=st.integers(0, 100)),
    st.builds(HoursAre, inside=st.booleans()),
    st.builds(WindowIs, days=st.just((0, 4)), starts=st.integers(0, 1439), ends=st.integers(0, 1440)),
    st.just(OnAd()),
    st.just(FirstContact()),
)
GROUPS = st.recursive(
    PLAIN,
    lambda inner: st.builds(
        Conditions,
        of=st.sampled_from(["all", "any", "none"]),
        parts=st.lists(inner, min_size=1, max_size=3).map(tuple),
    ),
    max_leaves=8,
)
ACTIONS = st.sampled_from(
    [
        SetPriority(priority=Priority.URGENT),
        SetPriority(priority=Priority.LOW),
        AddTags(tags=(1,)),
        AddTags(tags=(2, 3)),
        GiveTo(team=1),
        LikeIt(),
        HideIt(),
        AnswerWith(language="any", text="Hello {first name}"),
        SettleIt(),
        ParkIt(choice=ParkFor.TOMORROW),
        StopHere(),
    ]
)
BODIES = st.builds(
    RuleBody,
    name=st.just("x"),
    when=st.builds(
        Conditions, of=st.sampled_from(["all", "any", "none"]), parts=st.lists(GROUPS, max_size=3).map(tuple)
    ),
    then=st.lists(ACTIONS, min_size=1, max_size=4, unique_by=lambda a: a.type).map(tuple),
)
SETS = st.lists(BODIES, max_size=6).map(lambda bodies: [Rule(id=n, version=1, body=b) for n, b in enumerate(bodies, 1)])
HEARDS = st.builds(
    lambda kind, text, sentiment, reach, is_open, on_ad, first, n: replace(
        HEARD,
        message=n,
        conversation=n,
        person=n,
        kind=kind,
        text=fold_text(text),
        sentiment=sentiment,
        reach=reach,
        is_open=is_open,
        on_ad=on_ad,
        first_contact=first,
    ),
    st.sampled_from(list(Kind)),
    st.sampled_from(["The ray", "a cut on its wings", "水族館 30", "", "@friend look"]),
    st.one_of(st.none(), st.floats(-1, 1)),
    st.one_of(st.none(), st.integers(0, 100)),
    st.booleans(),
    st.booleans(),
    st.booleans(),
    st.integers(1, 99),
)


@pytest.mark.parametrize(
    ("then", "sureness"),
    [
        ((SetPriority(priority=Priority.URGENT),), Sureness.LIKELY),
        ((SettleIt(), AddTags(tags=(1,))), Sureness.LIKELY),
        ((SetPriority(priority=Priority.URGENT), LikeIt()), Sureness.SURE),
        ((HideIt(),), Sureness.SURE),
        ((AnswerWith(text="Hello"),), Sureness.SURE),
        ((AnswerWith(text="Hello", offer=True),), Sureness.LIKELY),
    ],
)
def test_what_reaches_them_takes_a_sure_reading_where_nothing_else_is_said(
    then: tuple[Any, ...], sureness: Sureness
) -> None:
    asks = Conditions(
        of="any",
        parts=(
            ReadsAsOneOf(reads_as=(ReadsAs.PRAISE,)),
            Conditions(
                of="none",
                parts=(SentimentIs(at_most=0), ReadsAsOneOf(reads_as=(ReadsAs.SPAM,), sureness=Sureness.LIKELY)),
            ),
        ),
    )
    outer, inner = make_sure(RuleBody(name="x", when=asks, then=then)).when.parts
    assert isinstance(outer, ReadsAsOneOf)
    assert isinstance(inner, Conditions)
    assert outer.sureness is sureness
    assert [getattr(part, "sureness", None) for part in inner.parts] == [sureness, Sureness.LIKELY]


@given(PLAIN, st.integers(0, DEEPEST - 1))
def test_no_condition_loses_anything_by_being_kept(part: Condition, deep: int) -> None:
    for _ in range(deep):
        part = both(part, OnAd())
    kept = check_body(RuleBody(name="A rule", when=both(part), then=(LikeIt(),))).when
    assert kept == both(part)


@given(SETS, HEARDS)
def test_any_rules_on_any_message_give_one_of_each_thing_and_the_same_again(rules: list[Rule], heard: Heard) -> None:
    found = decide(rules, heard)
    effects = [a.type for m in found for a in m.effects]
    for kind in ("priority", "assign", "settle", "reply", "park"):
        assert effects.count(kind) <= 1
    assert decide(rules, heard) == found
    list_warnings(rules)


@given(SETS, st.lists(HEARDS, max_size=6, unique_by=lambda h: h.message))
def test_the_order_in_which_different_conversations_arrive_changes_nothing(
    rules: list[Rule], heards: list[Heard]
) -> None:
    one, other = Trial([], rules, 1), Trial([], rules, 1)
    one.take(heards)
    other.take(reversed(heards))
    assert one.after.counts == other.after.counts


@settings(max_examples=300)
@given(GROUPS, GROUPS, HEARDS)
def test_implication_and_impossibility_are_never_wrong(a: Condition, b: Condition, heard: Heard) -> None:
    if implies(a, b) and meets(a, heard) is not None:
        assert meets(b, heard) is not None
    if isinstance(a, Conditions) and is_impossible(a):
        assert meets(a, heard) is None


@pytest.mark.parametrize(
    ("when", "levels"),
    [
        (both(ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,))), {Sureness.LIKELY: 3, Sureness.SURE: 1}),
        (both(ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,), sureness=Sureness.SURE)), {Sureness.LIKELY: 3, Sureness.SURE: 1}),
        (Conditions(of="none", parts=(both(ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,))),)), {Sureness.LIKELY: 1, Sureness.SURE: 3}),
        (both(KindIs(kinds=(Kind.COMMENT,))), {}),
    ],
)  # fmt: skip
def test_a_trial_says_how_many_would_meet_it_at_each_level(when: Conditions, levels: dict[Sureness, int]) -> None:
    mine = rule(1, when, SetPriority(priority=Priority.HIGH))
    trial = Trial([], [mine], 1)
    trial.take(
        replace(HEARD, message=n, chances={ReadsAs.COMPLAINT: chance}) for n, chance in enumerate((0.5, 0.7, 0.89, 0.9))
    )
    assert trial.by_level == levels


def test_the_page_has_words_for_every_outcome_of_a_trial() -> None:
    """The names of outcomes stand in core.trial and, in words, in web/src/lib/rules.ts."""
    source = (Path(__file__).parents[2] / "web" / "src" / "lib" / "rules.ts").read_text()
    said = source[source.index("export function sayOutcome") :]
    words = set(re.findall(r"^    (\w+): \(\) =>", said[: said.index("\n}\n")], re.MULTILINE))
    actions: list[Any] = [
        SetPriority(priority=Priority.HIGH), AddTags(tags=(1,)), AddTags(tags=(1,), person=True), GiveTo(team=1), GiveTo(member=1), LikeIt(), HideIt(),
        *(AnswerWith(text="a", offer=offer, answers=answers) for offer in (True, False) for answers in (True, False)),
        SettleIt(how="junk"), ParkIt(choice=ParkFor.TOMORROW), LetWatch(members=(1,)), TellMembers(members=(1,)), AskConsent(), HandItOver(desk=1),
        BringBack(), StopHere(),
    ]  # fmt: skip
    assert {type(a) for a in actions} == set(get_args(get_args(Action)[0]))
    named = {name.partition(":")[0] for action in actions for name in list_names(action)}
    assert named == words
