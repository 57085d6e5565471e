"""Conversations out of the house and in again, as ActivityStreams collections. Used by the API."""

import json
from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import dataclass, field, fields
from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid, Unreadable
from sorta.core.facts import SettledAs
from sorta.core.permissions import Permission
from sorta.core.ports import (
    AccountRef,
    AttachmentSeen,
    EditSeen,
    IdentitySeen,
    Kind,
    MessageSeen,
    PostSeen,
    RemovalSeen,
    Seen,
)
from sorta.core.reports import Chosen
from sorta.core.security import Happening
from sorta.core.threading import PRIVATE_KEY
from sorta.networks.abilities import TABLE
from sorta.networks.activitystreams_writing import (
    CONTEXT,
    Written,
    list_collections,
    read_collection,
    read_written,
    write_collection,
    write_edit,
    write_message,
    write_removal,
)
from sorta.services.accounts import get_account
from sorta.services.house import House, Scope
from sorta.services.ingest import History, take_in
from sorta.services.intake import AT_ONCE as MESSAGES_AT_ONCE
from sorta.services.intake import read_activity
from sorta.services.report_export import find_behind
from sorta.services.reports import Ask
from sorta.services.security_log import note
from sorta.store import streams as store
from sorta.store.accounts import Account
from sorta.store.db import Unstorable

#: How many conversations are written at once, and how many one import may hold.
AT_ONCE = 100
MOST_CONVERSATIONS = 500
#: Of what cannot be brought in, so much is told one by one.
MOST_TOLD = 100


async def export(house: House, scope: Scope, ask: Ask, chosen: Chosen, now: datetime) -> AsyncIterator[bytes]:
    """The conversations behind a figure of a report, as one collection of collections, some at a time. Raises NotAllowed."""
    return _write_parts(house, scope, await find_behind(house, scope, ask, chosen, now))


async def _write_parts(house: House, scope: Scope, ids: Sequence[int]) -> AsyncIterator[bytes]:
    head = {"@context": CONTEXT, "type": "OrderedCollection", "totalItems": len(ids)}
    yield f'{json.dumps(head)[:-1]}, "orderedItems": ['.encode()
    begun = False
    for at in range(0, len(ids), AT_ONCE):
        some = ids[at : at + AT_ONCE]
        async with house.db.transact(scope.workspace_id) as tx:
            rows = await store.list_conversations(tx, some)
            messages = await store.list_messages(tx, some)
        written = await house.reporting.do(_write_all, rows, messages)
        if written:
            yield (",\n" if begun else "\n").encode() + written
            begun = True
    yield b"\n]}\n"


def _write_all(rows: Sequence[Mapping[str, Any]], messages: Sequence[Mapping[str, Any]]) -> bytes:
    by_conversation: dict[int, list[Mapping[str, Any]]] = {}
    for message in messages:
        by_conversation.setdefault(message["conversation_id"], []).append(message)
    found = [write_collection(write_conversation(row, by_conversation.get(row["id"], []))) for row in rows]
    return ",\n".join(json.dumps(one, ensure_ascii=False) for one in found).encode("utf-8", "replace")


def write_conversation(row: Mapping[str, Any], messages: Sequence[Mapping[str, Any]]) -> Written:
    """A conversation as it is written. What was taken back outside is told as taken back, without what it said."""
    account = AccountRef(external_id=row["account"], handle=row["own_handle"], api_url="", token="")
    post = None
    if row["post"] is not None and (row["post_title"] or row["post_body"]):
        author = row["post_author"]
        post = PostSeen(
            external_id=row["post"],
            title=row["post_title"],
            body=row["post_body"],
            url=row["post_url"],
            published_at=row["post_published_at"],
            # Of whom else published it no more is kept than the name.
            author=None if author is None else IdentitySeen(external_id=row["post"], handle=author, name=author),
            is_ad=row["post_is_ad"],
        )
    activities: list[Any] = []
    for message in messages:
        actor = message["author"] if message["inbound"] else row["account"]
        if message["removed_at"] is not None:
            gone = RemovalSeen(external_id=message["external_id"], at=message["removed_at"])
            activities.append(write_removal(gone, actor or row["account"]))
            continue
        activities.append(write_message(_make_seen(row, message, post), account))
        if message["edited_at"] is not None:
            edit = EditSeen(external_id=message["external_id"], body=message["body"], at=message["edited_at"])
            activities.append(write_edit(edit, actor or row["account"]))
    return Written(
        id=f"urn:sorta:conversation:{row['id']}",
        network=row["network"],
        account=row["account"],
        activities=activities,
        settled_as=None if row["settled_as"] is None else SettledAs(row["settled_as"]),
    )


