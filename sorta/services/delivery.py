"""Delivering replies, each exactly once or visibly not at all. Used by the worker's jobs.

Claim, send, record are three steps. A worker that dies after any of them leaves the claim behind; when
its lease has run out the reply is sent again under the same idempotency key, so the network has it once.
"""

import asyncio
import time
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

import structlog

from sorta.core.answers import say_disconnected
from sorta.core.events import ModerationRefused, ReplyDelivered, ReplyRefused, ReplyStuck, What
from sorta.core.pacing import WINDOW, get_next_free
from sorta.core.permissions import Permission
from sorta.core.ports import (
    AccountRef,
    Delivered,
    Moderation,
    Network,
    Outcome,
    OutgoingAct,
    OutgoingReply,
    Postponed,
    Refused,
    TokenExpired,
)
from sorta.core.retry import (
    FIRST_PATIENCE,
    PROBE_PATIENCE,
    GiveUp,
    TryAgain,
    decide_retry,
    get_silence_pause,
    get_stuck_reason,
)
from sorta.networks.abilities import TABLE
from sorta.services.accounts import make_ref
from sorta.services.alerts import add_alerts
from sorta.services.answers import queue_delivery
from sorta.services.attachments import read_outgoing
from sorta.services.house import House
from sorta.services.moderation import record_done
from sorta.services.sending import Failed, send_once
from sorta.services.trail import Ledger, together, writing
from sorta.store import accounts, alerts, outbox
from sorta.store.accounts import Account
from sorta.store.db import Tx
from sorta.store.live import make_notice, tell
from sorta.store.outbox import AccountState, Claimed

log = structlog.get_logger()
#: What of one account may be under way at once, so that a slow network takes no other's place.
SLOTS_PER_ACCOUNT = 4
#: What of one account the clock queues at once.
QUEUED_AT_ONCE = 20
#: After so long without an outcome somebody else may ask a silent network.
ASKING_TAKES = timedelta(seconds=PROBE_PATIENCE + 2)


async def deliver(house: House, workspace_id: int, outbox_id: int, now: datetime) -> Outcome | None:
    """Try to deliver one reply; None when it is not ours to deliver now."""
    return (await deliver_together(house, workspace_id, [(now, outbox_id)])).get(outbox_id)


async def deliver_together(house: House, workspace_id: int, due: Sequence[tuple[datetime, int]]) -> dict[int, Outcome]:
    """Try to deliver several, each as of its own time: claimed at once, sent side by side, and written down at once. What is not ours to
    deliver now is missing, and so is, of one account, what is more than may be under way."""
    async with house.db.transact(workspace_id) as tx:
        held = await outbox.lock_accounts(tx, [id for _, id in due])
        claims: list[tuple[datetime, Claimed]] = []
        for now, id in due:
            account = held.get(id)
            # Of a silent network one request asks, and this knows it only as it was before.
            if account is None or (account.silent_since and account.id in {one.account_id for _, one in claims}):
                continue
            if (claimed := await _claim(house, tx, account, id, now)) is not None:
                claims.append((now, claimed))
        ids = sorted({claimed.account_id for _, claimed in claims})
        asked = {id: await accounts.get_account(tx, id) for id in ids}
        if claims:
            await _tell(tx, *(claimed for _, claimed in claims))
    ended = await asyncio.gather(
        *(_try(house, workspace_id, asked[claimed.account_id], claimed, now) for now, claimed in claims)
    )
    if ended:
        await record_outcomes(house, workspace_id, ended)
    return {one.claimed.id: one.outcome for one in ended}


@dataclass(frozen=True, kw_only=True)
class Ended:
    """A try, how it ended and when."""

    claimed: Claimed
    outcome: Outcome
    at: datetime


