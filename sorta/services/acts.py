"""What members do to a conversation besides answering, and taking it back. Used by the API."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid, NotFound, TooLate
from sorta.core.events import (
    AdviceAsked,
    Assigned,
    Corrected,
    Event,
    HandedOver,
    Kept,
    Moderated,
    Noted,
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
    Untagged,
    Unwatched,
    Watched,
    What,
)
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor, check_exact, get_parked_until
from sorta.core.permissions import Permission
from sorta.core.reading import check_correction
from sorta.core.targets import Priority
from sorta.core.undo import Sent, list_undoable
from sorta.services import advice, approvals, cases, moderation, scheduling
from sorta.services.alerts import add_alerts
from sorta.services.attachments import TakenBack
from sorta.services.auto_answers import call_back
from sorta.services.groups import check_passing
from sorta.services.hours import get_promise
from sorta.services.house import House, Scope
from sorta.services.tags import find_tag
from sorta.services.trail import Ledger, Open, check_seen, writing
from sorta.store import outbox, people, persons, reading, sorting, trail
from sorta.store.db import Tx

LONGEST_NOTE = 4000


async def _act(house: House, scope: Scope, conversation_id: int, now: datetime, what: What) -> int:
    """Record one act of a member; its number in the trail."""
    scope.check(Permission.SORT)
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        event = ledger.add(conversation, what, member_id=scope.member_id)
    return event.seq


async def _end(
    house: House,
    scope: Scope,
    conversation_id: int,
    now: datetime,
    what: What,
    *,
    seen_seq: int | None,
    how: SettledAs | None,
) -> int:
    """Record an act that takes a conversation off the desk; an answer that waits for approval is withdrawn with it.

    Raises MovedOn when something that its author has not seen speaks against it; without `seen_seq` nothing does.
    """
    scope.check(Permission.SORT)
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        await check_seen(ledger, conversation, scope.member_id, seen_seq=seen_seq, how=how)
        words = "parked" if how is None else "settled"
        if how is not None:
            await call_back(ledger, conversation, f"{scope.name} settled the conversation")
        await approvals.withdraw_overtaken(ledger, conversation, f"{scope.name} {words} the conversation")
        event = ledger.add(conversation, what, member_id=scope.member_id)
    return event.seq


def _check_note(note: str | None) -> str | None:
    text = (note or "").strip()
    if len(text) > LONGEST_NOTE:
        raise Invalid(f"A note can be {LONGEST_NOTE} characters long; this one has {len(text)}.", "note")
    return text or None


async def assign(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    owner_id: int | None,
    note: str | None,
    now: datetime,
    team_id: int | None = None,
) -> int:
    """Take it, give it to a colleague or a team, or leave it to nobody. Given to somebody of the team that has it, it stays
    that team's. Raises Invalid for somebody not here."""
    said = _check_note(note)
    scope.check(Permission.SORT)
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        # Whoever takes it works here, or their session would not say so.
        if owner_id not in (None, scope.member_id):
            members = await people.list_members(ledger.tx)
            if owner_id not in {m.id for m in members}:
                raise Invalid("That member does not work in this workspace.", "owner_id")
        teams: dict[int, list[int]] = {}
        if team_id is not None or conversation.facts.team is not None:
            teams = {t["id"]: t["members"] for t in await sorting.list_teams(ledger.tx)}
        if team_id is not None and team_id not in teams:
            raise Invalid("There is no such team in this workspace.", "team_id")
        if owner_id is not None and owner_id not in (scope.member_id, conversation.facts.owner):
            await check_passing(ledger.tx, conversation, scope.member_id, owner_id, said)
        team = conversation.facts.team
        kept = team if team is not None and owner_id in teams.get(team, ()) else None
        what = Assigned(owner=owner_id, team=team_id or kept, note=said)
        event = ledger.add(conversation, what, member_id=scope.member_id)
    return event.seq


async def tag(house: House, scope: Scope, conversation_id: int, *, name: str, on: bool, now: datetime) -> int:
    """Put a tag on a conversation or take it off; a name not used yet makes a new tag."""
    scope.check(Permission.SORT)
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        id = await find_tag(ledger.reads, scope, name, make=on)
        event = ledger.add(conversation, Tagged(tag=id) if on else Untagged(tag=id), member_id=scope.member_id)
    return event.seq


async def tag_person(house: House, scope: Scope, conversation_id: int, *, name: str, on: bool, now: datetime) -> int:
    """Put a tag on the person of a conversation or take it off; in the trail of the conversation it was done from."""
    scope.check(Permission.SORT)
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        id = await find_tag(ledger.reads, scope, name, make=on)
        what = PersonTagged(tag=id) if on else PersonUntagged(tag=id)
        event = ledger.add(conversation, what, member_id=scope.member_id)
        await persons.set_tagged(ledger.tx, conversation.row["person_id"], id, on=on)
    return event.seq


