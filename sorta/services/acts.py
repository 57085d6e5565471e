"""What members do to a conversation besides answering, and taking it back. Used by the API."""

from datetime import datetime, timedelta
from typing import Any

from sorta.core.errors import Invalid, TooLate
from sorta.core.moves import UNDOABLE, SettledAs
from sorta.core.parking import ParkFor, check_exact, get_parked_until
from sorta.core.permissions import Permission
from sorta.core.targets import Priority
from sorta.services.house import House, Scope
from sorta.services.trail import Ledger, Open, list_events
from sorta.store import outbox, people, trail

#: How long an act can be taken back from the line at the bottom of the screen.
UNDO_WINDOW = timedelta(seconds=10)
#: A request sent at the last moment still counts.
_GRACE = timedelta(seconds=5)
LONGEST_NOTE = 4000


async def _act(house: House, scope: Scope, conversation_id: int, now: datetime, kind: str, **data: Any) -> int:
    """Record one act of a member; its number in the trail."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as conn:
        ledger = Ledger(house, conn, scope.workspace_id, now)
        conversation = await ledger.get(conversation_id)
        event = ledger.add(conversation, kind, member_id=scope.member_id, **data)
        await ledger.write()
    return event.seq


def _check_note(note: str | None) -> str | None:
    text = (note or "").strip()
    if len(text) > LONGEST_NOTE:
        raise Invalid(f"A note can be {LONGEST_NOTE} characters long; this one has {len(text)}.", "note")
    return text or None


async def assign(
    house: House, scope: Scope, conversation_id: int, *, owner_id: int | None, note: str | None, now: datetime
) -> int:
    """Take it, give it to a colleague, or leave it to nobody. Raises Invalid for somebody not here."""
    if owner_id is not None:
        async with house.db.transact(scope.workspace_id) as conn:
            members = await people.list_members(conn, scope.workspace_id)
        if owner_id not in {m.id for m in members}:
            raise Invalid("That member does not work in this workspace.", "owner_id")
    return await _act(house, scope, conversation_id, now, "assigned", owner=owner_id, note=_check_note(note))


async def prioritise(house: House, scope: Scope, conversation_id: int, *, priority: Priority, now: datetime) -> int:
    """Set the priority; the due follows."""
    return await _act(house, scope, conversation_id, now, "prioritised", priority=int(priority))


async def add_note(house: House, scope: Scope, conversation_id: int, *, text: str, now: datetime) -> int:
    """Add a team note, which never leaves the building."""
    said = _check_note(text)
    if said is None:
        raise Invalid("Write something first.", "text")
    return await _act(house, scope, conversation_id, now, "noted", text=said)


async def keep(house: House, scope: Scope, conversation_id: int, *, now: datetime) -> int:
    """Sort it by saying that it stays with us; a parked one comes back."""
    return await _act(house, scope, conversation_id, now, "kept")


async def park(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    choice: ParkFor | None,
    until: datetime | None,
    now: datetime,
) -> int:
    """Hide it until a named choice or an exact time. Raises Invalid for a time that will not do."""
    if until is not None:
        back = check_exact(until, now)
    elif choice is not None:
        back = get_parked_until(choice, now.astimezone(scope.zone))
    else:
        raise Invalid("Say until when.", "until")
    return await _act(house, scope, conversation_id, now, "parked", until=back.isoformat())


async def settle(house: House, scope: Scope, conversation_id: int, *, how: SettledAs, now: datetime) -> int:
    """Settle it, saying how."""
    return await _act(house, scope, conversation_id, now, "settled", how=how.value)


async def undo(house: House, scope: Scope, conversation_id: int, *, seq: int, now: datetime) -> str | None:
    """Take back one's own act; a reply's text is returned, so that it can be written on.

    Raises TooLate when its time is over, it was undone already, or the reply is on its way.
    """
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as conn:
        ledger = Ledger(house, conn, scope.workspace_id, now)
        conversation = await ledger.get(conversation_id)
        events = {e.seq: e for e in await list_events(conn, scope.workspace_id, conversation_id)}
        event = events.get(seq)
        if event is None or event.kind not in UNDOABLE or event.member_id != scope.member_id:
            raise Invalid("Only an act of your own can be undone.", "seq")
        if any(e.kind == "undone" and e.data["of"] == seq for e in events.values()):
            raise TooLate("That was undone already.")
        if now - event.at > UNDO_WINDOW + _GRACE:
            raise TooLate("An act can be undone for 10 seconds; that time is over.")
        text = await _withdraw(ledger, scope, conversation, event.data["message"]) if event.kind == "replied" else None
        await ledger.add_undone(conversation, seq, scope.member_id)
        await ledger.write()
    return text


async def _withdraw(ledger: Ledger, scope: Scope, conversation: Open, message_id: int) -> str:
    if not await outbox.withdraw_outgoing(ledger.conn, scope.workspace_id, message_id):
        raise TooLate("The reply is already on its way to the network.")
    messages = await trail.list_messages(ledger.conn, scope.workspace_id, conversation.id)
    return next(m.body for m in messages if m.id == message_id)


async def return_parked(house: House, workspace_id: int, now: datetime) -> int:
    """Bring back what was parked until now; how many came back. Run by the worker's tick."""
    count = 0
    async with house.db.transact(workspace_id) as conn:
        ids = await trail.list_parked_over(conn, workspace_id, now)
    for id in ids:
        async with house.db.transact(workspace_id) as conn:
            ledger = Ledger(house, conn, workspace_id, now)
            conversation = await ledger.get(id)
            until = conversation.facts.parked_until
            if until is not None and until <= now:
                ledger.add(conversation, "returned")
                await ledger.write()
                count += 1
    return count
