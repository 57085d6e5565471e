"""Handing over to a support desk: cases opened, messages passed on exactly once, and what the desk says. Used by the API,
acts, ingest, ruling and the worker.

What is passed on is written with the act that hands over, and sent by the worker under keys of its own; asked twice
under one key the desk does nothing twice, so a try whose answer was lost is simply made again.
"""

import json
import uuid
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sorta.core.cases import ENDED, TOLD, CaseState, get_follow_until, joins
from sorta.core.errors import Impossible, Invalid, NotFound, TooLate, Unreadable
from sorta.core.events import ByRule, CaseTold, Event, HandedOver, Reopened
from sorta.core.facts import SettledAs, Unanswered
from sorta.core.moves import list_waiting_without
from sorta.core.not_done import NotDone
from sorta.core.permissions import Permission
from sorta.core.ports import CaseMessage, DeskRef, NewCase
from sorta.core.retry import GiveUp, TryAgain
from sorta.core.security import Happening
from sorta.services.alerts import add_alerts
from sorta.services.approvals import withdraw_overtaken
from sorta.services.auto_answers import call_back
from sorta.services.consent import check_words
from sorta.services.filters import make_pattern
from sorta.services.house import House, Scope
from sorta.services.sealing import DESK_HOOK_SECRET, DESK_TOKEN, open_taken, seal_row
from sorta.services.security_log import note
from sorta.services.sending import Sent, attempt
from sorta.services.signatures import BOTH_FOR, check_signature, make_hook_secret
from sorta.services.trail import Ledger, Open, check_seen, writing
from sorta.store import cases, people, trail
from sorta.store.db import Tx
from sorta.store.live import tell

PASS_ON = "pass_on"
LONGEST_NOTE = 2000
LONGEST_REMARK = 4000
MOST_FOLLOW_HOURS = 24 * 60


async def hand_over(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    desk_id: int,
    note: str | None,
    now: datetime,
    seen_seq: int | None = None,
) -> int:
    """Hand a conversation over by hand: settled here, all its messages passed on. Its number in the trail.

    An answer that waits for approval is withdrawn. Raises NotFound for a desk that is not here, Invalid for the note,
    MovedOn when it is not any more as the member has seen it.
    """
    scope.check(Permission.SORT)
    said = (note or "").strip()
    if len(said) > LONGEST_NOTE:
        raise Invalid(f"A note to the desk has at most {LONGEST_NOTE} characters.", "note")
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        desk = await cases.get_desk(ledger.tx, desk_id)
        if desk is None or desk["removed_at"] is not None:
            raise NotFound("There is no such desk in this workspace.")
        if said:
            await check_words(ledger.reads, conversation, scope, text=said, what="A note to a desk")
        await check_seen(ledger, conversation, scope.member_id, seen_seq=seen_seq, how=SettledAs.HANDED_OVER)
        await call_back(ledger, conversation, f"{scope.name} handed the conversation over")
        await withdraw_overtaken(ledger, conversation, f"{scope.name} handed the conversation over")
        event = await _pass(
            ledger, conversation, desk, leaves_at=now + house.undo_for, note=said or None, member_id=scope.member_id
        )
    return event.seq


async def hand_over_by_rule(
    ledger: Ledger, conversation: Open, message_id: int, desk_id: int, rule: ByRule
) -> str | None:
    """The same by a rule, for a message that is just being taken in; why not, if it cannot. `rule` goes to the trail."""
    desk = await cases.get_desk(ledger.tx, desk_id)
    if desk is None or desk["removed_at"] is not None:
        return NotDone.DESK_REMOVED
    await withdraw_overtaken(ledger, conversation, f"the rule “{rule.name}” handed the conversation over")
    await _pass(ledger, conversation, desk, leaves_at=ledger.now, rule=rule, arriving=(message_id,))
    return None


