"""A rule from an example: what it is becomes conditions, what was done with it what is done. That it matches is in services/test_ruling."""

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from sorta.core.examples import Example, list_telling, make_rule_of
from sorta.core.facts import SettledAs
from sorta.core.ports import Kind
from sorta.core.reading import ReadsAs
from sorta.core.rules import (
    AddTags,
    GiveTo,
    HasWords,
    KindIs,
    PersonHasTag,
    RatingIs,
    ReadsAsOneOf,
    SetPriority,
    SettleIt,
    check_body,
)
from sorta.core.targets import Priority
from sorta.services.rules import KINDS

#: One that nothing speaks for but its words.
PLAIN = Example(kind=Kind.COMMENT, text="Where can prams wait during feeding?")


def test_what_it_is_becomes_conditions() -> None:
    body = make_rule_of(replace(PLAIN, chances={ReadsAs.COMPLAINT: 0.93, ReadsAs.QUESTION: 0.4}), KINDS)
    assert body.name == "Complaints in comments"
    assert body.when.parts == (KindIs(kinds=(Kind.COMMENT,)), ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,)))
    assert body.then == ()
    stars = make_rule_of(Example(kind=Kind.REVIEW, rating=2, person_tags=(4,)), KINDS)
    assert stars.when.parts == (KindIs(kinds=(Kind.REVIEW,)), RatingIs(at_most=2), PersonHasTag(tags=(4,)))
    assert RatingIs not in {type(p) for p in make_rule_of(Example(kind=Kind.REVIEW, rating=5), KINDS).when.parts}


def test_where_nothing_is_sure_its_words_stand_for_it() -> None:
    assert make_rule_of(PLAIN, KINDS).when.parts[1] == HasWords(mode="all", words=("where", "during", "feeding"))
    assert list_telling("ok, so 12345 it is") == ()
    assert list_telling("Ærøskøbing ÆRØSKØBING") == ("ærøskøbing",)


def test_what_members_did_becomes_what_is_done_and_what_rules_did_does_not() -> None:
    done = replace(
        PLAIN,
        by_hand=("assign", "priority"),
        priority=Priority.HIGH,
        team=3,
        owner=9,
        tags=(7,),
        settled_as=SettledAs.JUNK,
    )
    assert make_rule_of(done, KINDS).then == (
        SetPriority(priority=Priority.HIGH),
        AddTags(tags=(7,)),
        GiveTo(team=3),
        SettleIt(how="junk"),
    )
    assert GiveTo(member=9) in make_rule_of(replace(done, team=None), KINDS).then
    assert make_rule_of(replace(PLAIN, priority=Priority.URGENT, owner=9), KINDS).then == ()
    assert make_rule_of(replace(PLAIN, settled_as=SettledAs.ANSWERED), KINDS).then == ()


@given(
    st.sampled_from(list(Kind)),
    st.dictionaries(st.sampled_from(list(ReadsAs)), st.floats(0, 1)),
    st.text(max_size=200),
    st.none() | st.integers(1, 5),
)
def test_whatever_the_example_is_the_rule_can_be_kept(
    kind: Kind, chances: dict[ReadsAs, float], text: str, rating: int | None
) -> None:
    example = Example(kind=kind, chances=chances, text=text, rating=rating, tags=(1,))
    assert check_body(make_rule_of(example, KINDS)).when.parts[0] == KindIs(kinds=(kind,))
