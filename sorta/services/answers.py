"""Answering: checked, committed with its act, queued for delivery. Used by the API."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import TypeAdapter

from sorta.core.answers import (
    Extras,
    check_mode,
    get_front,
    get_obstacle,
    get_sender_obstacle,
    get_sign_off,
    list_unseen,
    prepare_reply,
    say_disconnected,
)
from sorta.core.errors import Impossible, MovedOn, NotFound, TooLate
from sorta.core.events import Replied
from sorta.core.permissions import Permission
from sorta.core.spells import get_handling
from sorta.core.texts import fill_typed
from sorta.networks.abilities import TABLE
from sorta.services.attachments import hold
from sorta.services.auto_answers import call_back
from sorta.services.consent import check_needs_nobody
from sorta.services.house import PRESENT_FOR, House, Scope
from sorta.services.links import shorten
from sorta.services.reads import Reads
from sorta.services.texts import get_values, note_use
from sorta.services.trail import Ledger, Open, writing
from sorta.store import accounts, desk, listening, outbox, people, trail
from sorta.store.db import Tx
from sorta.store.live import tell

DELIVER = "deliver"


EXTRAS = TypeAdapter(Extras)


async def reply(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    public: bool,
    text: str,
    seen_seq: int,
    settle: bool,
    now: datetime,
    extras: Extras = Extras(),
) -> int:
    """Commit a reply with its act and queue it; the act's number in the trail.

    `seen_seq` is the newest trail number its author has seen: raises MovedOn when something was said or
    decided since, Impossible when the network cannot do it, Invalid for the text, NeedsApproval when it may not go
    out without somebody's consent.
    """
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        return await add_reply(
            ledger, conversation, scope, public=public, text=text, seen_seq=seen_seq, settle=settle, extras=extras
        )


async def add_reply(
    ledger: Ledger,
    conversation: Open,
    scope: Scope,
    *,
    public: bool,
    text: str,
    seen_seq: int,
    settle: bool,
    extras: Extras,
) -> int:
    """As `reply`, in the ledger's transaction."""
    check_may_reply(scope, public=public)
    checked = await check_free_reply(
        ledger, conversation, scope, public=public, text=text, seen_seq=seen_seq, extras=extras
    )
    seq = await commit_reply(
        ledger,
        conversation,
        checked,
        author_id=scope.member_id,
        settle=settle,
        extras=extras,
        leaves_at=ledger.now + ledger.house.undo_for,
    )
    mode = "public" if public else "private"
    await desk.delete_draft(ledger.tx, scope.member_id, conversation.id, mode)
    await tell(ledger.tx, "presence", member=scope.member_id, conversation=conversation.id, doing="answered")
    return seq


def check_may_reply(scope: Scope, *, public: bool) -> None:
    """Raise NotAllowed unless the member's role may answer so."""
    scope.check(Permission.REPLY_PUBLICLY if public else Permission.REPLY_PRIVATELY)


@dataclass(frozen=True, kw_only=True)
class Checked:
    """A reply that may go out as it stands: the text with what the network wants in front, the account that says it, and
    what it answers."""

    body: str
    public: bool
    account_id: int
    last: trail.LastInbound


async def check_reply(
    ledger: Ledger,
    conversation: Open,
    *,
    author_id: int,
    public: bool,
    text: str,
    seen_seq: int,
    extras: Extras = Extras(),
) -> Checked:
    """Check a reply against the network and against what its author has seen.

    Raises Impossible, Invalid, MovedOn; TooLate when somebody else's waits for approval.
    """
    tx, row = ledger.tx, conversation.row
    abilities = TABLE[row["network"]]
    last = await trail.get_last_inbound(tx, conversation.id)
    if last is None:
        raise Impossible("They have removed all they wrote; there is nothing left to answer.")
    check_mode(
        get_obstacle(
            abilities,
            public=public,
            conversation_public=row["public"],
            last_inbound_at=last.sent_at,
            now=ledger.now,
            has_public_reply=await has_public_reply(tx, row),
        )
    )
    account_id = await _check_sender(tx, row, extras.account, public=public)
    connected = {a.id: a for a in await ledger.reads.get(accounts.list_accounts)}
    sender, name = connected[account_id], connected[row["account_id"]].name
    if sender.disconnected_at is not None:
        raise Impossible(say_disconnected(sender.name, abilities.name))
    filled = fill_typed(text, await get_values(ledger.reads, row["person_name"], name))
    said = await shorten(ledger.house, tx, filled, account_id=account_id, member_id=author_id, now=ledger.now)
    body = prepare_reply(
        abilities,
        said,
        last.handle,
        public=public,
        sign_off=await find_sign_off(ledger.reads, sender, author_id),
        has_files=bool(extras.attachments),
    )
    events = await ledger.list_written(conversation)
    unseen = list_unseen(events, seen_seq, author_id)
    if unseen:
        raise MovedOn("The conversation moved on while you were writing. Look at what is new first.", unseen)
    return Checked(body=body, public=public, account_id=account_id, last=last)