async def follow(ledger: Ledger, conversation: Open, message_id: int, at: datetime) -> None:
    """What they write within the follow-on window joins the case it was handed over in, and is settled with it."""
    facts = conversation.facts
    if facts.case_until is None or at > facts.case_until or facts.settled_as is not None or facts.proposal_waiting:
        return
    latest = await cases.get_latest(ledger.tx, conversation.id, None)
    desk = latest and await cases.get_desk(ledger.tx, latest["desk_id"])
    # By the window as it is now: one that was made shorter since has nothing join, and opens no case that nobody asked for.
    if latest is not None and desk is not None and desk["removed_at"] is None and _joins(latest, desk, at):
        await _pass(ledger, conversation, desk, leaves_at=ledger.now, arriving=(message_id,))


def _joins(case: Mapping[str, Any], desk: Mapping[str, Any], at: datetime) -> bool:
    return joins(
        CaseState(case["state"]), last_passed_at=case["last_passed_at"], follow_hours=desk["follow_hours"], at=at
    )


async def _pass(
    ledger: Ledger,
    conversation: Open,
    desk: Mapping[str, Any],
    *,
    leaves_at: datetime,
    note: str | None = None,
    member_id: int | None = None,
    rule: ByRule | None = None,
    arriving: Sequence[int] = (),
) -> Event:
    """Join the case there is or add one, with all its messages; the act in the trail. `arriving` are not written yet."""
    tx, now = ledger.tx, ledger.now
    messages = [*await cases.list_passable(tx, conversation.id), *arriving]
    latest = await cases.get_latest(tx, conversation.id, desk["id"])
    joined = latest is not None and _joins(latest, desk, now)
    if latest is not None and joined:
        case = int(latest["id"])
        await cases.touch_case(tx, case, now=now, leaves_at=leaves_at)
    else:
        case = await cases.add_case(
            tx,
            desk_id=desk["id"],
            conversation_id=conversation.id,
            key=uuid.uuid4(),
            note=note,
            member_id=member_id,
            rule_name=rule.name if rule else None,
            now=now,
            leaves_at=leaves_at,
        )
    await cases.add_messages(tx, case, messages)
    await _queue(ledger.house, tx, case, leaves_at)
    await tell(tx, "cases", ids=[case])
    until = get_follow_until(now, desk["follow_hours"])
    what = HandedOver(case=case, desk=desk["name"], joined=joined, until=until)
    return ledger.add(conversation, what, member_id=member_id, rule=rule)


async def _queue(house: House, tx: Tx, case: int, at: datetime) -> None:
    await house.queue.add_job(tx, PASS_ON, once=f"case:{case}", at=at, workspace_id=tx.workspace_id, case_id=case)


async def take_back(tx: Tx, case: int, *, joined: bool, now: datetime) -> None:
    """Undo a hand-over that has not left yet. Raises TooLate when it has, or is just leaving."""
    row = await cases.get_case(tx, case)
    is_leaving = row is None or row["next_at"] is None or row["next_at"] <= now
    waiting = not is_leaving and await cases.delete_unpassed(tx, case)
    if not waiting or not (joined or await cases.delete_case(tx, case)):
        raise TooLate("The desk has it already.")
    await tell(tx, "cases", ids=[case])


# -- passing on ------------------------------------------------------------------------------------------------


