"""Days as a scene: what each wait asks of people, who takes it, and what other rules make of it."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from sorta.core.ports import Kind
from sorta.core.replay import NEVER, Task, draw_handling, play
from sorta.core.replay_scene import Past, SceneChange, Worker, list_shifts, make_scene
from sorta.core.routing import Way
from sorta.core.spells import Ending
from sorta.core.targets import Audience, Priority, Promise, Targets
from sorta.core.waits import COLUMNS, LANGUAGE_WIDTH, Waits, get_codes
from sorta.core.working_time import WeeklyHours, read_spans

ZONE = ZoneInfo("Europe/Berlin")
#: A Monday, in the week before the clocks change on Sunday.
BEGINS = datetime(2026, 3, 23, tzinfo=ZONE).astimezone(UTC)
ENDS = datetime(2026, 3, 30, tzinfo=ZONE).astimezone(UTC)
PROMISE = Promise(hours=WeeklyHours(zone=ZONE, week=(read_spans("9-17"),) * 5 + (read_spans("10-14"), ())))
KINDS = tuple(kind.value for kind in Kind)


def at(hours: float) -> float:
    return BEGINS.timestamp() + hours * 3600


def make_past(*rows: dict[str, Any]) -> Past:
    """Each row with the hour at which it began and ended (None: it is open), and how."""
    usual = {
        "member": 7,
        "priority": 1,
        "team": 0,
        "language": "",
        "kind": 1,
        "first": True,
        "public": True,
        "stood": 0.0,
    }
    full = [{**usual, **row} for row in rows]
    columns: dict[str, Any] = {
        name: np.zeros(len(full), dtype={"i": np.int64, "b": np.bool_, "s": f"S{LANGUAGE_WIDTH}"}.get(kind[0], float))
        for name, kind in COLUMNS.items()
    }
    for n, row in enumerate(full):
        columns["conversation"][n] = row.get("conversation", n + 1)
        columns["seq"][n] = n + 1
        columns["since"][n] = at(row["since"])
        columns["ended"][n] = np.nan if row["ended"] is None else at(row["ended"])
        columns["ended_by"][n] = 0 if row["ended"] is None else get_codes(row.get("by", Ending.ANSWERED))[0]
        columns["parked"][n] = row["stood"]
        columns["language"][n] = row["language"].ljust(LANGUAGE_WIDTH).encode()
        for name in ("member", "priority", "team", "kind", "first", "public"):
            columns[name][n] = row[name]
    return Past(waits=Waits(columns, np.zeros((0, 2))), begins=BEGINS, ends=ENDS, zone=ZONE, kinds=KINDS)


ANYBODY = Worker(id=7, capacity=40)


def test_each_ending_asks_its_own_of_people() -> None:
    past = make_past(
        {"since": 10, "ended": 12},
        {"since": 11, "ended": 11.1, "member": 0},
        {"since": 12, "ended": 13, "by": Ending.SETTLED},
        {"since": 13, "ended": 13, "by": Ending.SETTLED, "member": 0},
        {"since": 14, "ended": 20, "by": Ending.HANDED_OVER},
        {"since": 15, "ended": 30, "by": Ending.OUTSIDE, "member": 0},
        {"since": 16, "ended": 40, "by": Ending.REMOVED, "member": 0},
        {"since": 17, "ended": None},
    )
    found = make_scene(past, PROMISE, [ANYBODY], {})
    answer, settle, nothing = Task.ANSWER, Task.SETTLE, Task.NOTHING
    assert list(found.task) == [answer, nothing, settle, nothing, settle, answer, answer, answer]
    assert list(found.answers) == [True, True, False, False, False, True, False, True]
    assert list(found.leaves) == [NEVER, at(11.1), NEVER, at(13), NEVER, at(30), at(40), NEVER]
    assert past.get_ended().tolist() == [at(h) for h in (12, 11.1, 13, 13, 20, 30, 40)] + [NEVER]


def test_what_began_before_is_there_and_what_nobody_touched_is_not() -> None:
    past = make_past(
        {"since": 30, "ended": 31},
        {"since": -5, "ended": 9},
        {"since": -5, "ended": -1},
        {"since": -500, "ended": None},
        {"since": -6, "ended": 24 * 7 + 5},
        {"since": 24 * 7 - 1.5, "ended": None},
    )
    # The week has 167 hours, for the clocks change in it.
    assert make_scene(past, PROMISE, [ANYBODY], {}).since == [at(-5), at(30), at(166.5)]


def test_people_work_in_their_shifts_by_the_clock_of_the_wall() -> None:
    past = make_past({"since": 1, "ended": 2})
    night = Worker(id=1, capacity=1, shift=((),) * 5 + (read_spans("22-6"), ()))
    # Of eight hours on the wall clock the night takes one away.
    assert sum(b - a for a, b in list_shifts(night, past, PROMISE)) == 7 * 3600
    assert sum(b - a for a, b in list_shifts(ANYBODY, past, PROMISE)) == (5 * 8 + 4) * 3600
    gone = datetime(2026, 3, 24, 12, tzinfo=ZONE)
    away = replace(ANYBODY, away=(gone, gone + timedelta(days=1)))
    assert sum(b - a for a, b in list_shifts(away, past, PROMISE)) == (4 * 8 + 4) * 3600
    assert list_shifts(replace(ANYBODY, away=(BEGINS, ENDS)), past, PROMISE) == []


def test_teams_and_languages_say_who_takes_what() -> None:
    past = make_past(
        {"since": 1, "ended": 2, "team": 5, "language": "fr"},
        {"since": 2, "ended": 3, "team": 5, "language": "da"},
        {"since": 3, "ended": 4},
        {"since": 4, "ended": 5, "team": 6},
    )
    workers = [
        Worker(id=1, capacity=3, teams=frozenset({5}), languages=frozenset({"fr"})),
        Worker(id=2, capacity=4, teams=frozenset({5})),
        Worker(id=3, capacity=5),
    ]
    found = make_scene(past, PROMISE, workers, {5: Way.IN_TURN, 6: Way.LIGHTEST})
    takers = [{found.people[n].id for n in range(3) if q in found.people[n].queues} for q in found.queue]
    # In team 6 nobody answers: it is everybody's, and nobody is given it.
    assert takers == [{1, 2}, {2}, {1, 2, 3}, {1, 2, 3}]
    assert [found.queues[q].way for q in found.queue] == [Way.IN_TURN, Way.IN_TURN, None, None]
    assert [list(found.queues[q].stand_ins) for q in found.queue[:2]] == [[0, 1], [0, 1]]
    assert all(q.way is None for q in make_scene(past, PROMISE, workers, {5: Way.IN_TURN}, give_out=False).queues)


def test_what_is_promised_is_by_audience_and_priority_and_other_hours_move_it() -> None:
    past = make_past(
        {"since": 40, "ended": 50, "priority": 3, "kind": KINDS.index("review") + 1},
        {"since": 41, "ended": 50, "public": False},
    )
    minutes = {a: {p: 10 * (n + 1) + p for p in Priority} for n, a in enumerate((*Audience,))}
    found = make_scene(past, replace(PROMISE, targets=Targets(minutes=minutes)), [ANYBODY], {})
    assert list(found.promised) == [
        60 * minutes[Audience.REVIEW][Priority.URGENT],
        60 * minutes[Audience.PRIVATE][Priority.NORMAL],
    ]
    assert list(found.weight) == [4.0, 1.0]


@pytest.mark.parametrize(
    ("comes", "goes", "task", "answers", "leaves"),
    [
        (["answered:saved:3"], [], Task.NOTHING, True, at(10.5)),
        (["settled:junk"], [], Task.NOTHING, False, at(10.5)),
        (["handed_over:1"], [], Task.NOTHING, False, at(10.5)),
        (["acknowledged:saved:3", "offered:saved:3"], [], Task.ANSWER, True, NEVER),
        ([], ["answered:saved:3"], Task.ANSWER, True, NEVER),
    ],
)
def test_other_rules_leave_people_more_or_less_to_do(
    comes: list[str], goes: list[str], task: Task, answers: bool, leaves: float
) -> None:
    change = SceneChange(conversation=1, at=BEGINS + timedelta(hours=10.5), comes=comes, goes=goes)
    past = make_past({"since": 10, "ended": 12})
    found = make_scene(past, PROMISE, [ANYBODY], {}, changes=[change])
    assert (found.task, found.answers, found.leaves) == ([task], [answers], [leaves])


def test_what_a_rule_did_is_left_to_people_when_it_is_off() -> None:
    past = make_past(
        {"since": 10, "ended": 10, "by": Ending.SETTLED, "member": 0, "priority": 3, "team": 5},
        {"since": 11, "ended": 11, "member": 0},
    )
    changes = [
        SceneChange(conversation=n, at=BEGINS + timedelta(hours=9 + n), comes=[], goes=goes)
        for n, goes in ((1, ["settled:junk", "priority:3", "team:5"]), (2, ["answered:text:1"]))
    ]
    found = make_scene(past, PROMISE, [ANYBODY], {5: Way.LIGHTEST}, changes=changes)
    assert list(found.task) == [Task.SETTLE, Task.ANSWER]
    assert list(found.answers) == [False, True]
    assert list(found.leaves) == [NEVER, NEVER]
    assert list(found.weight) == [1.0, 1.0]


def test_a_change_is_about_the_wait_that_was_open_then_and_no_other() -> None:
    past = make_past(
        {"since": 10, "ended": 12, "conversation": 4},
        {"since": 20, "ended": 22, "conversation": 4},
        {"since": 9, "ended": 30},
    )

    def ask(hours: float) -> list[float]:
        change = SceneChange(
            conversation=4, at=BEGINS + timedelta(hours=hours), comes=["priority:3", "team:9"], goes=[]
        )
        return list(make_scene(past, PROMISE, [ANYBODY], {}, changes=[change]).weight)

    assert [ask(hours) for hours in (8, 10, 11, 15, 21, 23)] == [
        [1.0, 1.0, 1.0],
        [1.0, 4.0, 1.0],
        [1.0, 4.0, 1.0],
        [1.0, 1.0, 1.0],
        [1.0, 1.0, 4.0],
        [1.0, 1.0, 1.0],
    ]


def test_played_it_waits_for_the_opening_and_stands_where_it_stood() -> None:
    past = make_past({"since": 6, "ended": 12, "stood": 1800.0}, {"since": 16.99, "ended": 30})
    found = make_scene(past, PROMISE, [ANYBODY], {})
    ended = play(found, draw_handling(found, [600.0], 1.0, 1), 0.0, 1).ended
    # Begun at nine, ten minutes of writing, half an hour parked; the other is finished after five.
    assert ended.tolist() == [pytest.approx(at(9 + 10 / 60 + 0.5)), pytest.approx(at(16.99 + 10 / 60))]
