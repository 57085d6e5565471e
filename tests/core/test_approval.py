"""Which replies need consent, whose and how many (docs/trade.md 8): a table of policies, and properties of consent."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.approval import (
    Asked,
    Need,
    Policy,
    PolicyBody,
    PolicyWhen,
    Wanted,
    check_policy,
    fingerprint,
    get_wait_until,
    has_too_few,
    list_needs,
    list_open_needs,
    list_to_ask,
    list_warnings,
    matches,
    may_consent,
)
from sorta.core.errors import Invalid
from sorta.core.permissions import STARTING, Role
from sorta.core.reading import ReadsAs
from sorta.core.targets import Priority
from sorta.core.words import fold_text
from sorta.core.working_time import RoundTheClock, WeeklyHours, read_spans

ROLES = dict(enumerate(STARTING.values(), 1))
WANTED = Wanted(
    author=3,
    role=STARTING[Role.RESPONDER],
    accounts=(1,),
    public=True,
    text=fold_text("We will REFUND you"),
    tags=(7,),
    priority=Priority.HIGH,
    reads_as=("complaint",),
    reach=60,
)


@pytest.mark.parametrize(
    ("when", "found"),
    [
        ({}, ()),
        ({"roles": (Role.RESPONDER,)}, ()),
        ({"roles": (Role.LEAD,)}, None),
        ({"accounts": (1, 2)}, ()),
        ({"accounts": (2,)}, None),
        ({"public": True}, ()),
        ({"public": False}, None),
        ({"tags": (7, 8)}, ()),
        ({"tags": (8,)}, None),
        ({"priority_at_least": Priority.HIGH}, ()),
        ({"priority_at_least": Priority.URGENT}, None),
        ({"words": ("refund*", "free")}, ("REFUND",)),
        ({"words": ("free",)}, None),
        ({"reads_as": (ReadsAs.COMPLAINT,)}, ()),
        ({"reads_as": (ReadsAs.PRAISE,)}, None),
        ({"reach_at_least": 60}, ()),
        ({"reach_at_least": 61}, None),
        ({"public": True, "tags": (8,)}, None),
    ],
)
def test_when_a_policy_matches(when: dict[str, Any], found: tuple[str, ...] | None) -> None:
    assert matches(PolicyWhen(**when), WANTED) == found


def test_a_reach_that_nobody_knows_is_not_taken_for_a_large_one() -> None:
    assert matches(PolicyWhen(reach_at_least=0), replace(WANTED, reach=None)) is None
    assert matches(PolicyWhen(), replace(WANTED, reach=None)) == ()


def policy(id: int, count: int, *approvers: int) -> Policy:
    body = PolicyBody(name=f"P{id}", when=PolicyWhen(), members=approvers, count=count)
    return Policy(id=id, body=body, approvers=frozenset(approvers))


def test_all_that_match_must_be_met_and_nobody_consents_to_their_own() -> None:
    needs = list_needs([policy(1, 1, 3, 1), policy(2, 2, 1, 2)], WANTED, roles=ROLES)
    assert [(n.policy, n.count, n.members) for n in needs] == [(1, 1, (1,)), (2, 2, (1, 2))]
    assert not may_consent(needs, [], 3, 3)
    assert may_consent(needs, [], 3, 1)
    assert [n.policy for n in list_open_needs(needs, [1], 3)] == [2]
    assert not may_consent(needs, [1], 3, 1)
    assert list_open_needs(needs, [1, 2], 3) == ()


def test_a_trainee_and_a_rule_ask_for_whoever_may_approve() -> None:
    trainee = replace(WANTED, author=4, role=STARTING[Role.TRAINEE])
    needs = list_needs([], trainee, roles=ROLES, by_rules=["Press"])
    assert [(n.name, n.members) for n in needs] == [("Replies of a Trainee", (1, 2)), ("The rule “Press”", (1, 2))]
    assert list_needs([], WANTED, roles=ROLES) == ()


def test_it_never_needs_fewer_and_says_when_too_few_may() -> None:
    """Two are asked for and one of the two writes it: it waits for two. Who may not approve does not count."""
    (need,) = list_needs([policy(1, 2, 1, 2)], replace(WANTED, author=1), roles=ROLES)
    assert (need.count, need.members, has_too_few(need)) == (2, (2,), True)
    assert list_open_needs([need], [2], 1) == (need,)
    (barred,) = list_needs([policy(1, 1, 4)], WANTED, roles=ROLES)
    assert (barred.members, has_too_few(barred)) == ((), True)
    assert not may_consent([barred], [], 3, 4)


def test_writing_a_policy_warns() -> None:
    assert list_warnings(policy(1, 1, 1, 2), ROLES) == ()
    assert "themselves" in list_warnings(policy(1, 2, 1, 2), ROLES)[0]
    named = Policy(id=1, body=replace(policy(1, 2, 1, 4).body, members=(1, 4)), approvers=frozenset({1, 4}))
    first, second = list_warnings(named, ROLES)
    assert first == "One of the members it names may not approve and does not count."
    assert "what it holds up waits" in second
    named = replace(named, body=replace(named.body, members=(1, 4, 99)), approvers=frozenset({1, 4, 99}))
    assert list_warnings(named, ROLES)[0] == "2 of the members it names may not approve and do not count."


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"name": " "}, "name"),
        ({"count": 3}, "one or of two"),
        ({"members": ()}, "who may consent"),
        ({"when": PolicyWhen(words=("?",))}, "no letters"),
        ({"when": PolicyWhen(reach_at_least=101)}, "0 to 100"),
    ],
)
def test_what_a_policy_cannot_be(change: dict[str, Any], words: str) -> None:
    with pytest.raises(Invalid, match=words):
        check_policy(replace(PolicyBody(name="P", when=PolicyWhen(), members=(1,)), **change))


NEEDS = st.lists(
    st.builds(
        lambda members, count: Need(policy=1, name="P", count=min(count, len(members)), members=tuple(sorted(members))),
        st.sets(st.integers(2, 6), min_size=1),
        st.integers(1, 2),
    ),
    max_size=4,
).map(tuple)


@given(NEEDS, st.permutations(range(1, 7)))
def test_whoever_is_asked_in_whatever_order_ends_with_all_needs_met(needs: tuple[Need, ...], order: list[int]) -> None:
    """Author is 1. Consent is taken only where it helps, never twice, never from the author."""
    given_by: list[int] = []
    for member in order * 2:
        if may_consent(needs, given_by, 1, member):
            before = sum(n.count - len(set(given_by) & set(n.members)) for n in list_open_needs(needs, given_by, 1))
            given_by.append(member)
            after = sum(n.count - len(set(given_by) & set(n.members)) for n in list_open_needs(needs, given_by, 1))
            assert after < before
    assert list_open_needs(needs, given_by, 1) == ()
    assert 1 not in given_by
    assert len(given_by) == len(set(given_by))


def need(*members: int, count: int = 1) -> Need:
    return Need(policy=1, name="x", count=count, members=members)


AT = datetime(2026, 3, 2, 9, tzinfo=UTC)


def asked(member: int, minutes: float) -> Asked:
    """Somebody who has so many minutes left; less than none: their time is over."""
    return Asked(member=member, at=AT - timedelta(hours=1), until=AT + timedelta(minutes=minutes))


@pytest.mark.parametrize(
    ("needs", "consents", "before", "away", "expected"),
    [
        ((need(1, 2, 3),), (), (), (), (1,)),
        ((need(1, 2, 3, count=2),), (), (), (), (1, 2)),
        ((need(1, 2, 3),), (), (asked(1, 5),), (), ()),
        ((need(1, 2, 3),), (), (asked(1, -1),), (), (2,)),
        ((need(1, 2, 3),), (), (), (1,), (2,)),
        ((need(1, 2, 3),), (), (asked(1, 5),), (1,), (2,)),
        ((need(1, 2),), (), (), (1, 2), (1,)),
        ((need(1, 2),), (), (asked(1, -9), asked(2, -1)), (), ()),
        ((need(1, 2, 3, count=2),), (1,), (asked(1, 5), asked(2, -1)), (), (3,)),
        ((need(1, 2), need(2, 3)), (), (), (), (1, 2)),
        ((need(2), need(2, 3)), (), (), (), (2,)),
        ((need(9, 1),), (), (), (), (1,)),
        ((need(1, 2),), (1,), (), (), ()),
    ],
)
def test_whose_turn_it_is(
    needs: tuple[Need, ...],
    consents: tuple[int, ...],
    before: tuple[Asked, ...],
    away: tuple[int, ...],
    expected: tuple[int, ...],
) -> None:
    assert list_to_ask(needs, consents, 9, asked=before, away=away, now=AT) == expected


def test_how_long_somebody_has() -> None:
    due = AT + timedelta(hours=2)
    always = RoundTheClock()
    assert get_wait_until(AT, due, 50, always) == AT + timedelta(hours=1)
    assert get_wait_until(AT, due, 10, always) == AT + timedelta(minutes=12)
    assert get_wait_until(AT, AT - timedelta(hours=1), 50, always) == AT + timedelta(minutes=5)
    assert get_wait_until(AT, None, 50, always) == AT + timedelta(hours=4)


def test_the_next_is_asked_within_working_hours() -> None:
    """Asked on Friday at half past four; open until five and from Monday at nine (2026-03-06 is a Friday)."""
    office = WeeklyHours(zone=ZoneInfo("UTC"), week=tuple(read_spans(s) for s in [*["9-17"] * 5, "closed", "closed"]))
    friday = datetime(2026, 3, 6, 16, 30, tzinfo=UTC)
    monday = datetime(2026, 3, 9, 11, 30, tzinfo=UTC)
    # Three working hours are left; half of them is half an hour on Friday and one on Monday.
    assert get_wait_until(friday, monday, 50, office) == datetime(2026, 3, 9, 10, 0, tzinfo=UTC)
    assert get_wait_until(friday, None, 50, office) == datetime(2026, 3, 9, 12, 30, tzinfo=UTC)
    night = datetime(2026, 3, 7, 3, tzinfo=UTC)
    assert get_wait_until(night, night - timedelta(hours=9), 50, office) == datetime(2026, 3, 9, 9, 5, tzinfo=UTC)


@pytest.mark.parametrize(
    "change",
    [{"text": "hello."}, {"links": {"a": "https://y.example"}}, {"links": {}}, {"files": (1,)}, {"files": (2, 1)}, {"account": 2}, {"account": None}, {"public": False}],
    ids=str,
)  # fmt: skip
def test_consent_is_to_all_that_goes_out(change: dict[str, Any]) -> None:
    given: dict[str, Any] = {
        "text": "hello",
        "links": {"a": "https://x.example"},
        "files": (1, 2),
        "account": 1,
        "public": True,
    }
    assert fingerprint(**given) == fingerprint(**given)
    assert fingerprint(**{**given, **change}) != fingerprint(**given)


def test_consent_does_not_lapse_by_the_order_in_which_links_are_named() -> None:
    links = {"a": "https://x.example", "b": "https://y.example"}
    one, other = (
        fingerprint(text="hello", links=dict(order), files=(), account=None, public=True)
        for order in (links.items(), reversed(links.items()))
    )
    assert one == other


def test_a_policy_is_kept_tidy_and_a_need_says_the_words_it_is_for() -> None:
    body = PolicyBody(
        name="  Promises  of money ", when=PolicyWhen(words=("refund*", "refund*", "free"), public=True), members=(1,)
    )
    kept = check_policy(body)
    assert kept == replace(body, name="Promises of money", when=PolicyWhen(words=("refund*", "free"), public=True))
    (need,) = list_needs([Policy(id=5, body=kept, approvers=frozenset({1}))], WANTED, roles=ROLES)
    assert (need.name, need.words) == ("Promises of money", ("REFUND",))