async def pass_on(house: House, workspace_id: int, case_id: int, now: datetime) -> bool:
    """Pass on what waits for one case, in order; whether all of it went. Run by the worker."""
    async with house.db.transact(workspace_id) as tx:
        row = await cases.get_case(tx, case_id)
        if row is None or house.case_desk is None or row["next_at"] is None or row["next_at"] > now:
            return False
        conversation = await trail.get_conversation(tx, row["conversation_id"])
        opener = await _name_opener(tx, row)
        waiting = await cases.list_unpassed(tx, case_id)
    assert conversation is not None
    desk = house.case_desk

    async def pass_all() -> None:
        token = house.keys.open(DESK_TOKEN, workspace_id, row["token"])
        ref = DeskRef(api_url=row["api_url"], token=token)
        external_id = row["external_id"]
        if external_id is None:
            case = NewCase(
                subject=conversation["preview"][:120],
                person=conversation["person_name"],
                handle=conversation["handle"],
                network=conversation["network"],
                address=f"{house.address}/w/{workspace_id}/desk/{conversation['id']}",
                note=row["note"] or "",
                by=opener,
            )
            opened = await desk.open(ref, case, str(row["key"]))
            external_id = opened.external_id
            async with house.db.transact(workspace_id) as tx:
                await cases.set_opened(
                    tx,
                    case_id,
                    external_id=external_id,
                    reference=opened.reference,
                    url=opened.url,
                    now=now,
                )
        for m in waiting:
            by = conversation["person_name"] if m["inbound"] else m["member_name"] or "Sorta"
            message = CaseMessage(id=m["id"], by=by, ours=not m["inbound"], text=m["body"], at=m["sent_at"])
            await desk.add(ref, external_id, message, str(m["key"]))
            async with house.db.transact(workspace_id) as tx:
                await cases.set_passed(tx, case_id, m["id"], now)

    ending = await attempt(pass_all, "case", case_id, tries=row["tries"] + 1, since=row["last_passed_at"], now=now)
    match ending:
        case Sent():
            async with house.db.transact(workspace_id) as tx:
                await cases.set_done(tx, case_id, now)
                await _tell_about(tx, row)
        case TryAgain():
            await _put_off(house, workspace_id, row, ending)
        case GiveUp():
            await _refuse(house, workspace_id, row, ending.reason, now)
    return isinstance(ending, Sent)


async def _name_opener(tx: Tx, row: Mapping[str, Any]) -> str:
    members = await people.list_names(tx)
    return members.get(row["opened_by"] or 0) or f"Rule: {row['rule_name']}"


async def _tell_about(tx: Tx, row: Mapping[str, Any]) -> None:
    await tell(tx, "cases", ids=[row["id"]])
    await tell(tx, "conversations", ids=[row["conversation_id"]])


async def _put_off(house: House, workspace_id: int, row: Mapping[str, Any], again: TryAgain) -> None:
    async with house.db.transact(workspace_id) as tx:
        tries = row["tries"] + 1
        await cases.set_tries(tx, row["id"], tries=tries, next_at=again.at, problem=again.reason)
        await _queue(house, tx, row["id"], again.at)
        await _tell_about(tx, row)


async def _refuse(house: House, workspace_id: int, row: Mapping[str, Any], reason: str, now: datetime) -> None:
    """The desk will not have it: it comes back to us, and who handed it over is told."""
    async with writing(house, workspace_id, now) as ledger:
        tx = ledger.tx
        if await cases.get_case(tx, row["id"]) is None:
            return  # Taken back meanwhile.
        await cases.set_tries(tx, row["id"], tries=row["tries"], next_at=None, problem=reason)
        await cases.set_state(tx, row["id"], state=CaseState.REFUSED.value, at=now)
        await _bring_back(ledger, row, CaseState.REFUSED, by=row["desk_name"], remark=reason)
        await _tell_about(tx, row)


async def _bring_back(ledger: Ledger, row: Mapping[str, Any], state: CaseState, *, by: str, remark: str) -> None:
    """A case that ended without being solved: the conversation is our move again, where it is still with the desk."""
    tx = ledger.tx
    conversation = await ledger.get(row["conversation_id"])
    ledger.add(conversation, CaseTold(case=row["id"], state=state, by=by, remark=remark))
    if conversation.facts.settled_as is SettledAs.HANDED_OVER:
        events = await ledger.list_written(conversation)
        waiting = list_waiting_without(events, row["id"])
        last = await trail.get_last_inbound(tx, conversation.id)
        if not waiting and last is not None:
            # All was answered when it was handed over: somebody must look all the same, at what they said last.
            waiting = (Unanswered(message=last.id, at=last.sent_at),)
        _wait_again(ledger, conversation, waiting)
    told = {m for m in (row["opened_by"], conversation.facts.owner) if m is not None}
    what = "would not take" if state is CaseState.REFUSED else "gave back"
    await add_alerts(
        tx,
        members=sorted(told),
        occasion="case",
        words=f"{row['desk_name']} {what} {conversation.row['person_name']}: {remark[:200]}",
        conversation_id=conversation.id,
        key=f"case:{row['id']}:{state.value}",
        now=ledger.now,
    )