async def watch(house: House, scope: Scope, conversation_id: int, *, on: bool, now: datetime) -> int:
    """Watch a conversation or stop watching."""
    me = scope.member_id
    return await _act(house, scope, conversation_id, now, Watched(member=me) if on else Unwatched(member=me))


async def correct(
    house: House, scope: Scope, conversation_id: int, *, message_id: int, field: str, value: object, now: datetime
) -> int:
    """Say what a message really reads as; the member's word wins and is counted. Raises Invalid, NotFound."""
    scope.check(Permission.SORT)
    said = check_correction(field, value)
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        message = await reading.get_reading(ledger.tx, message_id)
        if message is None or message["conversation_id"] != conversation_id or not message["inbound"]:
            raise NotFound("There is no such message of theirs in this conversation.")
        again = field in (message["evidence"] or {}).get("corrected", ())
        event = ledger.add(
            conversation,
            Corrected(message=message_id, field=field, was=_freeze(message[field]), now=_freeze(said), again=again),
            member_id=scope.member_id,
        )
        await _set_reading(ledger, scope, conversation, message, field, said, is_said=True)
    return event.seq


async def _set_reading(
    ledger: Ledger,
    scope: Scope,
    conversation: Open,
    message: Mapping[str, Any],
    field: str,
    value: Any,
    *,
    is_said: bool,
) -> None:
    """The message's column, and the row's when it is the latest message of theirs; `is_said` when a member has said it."""
    others = {*(message["evidence"] or {}).get("corrected", ())} - {field}
    await reading.set_correction(
        ledger.tx,
        message["id"],
        field,
        message[field],
        value,
        others | {field} if is_said else others,
        scope.member_id,
        ledger.now,
    )
    if await reading.is_latest(ledger.tx, message["id"]):
        conversation.row[field] = value


async def prioritise(house: House, scope: Scope, conversation_id: int, *, priority: Priority, now: datetime) -> int:
    """Set the priority; the due follows."""
    return await _act(house, scope, conversation_id, now, Prioritised(priority=priority))


async def add_note(house: House, scope: Scope, conversation_id: int, *, text: str, now: datetime) -> int:
    """Add a team note, which never leaves the building."""
    said = _check_note(text)
    if said is None:
        raise Invalid("Write something first.", "text")
    return await _act(house, scope, conversation_id, now, Noted(text=said))


async def keep(house: House, scope: Scope, conversation_id: int, *, now: datetime) -> int:
    """Sort it by saying that it stays with us; a parked one comes back."""
    return await _act(house, scope, conversation_id, now, Kept())


async def park(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    choice: ParkFor | None,
    until: datetime | None,
    now: datetime,
    seen_seq: int | None = None,
) -> int:
    """Hide it until a named choice or an exact time. Raises Invalid for a time that will not do, MovedOn."""
    if until is not None:
        back = check_exact(until, now)
    elif choice is not None:
        async with house.db.transact(scope.workspace_id) as tx:
            promise = await get_promise(house, tx)
        back = promise.hours.get_next_open(get_parked_until(choice, now.astimezone(scope.zone)))
    else:
        raise Invalid("Say until when.", "until")
    return await _end(house, scope, conversation_id, now, Parked(until=back), seen_seq=seen_seq, how=None)


async def settle(
    house: House, scope: Scope, conversation_id: int, *, how: SettledAs, now: datetime, seen_seq: int | None = None
) -> int:
    """Settle it, saying how. `seen_seq` is the newest number of the trail that the member has seen. Raises MovedOn."""
    return await _end(house, scope, conversation_id, now, Settled(how=how), seen_seq=seen_seq, how=how)


async def reopen(
    house: House, scope: Scope, conversation_id: int, *, now: datetime, message_id: int | None = None
) -> int:
    """A settled conversation is our move again: their last message waits, or the one named. Raises Invalid, NotFound."""
    scope.check(Permission.SORT)
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        if conversation.facts.settled_as is None:
            raise Invalid("It is not settled.", "act")
        messages = await trail.list_messages(ledger.tx, conversation_id)
        theirs = [m for m in messages if m.inbound and message_id in (None, m.id)]
        if not theirs:
            raise NotFound("There is no such message of theirs in this conversation.")
        last = theirs[-1]
        what = Reopened(message=last.id, since=last.sent_at)
        event = ledger.add(conversation, what, member_id=scope.member_id)
    return event.seq


