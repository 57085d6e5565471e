"""12,000 random histories, each compared after every event with a model written from the text (model.py); 20,000 others go
through the real store in tests/services/test_model_rows.py."""

import os
import random
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from sorta.core.events import NAMES, Event, read_event
from sorta.core.facts import Facts, get_move
from sorta.core.moves import UNDOABLE, apply, replay
from sorta.core.undo import Sent, list_undoable
from tests.core.model import Model, data_of

T = datetime(2026, 11, 20, 9, tzinfo=UTC)
#: How many histories in each of the parts they are told in; SORTA_MODEL_RUNS asks for more.
PARTS = 4
RUNS = int(os.environ.get("SORTA_MODEL_RUNS", "12000")) // PARTS
LENGTH = 10
SAYS = ("their_write", "their_thanks", "their_late", "removed", "outside", "outside_late")


class Story:
    """Makes one event after another, each possible where it happens."""

    def __init__(self, chance: random.Random) -> None:
        self.chance = chance
        self.events: list[Event] = []
        self.facts = Facts()
        self.ids = 100
        self.theirs: list[int] = []
        self.state: dict[int, str] = {}
        self.at = T

    def id(self) -> int:
        self.ids += 1
        return self.ids

    def next(self) -> Event:
        self.at += timedelta(minutes=self.chance.randint(1, 90))
        while True:
            made = self._make(self.chance.choice(KINDS))
            if made is not None:
                kind, data, member, at = made
                event = read_event(seq=len(self.events) + 1, kind=kind, at=at or self.at, member_id=member, data=data)
                self.events.append(event)
                return event

    def _make(self, what: str) -> tuple[str, dict[str, Any], int | None, datetime | None] | None:
        chance, until = self.chance, (self.at + timedelta(hours=self.chance.randint(1, 30))).isoformat()
        if what.startswith("their") or not self.theirs:
            self.theirs.append(self.id())
            late = self.at - timedelta(hours=chance.randint(1, 4)) if what == "their_late" else None
            more = {"thanks": True} if what == "their_thanks" else {}
            return "arrived", {"message": self.theirs[-1], **more}, None, late
        match what:
            case "removed":
                return "removed", {"message": chance.choice(self.theirs)}, None, None
            case "outside" | "outside_late":
                at = self.at - timedelta(hours=chance.randint(1, 4)) if what == "outside_late" else None
                return "answered_outside", {"message": self.id()}, None, at
            case "reply" | "reply_settle" | "rule_ack" | "rule_answer":
                message = self.id()
                self.state[message] = "queued"
                by = None if what.startswith("rule") else 3
                data: dict[str, Any] = {"message": message, "public": True, "settle": what == "reply_settle"}
                return "replied", data | ({"answers": False} if what == "rule_ack" else {}), by, None
            case "delivered" | "stuck" | "refused":
                undone = {data_of(e)["of"] for e in self.events if e.kind == "undone"}
                open_ = [
                    data_of(e)["message"]
                    for e in self.events
                    if e.kind == "replied"
                    and e.seq not in undone
                    and self.state[data_of(e)["message"]] in ("queued", "stuck")
                ]
                if not open_:
                    return None
                message = chance.choice(open_)
                self.state[message] = what
                return what, {"message": message, **({} if what == "delivered" else {"reason": "x"})}, None, None
            case "answered" | "junk" | "no_reply_needed":
                return "settled", {"how": what}, 3, None
            case "handed_over":
                return "handed_over", {"case": 5, "desk": "x", "until": until, "joined": False}, 3, None
            case "parked":
                return what, {"until": until}, 3, None
            case "scheduled":
                return what, {"until": until, "scheduled": 1, "public": True}, 3, None
            case "noted":
                return what, {"text": "x"}, 3, None
            case "unscheduled":
                return "unscheduled", {"scheduled": 1, "reason": None}, None, None
            case "reopened":
                if self.facts.settled_as is None:
                    return None
                message = self.theirs[-1]
                since = next(e.at for e in self.events if e.kind == "arrived" and data_of(e)["message"] == message)
                return "reopened", {"message": message, "since": since.isoformat()}, 3, None
            case "proposed":
                return (
                    None
                    if self.facts.proposal_waiting
                    else ("proposed", {"proposal": self.id(), "public": True}, 3, None)
                )
            case "withdrawn" | "sent_back":
                return (what, {"proposal": 1, "reason": "x"}, 3, None) if self.facts.proposal_waiting else None
            case "advice_asked":
                return "advice_asked", {"advice": chance.randint(1, 2), "to": "x"}, 3, None
            case "advice_given":
                return "advice_given", {"advice": chance.randint(1, 2), "to": "x"}, None, None
            case "case_told":
                state = chance.choice(["open", "solved", "returned"])
                return (
                    "case_told",
                    {
                        "case": 5,
                        "state": state,
                        "by": "x",
                        "remark": "",
                        **({"until": until} if state == "open" else {}),
                    },
                    None,
                    None,
                )
            case "prioritised":
                return "prioritised", {"priority": chance.randint(0, 3)}, 3, None
            case "assigned":
                return "assigned", {"owner": chance.choice([None, 3, 4]), "team": None, "note": None}, 3, None
            case "tagged" | "untagged":
                return what, {"tag": chance.randint(1, 2)}, 3, None
            case "undone":
                sent = {m: Sent(state={"stuck": "waiting"}.get(s, s)) for m, s in self.state.items()}
                can = [
                    seq for seq, why in list_undoable(self.events, 3, sent, may_stop_rules=True).items() if why is None
                ]
                return ("undone", {"of": chance.choice(can)}, 3, None) if can else None
        return what, {}, 3, None