async def _note_told(
    ledger: Ledger, row: Mapping[str, Any], state: CaseState, *, by: str, remark: str, at: datetime
) -> None:
    """What the desk says in the trail. A case that it takes up again is joined again; what they wrote after one was solved,
    before we heard of that, waits for us."""
    conversation = await ledger.get(row["conversation_id"])
    taken_up = state not in ENDED and CaseState(row["state"]) in ENDED
    follows = get_follow_until(row["last_passed_at"], row["follow_hours"]) if taken_up else None
    ledger.add(conversation, CaseTold(case=row["id"], state=state, by=by, remark=remark, until=follows))
    if state is CaseState.SOLVED and conversation.facts.settled_as is SettledAs.HANDED_OVER:
        events = await ledger.list_written(conversation)
        later = [w for w in list_waiting_without(events, row["id"]) if w.at > at]
        _wait_again(ledger, conversation, later)


def _wait_again(ledger: Ledger, conversation: Open, waiting: Sequence[Unanswered]) -> None:
    """It is with us again: these messages of theirs wait, since they came."""
    if waiting:
        first = waiting[0]
        ledger.add(conversation, Reopened(message=first.message, since=first.at, waiting=tuple(waiting)))


async def pass_on_due(house: House, workspace_id: int, now: datetime) -> int:
    """Queue what could be passed on now: what a dead worker left. How many cases."""
    async with house.db.transact(workspace_id) as tx:
        due = await cases.list_due(tx, now)
        for id in due:
            await _queue(house, tx, id, now)
    return len(due)


