"""What can be taken back of a trail, and why something cannot; held against folding."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.events import Event, read_event
from sorta.core.moves import UNDOABLE, replay
from sorta.core.undo import Sent, list_undoable

T = datetime(2026, 11, 20, 9, tzinfo=UTC)
ME, OTHER = 3, 4
Told = tuple[str, int | None, dict[str, Any]]


def tell(*told: Told) -> list[Event]:
    return [
        read_event(seq=n + 1, kind=kind, at=T + timedelta(minutes=n), member_id=member, data=data)
        for n, (kind, member, data) in enumerate(told)
    ]


def look(*told: Told, sent: dict[int, Sent] | None = None, rules: bool = True) -> dict[int, str | None]:
    return list_undoable(tell(*told), ME, sent or {}, may_stop_rules=rules)


WROTE: Told = ("arrived", None, {"message": 1})
UNTIL = (T + timedelta(days=1)).isoformat()


def replied(member: int | None = ME, **more: Any) -> Told:
    return ("replied", member, {"message": 9, "public": True, "settle": False, **more})


@pytest.mark.parametrize(
    ("told", "seq", "says"),
    [
        ([WROTE, ("kept", ME, {})], 2, None),
        ([WROTE, ("kept", OTHER, {})], 2, "Only who did it"),
        ([WROTE, ("kept", ME, {}), ("undone", ME, {"of": 2})], 2, "already"),
        ([WROTE, ("settled", ME, {"how": "junk"}), ("arrived", None, {"message": 2})], 2, "no longer stands"),
        ([WROTE, ("settled", ME, {"how": "junk"}), ("noted", ME, {"text": "n"})], 2, None),
        # What came after it and was taken back itself does not stand in the way.
        ([WROTE, ("kept", ME, {}), ("settled", ME, {"how": "junk"}), ("undone", ME, {"of": 3})], 2, None),
        ([WROTE, ("prioritised", ME, {"priority": 3}), ("prioritised", OTHER, {"priority": 1})], 2, "changed again"),
        ([WROTE, ("tagged", ME, {"tag": 1}), ("tagged", ME, {"tag": 2})], 2, None),
        ([WROTE, ("tagged", ME, {"tag": 1}), ("untagged", OTHER, {"tag": 1})], 2, "changed again"),
        ([WROTE, ("watched", ME, {"member": ME}), ("watched", OTHER, {"member": OTHER})], 2, None),
        ([WROTE, ("tagged", None, {"tag": 1, "rule": {"id": 1, "version": 1, "name": "r"}})], 2, "A rule did it"),
        (
            [
                WROTE,
                ("moderated", ME, {"message": 1, "what": "hide"}),
                ("moderation_done", None, {"message": 1, "what": "hide"}),
            ],
            2,
            "has been told",
        ),
        (
            [WROTE, ("scheduled", ME, {"scheduled": 5, "until": UNTIL, "public": True, "again": True})],
            2,
            "Change it again",
        ),
        ([WROTE, replied(OTHER, proposal=1, approved_by=ME)], 2, None),
        ([WROTE, replied(OTHER)], 2, "sent or approved"),
    ],
)
def test_each_case(told: list[Told], seq: int, says: str | None) -> None:
    found = look(*told)[seq]
    if says is None:
        assert found is None
    else:
        assert says in (found or "")


@pytest.mark.parametrize(
    ("sent", "says"),
    [
        (None, None),
        (Sent(state="queued"), None),
        (Sent(state="waiting"), None),
        (Sent(state="waiting", maybe_out=True), "may have it"),
        (Sent(state="sending"), "at this moment"),
        (Sent(state="delivered"), "stands outside"),
        (Sent(state="refused"), "refused it"),
    ],
)
def test_a_reply_can_be_called_back_while_the_network_cannot_have_it(sent: Sent | None, says: str | None) -> None:
    for who in (ME, None):
        found = look(WROTE, replied(who), sent={9: sent} if sent else {})[2]
        assert (found is None) if says is None else (says in (found or ""))
    assert "who may answer" in (look(WROTE, replied(None), rules=False)[2] or "")


KINDS: list[Told] = [
    WROTE,
    ("kept", ME, {}),
    ("kept", OTHER, {}),
    ("assigned", ME, {"owner": ME, "note": None}),
    ("assigned", OTHER, {"owner": OTHER, "note": None}),
    ("prioritised", ME, {"priority": 3}),
    ("tagged", ME, {"tag": 1}),
    ("untagged", ME, {"tag": 1}),
    ("settled", ME, {"how": "junk"}),
    ("parked", ME, {"until": UNTIL}),
    ("noted", ME, {"text": "n"}),
    replied(),
    ("delivered", None, {"message": 9}),
]


@given(st.lists(st.sampled_from(KINDS), min_size=1, max_size=14))
def test_only_acts_are_offered_and_each_that_is_can_be_folded_away(told: list[Told]) -> None:
    trail = tell(*told)
    found = list_undoable(trail, ME, {}, may_stop_rules=True)
    assert set(found) == {e.seq for e in trail if isinstance(e.what, UNDOABLE)}
    for seq, obstacle in found.items():
        if obstacle is None:
            event = trail[seq - 1]
            assert event.member_id == ME
            replay([*trail, read_event(seq=len(trail) + 1, kind="undone", at=T, member_id=ME, data={"of": seq})])