async def undo(house: House, scope: Scope, conversation_id: int, *, seq: int, now: datetime) -> TakenBack | None:
    """Take back one's own act, or stop a rule's answer; what a reply of one's own said, so that it can be written on.

    Raises TooLate with the reason when it stands no more or has reached somebody outside, Invalid for what is no act.
    """
    scope.check(Permission.SORT)
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        events = await ledger.list_written(conversation)
        event = next((e for e in events if e.seq == seq), None)
        sent = {}
        if event is not None and isinstance(event.what, Replied):
            sent = await get_sent(ledger.tx, event.what.message)
        undoable = list_undoable(events, scope.member_id, sent, may_stop_rules=may_stop_rules(scope))
        if event is None or seq not in undoable:
            raise Invalid("That is no act that can be taken back.", "seq")
        if (obstacle := undoable[seq]) is not None:
            raise TooLate(obstacle)
        back = await _take_back(ledger, scope, conversation, event)
        await ledger.add_undone(conversation, seq, scope.member_id)
    return back


def may_stop_rules(scope: Scope) -> bool:
    """Whether the member may call back what a rule answers."""
    return bool({Permission.REPLY_PUBLICLY, Permission.REPLY_PRIVATELY} & scope.role.grants)


async def get_sent(tx: Tx, message_id: int) -> dict[int, Sent]:
    """Where one reply stands on its way, by its message."""
    found = await outbox.get_state(tx, message_id)
    return {} if found is None else {message_id: Sent(state=found[0], maybe_out=found[1])}


def _freeze(value: Any) -> Any:
    """What a message reads as, as the trail has it."""
    return tuple(value) if isinstance(value, list) else value


async def _take_back(ledger: Ledger, scope: Scope, conversation: Open, event: Event) -> TakenBack | None:
    """Whatever an act did beside its event; what a reply said."""
    match event.what:
        case Replied(message=message_id, proposal=proposal):
            back = await _withdraw(ledger, conversation, message_id)
            if proposal is not None:
                await approvals.wait_again(ledger, scope, conversation, proposal)
                return None
            return back if event.member_id == scope.member_id else None
        case Scheduled(scheduled=id):
            return await scheduling.take_back(ledger.tx, id, ledger.now)
        case AdviceAsked(advice=id):
            await advice.take_back(ledger.tx, id)
        case HandedOver(case=id, joined=joined):
            await cases.take_back(ledger.tx, id, joined=joined, now=ledger.now)
        case Moderated() as asked:
            await moderation.withdraw(ledger, asked)
        case PersonTagged(tag=tag) | PersonUntagged(tag=tag) as set_tag:
            person, on = conversation.row["person_id"], isinstance(set_tag, PersonUntagged)
            await persons.set_tagged(ledger.tx, person, tag, on=on)
        case Corrected(field=field, was=before, again=again):
            was: Any = list(before) if isinstance(before, tuple) else before
            if field == "reads_as" and not isinstance(was, list):
                # Kept when a message read as one thing at most.
                was = [was] if was else []
            message = await reading.get_reading(ledger.tx, event.what.message)
            assert message is not None, "messages are never deleted"
            await _set_reading(ledger, scope, conversation, message, field, was, is_said=again)
        case _:
            # All that it did is its event.
            pass
    return None


async def _withdraw(ledger: Ledger, conversation: Open, message_id: int) -> TakenBack:
    if not await outbox.withdraw_outgoing(ledger.tx, message_id, "reply"):
        raise TooLate("The reply is already on its way to the network.")
    ledger.unsay(conversation)
    messages = await trail.list_messages(ledger.tx, conversation.id)
    return next(TakenBack(text=m.body, attachments=m.attachments) for m in messages if m.id == message_id)


async def return_parked(house: House, workspace_id: int, now: datetime) -> int:
    """Bring back what was parked until now, and tell whose it is, or else who parked it; how many came back. Run by the worker's tick."""
    count = 0
    async with house.db.transact(workspace_id) as tx:
        over = await trail.list_parked_over(tx, now)
    for row in over:
        async with writing(house, workspace_id, now) as ledger:
            conversation = await ledger.get(row["id"])
            until = conversation.facts.parked_until
            if until is None or until > now:
                continue
            ledger.add(conversation, Returned())
            whose = conversation.facts.owner or row["parked_by"]
            await add_alerts(
                ledger.tx,
                members=[whose] if whose else [],
                occasion="back",
                words=f"{conversation.row['person_name']} is back from being parked.",
                conversation_id=conversation.id,
                key=f"back:{conversation.id}:{until.isoformat()}",
                now=now,
            )
            count += 1
    return count
