"""Spells folded from histories that chance made (those of test_model.py), held to the facts, to the model that tells moves a
second time, and to themselves; and the examples of docs/metrics.md. The definitions are the product's own: no source outside."""

import os
import random
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from sorta.core.events import Event, read_event
from sorta.core.facts import Facts
from sorta.core.moves import apply, replay
from sorta.core.spells import (
    LONGEST_HANDLING,
    Ending,
    Phase,
    fold,
    get_handling,
    get_phase_at,
    may_change,
    measure_phases,
)
from tests.core.model import Model, Told, data_of
from tests.core.test_model import Story, say

T = datetime(2026, 11, 20, 9, tzinfo=UTC)
#: How many histories each test is told; SORTA_MODEL_RUNS asks for more.
RUNS = int(os.environ.get("SORTA_MODEL_RUNS", "3000")) // 4


def make_stories(start: int, length: int = 11) -> list[Story]:
    stories = []
    for seed in range(start, start + RUNS):
        story = Story(random.Random(seed))
        for _ in range(story.chance.randint(3, length)):
            story.next()
            story.facts = replay(story.events)
        stories.append(story)
    return stories


def test_what_waits_in_the_open_spell_is_what_is_unanswered() -> None:
    for story in make_stories(0):
        opened = [s for s in fold(story.events) if s.ended_at is None]
        assert len(opened) <= 1
        waiting = {m for s in opened for m in s.waiting}
        assert waiting == {u.message for u in story.facts.unanswered}, "\n".join(map(say, story.events))


def test_an_open_spell_began_with_the_earliest_unanswered_message_unless_it_was_brought_back() -> None:
    for story in make_stories(100_000):
        if any(e.kind == "reopened" for e in story.events):
            continue
        for spell in fold(story.events):
            if spell.ended_at is None:
                assert spell.since == story.facts.awaiting_since, "\n".join(map(say, story.events))


class Later(Model):
    """The model with what is known at the end: which replies never were, and which were out late."""

    def tell_at(self, n: int) -> Told:
        """Who waited when the first `n` events had happened."""
        never, late = self._list_statuses(self._known)
        out = {data_of(k.event)["message"] for k in self._known[:n] if k.event.kind == "delivered"}
        told = Told()
        for at, one in enumerate(self._known[:n]):
            if one.rests_on in never | late:
                continue
            self._apply(told, self._known, at, one, never | (late - out), late & out)
        return told


def test_somebody_waits_in_a_spell_when_the_model_says_so_and_only_then() -> None:
    compared = 0
    for story in make_stories(200_000):
        late = {data_of(e)["message"] for e in story.events if e.kind == "stuck"}
        # What is brought back covers the time it was settled: told by the examples below.
        if any(e.kind in ("reopened", "undone") for e in story.events):
            continue
        model = Later()
        for event in story.events:
            model.add(event)
        spells = fold(story.events)
        for n in range(1, len(story.events) + 1):
            seq = story.events[n - 1].seq
            waits = any(s.seq <= seq and (s.end is None or seq < s.end.seq) for s in spells)
            told = model.tell_at(n)
            if late and told.settled:
                # A settling that falls with a late reply stands in the model again once that is out.
                continue
            compared += 1
            assert waits == bool(told.waiting), f"after {seq}: {told}\n" + "\n".join(map(say, story.events))
    assert compared > 1000


def test_spells_are_told_anew_only_where_they_are_others() -> None:
    """What `may_change` passes over leaves all that is kept of spells as it was."""
    passed = 0
    for story in make_stories(300_000):
        facts, kept = Facts(), ()
        for n, event in enumerate(story.events, 1):
            before = facts
            facts = replay(story.events[:n]) if event.kind == "undone" else apply(facts, event)
            told = tuple(
                (
                    s.seq,
                    s.since,
                    s.first,
                    s.phases,
                    s.end and (s.end.at, s.end.by, s.end.how, s.end.member, s.end.reply),
                )
                for s in fold(story.events[:n])
            )
            if may_change(before, event, facts):
                kept = told
            else:
                passed += 1
                assert kept == told, f"after {event.seq}\n" + "\n".join(map(say, story.events))
    assert passed > 1000


def test_where_it_stood_adds_up_to_how_long_they_waited() -> None:
    for story in make_stories(400_000):
        for spell in fold(story.events):
            over = max(spell.since, story.at)
            whole = (spell.ended_at or over) - spell.since
            assert sum(measure_phases(spell, over).values(), timedelta()) == whole
            assert get_phase_at(spell, spell.since - timedelta(seconds=1)) is None
            assert whole == timedelta() or get_phase_at(spell, spell.since) is not None


class History:
    """A history told by hand: minutes after nine, kind, data."""

    def __init__(self) -> None:
        self.events: list[Event] = []

    def __call__(self, minute: float, kind: str, member: int | None = None, **data: Any) -> int:
        seq = len(self.events) + 1
        self.events.append(
            read_event(seq=seq, kind=kind, at=T + timedelta(minutes=minute), member_id=member, data=data)
        )
        return seq

    def tell(self) -> list[tuple[float, float | None, str | None]]:
        """(began, ended, by what) of each spell, in minutes after nine."""

        def minutes(at: datetime | None) -> float | None:
            return None if at is None else (at - T).total_seconds() / 60

        return [
            (minutes(s.since) or 0.0, minutes(s.ended_at), s.end.by.value if s.end else None) for s in fold(self.events)
        ]


