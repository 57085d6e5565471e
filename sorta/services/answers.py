"""Answering: checked, committed with its act, queued for delivery. Used by the API."""

import uuid
from datetime import datetime

from sorta.core.answers import check_mode, get_front, get_obstacle, list_unseen, prepare_reply
from sorta.core.errors import Impossible, MovedOn
from sorta.core.permissions import Permission
from sorta.networks.abilities import TABLE
from sorta.services.house import House, Scope
from sorta.services.trail import Ledger, list_events
from sorta.store import desk, outbox, trail
from sorta.store.db import Conn

DELIVER = "deliver"


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
) -> int:
    """Commit a reply with its act and queue it; the act's number in the trail.

    `seen_seq` is the newest trail number its author has seen: raises MovedOn when something was said or
    decided since, Impossible when the network cannot do it, Invalid for the text.
    """
    scope.check(Permission.REPLY_PUBLICLY if public else Permission.REPLY_PRIVATELY)
    async with house.db.transact(scope.workspace_id) as conn:
        ledger = Ledger(house, conn, scope.workspace_id, now)
        conversation = await ledger.get(conversation_id)
        row = conversation.row
        abilities = TABLE[row["network"]]
        last = await trail.get_last_inbound(conn, scope.workspace_id, conversation_id)
        if last is None:
            raise Impossible("They have removed all they wrote; there is nothing left to answer.")
        check_mode(
            get_obstacle(
                abilities, public=public, conversation_public=row["public"], last_inbound_at=last.sent_at, now=now
            )
        )
        body = prepare_reply(abilities, text, last.handle, public=public)
        events = await list_events(conn, scope.workspace_id, conversation_id)
        unseen = list_unseen(events, seen_seq, scope.member_id)
        if unseen:
            raise MovedOn("The conversation moved on while you were writing. Look at what is new first.", unseen)
        message_id = await trail.next_message_id(conn)
        event = ledger.add(
            conversation, "replied", member_id=scope.member_id, message=message_id, public=public, settle=settle
        )
        ledger.add_message(
            conversation,
            {
                "id": message_id,
                "account_id": row["account_id"],
                "external_id": None,
                "inbound": False,
                "kind": "reply" if public else "private_message",
                "public": public,
                "identity_id": None,
                "member_id": scope.member_id,
                "body": body,
                "in_reply_to": last.external_id,
                "url": None,
                "sent_at": now.isoformat(),
                "arrived_at": now.isoformat(),
                "edited_at": None,
                "removed_at": None,
            },
        )
        await ledger.write()
        leaves_at = now + house.undo_for
        outgoing = {
            "workspace_id": scope.workspace_id,
            "account_id": row["account_id"],
            "conversation_id": conversation_id,
            "message_id": message_id,
            "key": uuid.uuid4(),
            "target": last.external_id,
            "recipient": last.identity_external_id,
            "now": now,
            "not_before": leaves_at,
        }
        id = await outbox.add_outgoing(conn, outgoing)
        await queue_delivery(house, conn, scope.workspace_id, id, leaves_at)
        await desk.delete_draft(conn, scope.workspace_id, scope.member_id, conversation_id)
    return event.seq


async def queue_delivery(house: House, conn: Conn, workspace_id: int, id: int, at: datetime) -> None:
    """Ask the worker to deliver one reply at `at`, in the transaction of `conn`."""
    await house.queue.add_job(conn, DELIVER, once=f"outbox:{id}", at=at, workspace_id=workspace_id, outbox_id=id)


def describe_front(network: str, handle: str) -> str:
    """What a public reply on this network begins with, handle in front, or nothing."""
    return get_front(TABLE[network], handle, public=True)
