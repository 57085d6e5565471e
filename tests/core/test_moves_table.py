"""Every cell of docs/moves.md is what the trail folds to; and finer stories of replies that are late, refused or overtaken."""

from datetime import timedelta

import pytest

from sorta.core.events import read_event
from sorta.core.facts import Move, get_move
from sorta.core.moves import replay
from tests.core.moves_table import ANSWERED, DOC, EVENTS, PARKED_UNTIL, SETTLING, STORIES, WROTE, T, Told, say, tell


def list_cells() -> list[tuple[str, str, str]]:
    """(state, event, what the document says) of every cell in the document's tables."""
    cells, states = [], []
    for line in DOC.read_text().splitlines():
        if not line.startswith("| "):
            continue
        head, *rest = [part.strip() for part in line.strip("|").split("|")]
        if head == "then":
            states = rest
        else:
            cells += [(state, head, said) for state, said in zip(states, rest, strict=True)]
    return cells


def test_the_document_has_every_state_and_event() -> None:
    cells = list_cells()
    assert {state for state, _, _ in cells} == set(STORIES)
    assert {event for _, event, _ in cells} == set(EVENTS)
    assert sum(said != "–" for _, _, said in cells) > 170


@pytest.mark.parametrize(("state", "event", "said"), [c for c in list_cells() if c[2] != "–"])
def test_each_cell(state: str, event: str, said: str) -> None:
    assert say(tell([*STORIES[state], EVENTS[event]])) == said


AGAIN: Told = ("arrived", {"message": 2})
OUT, LATE, REFUSED = EVENTS["our answer is out"], EVENTS["it is not out in time"], EVENTS["it is refused"]
SECOND: Told = ("replied", {"message": 8, "public": True, "settle": False})
SECOND_OUT: Told = ("delivered", {"message": 8})
SECOND_REFUSED: Told = ("refused", {"message": 8, "reason": "no"})
JUNK, SETTLED = EVENTS["settled as junk"], EVENTS["settled as answered"]


@pytest.mark.parametrize(
    ("story", "said"),
    [
        # They write again, a member settles as junk, then the earlier reply is refused: what was decided stays.
        ([WROTE, SETTLING, AGAIN, JUNK, REFUSED], "Settled as junk"),
        ([WROTE, ANSWERED, AGAIN, SETTLED, REFUSED], "Settled as answered"),
        ([WROTE, ANSWERED, AGAIN, ("parked", {"until": PARKED_UNTIL.isoformat()}), REFUSED], "Parked, since 1"),
        # A parking that the reply had ended is there again; one that a message ended is not.
        ([WROTE, EVENTS["parked"], ANSWERED, REFUSED], "Parked, since 1"),
        ([WROTE, EVENTS["parked"], ANSWERED, AGAIN, REFUSED], "Our move, since 1"),
        ([WROTE, EVENTS["parked"], ANSWERED, EVENTS["kept"], REFUSED], "Our move, since 1"),
        # Two replies: while the second is under way, or out, the first one's refusal brings nothing back.
        ([WROTE, ANSWERED, SECOND, REFUSED], "Their move, on its way"),
        ([WROTE, ANSWERED, SECOND, REFUSED, SECOND_OUT], "Their move"),
        ([WROTE, ANSWERED, SECOND, REFUSED, SECOND_REFUSED], "Our move, since 1"),
        ([WROTE, ANSWERED, AGAIN, SECOND, OUT, SECOND_REFUSED], "Our move, since 2"),
        # Late, then out: Their move by itself; if they wrote meanwhile, only that waits.
        ([WROTE, ANSWERED, LATE, OUT], "Their move"),
        ([WROTE, ANSWERED, LATE, AGAIN, OUT], "Our move, since 2"),
        ([WROTE, SETTLING, LATE, AGAIN, OUT], "Our move, since 2"),
        ([WROTE, SETTLING, LATE, EVENTS["kept"], OUT], "Their move"),
        ([WROTE, ANSWERED, LATE, JUNK, OUT], "Settled as junk"),
        ([WROTE, ANSWERED, LATE, JUNK, REFUSED], "Settled as junk"),
        # Brought back by hand it waits, whatever becomes of the reply on its way.
        ([WROTE, SETTLING, EVENTS["brought back"], OUT], "Our move, since 1"),
        # How it was settled before a reply that settles is how it is when that is refused.
        ([WROTE, JUNK, SETTLING, REFUSED], "Settled as junk"),
    ],
)
def test_finer_stories(story: list[Told], said: str) -> None:
    assert say(tell(story)) == said


@pytest.mark.parametrize(
    ("answered", "heard_first", "waits"),
    [(5, False, None), (5, True, None), (12, False, None), (-1, False, 0), (-1, True, 0)],
)
def test_an_answer_on_the_network_counts_for_what_was_said_by_its_time(
    answered: int, heard_first: bool, waits: int | None
) -> None:
    """Theirs at minute 0; the answer `answered` minutes after it, heard of before or after it."""
    theirs = ("arrived", T, {"message": 1})
    ours = ("answered_outside", T + timedelta(minutes=answered), {"message": 7})
    told = [ours, theirs] if heard_first else [theirs, ours]
    facts = replay(read_event(seq=n + 1, kind=k, at=at, data=d) for n, (k, at, d) in enumerate(told))
    assert facts.awaiting_since == (None if waits is None else T + timedelta(minutes=waits))


def test_an_answer_heard_of_late_leaves_what_came_after_it() -> None:
    told = [
        ("arrived", 0, {"message": 1}),
        ("arrived", 10, {"message": 2}),
        ("answered_outside", 5, {"message": 7}),
    ]
    facts = replay(
        read_event(seq=n + 1, kind=k, at=T + timedelta(minutes=m), data=d) for n, (k, m, d) in enumerate(told)
    )
    assert [u.message for u in facts.unanswered] == [2]
    assert get_move(facts, T + timedelta(hours=1)) is Move.OUR_MOVE