async def try_again(house: House, scope: Scope, case_id: int, now: datetime) -> None:
    """Pass on what waits for a case now. Raises NotFound, Impossible when nothing waits."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        row = await cases.get_case(tx, case_id)
        if row is None:
            raise NotFound("There is no such case in this workspace.")
        if row["next_at"] is None:
            raise Impossible("Nothing waits to be passed on.")
        await cases.set_tries(tx, case_id, tries=row["tries"], next_at=now, problem="Trying again")
        await _queue(house, tx, case_id, now)


# -- what the desk says ----------------------------------------------------------------------------------------


async def take_told(
    house: House, workspace_id: int, desk_id: int, body: bytes, headers: Mapping[str, str], now: datetime
) -> None:
    """Take in what a desk says about a case: its state, or a remark. The same delivered twice changes nothing.

    Raises NotFound for a desk or a case that is not here, NotAllowed when it is not signed by the desk, Unreadable.
    """
    async with house.db.transact(workspace_id) as tx:
        desk = await cases.get_desk(tx, desk_id)
    if desk is None:
        raise NotFound("There is no such desk.")
    kept = desk["hook_secret"], desk["hook_secret_before"], desk["hook_secret_until"]
    check_signature(open_taken(house, DESK_HOOK_SECRET, workspace_id, *kept, now), body, headers)
    external_id, told_id, state, by, remark, at = _read_told(body)
    async with writing(house, workspace_id, now) as ledger:
        tx = ledger.tx
        id = await cases.find_case(tx, desk_id, external_id)
        row = None if id is None else await cases.get_case(tx, id)
        if row is None:
            raise NotFound("There is no such case of this desk.")
        when = min(at, now)
        is_new = bool(remark) and await cases.add_remark(
            tx, row["id"], external_id=told_id, by_name=by, text=remark, at=when
        )
        moved = state.value != row["state"] and await cases.set_state(tx, row["id"], state=state.value, at=when)
        if moved and state is CaseState.RETURNED:
            await _bring_back(ledger, row, state, by=by, remark=remark)
        elif moved or is_new:
            await _note_told(ledger, row, state, by=by, remark=remark, at=when)
        await _tell_about(tx, row)


def _read_told(body: bytes) -> tuple[str, str, CaseState, str, str, datetime]:
    """{id, type 'case.updated', data {case, state, by, remark, at}} as values. Raises Unreadable."""
    try:
        told = json.loads(body)
        if told["type"] != "case.updated":
            raise Unreadable(f"A desk says ‘case.updated’, not ‘{str(told['type'])[:40]}’.")
        data = told["data"]
        state, at = CaseState(data["state"]), datetime.fromisoformat(data["at"])
        by, remark = str(data.get("by") or ""), str(data.get("remark") or "")
        ids = str(data["case"]), str(told["id"])
    except (ValueError, KeyError, TypeError) as error:
        raise Unreadable(f"It is not shaped as news of a case: {error!r}.") from error
    if state not in TOLD or at.tzinfo is None or "\x00" in by + remark:
        raise Unreadable("It is not shaped as news of a case: state, time or text cannot be used.")
    return *ids, state, by[:120], remark[:LONGEST_REMARK], at


# -- looking ---------------------------------------------------------------------------------------------------


async def list_cases(
    house: House,
    scope: Scope,
    *,
    states: Sequence[str] = (),
    desk_id: int | None = None,
    mine: bool = False,
    words: str = "",
    conversation_id: int | None = None,
    person_id: int | None = None,
) -> dict[str, Any]:
    """Cases through the filters, the latest change first, and how many stand at each state."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await cases.list_cases(
            tx,
            states=list(states) or None,
            desk_id=desk_id,
            opened_by=scope.member_id if mine else None,
            words=make_pattern(words) if words.strip() else None,
            conversation_id=conversation_id,
            person_id=person_id,
        )
        counts = await cases.count_states(tx)
    return {"cases": rows, "counts": {state.value: counts.get(state.value, 0) for state in CaseState}}


async def add_desk(house: House, workspace_id: int, values: Mapping[str, Any]) -> int:
    """Connect a desk: name, api_url, token, hook_secret, follow_hours. Its number."""
    async with house.db.transact(workspace_id) as tx:
        return await cases.add_desk(tx, **seal_row(house, workspace_id, "support_desk", values))


async def change_hook_secret(house: House, scope: Scope, id: int, now: datetime) -> tuple[str, datetime]:
    """A new secret for what the desk tells us, shown this once, and until when the one before is taken too."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    secret, until = make_hook_secret(), now + BOTH_FOR
    sealed = house.keys.seal(DESK_HOOK_SECRET, scope.workspace_id, secret)
    async with house.db.transact(scope.workspace_id) as tx:
        name = await cases.change_hook_secret(tx, id, sealed, until)
        if name is None:
            raise NotFound("There is no such desk in this workspace.")
        await note(tx, scope, Happening.SECRET_CHANGED, name, desk=id)
    return secret, until


async def set_desk(house: House, scope: Scope, id: int, *, name: str, follow_hours: int) -> None:
    """Its name, and how far apart messages still join one case. Raises Invalid, NotFound."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    said = " ".join(name.split())
    if not 1 <= len(said) <= 80:
        raise Invalid("A desk has a name of 1 to 80 characters.", "name")
    if not 0 <= follow_hours <= MOST_FOLLOW_HOURS:
        raise Invalid(f"The follow-on window is 0 to {MOST_FOLLOW_HOURS} hours long.", "follow_hours")
    async with house.db.transact(scope.workspace_id) as tx:
        if not await cases.set_desk(tx, id, name=said, follow_hours=follow_hours):
            raise NotFound("There is no such desk in this workspace.")