def _make_seen(row: Mapping[str, Any], message: Mapping[str, Any], post: PostSeen | None) -> MessageSeen:
    """A kept message as it was told."""
    whose = message if message["inbound"] and message["author"] is not None else {**row, "author": row["partner"]}
    private = row["thread_key"] == PRIVATE_KEY
    root = message["in_reply_to"] or message["external_id"] if private else row["thread_key"].partition(":")[2]
    # In public something of ours that answers nothing would be a post.
    answers = message["in_reply_to"] or (root if message["public"] and not message["inbound"] else None)
    return MessageSeen(
        external_id=message["external_id"],
        kind=Kind(message["kind"]),
        public=message["public"],
        by_us=not message["inbound"],
        partner=IdentitySeen(
            external_id=whose["author"],
            handle=whose["handle"],
            name=whose["name"],
            reach=whose["reach"],
            automatic=whose["automatic"],
        ),
        body=message["body"],
        sent_at=message["sent_at"],
        thread_root=root,
        in_reply_to=answers,
        post=post if message["public"] and root != message["external_id"] else None,
        url=message["url"],
        rating=message["rating"],
        attachments=tuple(_read_attachment(a) for a in message["attachments"]),
    )


def _read_attachment(kept: Mapping[str, Any]) -> AttachmentSeen:
    # What we sent ourselves is kept with its number and size, which are this installation's own.
    return AttachmentSeen(**{f.name: kept[f.name] for f in fields(AttachmentSeen) if f.name in kept})


@dataclass(frozen=True)
class LeftOut:
    """What could not be brought in: where it stands in the file, and why."""

    where: str
    why: str


@dataclass
class Brought:
    """What came of an import: conversations that were read and that are new here, messages that are new and that were known, and what
    could not be brought in."""

    conversations: int = 0
    new_conversations: int = 0
    messages: int = 0
    known: int = 0
    left_out: list[LeftOut] = field(default_factory=list)
    more_left_out: int = 0

    def leave_out(self, where: str, why: str) -> None:
        """One more thing that could not be brought in."""
        if len(self.left_out) < MOST_TOLD:
            self.left_out.append(LeftOut(where, why))
        else:
            self.more_left_out += 1


@dataclass(frozen=True, kw_only=True)
class _Read:
    """A conversation of a file whose activities have been read."""

    where: str
    account: Account
    seens: Sequence[Seen]
    settled_as: SettledAs | None


async def bring_in(house: House, scope: Scope, document: Any, now: datetime, *, settle: bool) -> Brought:
    """Take in the conversations of a file, onto the accounts that they were had on; what is known changes nothing. What is new comes
    as history: no rule reads it. It is settled as the file says, and with `settle` also where it does not. Raises Invalid, NotAllowed.
    """
    scope.check(Permission.MANAGE_ACCOUNTS)
    found = Brought()
    try:
        collections = list_collections(document)
    except Unreadable as error:
        raise Invalid(error.message, "document") from error
    if len(collections) > MOST_CONVERSATIONS:
        raise Invalid(f"At most {MOST_CONVERSATIONS} conversations at once; send the rest after them.", "document")
    written: list[tuple[str, Written]] = []
    for n, collection in enumerate(collections, 1):
        try:
            one = read_collection(collection)
            written.append((one.id or f"conversation {n}", one))
        except Unreadable as error:
            found.leave_out(f"conversation {n}", error.message)
    accounts = await _find_accounts(house, scope, [one for _, one in written])
    read = await house.workshop.do(_read_all, house, accounts, written, found)
    for whole in read:
        found.conversations += 1
        history = History(settled_as=whole.settled_as or (SettledAs.NO_REPLY_NEEDED if settle else None))
        said = sum(isinstance(seen, MessageSeen) for seen in whole.seens)
        fresh = 0
        try:
            for at in range(0, len(whole.seens), MESSAGES_AT_ONCE):
                piece = whole.seens[at : at + MESSAGES_AT_ONCE]
                fresh += await take_in(house, whole.account, piece, now, history)
        except (Unreadable, Unstorable) as error:
            found.leave_out(whole.where, f"It could not be stored: {error}")
        found.messages += fresh
        found.known += said - fresh
        found.new_conversations += len(history.begun)
    if found.messages:
        async with house.db.transact(scope.workspace_id) as tx:
            what = f"{found.messages} messages of {found.conversations} conversations"
            await note(tx, scope, Happening.IMPORTED, what)
    return found


async def _find_accounts(house: House, scope: Scope, written: Sequence[Written]) -> dict[tuple[str, str], Account]:
    """The accounts of a file that are connected here."""
    named = sorted({(one.network, one.account) for one in written})
    async with house.db.transact(scope.workspace_id) as tx:
        ids = await store.find_accounts(tx, named)
    return {key: await get_account(house, scope.workspace_id, id) for key, id in ids.items()}


def _read_all(
    house: House,
    accounts: Mapping[tuple[str, str], Account],
    written: Sequence[tuple[str, Written]],
    found: Brought,
) -> list[_Read]:
    read = []
    for where, one in written:
        account = accounts.get((one.network, one.account))
        if account is None:
            network = TABLE[one.network].name if one.network in TABLE else one.network
            found.leave_out(where, f"The account {one.account} on {network} is not connected here. Connect it first.")
            continue
        seens: list[Seen] = []
        for n, activity in enumerate(one.activities, 1):
            try:
                seens.append(read_activity(house, account, activity, read_written))
            except Unreadable as error:
                found.leave_out(f"{where}, activity {n}", error.message)
        settled = None if one.settled_as is SettledAs.REMOVED else one.settled_as
        read.append(_Read(where=where, account=account, seens=seens, settled_as=settled))
    return read
