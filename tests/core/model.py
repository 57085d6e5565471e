"""Whose move it is, told a second time: from docs/moves.md and docs/trade.md 3, as plainly as possible, to hold `core.moves` against.

`core.moves` folds one event after the other and remembers what rests on what. Here the whole history is told anew after each
event, with what is known by then: a reply that was refused is left out as if it had not been sent, with the settling or parking
that rested on it; one that is not out in time answers nothing. Nothing of `core.moves` is used but its event and its words.
"""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from sorta.core.events import Event, write_data

#: Acts by which somebody decides where a conversation stands.
DECISIONS = ("kept", "parked", "scheduled", "settled", "handed_over", "reopened")
#: Whatever sorts a conversation.
SORTING = (
    "proposed", "answered_outside", "assigned", "tagged", "untagged", "prioritised", "noted", "kept", "parked", "scheduled",
    "settled", "handed_over", "advice_asked", "reopened", "replied",
)  # fmt: skip
ENDED = ("solved", "returned", "refused")


def data_of(event: Event) -> dict[str, Any]:
    """What the trail keeps of an event: the model knows no more of it than that."""
    return write_data(event.what, event.rule)


@dataclass
class Told:
    """Where a conversation stands."""

    waiting: dict[int, datetime] = field(default_factory=dict)
    settled: str | None = None
    parked: datetime | None = None
    proposal: bool = False
    sorted: bool = False
    advice: set[int] = field(default_factory=set)
    priority: int = 1
    owner: int | None = None
    tags: set[int] = field(default_factory=set)
    answered_until: datetime | None = None
    case_until: datetime | None = None
    thanked: int | None = None

    def get_move(self, now: datetime) -> str:
        """The table of docs/trade.md 3, top to bottom."""
        if self.settled:
            return "settled"
        if self.proposal:
            return "in_review"
        if self.parked is not None and now < self.parked:
            return "parked"
        if not self.waiting or self.advice:
            return "their_move"
        return "our_move" if self.sorted else "unsorted"


