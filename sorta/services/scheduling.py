"""Answers to be sent later: kept, changed, taken back, and sent at their time if they may still go. Used by the API and the worker.

At its time an answer is checked as if it were sent by hand: what they have written since, the network, the author's
role and approval. What cannot go stops with its reason and comes back to its author.
"""

from datetime import datetime, timedelta
from typing import Any

from sorta.core.answers import Extras
from sorta.core.errors import Invalid, MovedOn, NeedsApproval, NotAllowed, NotFound, SortaError, TooLate
from sorta.core.events import Scheduled, Unscheduled
from sorta.services.alerts import add_alerts
from sorta.services.answers import EXTRAS, check_free_reply, check_may_reply, check_reply, commit_reply
from sorta.services.attachments import TakenBack, describe_extras, hold
from sorta.services.consent import find_needs, join_words
from sorta.services.house import House, Scope
from sorta.services.members import check_sight, get_scope_of
from sorta.services.trail import writing
from sorta.store import desk, scheduled
from sorta.store.db import Tx
from sorta.store.live import tell

FURTHEST = timedelta(days=180)


def _check_time(send_at: datetime, now: datetime) -> datetime:
    if send_at.tzinfo is None or send_at <= now:
        raise Invalid("Choose a time that lies ahead.", "send_at")
    if send_at > now + FURTHEST:
        raise Invalid(f"At most {FURTHEST.days} days ahead.", "send_at")
    return send_at


async def schedule(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    public: bool,
    text: str,
    seen_seq: int,
    settle: bool,
    send_at: datetime,
    now: datetime,
    extras: Extras = Extras(),
) -> int:
    """Keep a reply until its time, the conversation parked until then; the act's number in the trail.

    The same checks as for sending it hold now, and again at its time. Raises TooLate when one waits here already.
    """
    check_may_reply(scope, public=public)
    at = _check_time(send_at, now)
    async with writing(house, scope.workspace_id, now) as ledger:
        tx, conversation = ledger.tx, await ledger.get(conversation_id)
        if conversation.facts.proposal_waiting:
            raise TooLate("An answer waits for approval here. Withdraw it first.")
        if await scheduled.get_waiting(tx, conversation_id) is not None:
            raise TooLate("An answer is to be sent later here already. Change that one, or take it back.")
        await check_free_reply(ledger, conversation, scope, public=public, text=text, seen_seq=seen_seq, extras=extras)
        await hold(tx, conversation.row, extras.attachments, now)
        id = await scheduled.add_scheduled(
            tx,
            {
                "conversation_id": conversation_id,
                "author_id": scope.member_id,
                "public": public,
                "body": text.strip(),
                "settle": settle,
                "extras": EXTRAS.dump_python(extras, mode="json"),
                "seen_seq": conversation.facts.seq + 1,
                "send_at": at,
                "now": now,
            },
        )
        what = Scheduled(scheduled=id, until=at, public=public)
        event = ledger.add(conversation, what, member_id=scope.member_id)
        await desk.delete_draft(tx, scope.member_id, conversation_id, "public" if public else "private")
        await tell(tx, "outgoing")
    return event.seq


async def _get(tx: Tx, scope: Scope, id: int) -> dict[str, Any]:
    row = await scheduled.get_scheduled(tx, id)
    if row is None:
        raise NotFound("There is no such answer to be sent later in this workspace.")
    if row["state"] != "waiting":
        raise TooLate("It waits no more: it has gone, was taken back or was stopped.")
    if row["author_id"] != scope.member_id:
        raise NotAllowed("Only its author can change it or take it back.")
    return row


async def change(
    house: House, scope: Scope, id: int, *, text: str, send_at: datetime, seen_seq: int, now: datetime
) -> None:
    """Other words, another time, or the word that it is still right after they wrote again. Raises as `schedule` does."""
    at = _check_time(send_at, now)
    async with writing(house, scope.workspace_id, now) as ledger:
        tx = ledger.tx
        row = await _get(tx, scope, id)
        check_may_reply(scope, public=row["public"])
        conversation = await ledger.get(row["conversation_id"])
        await check_free_reply(
            ledger,
            conversation,
            scope,
            public=row["public"],
            text=text,
            seen_seq=seen_seq,
            extras=EXTRAS.validate_python(row["extras"]),
        )
        what = Scheduled(scheduled=id, until=at, public=row["public"], again=True)
        event = ledger.add(conversation, what, member_id=scope.member_id)
        await scheduled.set_scheduled(tx, id, body=text.strip(), send_at=at, seen_seq=event.seq)
        await tell(tx, "outgoing")