def reply(history: History, minute: float, message: int = 50, **more: Any) -> None:
    history(minute, "replied", 3, message=message, public=True, settle=False, **more)


@pytest.fixture
def history() -> History:
    one = History()
    one(0, "arrived", message=1)
    return one


def test_two_messages_and_one_answer_are_one_spell(history: History) -> None:
    history(5, "arrived", message=2)
    reply(history, 20, took=90.0)
    history(20.2, "delivered", message=50)
    assert history.tell() == [(0, 20, "answered")]
    (spell,) = fold(history.events)
    assert spell.end is not None
    assert (spell.first, spell.end.member, spell.end.reply, spell.end.handling) == (True, 3, 50, timedelta(seconds=90))
    history(60, "arrived", message=3)
    assert history.tell() == [(0, 20, "answered"), (60, None, None)]
    assert [s.first for s in fold(history.events)] == [True, False]


def test_a_refused_reply_never_answered(history: History) -> None:
    reply(history, 20)
    history(40, "refused", message=50, reason="x")
    assert history.tell() == [(0, None, None)]
    reply(history, 50, 51)
    assert history.tell() == [(0, 50, "answered")]


def test_a_late_reply_answered_when_it_was_out(history: History) -> None:
    reply(history, 20)
    history(22, "stuck", message=50, reason="x")
    history(30, "arrived", message=2)
    history(90, "delivered", message=50)
    assert history.tell() == [(0, 90, "answered"), (30, None, None)]


def test_what_was_undone_did_not_happen(history: History) -> None:
    settled = history(20, "settled", 3, how="no_reply_needed")
    history(20.1, "undone", 3, of=settled)
    assert history.tell() == [(0, None, None)]


def test_settled_and_brought_back_is_one_wait(history: History) -> None:
    history(20, "settled", 3, how="no_reply_needed")
    assert history.tell() == [(0, 20, "settled")]
    history(60, "reopened", 3, message=1, since=T.isoformat())
    reply(history, 70)
    assert history.tell() == [(0, 70, "answered")]


def test_answered_and_brought_back_begins_anew(history: History) -> None:
    reply(history, 20)
    history(20.2, "delivered", message=50)
    history(25, "settled", 3, how="answered")
    history(60, "reopened", 3, message=1, since=T.isoformat())
    assert history.tell() == [(0, 20, "answered"), (60, None, None)]


def test_a_case_that_comes_back_was_with_the_other_desk_meanwhile(history: History) -> None:
    history(10, "handed_over", 3, case=5, desk="x", until=(T + timedelta(days=30)).isoformat(), joined=False)
    assert history.tell() == [(0, 10, "handed_over")]
    history(130, "reopened", message=1, since=T.isoformat(), waiting=[{"message": 1, "at": T.isoformat()}])
    reply(history, 160)
    (spell,) = fold(history.events)
    assert spell.end is not None
    assert (spell.end.by, spell.end.at) == (Ending.ANSWERED, T + timedelta(minutes=160))
    assert measure_phases(spell, T)[Phase.CASE] == timedelta(minutes=120)


def test_what_they_take_back_was_not_asked(history: History) -> None:
    history(5, "arrived", message=2)
    history(10, "removed", message=1)
    assert history.tell() == [(5, None, None)]
    history(12, "removed", message=2)
    assert history.tell() == [(5, 12, "removed")]


def test_an_answer_on_the_network_counts_for_what_had_been_said_by_then(history: History) -> None:
    history(30, "arrived", message=2)
    history(15, "answered_outside", message=60)
    assert history.tell() == [(0, 15, "outside"), (30, None, None)]


def test_parking_review_and_advice_are_part_of_the_wait(history: History) -> None:
    history(10, "assigned", 3, owner=3, team=None)
    history(20, "parked", 3, until=(T + timedelta(minutes=80)).isoformat())
    history(80.1, "returned")
    history(90, "proposed", 3, proposal=7, public=True)
    history(100, "sent_back", 4, proposal=7, reason="x")
    history(100, "advice_asked", 3, advice=1, to="x")
    history(130, "advice_given", advice=1, to="x")
    reply(history, 131)
    (spell,) = fold(history.events)
    minutes = {phase.value: spent.total_seconds() / 60 for phase, spent in measure_phases(spell, T).items() if spent}
    assert minutes == {"unsorted": 10, "ours": 21, "parked": 60, "in_review": 10, "advice": 30}


def test_a_settling_that_rested_on_a_refused_reply_ended_nothing(history: History) -> None:
    reply(history, 20)
    history(21, "settled", 3, how="answered")
    history(40, "refused", message=50, reason="x")
    assert history.tell() == [(0, None, None)]


def test_one_that_was_settled_for_another_reason_stays_ended(history: History) -> None:
    reply(history, 20)
    history(21, "settled", 3, how="no_reply_needed")
    history(40, "refused", message=50, reason="x")
    assert history.tell() == [(0, 21, "settled")]


def test_handling_is_what_the_conversation_was_open_for_and_capped() -> None:
    assert get_handling(T, T + timedelta(seconds=75)) == 75.0
    assert get_handling(T, T + timedelta(hours=3)) == LONGEST_HANDLING.total_seconds()
    assert get_handling(T, T - timedelta(seconds=1)) == 0.0
