"""What can be taken back of a conversation's trail, and why something cannot (docs/trade.md 3). Used by acts and the sheet.

An act can be taken back by whoever did it, as long as it still stands and has not reached anybody outside.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sorta.core.events import (
    Arrived,
    Assigned,
    Corrected,
    Event,
    HandedOver,
    Kept,
    Moderated,
    ModerationDone,
    ModerationRefused,
    Parked,
    PersonTagged,
    PersonUntagged,
    Prioritised,
    Reopened,
    Replied,
    Returned,
    Scheduled,
    Settled,
    Tagged,
    Unscheduled,
    Untagged,
    Unwatched,
    Watched,
    What,
    list_undone,
)
from sorta.core.moves import UNDOABLE

#: What decides where a conversation stands: the latest of these is the one that holds.
_PLACING = (Arrived, Replied, Settled, Parked, Scheduled, Kept, Reopened, Returned, HandedOver)


def _get_setting(what: What) -> tuple[str, int] | None:
    """What an act sets, where the latest that sets it holds."""
    match what:
        case Assigned():
            return "owner", 0
        case Prioritised():
            return "priority", 0
        case Tagged(tag=tag) | Untagged(tag=tag):
            return "tag", tag
        case PersonTagged(tag=tag) | PersonUntagged(tag=tag):
            return "person tag", tag
        case Watched(member=member) | Unwatched(member=member):
            return "watch", member
        case _:
            return None


@dataclass(frozen=True, kw_only=True)
class Sent:
    """Where a reply of ours stands on its way: the outbox's state, and whether the network may have it unbeknown."""

    state: str
    maybe_out: bool = False


def list_undoable(
    trail: Sequence[Event], member_id: int, sent: Mapping[int, Sent], *, may_stop_rules: bool
) -> dict[int, str | None]:
    """The acts of a trail by number, each with why this member cannot take it back, or None.

    `sent` has the replies by message. `may_stop_rules` when the member may call back what a rule answers. Work grows
    with the trail's length and no faster.
    """
    undone = list_undone(trail)
    found: dict[int, str | None] = {}
    placed = False
    set_since: set[tuple[str, int]] = set()
    ended: set[tuple[str, object]] = set()
    for event in reversed(trail):
        if event.seq in undone:
            if isinstance(event.what, UNDOABLE):
                found[event.seq] = "It was taken back already."
            continue
        if isinstance(event.what, UNDOABLE):
            found[event.seq] = _get_obstacle(event, member_id, sent, placed, set_since, ended, may_stop_rules)
        placed = placed or isinstance(event.what, _PLACING)
        if (setting := _get_setting(event.what)) is not None:
            set_since.add(setting)
        match event.what:
            case ModerationDone(message=message, what=what) | ModerationRefused(message=message, what=what):
                ended.add((what, message))
            case Unscheduled(scheduled=scheduled):
                ended.add(("scheduled", scheduled))
            case Corrected(message=message, field=field):
                ended.add((f"corrected {field}", message))
            case _:
                pass
    return dict(sorted(found.items()))


def _get_obstacle(
    event: Event,
    member_id: int,
    sent: Mapping[int, Sent],
    placed: bool,
    set_since: set[tuple[str, int]],
    ended: set[tuple[str, object]],
    may_stop_rules: bool,
) -> str | None:
    if isinstance(event.what, Replied):
        if event.member_id is None:
            if not may_stop_rules:
                return "Only who may answer here can stop a rule's answer."
        elif member_id not in (event.member_id, event.what.approved_by):
            return "Only who sent or approved it can call it back."
        return _get_reply_obstacle(sent.get(event.what.message))
    if event.member_id is None:
        return "A rule did it. Change it by hand."
    if event.member_id != member_id:
        return "Only who did it can take it back."
    if _get_setting(event.what) in set_since:
        return "It was changed again since."
    match event.what:
        case Corrected(message=message, field=field) if (f"corrected {field}", message) in ended:
            return "It was corrected again since."
        case Moderated(message=message, what=what) if (what, message) in ended:
            return "The network has been told. Do the opposite there; what is deleted stays deleted."
        case Scheduled(again=True):
            return "A change cannot be taken back so. Change it again."
        case _:
            pass
    if isinstance(event.what, _PLACING) and placed:
        return "It no longer stands: more was said or decided since."
    return None


def _get_reply_obstacle(sent: Sent | None) -> str | None:
    if sent is None or sent.state == "queued" or (sent.state == "waiting" and not sent.maybe_out):
        return None
    return {
        "delivered": "It stands outside. Delete the message there to take it away.",
        "refused": "The network refused it; nothing stands outside.",
        "sending": "It is on its way to the network at this moment.",
        "withdrawn": "It was taken back already.",
    }.get(sent.state, "The network may have it already: it did not say.")
