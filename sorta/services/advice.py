"""Outside advice: asked by mail, waited for, and what came back. Used by acts, the API and the worker.

The question is written with the act and its letter sent by the worker's clock under a Message-ID of its own, so that one
sent twice is known as one. What comes back is kept in the margin and never goes anywhere else.
"""

import base64
import binascii
import secrets
import string
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from sorta.core.advice import (
    LONGEST_NAME,
    TOKEN_LENGTH,
    Said,
    check_address,
    check_allowed,
    check_domains,
    check_question,
    check_wait,
    find_question,
    make_key,
    make_reply_address,
    write_request,
)
from sorta.core.errors import Impossible, NotFound, TooLate, Unreadable
from sorta.core.events import AdviceAsked, AdviceGiven, AdviceOverdue, AdviceRefused, AdviceWithdrawn
from sorta.core.letters import LetterRead, read_letter, thread
from sorta.core.permissions import Permission
from sorta.core.ports import Letter
from sorta.core.retry import GiveUp, TryAgain
from sorta.core.security import Happening
from sorta.networks.abilities import TABLE
from sorta.services.alerts import SEND_LEASE, add_alerts
from sorta.services.consent import check_words
from sorta.services.house import House, Scope
from sorta.services.security_log import note
from sorta.services.sending import Sent, attempt
from sorta.services.signatures import check_signature
from sorta.services.trail import Ledger, Open, writing
from sorta.store import advice as store
from sorta.store import people, trail
from sorta.store.db import Tx
from sorta.store.live import tell

_LETTERS = string.ascii_lowercase + string.digits


async def ask(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    to_address: str,
    to_name: str,
    question: str,
    wait_until: datetime,
    now: datetime,
) -> int:
    """Ask somebody outside; the act's number in the trail.

    Raises Invalid for the address, the question or the time, NeedsApproval for words that need consent, Impossible when this
    installation sends no mail or takes none in.
    """
    scope.check(Permission.ASK_OUTSIDE)
    address, said, until = check_address(to_address), check_question(question), check_wait(wait_until, now)
    name = " ".join(to_name.split())[:LONGEST_NAME] or address
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        if not can_ask(house):
            raise Impossible("This installation sends no mail, or takes no answers in; nobody can be asked so.")
        check_allowed(address, await store.list_domains(ledger.tx))
        await check_words(
            ledger.reads, conversation, scope, text=f"{said}\n{name}", what="A question to somebody outside"
        )
        id = await store.add_advice(
            ledger.tx,
            {
                "conversation_id": conversation_id,
                "asked_by": scope.member_id,
                "to_address": address,
                "to_name": name,
                "question": said,
                "token": "".join(secrets.choice(_LETTERS) for _ in range(TOKEN_LENGTH)),
                "now": now,
                "wait_until": until,
                "next_at": now + house.undo_for,
            },
        )
        event = ledger.add(conversation, AdviceAsked(advice=id, to=name), member_id=scope.member_id)
    return event.seq


def can_ask(house: House) -> bool:
    """Whether letters go out from here and answers come in."""
    return house.post is not None and house.mail_secret is not None


async def take_back(tx: Tx, id: int) -> None:
    """Undo a question that has not left. Raises TooLate when it has."""
    if not await store.delete_unsent(tx, id):
        raise TooLate("The question has left already. You can stop waiting for the answer.")


