"""Whose move it is: the facts of a conversation, folded from its trail (PRODUCT.md 3).

The trail is the truth. `apply` folds one event into the facts, `replay` folds a whole trail and
leaves out what was undone; `get_move` derives the move. Nothing else may write these facts. What
follows from what stands as a table in docs/moves.md, which the tests walk.
"""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace
from datetime import datetime
from typing import Any

from sorta.core.cases import ENDED
from sorta.core.facts import Event, Facts, SettledAs, Unanswered
from sorta.core.on_its_way import (
    decide_anew,
    deliver,
    drop,
    merge,
    park,
    refuse,
    reopen,
    reply,
    settle,
    stick,
    without_covers,
)
from sorta.core.targets import Priority


def apply(facts: Facts, event: Event) -> Facts:
    """The facts after one more event. An `undone` needs the whole trail: use `replay`.

    Raises ValueError when the event does not follow the facts or is of an unknown kind.
    """
    if event.seq != facts.seq + 1:
        raise ValueError(f"event {event.seq} does not follow {facts.seq}")
    after = _apply(facts, event)
    by_hand = _get_by_hand(after.by_hand, event)
    if event.kind == "arrived" and facts.settled_as is not None and after.settled_as is None:
        # It reopens, and rules may set its priority anew.
        by_hand = tuple(name for name in by_hand if name != "priority")
    return replace(after, seq=event.seq, by_hand=by_hand)


def _get_by_hand(before: tuple[str, ...], event: Event) -> tuple[str, ...]:
    if event.member_id is None:
        return before
    match event.kind:
        case "prioritised":
            return tuple(sorted({*before, "priority"}))
        case "assigned":
            return tuple(sorted({*before, "assign"}))
        case "untagged":
            return tuple(sorted({*before, f"tag:{event.data['tag']}"}))
        case "tagged":
            return tuple(name for name in before if name != f"tag:{event.data['tag']}")
    return before


def _apply(facts: Facts, event: Event) -> Facts:
    data = event.data
    match event.kind:
        case "arrived":
            new = Unanswered(message=data["message"], at=event.at)
            if facts.settled_as is not None and data.get("thanks"):
                # They thank us for what is settled, and say nothing else: it stays settled.
                return replace(facts, thanked=new.message)
            return _arrive(facts, new)
        case "linked":
            return _link(facts, data)
        case "removed":
            return _forget(facts, data["message"])
        case "proposed":
            return replace(facts, proposal_waiting=True, sorted=True)
        case "sent_back" | "withdrawn":
            return replace(facts, proposal_waiting=False)
        case "consent_asked":
            names = {*facts.consent_rules, str(data["rule"]["name"])}
            return replace(facts, consent_rules=tuple(sorted(names)))
        case "consented" | "changed":
            return facts
        case (
            "edited"
            | "undone"
            | "corrected"
            | "alerted"
            | "offered"
            | "moderated"
            | "moderation_done"
            | "moderation_refused"
        ):
            return facts
        case "answered_outside":
            return _answer_outside(facts, event.at)
        case "assigned":
            return replace(facts, owner=data["owner"], team=data.get("team"), sorted=True)
        case "tagged":
            return replace(facts, tags=_with(facts.tags, data["tag"]), sorted=True)
        case "untagged":
            return replace(facts, tags=_without(facts.tags, data["tag"]), sorted=True)
        case "tag_merged":
            if data["tag"] not in facts.tags:
                return facts
            return replace(facts, tags=_with(_without(facts.tags, data["tag"]), data["into"]))
        case "watched":
            return replace(facts, watchers=_with(facts.watchers, data["member"]), sorted=True)
        case "unwatched":
            return replace(facts, watchers=_without(facts.watchers, data["member"]))
        case "person_tagged" | "person_untagged":
            return replace(facts, sorted=True)
        case "prioritised":
            return replace(facts, priority=Priority(data["priority"]), sorted=True)
        case "noted":
            return replace(facts, sorted=True)
        case "kept":
            return replace(decide_anew(facts), sorted=True, parked_until=None, parked_on=None)
        case "parked":
            return park(facts, datetime.fromisoformat(data["until"]))
        case "scheduled":
            until = datetime.fromisoformat(data["until"])
            return replace(decide_anew(facts), parked_until=until, parked_on=None, sorted=True)
        case "returned" | "unscheduled":
            # Over: also what a reply on its way had ended does not come back.
            answering = tuple(replace(a, parked_until=None) for a in facts.answering)
            return replace(facts, parked_until=None, parked_on=None, answering=answering)
        case "settled":
            return settle(facts, SettledAs(data["how"]))
        case "handed_over":
            until = datetime.fromisoformat(data["until"])
            return replace(settle(facts, SettledAs.HANDED_OVER), case_until=until)
        case "advice_asked":
            return replace(facts, advice_waiting=_with(facts.advice_waiting, data["advice"]), sorted=True)
        case "advice_given" | "advice_overdue" | "advice_withdrawn" | "advice_refused":
            return replace(facts, advice_waiting=_without(facts.advice_waiting, data["advice"]))
        case "case_told":
            follow_until = _instant(data.get("until")) or facts.case_until
            return replace(facts, case_until=None if data["state"] in ENDED else follow_until)
        case "reopened":
            waiting = data.get("waiting") or [{"message": data["message"], "at": data["since"]}]
            return reopen(facts, merge(tuple(_read_waiting(w) for w in waiting)))
        case "replied":
            return reply(
                replace(facts, proposal_waiting=facts.proposal_waiting and event.member_id is None),
                data["message"],
                bool(data.get("settle")),
                answers=data.get("answers", True),
            )
        case "delivered":
            return deliver(facts, data["message"])
        case "stuck":
            return stick(facts, data["message"], data["reason"])
        case "refused":
            return refuse(facts, data["message"])
        case _:
            raise ValueError(f"unknown kind of event {event.kind!r}")


