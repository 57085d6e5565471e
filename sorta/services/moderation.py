"""Acts on networks: like, hide, delete, repost, block. They go the way of replies: committed, queued, done once."""

from datetime import datetime
from typing import Any

from sorta.core.answers import say_disconnected
from sorta.core.errors import Impossible, NotFound, TooLate
from sorta.core.events import Moderated, ModerationDone, Removed
from sorta.core.moderation import get_moderation_obstacle
from sorta.core.permissions import Permission
from sorta.core.ports import OPPOSITES, Moderation
from sorta.networks.abilities import TABLE
from sorta.services.answers import queue_outgoing
from sorta.services.auto_answers import call_back
from sorta.services.house import House, Scope
from sorta.services.trail import Ledger, Open, writing
from sorta.store import accounts, outbox, persons, sorting
from sorta.store.outbox import Claimed


async def moderate(house: House, scope: Scope, message_id: int, *, what: Moderation, now: datetime) -> tuple[int, int]:
    """Ask the network for one act on a message or its author; (conversation, number in the trail).

    It leaves when the time for undoing is over. Raises Impossible with the network's limits, NotFound,
    TooLate when it is so already or somebody has asked for it.
    """
    scope.check(Permission.MODERATE)
    async with writing(house, scope.workspace_id, now) as ledger:
        tx = ledger.tx
        message = await sorting.get_message_target(tx, message_id)
        if message is None:
            raise NotFound("There is no such message in this workspace.")
        conversation = await ledger.get(message["conversation_id"])
        account = await accounts.get_account(tx, conversation.row["account_id"])
        obstacle = say_gone(account) or get_obstacle(conversation.row["network"], message, what)
        if obstacle is not None:
            raise Impossible(obstacle)
        asked = await outbox.find_open(tx, conversation.row["person_id"], message_id, what.value)
        if asked is not None or _is_so(message, what):
            raise TooLate(
                "It is so already." if asked is None else f"{asked} asked for that just now; it is under way."
            )
        if what is Moderation.BLOCK:
            await call_back(ledger, conversation, f"{scope.name} blocks {conversation.row['person_name']}")
        event = ledger.add(conversation, Moderated(message=message_id, what=what), member_id=scope.member_id)

        async def send() -> None:
            await queue_outgoing(
                ledger,
                conversation,
                message_id,
                what=what.value,
                target=message["external_id"],
                recipient=message["identity_external_id"] or "",
                member_id=scope.member_id,
                now=now,
                leaves_at=now + house.undo_for,
            )

        ledger.after(send)
    return conversation.id, event.seq


def say_gone(account: accounts.Account | None) -> str | None:
    """Why an account does nothing on its network any more, when that is so."""
    if account is None or account.disconnected_at is None:
        return None
    return say_disconnected(account.name, TABLE[account.network].name)


def _is_so(message: dict[str, Any], what: Moderation) -> bool:
    """Whether the message, or the person, is so already."""
    so = {
        Moderation.LIKE: message["liked"],
        Moderation.UNLIKE: not message["liked"],
        Moderation.HIDE: message["hidden"],
        Moderation.SHOW: not message["hidden"],
        Moderation.REPOST: message["reposted"],
        Moderation.BLOCK: message["blocked"],
        Moderation.UNBLOCK: not message["blocked"],
    }
    return bool(so.get(what, False))


def get_obstacle(network: str, message: dict[str, Any], what: Moderation) -> str | None:
    """Why this act cannot be done to this message; None when it can."""
    if message["external_id"] is None:
        return "It has not reached the network yet."
    return get_moderation_obstacle(
        TABLE[network],
        what,
        public=message["public"],
        inbound=message["inbound"],
        removed=message["removed_at"] is not None,
    )


def list_offered(network: str, message: dict[str, Any], *, gone: str | None) -> list[dict[str, Any]]:
    """The acts that make sense for a message now, each with its obstacle or None; `gone` is why its account does nothing any more."""
    wanted = [
        Moderation.UNLIKE if message["liked"] else Moderation.LIKE,
        Moderation.SHOW if message["hidden"] else Moderation.HIDE,
        *([] if message["reposted"] else [Moderation.REPOST]),
        Moderation.DELETE,
    ]
    if not message["inbound"]:
        wanted = [Moderation.DELETE]
    return [{"what": what.value, "obstacle": gone or get_obstacle(network, message, what)} for what in wanted]


async def withdraw(ledger: Ledger, asked: Moderated) -> None:
    """Take back an act that has not left. Raises TooLate."""
    if not await outbox.withdraw_outgoing(ledger.tx, asked.message, asked.what):
        opposite = OPPOSITES.get(asked.what)
        hint = f" Do the opposite ({opposite.value}) instead." if opposite else " It cannot be undone."
        raise TooLate(f"The network has been told already.{hint}")


async def record_done(ledger: Ledger, conversation: Open, claimed: Claimed) -> None:
    """The network did it: the message or the person is so from now on."""
    tx, what = ledger.tx, Moderation(claimed.what)
    ledger.add(conversation, ModerationDone(message=claimed.message_id, what=what))
    match what:
        case Moderation.LIKE | Moderation.UNLIKE:
            await sorting.set_moderated(tx, claimed.message_id, liked=what is Moderation.LIKE)
        case Moderation.HIDE | Moderation.SHOW:
            await sorting.set_moderated(tx, claimed.message_id, hidden=what is Moderation.HIDE)
        case Moderation.REPOST:
            await sorting.set_moderated(tx, claimed.message_id, reposted=True)
        case Moderation.DELETE:
            ledger.add(conversation, Removed(message=claimed.message_id, by=claimed.member_id))
            await sorting.set_moderated(tx, claimed.message_id, removed_at=ledger.now, removed_by=claimed.member_id)
        case Moderation.BLOCK | Moderation.UNBLOCK:
            person = conversation.row["person_id"]
            await persons.set_blocked(tx, person, blocked=what is Moderation.BLOCK)