async def stop_waiting(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Wait for this answer no longer; one that comes all the same is kept. Raises NotFound, TooLate."""
    scope.check(Permission.SORT)
    async with writing(house, scope.workspace_id, now) as ledger:
        row = await store.get_advice(ledger.tx, id)
        if row is None:
            raise NotFound("There is no such question in this workspace.")
        if row["state"] not in ("sending", "asked"):
            raise TooLate("Nobody waits for it any more.")
        await _end(ledger, row, "withdrawn", member_id=scope.member_id)


#: How a question can end, and what the trail says of it.
_ENDS: Mapping[str, type[AdviceGiven | AdviceOverdue | AdviceWithdrawn | AdviceRefused]] = {
    "given": AdviceGiven,
    "overdue": AdviceOverdue,
    "withdrawn": AdviceWithdrawn,
    "refused": AdviceRefused,
}


async def _end(
    ledger: Ledger, row: Mapping[str, Any], state: str, *, member_id: int | None = None, problem: str | None = None
) -> Open:
    """It is waited for no longer, for one reason or another."""
    conversation = await ledger.get(row["conversation_id"])
    ledger.add(conversation, _ENDS[state](advice=row["id"], to=row["to_name"]), member_id=member_id)
    await store.set_advice(ledger.tx, row["id"], state=state, tries=row["tries"], problem=problem)
    return conversation


async def _alert(ledger: Ledger, row: Mapping[str, Any], conversation: Open, words: str, key: str) -> None:
    owner = conversation.facts.owner
    await add_alerts(
        ledger.tx,
        members=sorted({row["asked_by"], *([owner] if owner else [])}),
        occasion="advice",
        words=words,
        conversation_id=conversation.id,
        key=f"advice:{row['id']}:{key}",
        now=ledger.now,
    )


async def send_due(house: House, workspace_id: int, now: datetime) -> int:
    """Send the questions whose time has come, and end those waited for long enough; how many. Run by the worker's tick."""
    async with house.db.transact(workspace_id) as tx:
        sendable = await store.list_sendable(tx, now)
        overdue = await store.list_overdue(tx, now)
    for id in sendable:
        await _send(house, workspace_id, id, now)
    for id in overdue:
        async with writing(house, workspace_id, now) as ledger:
            row = await store.get_advice(ledger.tx, id)
            if row is None or row["state"] not in ("sending", "asked"):
                continue
            conversation = await _end(ledger, row, "overdue", problem=row["problem"])
            words = f"{row['to_name']} has not answered about {conversation.row['person_name']}."
            await _alert(ledger, row, conversation, words, "overdue")
    return len(sendable) + len(overdue)


async def _send(house: House, workspace_id: int, id: int, now: datetime) -> None:
    """Send one: claimed, sent, recorded. While the mail server is asked nobody else sends it; a worker that died in between
    loses it after a minute, and the letter goes again under the same Message-ID."""
    post = house.post
    assert post is not None
    until = now + SEND_LEASE
    async with house.db.transact(workspace_id) as tx:
        claimed = await store.get_advice(tx, id)
        if claimed is None or claimed["state"] != "sending" or claimed["next_at"] > now:
            return
        # Counted before it is sent: what may be outside is not taken back any more.
        await store.set_advice(tx, id, state="sending", next_at=until, tries=claimed["tries"] + 1)

    async def send() -> None:
        async with house.db.transact(workspace_id) as tx:
            letter = await _write(house, tx, claimed)
        await post.send(letter)

    ending = await attempt(send, "question", id, tries=claimed["tries"] + 1, since=claimed["asked_at"], now=now)
    async with writing(house, workspace_id, now) as ledger:
        tx = ledger.tx
        row = await store.get_advice(tx, id)
        if row is None or row["state"] != "sending" or row["next_at"] != until:
            return  # Taken back, or sent by somebody else meanwhile.
        match ending:
            case Sent():
                await store.set_advice(tx, id, state="asked", tries=row["tries"])
            case TryAgain():
                await store.set_advice(
                    tx,
                    id,
                    state="sending",
                    next_at=ending.at,
                    tries=row["tries"],
                    problem=ending.reason,
                )
            case GiveUp():
                conversation = await _end(ledger, row, "refused", problem=ending.reason)
                how = "was not taken" if ending.is_refused else "could not be sent"
                words = f"The question to {row['to_name']} {how}: {ending.reason}"
                await _alert(ledger, row, conversation, words, "refused")
                return
        await tell(tx, "conversations", ids=[row["conversation_id"]])


async def _write(house: House, tx: Tx, row: Mapping[str, Any]) -> Letter:
    """The letter, made anew for each try: what was said meanwhile is in it."""
    assert house.post is not None
    conversation = await trail.get_conversation(tx, row["conversation_id"])
    assert conversation is not None
    members = await people.list_names(tx)
    workspace = await people.get_workspace(tx)
    assert workspace is not None
    said = [
        Said(
            by=m.author_name or conversation["person_name"] if m.inbound else members.get(m.member_id or 0, "Us"),
            ours=not m.inbound,
            at=m.sent_at,
            text=m.body,
        )
        for m in await trail.list_messages(tx, row["conversation_id"])
        if m.delivery not in ("withdrawn", "refused")
    ]
    asker = members.get(row["asked_by"], "Somebody")
    subject, text = write_request(
        workspace=workspace["name"],
        asker=asker,
        person=conversation["person_name"],
        network=TABLE[conversation["network"]].name,
        public=conversation["public"],
        question=row["question"],
        said=said,
        wait_until=row["wait_until"],
        zone=ZoneInfo(workspace["time_zone"]),
    )
    before = await store.get_thread(tx, row["conversation_id"], row["to_address"])
    return Letter(
        key=make_key(tx.workspace_id, row["token"]),
        to=row["to_address"],
        to_name=row["to_name"],
        subject=subject,
        text=text,
        sender_name=f"{asker}, {workspace['name']}",
        reply_to=make_reply_address(house.post.sender, tx.workspace_id, row["token"]),
        references=thread(before.message_id, before.answers) if before else None,
        by_program=False,
    )


# -- what comes back -------------------------------------------------------------------------------------------


async def take_letter(house: House, body: bytes, headers: Mapping[str, str], now: datetime) -> None:
    """Take in one letter that the mail gateway passes on, signed by the Standard Webhooks scheme, in base64: the scheme
    signs text, and a letter may hold any byte.

    Raises NotAllowed unless it is signed for us, Unreadable when there is nothing in it, NotFound when it answers no
    question: the gateway then gives it back to its sender.
    """
    if house.mail_secret is None:
        raise NotFound("No mail is taken in here.")
    check_signature([house.mail_secret], body, headers)
    try:
        letter = await house.workshop.do(_read_letter, body)
    except binascii.Error as error:
        raise Unreadable(f"The letter is not in base64: {error}.") from error
    question = find_question(letter.recipients, letter.answers)
    if question is None:
        raise NotFound("The letter answers no question of ours.")
    workspace_id, token = question
    async with writing(house, workspace_id, now) as ledger:
        id = await store.get_advice_by_token(ledger.tx, token)
        row = await store.get_advice(ledger.tx, id) if id is not None else None
        if row is None:
            raise NotFound("The letter answers no question of ours.")
        await _keep(ledger, row, letter)


def _read_letter(body: bytes) -> LetterRead:
    return read_letter(base64.b64decode(body, validate=True))


async def _keep(ledger: Ledger, row: Mapping[str, Any], letter: LetterRead) -> None:
    tx, now = ledger.tx, ledger.now
    is_new = await store.add_answer(
        tx,
        {
            "advice_id": row["id"],
            # One without a name of its own is known by when it came.
            "message_id": letter.message_id or f"<none-{now.timestamp()}>",
            "sender": letter.sender,
            "sender_name": letter.sender_name,
            "subject": letter.subject,
            "own": letter.own,
            "quoted": letter.quoted,
            "automatic": letter.automatic,
            "answers": list(letter.answers),
            "at": now,
        },
    )
    if not is_new:
        return
    if letter.automatic is None and row["state"] in ("sending", "asked"):
        conversation = await _end(ledger, row, "given")
    else:
        if letter.automatic is None and row["state"] != "given":
            await store.set_advice(tx, row["id"], state="given", tries=row["tries"])
        conversation = await ledger.get(row["conversation_id"])
        await tell(tx, "conversations", ids=[conversation.id])
    about = conversation.row["person_name"]
    words = (
        f"{row['to_name']} answered about {about}."
        if letter.automatic is None
        else f"From {row['to_name']} came {letter.automatic} about {about}."
    )
    await _alert(ledger, row, conversation, words, letter.message_id)


async def list_domains(house: House, scope: Scope) -> list[str]:
    """The mail domains at which people outside can be asked."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.list_domains(tx)


async def set_domains(house: House, scope: Scope, domains: Sequence[str]) -> None:
    """People can be asked at these mail domains from now on. Raises Invalid."""
    scope.check(Permission.MANAGE_RULES)
    said = check_domains(domains)
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_domains(tx, said)
        await note(tx, scope, Happening.MAIL_DOMAINS, ", ".join(said) or "nobody", domains=said)


async def list_addresses(house: House, scope: Scope) -> list[dict[str, Any]]:
    """Who was asked before, the latest first."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.list_addresses(tx)


async def list_of(tx: Tx, conversation_id: int) -> list[dict[str, Any]]:
    """The questions of a conversation; each answer says whether it came from another address than was asked."""
    rows = await store.list_advice(tx, conversation_id)
    for row in rows:
        for answer in row["answers"]:
            answer["other_sender"] = answer["sender"] != row["to_address"].lower()
    return rows