async def _try(house: House, workspace_id: int, account: Account | None, claimed: Claimed, now: datetime) -> Ended:
    assert account is not None
    patience = FIRST_PATIENCE if claimed.attempts == 1 else None
    if account.silent_since is not None:
        patience = PROBE_PATIENCE
    network, ref, key = house.networks[account.network], make_ref(house, account, patience), str(claimed.key)
    began = time.monotonic()
    if account.disconnected_at is not None:
        outcome: Outcome = Refused(reason=say_disconnected(account.name, TABLE[account.network].name))
    elif claimed.what == "reply":
        outcome = await _send_reply(house, workspace_id, network, ref, claimed)
    else:
        act = OutgoingAct(what=Moderation(claimed.what), target=claimed.target, person=claimed.recipient)
        outcome = await _guard(lambda: network.moderate(ref, act, key), claimed)
    # Pauses run from the end of the try: a network may take as long to answer as the pause lasts.
    return Ended(claimed=claimed, outcome=outcome, at=now + timedelta(seconds=time.monotonic() - began))


async def _send_reply(house: House, workspace_id: int, network: Network, ref: AccountRef, claimed: Claimed) -> Outcome:
    try:
        files = await read_outgoing(house, workspace_id, claimed.attachments)
    except FileNotFoundError:
        return Refused(reason="A file that was to go along is not in its place any more. Add it again.")
    reply = OutgoingReply(
        public=claimed.public, body=claimed.body, target=claimed.target, to=claimed.recipient, files=files
    )
    return await _guard(lambda: network.send(ref, reply, str(claimed.key)), claimed)


async def _guard(send: Callable[[], Awaitable[Outcome]], claimed: Claimed) -> Outcome:
    """How the network took it. Where we failed at asking nobody knows: it is asked again, under the same key."""
    ended = await send_once(send, claimed.what, claimed.id)
    return Postponed(reason=ended.reason, maybe_out=True) if isinstance(ended, Failed) else ended


async def _claim(house: House, tx: Tx, account: AccountState, outbox_id: int, now: datetime) -> Claimed | None:
    """Take a reply for delivery, if the network of its account, which is locked, can be asked now.

    Not when as much of the account is under way as may be: its end brings the next. Not when the network is silent and
    somebody asks it already, or has just asked. Not when it has had as many requests as it takes: then this is put off.
    """
    pace = await outbox.get_pace(tx, account.id, now - house.lease, now - WINDOW)
    if pace.under_way >= SLOTS_PER_ACCOUNT:
        return None
    if account.silent_since is not None:
        if account.ask_again_at is not None and account.ask_again_at > now:
            return None
        await accounts.set_ask_again(tx, account.id, now + ASKING_TAKES)
    at = get_next_free(pace.tried, TABLE[account.network].per_minute, now)
    if at is None:
        return await outbox.claim_outgoing(tx, outbox_id, now, now - house.lease)
    await outbox.put_off(tx, outbox_id, at)
    await queue_delivery(house, tx, outbox_id, at)
    return None


async def _tell(tx: Tx, *claimed: Claimed) -> None:
    await tell(tx, "conversations", ids=sorted({one.conversation_id for one in claimed}))


async def record_outcomes(house: House, workspace_id: int, ended: Sequence[Ended]) -> None:
    """Write down how tries ended; nothing is written of one that a later claim has overtaken."""
    conversations = {one.claimed.conversation_id for one in ended}
    # The conversations before what hangs on them, as everywhere: undo comes the same way.
    async with together(house, workspace_id, ended[0].at, conversations) as ledger:
        gone = {one.claimed.conversation_id for one in ended if await _record(ledger, one)}
        # Replies of one conversation go out in order: the next one's turn has come.
        for waiting in (await outbox.list_next_of(ledger.tx, sorted(gone)) if gone else {}).values():
            await queue_delivery(house, ledger.tx, waiting["id"], waiting["not_before"])
        for account_id, last in sorted({one.claimed.account_id: one for one in ended}.items()):
            is_silent = isinstance(last.outcome, Postponed) and last.outcome.silent
            await note_silence(ledger.tx, account_id, last.at if is_silent else None)
            if not is_silent:
                await queue_deliverable_of(house, ledger.tx, account_id, last.at)
    for one in ended:
        log.info("delivery", outbox=one.claimed.id, attempt=one.claimed.attempts, outcome=type(one.outcome).__name__)