KINDS = [
    *["their_write"] * 4, "their_thanks", "their_late", "removed", "outside", "outside_late",
    *["reply"] * 3, *["reply_settle"] * 2, "rule_ack", "rule_answer", *["delivered"] * 3, *["stuck"] * 3, *["refused"] * 3,
    *["answered"] * 2, "junk", "no_reply_needed", "handed_over", *["parked"] * 2, "scheduled", "unscheduled", "kept", "reopened",
    *["proposed"] * 2, "withdrawn", "sent_back", "advice_asked", "advice_given", "case_told", "prioritised", "assigned",
    "tagged", "untagged", "noted", *["undone"] * 3,
]  # fmt: skip


def compare(facts: Facts, model: Model, now: datetime) -> dict[str, tuple[Any, Any]]:
    """What differs between the fold and the model: (fold, model) by name."""
    told = model.tell()
    pairs = {
        "move": (get_move(facts, now).value, told.get_move(now)),
        "settled": (facts.settled_as.value if facts.settled_as else None, told.settled),
        "waiting": ({u.message: u.at for u in facts.unanswered}, told.waiting),
        "parked": (facts.parked_until, told.parked),
        "proposal": (facts.proposal_waiting, told.proposal),
        "sorted": (facts.sorted, told.sorted),
        "priority": (int(facts.priority), told.priority),
        "owner": (facts.owner, told.owner),
        "tags": (set(facts.tags), told.tags),
        "case": (facts.case_until, told.case_until),
        "thanked": (facts.thanked if facts.settled_as else None, told.thanked if told.settled else None),
        "under way": (facts.is_on_its_way, bool(model.list_under_way())),
        "not out yet": (facts.stuck is not None, bool(model.list_stuck())),
    }
    return {name: pair for name, pair in pairs.items() if pair[0] != pair[1]}


def say(event: Event) -> str:
    return f"{event.seq} {event.kind} {data_of(event)} {event.at:%d %H:%M}"


@pytest.mark.parametrize("part", range(PARTS))
def test_the_fold_and_the_model_tell_the_same_after_every_event(part: int) -> None:
    for run in range(RUNS):
        chance = random.Random(part * 1_000_003 + run)
        story, model = Story(chance), Model()
        for _ in range(chance.randint(4, LENGTH)):
            event = story.next()
            model.add(event)
            story.facts = replay(story.events) if event.kind == "undone" else apply(story.facts, event)
            now = story.at + timedelta(minutes=chance.choice([1, 600]))
            wrong = compare(story.facts, model, now)
            assert not wrong, f"seed {part} {run}: {wrong}\n" + "\n".join(map(say, story.events))


def test_every_act_that_can_be_taken_back_is_among_the_events() -> None:
    """Those that say nothing of the move aside: they are notes, watching, a person's tags, readings, acts on the network."""
    aside = {"watched", "unwatched", "person_tagged", "person_untagged", "corrected", "moderated", "noted"}
    said = {"settled", *KINDS} - {"undone"}
    named = {"reply": "replied", "answered": "settled"}
    assert {NAMES[kind] for kind in UNDOABLE} - aside <= said | set(named.values())
