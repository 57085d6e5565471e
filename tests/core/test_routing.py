"""Whom a team gives work to, and evening out, held against SciPy's exact assignment as reference."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import Bounds, LinearConstraint, milp

from sorta.core.routing import Candidate, Way, Work, choose, even_out
from sorta.core.targets import Priority

NOW = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)


def who(member: int, **more: object) -> Candidate:
    return Candidate(member=member, name=f"M{member}", **more)  # type: ignore[arg-type]


def test_in_turn_goes_to_whoever_waited_longest() -> None:
    team = [who(1, given_at=NOW), who(2, given_at=NOW - timedelta(hours=1)), who(3)]
    assert choose(Way.IN_TURN, team).member == 3
    assert choose(Way.IN_TURN, team[:2]).member == 2


def test_lightest_is_measured_against_capacity() -> None:
    team = [who(1, load=10, open=10, capacity=40), who(2, load=6, open=6, capacity=10)]
    choice = choose(Way.LIGHTEST, team)
    assert (choice.member, choice.reason) == (1, "lightest load, 10 open")


def test_who_knew_the_person_last_else_the_lightest() -> None:
    team = [who(1, knew_at=NOW - timedelta(days=3), load=9), who(2, knew_at=NOW, load=30), who(3)]
    assert choose(Way.KNOWN, team).member == 2
    assert choose(Way.KNOWN, [who(1, load=2), who(2, load=1)]).member == 2


@pytest.mark.parametrize("way", list(Way))
def test_the_away_off_shift_and_full_are_passed_over_with_the_reason(way: Way) -> None:
    team = [who(1, is_away=True), who(2, is_off_shift=True), who(3, open=5, capacity=5), who(4, load=99)]
    choice = choose(way, team)
    assert choice.member == 4
    assert choice.passed == ((1, "away"), (2, "off shift"), (3, "at capacity"))
    assert choose(way, team[:3]).member is None


def test_languages_are_asked_for_where_somebody_speaks_them() -> None:
    team = [who(1, languages=frozenset({"en"})), who(2, languages=frozenset({"es", "en"}), load=50)]
    assert choose(Way.LIGHTEST, team, language="es").member == 2
    assert choose(Way.LIGHTEST, team, language="pl").member == 1


def test_evening_out_empties_the_desk_of_who_is_away_and_leaves_pinned_work() -> None:
    team = [who(1, is_away=True), who(2), who(3)]
    work = [Work(conversation=n, owner=1, priority=Priority.NORMAL, is_pinned=n == 9) for n in range(10)]
    passes = even_out(team, work)
    assert {p.conversation for p in passes} == set(range(9))
    assert [sum(p.taker == m for p in passes) for m in (2, 3)] in ([4, 5], [5, 4])


def test_a_language_is_never_passed_to_who_does_not_speak_it() -> None:
    team = [who(1), who(2, languages=frozenset({"en"}))]
    work = [Work(conversation=n, owner=1, priority=Priority.NORMAL, language="es") for n in range(6)]
    assert even_out(team, work) == []


def test_what_a_team_was_given_stays_within_it() -> None:
    team = [who(1), who(2), who(3)]
    work = [Work(conversation=n, owner=1, priority=Priority.NORMAL, team=frozenset({1, 3})) for n in range(6)]
    assert {p.taker for p in even_out(team, work)} == {3}


def find_best(loads: list[float], weights: list[float]) -> float:
    """The lowest highest load that any distribution of the weights gives: a mixed-integer programme (SciPy's HiGHS)."""
    people, items = len(loads), len(weights)
    n = people * items + 1
    cost = np.zeros(n)
    cost[-1] = 1
    once = np.zeros((items, n))
    for i in range(items):
        once[i, i * people : (i + 1) * people] = 1
    under = np.zeros((people, n))
    for p in range(people):
        for i in range(items):
            under[p, i * people + p] = weights[i]
        under[p, -1] = -1
    found = milp(
        cost,
        constraints=[LinearConstraint(once, 1, 1), LinearConstraint(under, -np.inf, -np.array(loads))],
        integrality=np.append(np.ones(n - 1), 0),
        bounds=Bounds(0, np.append(np.ones(n - 1), np.inf)),
    )
    return float(found.fun)


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from(list(Priority)), min_size=1, max_size=7))
def test_evening_out_comes_close_to_the_best_there_is(priorities: list[Priority]) -> None:
    """Passing one at a time ends within the heaviest single item of the optimum."""
    team = [who(n) for n in (1, 2, 3)]
    work = [Work(conversation=n, owner=1, priority=p) for n, p in enumerate(priorities)]
    owner = {w.conversation: 1 for w in work} | {p.conversation: p.taker for p in even_out(team, work)}
    loads = [sum(w.weight for w in work if owner[w.conversation] == m) for m in (1, 2, 3)]
    best = find_best([0.0, 0.0, 0.0], [w.weight for w in work])
    assert max(loads) <= best + max(w.weight for w in work)
    assert sum(loads) == sum(w.weight for w in work)


@given(st.lists(st.tuples(st.integers(1, 3), st.sampled_from(list(Priority))), max_size=25))
def test_evening_out_only_ever_helps_and_ends(given_work: list[tuple[int, Priority]]) -> None:
    team = [who(n) for n in (1, 2, 3)]
    work = [Work(conversation=n, owner=o, priority=p) for n, (o, p) in enumerate(given_work)]
    passes = even_out(team, work)
    owner = {w.conversation: w.owner for w in work}
    before = max([sum(w.weight for w in work if w.owner == m) for m in (1, 2, 3)], default=0)
    owner |= {p.conversation: p.taker for p in passes}
    after = max([sum(w.weight for w in work if owner[w.conversation] == m) for m in (1, 2, 3)], default=0)
    assert after <= before
    assert len(passes) <= len(work)
