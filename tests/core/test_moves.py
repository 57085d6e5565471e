"""The move is derived from the trail by the table of docs/trade.md 3, and only so."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.events import Event, read_event
from sorta.core.facts import Facts, Move, SettledAs, Unanswered, get_move
from sorta.core.moves import apply, list_waiting_without, replay
from sorta.core.targets import Priority

T = datetime(2026, 11, 20, 9, tzinfo=UTC)


def at(minutes: float) -> datetime:
    return T + timedelta(minutes=minutes)


def tell(*events: tuple[str, dict[str, object]]) -> list[Event]:
    return [read_event(seq=n + 1, kind=k, at=at(n), member_id=None, data=d) for n, (k, d) in enumerate(events)]


def move_after(*events: tuple[str, dict[str, object]], minute: float = 100) -> Move:
    return get_move(replay(tell(*events)), at(minute))


ARRIVED = ("arrived", {"message": 1})
REPLIED = ("replied", {"message": 9, "public": True, "settle": False})


@pytest.mark.parametrize(
    ("events", "expected"),
    [
        ([ARRIVED], Move.UNSORTED),
        ([ARRIVED, ("kept", {})], Move.OUR_MOVE),
        ([ARRIVED, ("noted", {"text": "x"})], Move.OUR_MOVE),
        ([ARRIVED, ("prioritised", {"priority": 3})], Move.OUR_MOVE),
        ([ARRIVED, REPLIED], Move.THEIR_MOVE),
        ([ARRIVED, REPLIED, ("arrived", {"message": 2})], Move.OUR_MOVE),
        ([ARRIVED, ("removed", {"message": 1})], Move.THEIR_MOVE),
        ([ARRIVED, ("answered_outside", {"message": 3})], Move.THEIR_MOVE),
        ([ARRIVED, ("settled", {"how": "junk"})], Move.SETTLED),
        ([ARRIVED, ("settled", {"how": "junk"}), ("arrived", {"message": 2})], Move.OUR_MOVE),
        ([ARRIVED, ("parked", {"until": at(200).isoformat()})], Move.PARKED),
        ([ARRIVED, ("parked", {"until": at(50).isoformat()})], Move.OUR_MOVE),
        ([ARRIVED, ("parked", {"until": at(200).isoformat()}), ("arrived", {"message": 2})], Move.OUR_MOVE),
        ([ARRIVED, ("settled", {"how": "answered"}), ("undone", {"of": 2})], Move.UNSORTED),
    ],
)
def test_the_table(events: list[tuple[str, dict[str, object]]], expected: Move) -> None:
    assert move_after(*events) is expected


def test_precedence_is_the_tables_order() -> None:
    everything = Facts(
        settled_as=SettledAs.ANSWERED,
        proposal_waiting=True,
        parked_until=at(999),
        unanswered=(Unanswered(message=1, at=T),),
        sorted=False,
    )
    seen = []
    for change in (
        {"settled_as": None},
        {"proposal_waiting": False},
        {"parked_until": None},
        {"sorted": True},
        {"unanswered": ()},
    ):
        seen.append(get_move(everything, T))
        everything = replace(everything, **change)
    assert [*seen, get_move(everything, T)] == [
        Move.SETTLED,
        Move.IN_REVIEW,
        Move.PARKED,
        Move.UNSORTED,
        Move.OUR_MOVE,
        Move.THEIR_MOVE,
    ]


def test_a_refused_reply_restores_the_wait_and_unsettles_what_it_settled() -> None:
    trail = tell(
        ARRIVED,
        ("replied", {"message": 9, "public": True, "settle": True}),
        ("refused", {"message": 9, "reason": "no"}),
    )
    facts = replay(trail)
    assert get_move(replay(trail[:2]), T) is Move.SETTLED
    assert (get_move(facts, T), facts.awaiting_since) == (Move.OUR_MOVE, at(0))


def test_a_refusal_after_a_further_message_keeps_both_waits() -> None:
    facts = replay(tell(ARRIVED, REPLIED, ("arrived", {"message": 2}), ("refused", {"message": 9, "reason": "no"})))
    assert [u.message for u in facts.unanswered] == [1, 2]
    assert facts.awaiting_since == at(0)


def test_delivery_forgets_what_was_covered() -> None:
    facts = replay(tell(ARRIVED, REPLIED, ("delivered", {"message": 9})))
    assert facts.answering == ()
    assert facts.awaiting_since is None


def test_a_message_removed_while_the_answer_is_on_its_way_does_not_come_back() -> None:
    facts = replay(tell(ARRIVED, REPLIED, ("removed", {"message": 1}), ("refused", {"message": 9, "reason": "no"})))
    assert facts.unanswered == ()


def test_events_must_follow_each_other() -> None:
    with pytest.raises(ValueError, match="does not follow"):
        apply(Facts(), read_event(seq=3, kind="kept", at=T, data={}))
    with pytest.raises(ValueError, match="unknown kind"):
        read_event(seq=1, kind="sung", at=T, data={})


def test_a_reopened_conversation_keeps_owner_and_tags_and_is_of_normal_priority() -> None:
    by = {"member_id": 3}
    told = tell(
        ARRIVED,
        ("prioritised", {"priority": 3}),
        ("assigned", {"owner": 7, "note": None}),
        ("tagged", {"tag": 5}),
    )
    told = [replace(e, **by) if e.kind != "arrived" else e for e in told]
    open_ones = [*told, read_event(seq=5, kind="arrived", at=at(5), data={"message": 2})]
    assert replay(open_ones).priority is Priority.URGENT
    settled = [*told, read_event(seq=5, kind="settled", at=at(5), member_id=3, data={"how": "answered"})]
    facts = replay([*settled, read_event(seq=6, kind="arrived", at=at(6), data={"message": 2})])
    assert (facts.priority, facts.owner, facts.tags) == (Priority.NORMAL, 7, (5,))
    assert facts.by_hand == ("assign",)


KINDS = st.sampled_from(
    [
        ("arrived", {"message": 1}),
        ("arrived", {"message": 2}),
        ("removed", {"message": 1}),
        ("kept", {}),
        ("assigned", {"owner": 7, "note": None}),
        ("prioritised", {"priority": 3}),
        ("noted", {"text": "n"}),
        ("parked", {"until": at(500).isoformat()}),
        ("returned", {}),
        ("settled", {"how": "answered"}),
        REPLIED,
        ("delivered", {"message": 9}),
        ("refused", {"message": 9, "reason": "r"}),
        ("answered_outside", {"message": 4}),
    ]
)
TRAILS = st.lists(KINDS, min_size=1, max_size=14)


@given(TRAILS)
def test_folding_one_by_one_equals_replaying(kinds: list[tuple[str, dict[str, object]]]) -> None:
    facts = Facts()
    for event in tell(*kinds):
        facts = apply(facts, event)
    assert facts == replay(tell(*kinds))


@given(TRAILS, st.data())
def test_undoing_equals_never_having_done(kinds: list[tuple[str, dict[str, object]]], data: st.DataObject) -> None:
    of = data.draw(st.integers(1, len(kinds)))
    with_undo = replay([*tell(*kinds), read_event(seq=len(kinds) + 1, kind="undone", at=at(99), data={"of": of})])
    trail = [e for e in tell(*kinds) if e.seq != of]
    without = replay([replace(e, seq=n + 1) for n, e in enumerate(trail)])
    assert replace(with_undo, seq=0) == replace(without, seq=0)


@given(TRAILS)
def test_a_new_message_always_makes_it_ours_and_awaited(kinds: list[tuple[str, dict[str, object]]]) -> None:
    facts = replay(tell(*kinds, ("arrived", {"message": 77})))
    assert get_move(facts, at(100)) in (Move.UNSORTED, Move.OUR_MOVE)
    assert facts.awaiting_since is not None


@given(TRAILS)
def test_priority_and_owner_are_whoever_set_them_last(kinds: list[tuple[str, dict[str, object]]]) -> None:
    facts = replay(tell(*kinds))
    if not any(k == "settled" for k, _ in kinds):
        assert facts.priority is (Priority.URGENT if any(k == "prioritised" for k, _ in kinds) else Priority.NORMAL)
    assert facts.owner == (7 if any(k == "assigned" for k, _ in kinds) else None)


@pytest.mark.parametrize(
    ("before", "link", "owner", "team", "by_hand"),
    [
        # Whoever answered in public is asked back, and rules give it to nobody else.
        ([("prioritised", {"priority": 2})], {"owner": 3, "team": 4}, 3, 4, ("assign", "priority")),
        # A team alone keeps nobody from choosing within it.
        ([], {"team": 4}, None, 4, ()),
        # Who has it here already keeps it, and so does nobody, where somebody chose that.
        ([("assigned", {"owner": 7, "team": None})], {"owner": 3, "team": 4}, 7, None, ("assign",)),
        ([("assigned", {"owner": None, "team": None})], {"owner": 3, "team": 4}, None, None, ("assign",)),
        # What is over is nobody's any more.
        (
            [("assigned", {"owner": 7, "team": None}), ("settled", {"how": "junk"})],
            {"owner": 3, "team": 4},
            3,
            4,
            ("assign",),
        ),
    ],
)
def test_what_goes_on_in_private_comes_to_whoever_answered_in_public(
    before: list[tuple[str, dict[str, object]]],
    link: dict[str, object],
    owner: int | None,
    team: int | None,
    by_hand: tuple[str, ...],
) -> None:
    told = [ARRIVED, *before, ("linked", {"other": 2, "message": 5, "owner": None, "team": None, "tags": [], **link})]
    facts = replay(
        read_event(seq=n + 1, kind=k, at=at(n), member_id=1 if (k, d) in before else None, data=d)
        for n, (k, d) in enumerate(told)
    )
    assert (facts.owner, facts.team, facts.by_hand) == (owner, team, by_hand)


def test_who_watches_no_more_is_no_watcher() -> None:
    watched = (ARRIVED, ("watched", {"member": 3}), ("watched", {"member": 4}))
    assert replay(tell(*watched)).watchers == (3, 4)
    assert replay(tell(*watched, ("unwatched", {"member": 3}))).watchers == (4,)


def test_what_waits_again_when_a_case_is_given_back() -> None:
    """What they had said when it was handed over waits since it came; thanks ask for nothing; another case is none of it."""
    over = {"case": 5, "desk": "x", "joined": False, "until": at(9000).isoformat()}
    told = tell(
        ("arrived", {"message": 1}),
        ("handed_over", over),
        ("arrived", {"message": 2, "thanks": True}),
        ("arrived", {"message": 3}),
        ("handed_over", {**over, "joined": True}),
    )
    assert replay(told).unanswered == ()
    waiting = list_waiting_without(told, 5)
    assert [(one.message, one.at) for one in waiting] == [(1, told[0].at), (3, told[3].at)]
    assert list_waiting_without(told, 6) == ()


def reply(message: int, **more: object) -> tuple[str, dict[str, object]]:
    return "replied", {"message": message, "public": True, "settle": False, **more}


PARKED = ("parked", {"until": at(9000).isoformat()})


def test_a_parking_that_a_reply_ended_comes_back_once_and_not_by_an_acknowledgement() -> None:
    """Two replies; the first is refused, the second is out: what a rule only acknowledged later brings no parking back."""
    refused = [
        ARRIVED,
        PARKED,
        reply(9),
        reply(10),
        reply(11, answers=False),
        ("refused", {"message": 9, "reason": "x"}),
    ]
    assert move_after(*refused) is Move.THEIR_MOVE
    assert move_after(*refused, ("refused", {"message": 10, "reason": "x"})) is Move.PARKED
    out = [*refused, ("delivered", {"message": 10}), ("refused", {"message": 11, "reason": "x"})]
    assert move_after(*out) is Move.THEIR_MOVE


def test_what_a_stuck_reply_had_ended_is_over_when_it_is_answered_on_the_network() -> None:
    """Until then the reply's refusal brings the parking back, and what it was to answer waits again."""
    stuck = [ARRIVED, PARKED, reply(9), ("stuck", {"message": 9, "reason": "x"})]
    refused = ("refused", {"message": 9, "reason": "x"})
    assert move_after(*stuck, refused) is Move.PARKED
    assert move_after(*stuck, ("answered_outside", {"message": 3}), refused) is Move.THEIR_MOVE