class Model:
    """A history, told anew after each event."""

    def __init__(self) -> None:
        self._events: list[Event] = []
        self._known: list[_Known] = []

    def add(self, event: Event) -> None:
        """One more event."""
        self._events.append(event)
        if event.kind == "undone":
            # As if it had not been done: everything is told from the beginning without it.
            undone = {data_of(e)["of"] for e in self._events if e.kind == "undone"}
            events, self._known = [e for e in self._events if e.seq not in undone], []
            for one in events:
                self._learn(one)
        else:
            self._learn(event)

    def _learn(self, event: Event) -> None:
        """What must be known of an event at its time: what it rests on, whether it was thanks, whether it reopened, whether it
        answered all there was."""
        known = _Known(event=event)
        if event.kind in ("settled", "parked", "arrived", "answered_outside"):
            before = self._tell(self._known)
            if event.kind == "arrived":
                known.on_settled = before.settled is not None
                known.is_thanks = known.on_settled and bool(data_of(event).get("thanks"))
            elif event.kind == "answered_outside":
                until = max(event.at, before.answered_until or event.at)
                known.ends_parking = bool(before.waiting) and all(at <= until for at in before.waiting.values())
            elif event.kind == "parked" or data_of(event)["how"] == "answered":
                known.rests_on = self._find_ground(before, is_parking=event.kind == "parked")
        self._known.append(known)

    def _get_status(self, known: "list[_Known]", reply: int) -> str:
        found = [
            k.event.kind
            for k in known
            if k.event.kind in ("delivered", "stuck", "refused") and data_of(k.event)["message"] == reply
        ]
        return found[-1] if found else "under way"

    def _list_replies(self, known: "list[_Known]") -> "list[tuple[int, _Known]]":
        return [(n, k) for n, k in enumerate(known) if k.event.kind == "replied"]

    def _find_ground(self, before: Told, *, is_parking: bool) -> int | None:
        """The reply that a settling as answered, or a parking, rests on: the newest under way that answers something, where
        nothing else of theirs waits."""
        if before.waiting or (is_parking and before.settled):
            return None
        live = [
            (n, k)
            for n, k in self._list_replies(self._known)
            if self._get_status(self._known, data_of(k.event)["message"]) == "under way"
            and data_of(k.event).get("answers", True)
        ]
        without = self._tell(self._known, without={data_of(k.event)["message"] for _, k in live}) if live else before
        for n, k in reversed(live):
            said_before = {data_of(e.event)["message"] for e in self._known[:n] if e.event.kind == "arrived"}
            if said_before & set(without.waiting):
                return int(data_of(k.event)["message"])
        return None

    def tell(self) -> Told:
        """Where it stands now."""
        return self._tell(self._known)

    def list_under_way(self) -> set[int]:
        """The replies that are not out yet and that nothing has kept up."""
        return {
            data_of(k.event)["message"]
            for _, k in self._list_replies(self._known)
            if self._get_status(self._known, data_of(k.event)["message"]) == "under way"
        }

    def list_stuck(self) -> set[int]:
        """The replies that are not out although their time is over."""
        return {
            data_of(k.event)["message"]
            for _, k in self._list_replies(self._known)
            if self._get_status(self._known, data_of(k.event)["message"]) == "stuck"
        }

    def _list_statuses(self, known: "list[_Known]") -> tuple[set[int], set[int]]:
        """The replies that were refused or are late, and those that came late."""
        status: dict[int, str] = {}
        stuck: set[int] = set()
        for k in known:
            if k.event.kind in ("delivered", "stuck", "refused"):
                status[data_of(k.event)["message"]] = k.event.kind
                if k.event.kind == "stuck":
                    stuck.add(data_of(k.event)["message"])
        gone = {reply for reply, kind in status.items() if kind != "delivered"}
        return gone, {reply for reply in stuck if status[reply] == "delivered"}

    def _tell(self, known: "list[_Known]", without: set[int] = frozenset()) -> Told:  # type: ignore[assignment]
        told = Told()
        gone, late = self._list_statuses(known)
        gone |= without
        for n, one in enumerate(known):
            # What rested on a reply that is late falls with it, and does not come back when it is out after all: but see `_settles`.
            if one.rests_on in gone or one.rests_on in late:
                # Deciding it ended whatever parking there was, all the same.
                told.sorted, told.proposal, told.parked = True, False, None
                continue
            self._apply(told, known, n, one, gone, late)
        return told

    def _settles(self, known: "list[_Known]", at: int, reply: int) -> bool:
        """Whether a reply that came late still settles: it was to, or a settling rested on it, and since it was late nobody
        has decided, and since it was sent they have not written."""
        asked = bool(data_of(known[at].event).get("settle")) or any(
            k.rests_on == reply and k.event.kind == "settled" for k in known
        )
        stuck = next(n for n, k in enumerate(known) if k.event.kind == "stuck" and data_of(k.event)["message"] == reply)
        out = next(
            n for n, k in enumerate(known) if k.event.kind == "delivered" and data_of(k.event)["message"] == reply
        )
        # Settling as answered on the strength of another reply is not deciding otherwise.
        decided = any(
            k.event.kind in DECISIONS and not (k.event.kind == "settled" and k.rests_on) for k in known[stuck:out]
        )
        wrote = any(k.event.kind == "arrived" and not k.is_thanks and not k.was_answered for k in known[at:out])
        return asked and not decided and not wrote

    def _apply(self, told: Told, known: "list[_Known]", n: int, one: "_Known", gone: set[int], late: set[int]) -> None:
        event, data = one.event, data_of(one.event)
        told.sorted = told.sorted or event.kind in SORTING
        match event.kind:
            case "arrived":
                self._arrive(told, one)
            case "removed":
                told.waiting.pop(data["message"], None)
                told.thanked = None if told.thanked == data["message"] else told.thanked
            case "answered_outside":
                told.answered_until = max(event.at, told.answered_until or event.at)
                told.waiting = {m: at for m, at in told.waiting.items() if at > told.answered_until}
                if one.ends_parking:
                    told.parked = None
            case "replied":
                self._reply(told, known, n, one, gone, late)
            case "settled" | "handed_over":
                told.settled = "handed_over" if event.kind == "handed_over" else data["how"]
                told.waiting, told.parked, told.proposal = {}, None, False
                if event.kind == "handed_over":
                    told.case_until = datetime.fromisoformat(data["until"])
            case "parked":
                told.parked, told.proposal = datetime.fromisoformat(data["until"]), False
            case "scheduled":
                told.parked = datetime.fromisoformat(data["until"])
            case "kept" | "unscheduled" | "returned":
                told.parked = None
            case "reopened":
                told.settled, told.thanked = None, None
                told.waiting |= {data["message"]: datetime.fromisoformat(data["since"])}
            case "proposed":
                told.proposal = True
            case "withdrawn" | "sent_back":
                told.proposal = False
            case "advice_asked":
                told.advice.add(data["advice"])
            case "advice_given" | "advice_overdue":
                told.advice.discard(data["advice"])
            case "case_told":
                if data["state"] in ENDED:
                    told.case_until = None
                elif data.get("until"):
                    told.case_until = datetime.fromisoformat(data["until"])
            case "prioritised":
                told.priority = data["priority"]
            case "assigned":
                told.owner = data["owner"]
            case "tagged":
                told.tags.add(data["tag"])
            case "untagged":
                told.tags.discard(data["tag"])

    def _arrive(self, told: Told, one: "_Known") -> None:
        message, at = data_of(one.event)["message"], one.event.at
        one.was_answered = told.answered_until is not None and at <= told.answered_until
        if one.is_thanks:
            told.thanked = message
            return
        if one.was_answered:
            return
        told.waiting[message] = at
        if one.on_settled:
            told.priority = 1
        told.settled, told.parked, told.thanked = None, None, None

    def _reply(self, told: Told, known: "list[_Known]", n: int, one: "_Known", gone: set[int], late: set[int]) -> None:
        reply, data = data_of(one.event)["message"], data_of(one.event)
        if one.event.member_id is not None:
            told.proposal = False
        if not data.get("answers", True):
            return
        if reply in gone:
            if self._get_status(known, reply) == "stuck":
                # It is our move again: parking that it ended has ended.
                told.parked = None
            return
        told.waiting, told.parked = {}, None
        settles = self._settles(known, n, reply) if reply in late else bool(data.get("settle"))
        if settles:
            told.settled = "answered"


@dataclass
class _Known:
    """An event with what was known when it happened."""

    event: Event
    rests_on: int | None = None
    on_settled: bool = False
    is_thanks: bool = False
    was_answered: bool = False
    ends_parking: bool = False