def _instant(text: str | None) -> datetime | None:
    return datetime.fromisoformat(text) if text else None


def _read_waiting(value: Mapping[str, Any]) -> Unanswered:
    return Unanswered(message=value["message"], at=datetime.fromisoformat(value["at"]))


def _with(them: tuple[int, ...], one: int) -> tuple[int, ...]:
    return tuple(sorted({*them, one}))


def _without(them: tuple[int, ...], one: int) -> tuple[int, ...]:
    return tuple(x for x in them if x != one)


def _arrive(facts: Facts, new: Unanswered) -> Facts:
    if facts.answered_until is not None and new.at <= facts.answered_until:
        # Heard of after the answer that was given to it on the network.
        return facts
    answering = tuple(
        replace(a, settles=False, before=None, before_on=None, parked_until=None) for a in facts.answering
    )
    return replace(
        facts,
        unanswered=merge(facts.unanswered, (new,)),
        answering=answering,
        # What was urgent in a matter that is over says nothing of the next: owner and tags stay, the priority is new.
        priority=facts.priority if facts.settled_as is None else Priority.NORMAL,
        settled_as=None,
        settled_on=None,
        thanked=None,
        parked_until=None,
        parked_on=None,
    )


def _link(facts: Facts, data: Mapping[str, Any]) -> Facts:
    """What was said in public goes on in private: who has it, and its tags, come along unless it has an owner of its own."""
    has_own = facts.settled_as is None and (facts.owner is not None or "assign" in facts.by_hand)
    brings = data.get("owner") is not None or data.get("team") is not None
    # Whoever answered in public is asked back: rules give it to nobody else.
    kept = {*facts.by_hand, "assign"} if data.get("owner") is not None and not has_own else facts.by_hand
    return replace(
        facts,
        linked=_with(facts.linked, data["other"]),
        owner=facts.owner if has_own else data.get("owner"),
        team=facts.team if has_own else data.get("team") or facts.team,
        tags=tuple(sorted({*facts.tags, *data.get("tags", ())})),
        sorted=facts.sorted or brings or bool(data.get("tags")),
        by_hand=tuple(sorted(kept)),
    )


def _answer_outside(facts: Facts, at: datetime) -> Facts:
    until = max(at, facts.answered_until or at)
    answered = [u.message for a in facts.answering for u in a.covers if u.at <= until]
    left = tuple(u for u in facts.unanswered if u.at > until)
    has_answered = len(left) < len(facts.unanswered)
    answering = without_covers(facts.answering, answered)
    if has_answered and not left:
        # What a reply on its way had ended is over too.
        answering = tuple(replace(a, parked_until=None) for a in answering)
    return replace(
        facts,
        unanswered=left,
        answering=answering,
        answered_until=until,
        parked_until=None if has_answered and not left else facts.parked_until,
        sorted=True,
    )


def _forget(facts: Facts, message: int) -> Facts:
    return replace(
        facts,
        unanswered=drop(facts.unanswered, [message]),
        answering=without_covers(facts.answering, [message]),
        thanked=None if facts.thanked == message else facts.thanked,
    )


def replay(events: Iterable[Event], *, without: Collection[int] = ()) -> Facts:
    """The facts from a whole trail, as if what was undone had not been done, nor the events numbered in `without`."""
    trail = list(events)
    undone = {e.data["of"] for e in trail if e.kind == "undone"} | set(without)
    facts = Facts()
    for event in trail:
        facts = replace(facts, seq=event.seq) if event.seq in undone else apply(facts, event)
    return facts


def list_waiting_without(events: Iterable[Event], case: int) -> tuple[Unanswered, ...]:
    """What would wait if a conversation had not been handed over in this case: what a desk that gives it back has left
    unanswered, each since its own arrival. Thanks ask for nothing."""
    trail = list(events)
    left_out = {e.seq for e in trail if e.kind == "handed_over" and e.data["case"] == case}
    thanks = {e.seq for e in trail if e.kind == "arrived" and e.data.get("thanks")}
    return replay(trail, without=left_out | thanks).unanswered


#: Acts of members that can be taken back.
UNDOABLE = frozenset(
    {
        "assigned",
        "prioritised",
        "noted",
        "kept",
        "parked",
        "scheduled",
        "settled",
        "reopened",
        "replied",
        "tagged",
        "untagged",
        "watched",
        "unwatched",
        "person_tagged",
        "person_untagged",
        "corrected",
        "moderated",
        "handed_over",
        "advice_asked",
    }
)
