"""Where what waits stood at days' ends, held against spells folded from histories that chance made, each looked at by itself."""

import random
from collections import Counter
from datetime import datetime, timedelta
from itertools import count

import numpy as np

from sorta.core.spells import Phase, Spell, fold, get_phase_at
from sorta.core.stands import PHASES, STRETCHES, Stands
from sorta.core.waits import Waits
from tests.core.test_spells import make_stories


def read(spells: list[tuple[int, Spell]], ends: list[datetime], chance: random.Random) -> Stands:
    """As the store gives them: in any order, with stretches of spells that are not asked for."""
    stretches = [
        (id, spell.seq, place, PHASES.index(phase) + 1, begun.timestamp())
        for id, spell in spells
        for place, (begun, phase) in enumerate(spell.phases, 1)
    ]
    chance.shuffle(stretches)
    asked = [(id, s) for id, s in spells if id % 7]
    chance.shuffle(asked)
    waits = Waits(
        {
            "conversation": np.array([id for id, _ in asked]),
            "seq": np.array([s.seq for _, s in asked]),
            "since": np.array([s.since.timestamp() for _, s in asked]),
            "ended": np.array([s.ended_at.timestamp() if s.ended_at else np.nan for _, s in asked]),
        }
    )
    columns = {name: np.array(column) for name, column in zip(STRETCHES, zip(*stretches, strict=True), strict=True)}
    return Stands.read(waits, columns, [at.timestamp() for at in ends])


def test_each_stood_where_its_own_phases_say() -> None:
    chance = random.Random(1)
    spells = [(id, s) for id, story in zip(count(1), make_stories(700_000)) for s in fold(story.events)]
    begins, over = min(s.since for _, s in spells), max(s.ended_at or s.phases[-1][0] for _, s in spells)
    # No end falls on the instant at which somebody began to wait, so that either reading of 'at' is the same.
    ends = sorted({begins + (over - begins) * chance.random() + timedelta(microseconds=7) for _ in range(60)})
    stands = read(spells, ends, chance)
    counted = stands.count(len(ends))
    seen: Counter[Phase] = Counter()
    for day, at in enumerate(ends):
        stood = {(id, s.seq): get_phase_at(s, at) for id, s in spells if id % 7}
        for phase in Phase:
            mine = [id for (id, _), found in stood.items() if found is phase]
            assert counted[phase][day] == len(mine)
            assert stands.choose(day, phase).tolist() == sorted(set(mine))
            seen[phase] += len(mine)
    assert all(seen[phase] for phase in Phase if phase is not Phase.CASE), seen


def test_what_was_said_to_have_begun_later_than_what_follows_never_stood() -> None:
    waits = Waits(
        {name: np.array([value]) for name, value in {"conversation": 1, "seq": 2, "since": 0.0, "ended": 50.0}.items()}
    )
    stretches = {
        "conversation": np.array([1, 1, 1, 1]),
        "seq": np.array([2, 2, 2, 2]),
        "place": np.array([1, 2, 3, 4]),
        "phase": np.array([1, 2, 3, 4]),
        "begun": np.array([0.0, 30.0, 35.0, 20.0]),
    }
    counted = Stands.read(waits, stretches, [10.0, 25.0, 33.0, 40.0, 50.0]).count(5)
    assert counted[PHASES[0]] == [1, 0, 0, 0, 0]
    assert counted[PHASES[3]] == [0, 1, 1, 1, 0]
    assert counted[PHASES[1]] == counted[PHASES[2]] == [0] * 5


def test_nothing_asked_for_is_nothing() -> None:
    empty = Waits({name: np.array([]) for name in ("conversation", "seq", "since", "ended")})
    stretches = {name: np.array([1]) for name in STRETCHES}
    assert Stands.read(empty, stretches, [5.0]).count(1) == {phase: [0] for phase in Phase}
    assert Stands.read(empty, {name: np.array([]) for name in STRETCHES}, [5.0]).count(1) == {p: [0] for p in Phase}