async def has_public_reply(tx: Tx, row: Mapping[str, Any]) -> bool:
    """Whether a public reply of ours stands in the conversation of `row` or is on its way; asked only where the network minds."""
    return TABLE[row["network"]].one_public_reply and await trail.has_public_reply(tx, row["id"])


async def find_sign_off(reads: Reads, account: accounts.Account, author_id: int | None) -> str:
    """What closes an answer of an account by a member, or by a rule."""
    if not account.sign_off:
        return ""
    return say_sign_off(account, await reads.get(people.list_members), author_id)


def say_sign_off(account: accounts.Account, members: Sequence[people.MemberRow], author_id: int | None) -> str:
    """The same of members that are known."""
    author = next((m for m in members if m.id == author_id), None)
    name, initials = (author.name, author.initials) if author else (None, None)
    return get_sign_off(TABLE[account.network], account.sign_off, name=name, initials=initials)


async def check_free_reply(
    ledger: Ledger,
    conversation: Open,
    scope: Scope,
    *,
    public: bool,
    text: str,
    seen_seq: int,
    extras: Extras = Extras(),
) -> Checked:
    """As `check_reply`, for an answer of the member's own that nobody is to consent to: raises NeedsApproval too."""
    checked = await check_reply(
        ledger,
        conversation,
        author_id=scope.member_id,
        public=public,
        text=text,
        seen_seq=seen_seq,
        extras=extras,
    )
    await check_needs_nobody(
        ledger.reads, conversation, scope, public=public, text=checked.body, account=extras.account
    )
    return checked


async def _check_sender(tx: Tx, row: Mapping[str, Any], account: int | None, *, public: bool) -> int:
    """The account that answers. Raises Impossible when it cannot here, NotFound when there is no such."""
    spoken_to: int = row["account_id"]
    if account is None or account == spoken_to:
        return spoken_to
    other = await accounts.get_account(tx, account)
    if other is None:
        raise NotFound("There is no such account in this workspace.")
    check_mode(get_sender_obstacle(public=public, same_network=other.network == row["network"]))
    return account


