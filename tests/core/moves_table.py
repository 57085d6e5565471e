"""The table of docs/moves.md: its states, told as stories, and its events, as the trail has them. Read by the tests."""

from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from sorta.core.events import read_event
from sorta.core.facts import Facts, Move, get_move
from sorta.core.moves import replay

DOC = Path(__file__).parents[2] / "docs" / "moves.md"
T = datetime(2026, 11, 20, 9, tzinfo=UTC)
#: Messages: 1 and 2 are theirs, 9 is our answer of the story, 8 one that comes after it.
PARKED_UNTIL = T + timedelta(days=3)

Told = tuple[str, dict[str, Any]]
#: What the words of the document's events stand for; 'our answer' is the one of the story.
EVENTS: dict[str, Told] = {
    "they write": ("arrived", {"message": 2}),
    "they only thank us": ("arrived", {"message": 2, "thanks": True}),
    "we answer": ("replied", {"message": 8, "public": True, "settle": False}),
    "we answer and settle": ("replied", {"message": 8, "public": True, "settle": True}),
    "our answer is out": ("delivered", {"message": 9}),
    "it is not out in time": ("stuck", {"message": 9, "reason": "the token has expired"}),
    "it is refused": ("refused", {"message": 9, "reason": "no"}),
    "settled as answered": ("settled", {"how": "answered"}),
    "settled as junk": ("settled", {"how": "junk"}),
    "handed over": ("handed_over", {"case": 5, "until": PARKED_UNTIL.isoformat(), "desk": "x", "joined": False}),
    "parked": ("parked", {"until": PARKED_UNTIL.isoformat()}),
    "kept": ("kept", {}),
    "brought back": ("reopened", {"message": 1, "since": T.isoformat()}),
    "answered on the network": ("answered_outside", {"message": 7}),
    "asked for approval": ("proposed", {"proposal": 4, "public": True}),
    "proposal sent back": ("sent_back", {"proposal": 4, "reason": "no"}),
    "asked outside": ("advice_asked", {"advice": 6, "to": "x"}),
}
WROTE: Told = ("arrived", {"message": 1})
ANSWERED: Told = ("replied", {"message": 9, "public": True, "settle": False})
SETTLING: Told = ("replied", {"message": 9, "public": True, "settle": True})
STORIES: dict[str, list[Told]] = {
    "Unsorted": [WROTE],
    "Our move": [WROTE, EVENTS["kept"]],
    "In review": [WROTE, EVENTS["asked for approval"]],
    "Parked": [WROTE, EVENTS["parked"]],
    "Their move, on its way": [WROTE, ANSWERED],
    "Their move": [WROTE, ANSWERED, EVENTS["our answer is out"]],
    "Settled with it, on its way": [WROTE, SETTLING],
    "Settled after it, on its way": [WROTE, ANSWERED, EVENTS["settled as answered"]],
    "Parked after it, on its way": [WROTE, ANSWERED, EVENTS["parked"]],
    "Not out yet": [WROTE, ANSWERED, EVENTS["it is not out in time"]],
    "Not out yet, to be settled": [WROTE, SETTLING, EVENTS["it is not out in time"]],
    "Settled as junk, on its way": [WROTE, ANSWERED, EVENTS["settled as junk"]],
    "Settled": [WROTE, EVENTS["settled as junk"]],
    "Waiting for advice": [WROTE, EVENTS["asked outside"]],
}


def tell(told: list[Told]) -> Facts:
    """The facts after a story, an event a minute."""
    return replay(
        read_event(
            seq=n + 1,
            kind=kind,
            at=T + timedelta(minutes=n),
            member_id=None if kind in ("arrived", "stuck", "delivered", "refused", "answered_outside") else 3,
            data=data,
        )
        for n, (kind, data) in enumerate(told)
    )


def say(facts: Facts) -> str:
    """A cell of the table: the move, how it is settled, the message they wait for an answer to since, and the way."""
    move = get_move(facts, T + timedelta(hours=1))
    words = {m: m.value.replace("_", " ").capitalize() for m in Move}[move]
    if facts.settled_as is not None:
        words += f" as {facts.settled_as.value.replace('_', ' ')}"
    if facts.unanswered:
        words += f", since {min(facts.unanswered, key=lambda u: u.at).message}"
    if facts.stuck is not None:
        words += ", not out yet"
    elif facts.is_on_its_way:
        words += ", on its way"
    return words