async def _record(ledger: Ledger, ended: Ended) -> bool:
    """Write down how one try ended; true when it is over with it."""
    claimed, outcome, ledger.now = ended.claimed, ended.outcome, ended.at
    tx, workspace_id, now = ledger.tx, ledger.workspace_id, ledger.now
    await ledger.get(claimed.conversation_id)
    match outcome:
        case Delivered():
            return await _record_delivered(ledger, claimed, outcome)
        case Refused():
            return await _record_refused(ledger, claimed, outcome.reason)
        case TokenExpired():
            if await outbox.set_outgoing(tx, claimed, "waiting", outcome.reason, now):
                notice = make_notice(workspace_id, "accounts", ids=[claimed.account_id])
                await accounts.pause_account(tx, claimed.account_id, outcome.reason, notice)
                await accounts.renew_soon(tx, claimed.account_id, now)
                await _tell(tx, claimed)
                await _mark_late(ledger, claimed.id)
            return False
        case Postponed():
            return await _record_postponed(ledger, claimed, outcome)


async def _record_delivered(ledger: Ledger, claimed: Claimed, outcome: Delivered) -> bool:
    conversation = await ledger.get(claimed.conversation_id)
    if not await outbox.set_delivered(ledger.tx, claimed, outcome.external_id, ledger.now):
        return False
    if claimed.what == "reply":
        ledger.add(conversation, ReplyDelivered(message=claimed.message_id))
        conversation.note_said(ledger.now)
    else:
        await record_done(ledger, conversation, claimed)
    return True


async def _record_refused(ledger: Ledger, claimed: Claimed, reason: str) -> bool:
    tx = ledger.tx
    conversation = await ledger.get(claimed.conversation_id)
    if not await outbox.set_outgoing(tx, claimed, "refused", reason):
        return False
    if claimed.what == "reply":
        what: What = ReplyRefused(message=claimed.message_id, reason=reason, author=claimed.member_id)
    else:
        what = ModerationRefused(message=claimed.message_id, what=Moderation(claimed.what), reason=reason)
    ledger.add(conversation, what)
    if claimed.member_id is not None:
        await add_alerts(
            tx,
            members=[claimed.member_id],
            occasion="not_out",
            words=f"{_name(claimed)} to {conversation.row['person_name']} was refused: {reason}",
            conversation_id=conversation.id,
            key=f"refused:{claimed.id}",
            now=ledger.now,
        )
    await tell(tx, "refused", ids=[claimed.conversation_id], member=claimed.member_id)
    return True


def _name(claimed: Claimed) -> str:
    return "Your answer" if claimed.what == "reply" else "What you asked of the network"


async def _record_postponed(ledger: Ledger, claimed: Claimed, outcome: Postponed) -> bool:
    house, tx, now = ledger.house, ledger.tx, ledger.now
    decision: TryAgain | GiveUp = decide_retry(
        attempts=claimed.attempts,
        queued_at=claimed.queued_at,
        now=now,
        retry_after=outcome.retry_after,
        reason=outcome.reason,
    )
    if isinstance(decision, GiveUp):
        return await _record_refused(ledger, claimed, decision.reason)
    if outcome.silent:
        # Whether the network is back is the account's question, asked at its pace and not at this reply's.
        _, again = await _time_silence(tx, claimed.account_id, now)
        decision = TryAgain(at=again, reason=outcome.reason)
    if await outbox.set_outgoing(tx, claimed, "waiting", outcome.reason, decision.at, maybe_out=outcome.maybe_out):
        await queue_delivery(house, tx, claimed.id, decision.at)
        await _tell(tx, claimed)
        await _mark_late(ledger, claimed.id)
    return False


async def mark_late(house: House, workspace_id: int, now: datetime) -> int:
    """Say of every reply that should be outside and is not that it is our move again; how many. Run by the worker's clock."""
    async with house.db.transact(workspace_id) as tx:
        ids = [row["id"] for row in await outbox.list_late(tx, now)]
    count = 0
    for id in ids:
        async with writing(house, workspace_id, now) as ledger:
            count += await _mark_late(ledger, id)
    return count