async def commit_reply(
    ledger: Ledger,
    conversation: Open,
    checked: Checked,
    *,
    author_id: int,
    settle: bool,
    extras: Extras,
    leaves_at: datetime,
    proposal: int | None = None,
    approved_by: int | None = None,
) -> int:
    """Add a checked reply with its act to the ledger, to be queued once that is written; the act's number in the trail.

    `proposal` is the one that was approved, `approved_by` who gave the last consent. Raises TooLate while another answer waits for approval.
    """
    if conversation.facts.proposal_waiting and proposal is None:
        raise TooLate("An answer waits for approval here. Withdraw it first, or let it be approved.")
    await call_back(ledger, conversation, "a member answered")
    tx, last = ledger.tx, checked.last
    message_id = await trail.next_message_id(tx)
    took: float | None = None
    if proposal is None:
        present = ledger.now - PRESENT_FOR
        opened_at = await desk.get_open_since(tx, author_id, conversation.id, present)
        if opened_at is not None:
            took = get_handling(opened_at, ledger.now)
    own = checked.account_id == conversation.row["account_id"]
    said = Replied(
        message=message_id,
        public=checked.public,
        settle=settle,
        account=None if own else checked.account_id,
        took=took,
        proposal=proposal,
        approved_by=None if proposal is None else approved_by,
    )
    event = ledger.add(conversation, said, member_id=author_id)
    ledger.add_message(
        conversation,
        make_outgoing_message(
            message_id,
            conversation.row,
            body=checked.body,
            in_reply_to=last.external_id,
            now=ledger.now,
            public=checked.public,
            member_id=author_id,
            account_id=checked.account_id,
            attachments=await hold(tx, conversation.row, extras.attachments, ledger.now),
        ),
    )
    now = ledger.now

    async def send() -> None:
        if extras.saved_reply is not None:
            await note_use(
                tx,
                extras.saved_reply,
                text=checked.body,
                message_id=message_id,
                answered_id=last.id,
                member_id=author_id,
                now=now,
            )
        if extras.written is not None:
            own = {
                "body": extras.written[0],
                "language": extras.written[1],
                "what": "written",
                "rough": False,
                "engine": "",
            }
            await listening.add_translation(tx, message_id, {**own, "member_id": author_id, "now": now})
        await queue_outgoing(
            ledger,
            conversation,
            message_id,
            what="reply",
            target=last.external_id,
            recipient=last.identity_external_id,
            member_id=author_id,
            now=now,
            leaves_at=leaves_at,
            account_id=checked.account_id,
        )

    ledger.after(send)
    return event.seq


def make_outgoing_message(
    id: int,
    row: Mapping[str, Any],
    *,
    body: str,
    in_reply_to: str,
    now: datetime,
    public: bool | None = None,
    member_id: int | None = None,
    rule_id: int | None = None,
    attachments: Sequence[Mapping[str, Any]] = (),
    account_id: int | None = None,
) -> dict[str, Any]:
    """A message of ours in the conversation of `row`, by a member or by a rule; as public as the conversation unless told."""
    is_public = bool(row["public"]) if public is None else public
    return {
        "id": id,
        "account_id": account_id or row["account_id"],
        "external_id": None,
        "inbound": False,
        "kind": "reply" if is_public else "private_message",
        "public": is_public,
        "identity_id": None,
        "member_id": member_id,
        "rule_id": rule_id,
        "body": body,
        "in_reply_to": in_reply_to,
        "url": None,
        "sent_at": now.isoformat(),
        "arrived_at": now.isoformat(),
        "edited_at": None,
        "removed_at": None,
        "language": None,
        "sentiment": None,
        "reads_as": None,
        "evidence": None,
        "rating": None,
        "attachments": list(attachments),
    }


async def queue_outgoing(
    ledger: Ledger,
    conversation: Open,
    message_id: int,
    *,
    what: str,
    target: str,
    recipient: str,
    member_id: int | None,
    now: datetime,
    leaves_at: datetime,
    account_id: int | None = None,
) -> None:
    """Put a reply or an act into the outbox, in the ledger's transaction, to leave at `leaves_at`, through the account
    that was spoken to unless another is named.

    `target` is the network's name for what it is done to, `recipient` the person's there.
    """
    outgoing = {
        "workspace_id": ledger.workspace_id,
        "account_id": account_id or conversation.row["account_id"],
        "conversation_id": conversation.id,
        "message_id": message_id,
        "key": uuid.uuid4(),
        "target": target,
        "recipient": recipient,
        "now": now,
        "not_before": leaves_at,
        "what": what,
        "member_id": member_id,
    }
    id = await outbox.add_outgoing(ledger.tx, outgoing)
    await queue_delivery(ledger.house, ledger.tx, id, leaves_at, is_first=True)


async def queue_delivery(house: House, tx: Tx, id: int, at: datetime, *, is_first: bool = False) -> None:
    """Ask the worker to deliver one reply at `at`, in the transaction of `conn`; `is_first` for one that this transaction has made."""
    once = f"outbox:{id}"
    await house.queue.add_job(tx, DELIVER, once, at, is_first=is_first, workspace_id=tx.workspace_id, outbox_id=id)


def describe_front(network: str, handle: str) -> str:
    """What a public reply on this network begins with, handle in front, or nothing."""
    return get_front(TABLE[network], handle, public=True)