SETTLING = [reply(9, settle=True), reply(10, settle=True)]


def test_what_settled_rests_on_the_reply_before_it_again_when_the_later_is_refused() -> None:
    """Docs/moves.md: refused from the last to the first, each gives back what was before it; what is out by then holds."""
    told = [ARRIVED, *SETTLING, ("refused", {"message": 10, "reason": "x"})]
    assert move_after(*told) is Move.SETTLED
    assert move_after(*told, ("refused", {"message": 9, "reason": "x"})) is Move.OUR_MOVE
    assert move_after(*told, ("delivered", {"message": 9})) is Move.SETTLED
    out = [
        ARRIVED,
        SETTLING[0],
        SETTLING[1],
        ("delivered", {"message": 9}),
        ("refused", {"message": 10, "reason": "x"}),
    ]
    assert move_after(*out) is Move.SETTLED


def test_a_reply_that_is_out_takes_nothing_from_what_rests_on_others() -> None:
    told = [ARRIVED, reply(8), *SETTLING, ("delivered", {"message": 8}), ("refused", {"message": 10, "reason": "x"})]
    assert move_after(*told) is Move.SETTLED
    assert move_after(*told, ("refused", {"message": 9, "reason": "x"})) is Move.THEIR_MOVE


def test_a_parking_that_rests_on_a_reply_is_given_back_with_what_it_rests_on() -> None:
    """Parked because the first reply answers it; the second ends that. Both refused, nothing is left that it was parked for."""
    told = [ARRIVED, reply(9), PARKED, reply(10), ("refused", {"message": 10, "reason": "x"})]
    assert move_after(*told) is Move.PARKED
    assert move_after(*told, ("refused", {"message": 9, "reason": "x"})) is Move.OUR_MOVE


def test_a_tag_that_becomes_another_is_that_one_where_it_stood() -> None:
    merged = ("tag_merged", {"tag": 1, "into": 3})
    assert replay(tell(ARRIVED, ("tagged", {"tag": 1}), ("tagged", {"tag": 2}), merged)).tags == (2, 3)
    assert replay(tell(ARRIVED, ("tagged", {"tag": 2}), merged)).tags == (2,)


def test_whose_rules_asked_for_consent_is_kept_each_once_by_name() -> None:
    asked = [
        ("consent_asked", {"rule": {"id": n, "name": name, "version": 1}})
        for n, name in ((2, "Press"), (1, "Money"), (2, "Press"))
    ]
    assert replay(tell(ARRIVED, *asked)).consent_rules == ("Money", "Press")
    assert replay(tell(ARRIVED, *asked)).unanswered[0].message == 1
