"""What can be taken back of a conversation's trail, and why something cannot (PRODUCT.md 3). Used by acts and the sheet.

An act can be taken back by whoever did it, as long as it still stands and has not reached anybody outside.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sorta.core.facts import Event
from sorta.core.moves import UNDOABLE

#: What decides where a conversation stands: the latest of these is the one that holds.
_PLACING = frozenset(
    {"arrived", "replied", "settled", "parked", "scheduled", "kept", "reopened", "returned", "handed_over"}
)
#: Acts of the same name that set one thing: the latest holds. The data that says which thing.
_SETTING: Mapping[str, tuple[frozenset[str], str | None]] = {
    "assigned": (frozenset({"assigned"}), None),
    "prioritised": (frozenset({"prioritised"}), None),
    "tagged": (frozenset({"tagged", "untagged"}), "tag"),
    "untagged": (frozenset({"tagged", "untagged"}), "tag"),
    "watched": (frozenset({"watched", "unwatched"}), "member"),
    "unwatched": (frozenset({"watched", "unwatched"}), "member"),
    "person_tagged": (frozenset({"person_tagged", "person_untagged"}), "tag"),
    "person_untagged": (frozenset({"person_tagged", "person_untagged"}), "tag"),
}


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
    undone = {e.data["of"] for e in trail if e.kind == "undone"}
    found: dict[int, str | None] = {}
    placed = False
    set_since: set[tuple[frozenset[str], object]] = set()
    ended: set[tuple[str, object]] = set()
    for event in reversed(trail):
        if event.seq in undone:
            if event.kind in UNDOABLE:
                found[event.seq] = "It was taken back already."
            continue
        if event.kind in UNDOABLE:
            found[event.seq] = _get_obstacle(event, member_id, sent, placed, set_since, ended, may_stop_rules)
        placed = placed or event.kind in _PLACING
        if event.kind in _SETTING:
            set_since.add(_get_setting(event))
        if event.kind in ("moderation_done", "moderation_refused"):
            ended.add((str(event.data["what"]), event.data["message"]))
        if event.kind == "unscheduled":
            ended.add(("scheduled", event.data["scheduled"]))
        if event.kind == "corrected":
            ended.add((f"corrected {event.data['field']}", event.data["message"]))
    return dict(sorted(found.items()))


def _get_setting(event: Event) -> tuple[frozenset[str], object]:
    kinds, by = _SETTING[event.kind]
    return kinds, event.data[by] if by else None


def _get_obstacle(
    event: Event,
    member_id: int,
    sent: Mapping[int, Sent],
    placed: bool,
    set_since: set[tuple[frozenset[str], object]],
    ended: set[tuple[str, object]],
    may_stop_rules: bool,
) -> str | None:
    data = event.data
    if event.kind == "replied":
        if event.member_id is None:
            if not may_stop_rules:
                return "Only who may answer here can stop a rule's answer."
        elif member_id not in (event.member_id, data.get("approved_by")):
            return "Only who sent or approved it can call it back."
        return _get_reply_obstacle(sent.get(data["message"]))
    if event.member_id is None:
        return "A rule did it. Change it by hand."
    if event.member_id != member_id:
        return "Only who did it can take it back."
    if event.kind in _SETTING and _get_setting(event) in set_since:
        return "It was changed again since."
    if event.kind == "corrected" and (f"corrected {data['field']}", data["message"]) in ended:
        return "It was corrected again since."
    if event.kind == "moderated" and (data["what"], data["message"]) in ended:
        return "The network has been told. Do the opposite there; what is deleted stays deleted."
    if event.kind == "scheduled" and data.get("again"):
        return "A change cannot be taken back so. Change it again."
    if event.kind in _PLACING and placed:
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