async def _mark_late(ledger: Ledger, id: int) -> bool:
    """True when this reply is said to be stuck from now on: in the trail, to its author, and to whoever looks after the
    account."""
    tx, now = ledger.tx, ledger.now
    late = await outbox.list_late(tx, now, id)
    if not late:
        return False
    row = late[0]
    network = TABLE[row["network"]].name
    reason = get_stuck_reason(
        leaves_at=row["leaves_at"],
        now=now,
        attempts=row["attempts"],
        held_reason=row["held_reason"],
        paused_reason=row["paused_reason"],
        silent_since=row["silent_since"],
        problem=row["problem"],
        network=network,
    )
    if reason is None:
        return False
    conversation = await ledger.get(row["conversation_id"])
    if not await outbox.set_stuck(tx, id, reason):
        return False
    ledger.add(conversation, ReplyStuck(message=row["message_id"], reason=reason))
    if row["member_id"] is not None:
        await add_alerts(
            tx,
            members=[row["member_id"]],
            occasion="not_out",
            words=f"Your answer to {conversation.row['person_name']} is not out yet: {reason}",
            conversation_id=conversation.id,
            key=f"stuck:{id}",
            now=now,
        )
    # A hold is everybody's own doing and stands on every page; an account needs somebody to look after it.
    if row["held_reason"] is None:
        since = min(s["since"] for s in await outbox.list_stuck(tx) if s["account_id"] == row["account_id"])
        todo = (
            "Give it a new token in Setup."
            if row["paused_reason"]
            else "It is tried again by itself; Outgoing shows when."
        )
        await add_alerts(
            tx,
            members=await alerts.list_members_with(tx, Permission.MANAGE_ACCOUNTS),
            occasion="account",
            words=f"Answers from {row['account_name']} on {network} do not go out: {reason} {todo}",
            conversation_id=None,
            key=f"account:{row['account_id']}:{since.isoformat()}",
            now=now,
        )
    return True


async def note_silence(tx: Tx, account_id: int, silent_at: datetime | None) -> None:
    """The account's network did not answer at `silent_at`, or it did: then it is asked as ever."""
    notice = make_notice(tx.workspace_id, "accounts", ids=[account_id])
    if silent_at is None:
        await accounts.set_answering(tx, account_id, notice)
        return
    since, again = await _time_silence(tx, account_id, silent_at)
    await accounts.set_silent(tx, account_id, since, again, notice)


async def _time_silence(tx: Tx, account_id: int, silent_at: datetime) -> tuple[datetime, datetime]:
    """Since when an account's network that did not answer at `silent_at` is silent, and when it is asked again."""
    account = await accounts.get_account(tx, account_id)
    since = (account and account.silent_since) or silent_at
    return since, silent_at + get_silence_pause(silent_at - since)


async def queue_deliverable(house: House, workspace_id: int, now: datetime) -> int:
    """Queue what could go out now, some of each account: what a dead worker or an ended pause left. How many."""
    async with house.db.transact(workspace_id) as tx:
        ids = await outbox.list_deliverable(tx, now, now - house.lease, most=QUEUED_AT_ONCE)
        for id in ids:
            await queue_delivery(house, tx, id, now)
    return len(ids)


async def queue_deliverable_of(house: House, tx: Tx, account_id: int, now: datetime) -> None:
    """Queue as much of one account as may be under way: a place has become free."""
    for id in await outbox.list_deliverable(tx, now, now - house.lease, most=SLOTS_PER_ACCOUNT, account_id=account_id):
        await queue_delivery(house, tx, id, now)


async def deliver_due(house: House, workspace_id: int, now: datetime) -> int:
    """Deliver what could go out now, here and at once; how many were tried. For the demo and the tests."""
    tried: set[int] = set()
    while True:
        async with house.db.transact(workspace_id) as tx:
            found = await outbox.list_deliverable(tx, now, now - house.lease, most=QUEUED_AT_ONCE)
        fresh = [id for id in found if id not in tried]
        if not fresh:
            return len(tried)
        for id in fresh:
            await deliver(house, workspace_id, id, now)
        tried.update(fresh)