async def cancel(house: House, scope: Scope, id: int, now: datetime) -> TakenBack:
    """Take it back; what it said, so that it can be written on."""
    async with writing(house, scope.workspace_id, now) as ledger:
        row = await _get(ledger.tx, scope, id)
        conversation = await ledger.get(row["conversation_id"])
        ledger.add(conversation, Unscheduled(scheduled=id), member_id=scope.member_id)
        return await take_back(ledger.tx, id, now)


async def take_back(tx: Tx, id: int, now: datetime) -> TakenBack:
    """End one that still waits; what it said. Raises TooLate when it has gone."""
    ended = await scheduled.end_scheduled(tx, id, state="cancelled", problem=None, now=now)
    if ended is None:
        raise TooLate("It has gone already.")
    await tell(tx, "outgoing")
    files = await describe_extras(tx, ended["extras"])
    return TakenBack(text=ended["body"], attachments=files)


async def send_due(house: House, workspace_id: int, now: datetime) -> int:
    """Send whatever's time has come; how many went. Run by the worker, safe to run twice."""
    async with house.db.transact(workspace_id) as tx:
        due = await scheduled.list_due(tx, now)
    return sum([await _send(house, workspace_id, id, now) for id in due])


async def _send(house: House, workspace_id: int, id: int, now: datetime) -> bool:
    try:
        async with writing(house, workspace_id, now) as ledger:
            tx = ledger.tx
            row = await scheduled.get_scheduled(tx, id)
            if row is None or row["state"] != "waiting" or row["send_at"] > now:
                return False
            scope = await get_scope_of(ledger.reads, row["author_id"])
            check_may_reply(scope, public=row["public"])
            conversation = await ledger.get(row["conversation_id"])
            await check_sight(tx, scope, conversation)
            extras = EXTRAS.validate_python(row["extras"])
            checked = await check_reply(
                ledger,
                conversation,
                author_id=scope.member_id,
                public=row["public"],
                text=row["body"],
                seen_seq=row["seen_seq"],
                extras=extras,
            )
            needs = await find_needs(
                ledger.reads,
                conversation,
                scope,
                public=row["public"],
                text=join_words(row["body"], checked.body),
                account=extras.account,
            )
            if needs:
                raise NeedsApproval(f"It needs approval by now: {', '.join(need.name for need in needs)}.")
            await commit_reply(
                ledger,
                conversation,
                checked,
                author_id=scope.member_id,
                settle=row["settle"],
                extras=extras,
                leaves_at=now + house.undo_for,
            )
            await scheduled.end_scheduled(tx, id, state="sent", problem=None, now=now)
            await tell(tx, "outgoing")
        return True
    except MovedOn:
        await stop(house, workspace_id, id, "They wrote again, or somebody answered, after it was written.", now)
    except SortaError as error:
        await stop(house, workspace_id, id, error.message, now)
    return False


async def stop(house: House, workspace_id: int, id: int, reason: str, now: datetime) -> None:
    """An answer that was to go at its time does not; its author is told why. Nothing happens to one that has gone, or was stopped."""
    async with writing(house, workspace_id, now) as ledger:
        tx = ledger.tx
        row = await scheduled.get_scheduled(tx, id)
        if row is None or row["state"] != "waiting":
            return
        conversation = await ledger.get(row["conversation_id"])
        await scheduled.end_scheduled(tx, id, state="stopped", problem=reason, now=now)
        ledger.add(conversation, Unscheduled(scheduled=id, reason=reason))
        await add_alerts(
            tx,
            members=[row["author_id"]],
            occasion="stopped",
            words=f"Your answer to {conversation.row['person_name']} did not go out at its time: {reason}",
            conversation_id=conversation.id,
            key=f"scheduled:{id}",
            now=now,
        )
        await tell(tx, "outgoing")
