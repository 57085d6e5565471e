"""The door for what networks say: verified, read through the adapter, taken in or kept aside; and backfill. Used by the
hooks and the worker."""

import asyncio
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import structlog

from sorta.core.bounds import bound
from sorta.core.errors import Busy, NotFound, Unreadable
from sorta.core.ports import (
    AccountRef,
    BackfillPage,
    EditSeen,
    MessageSeen,
    ReactionSeen,
    RemovalSeen,
    Seen,
    Silent,
    Unreachable,
)
from sorta.core.retry import PROBE_PATIENCE
from sorta.networks.abilities import TABLE
from sorta.services.accounts import get_account, list_hook_secrets, make_ref
from sorta.services.delivery import note_silence, queue_deliverable_of
from sorta.services.house import Conflict, House, Unavailable, Unstorable
from sorta.services.ingest import History, take_in
from sorta.services.signatures import check_signature, make_hook_secret
from sorta.store import accounts, trail
from sorta.store.accounts import Account

log = structlog.get_logger()
#: Pages of one account that one backfill reads, the next going on where it ended; and activities in one transaction.
MOST_PAGES = 50
AT_ONCE = 100
#: What was said so shortly before an account was connected is new all the same.
JUST_BEFORE = timedelta(hours=1)


#: What the deliveries of an account that is not there are verified with: nobody has it, and the answer takes as long.
_NOBODY = make_hook_secret()


async def find_signed(
    house: House, workspace_id: int, account_id: int, body: bytes, headers: Mapping[str, str], now: datetime
) -> Account:
    """The account that a delivery is signed for. Raises NotAllowed where it is not signed, or there is no such account: the two
    look alike."""
    try:
        account = await get_account(house, workspace_id, account_id)
    except NotFound:
        check_signature([_NOBODY], body, headers)
        raise
    check_signature(list_hook_secrets(house, account, now), body, headers)
    if account.disconnected_at is not None:
        raise NotFound("This account is disconnected here: stop delivering.")
    return account


def read_body(house: House, account: Account, body: str) -> Seen:
    """One delivered activity in our words. Raises Unreadable."""
    try:
        activity = json.loads(body)
    except (ValueError, RecursionError) as error:
        raise Unreadable(f"It is not JSON: {error}.") from error
    return read_activity(house, account, activity)


def read_activity(
    house: House, account: Account, activity: Any, read: Callable[[Any, AccountRef], Seen] | None = None
) -> Seen:
    """One activity in our words, through the network's adapter or another reading. Raises Unreadable."""
    ref = make_ref(house, account)
    try:
        return bound((read or house.networks[account.network].read)(activity, ref))
    except (KeyError, TypeError, AttributeError, ValueError, OverflowError) as error:
        raise Unreadable(f"It is not shaped as an activity: {error!r}.") from error


@dataclass(frozen=True)
class _Delivery:
    """One delivery that a network waits to hear of; it came at `at`."""

    account: Account
    seen: Seen
    body: str
    at: datetime
    done: asyncio.Future[None]

    def end(self, error: Exception | None = None) -> None:
        """Tell the caller, unless that was done or they went away: then there is nobody to tell."""
        if self.done.done():
            return
        if error is None:
            self.done.set_result(None)
        else:
            self.done.set_exception(error)


#: Characters of a delivery that are read at once: a thread takes longer to begin than these to be read.
SHORT = 8_000


class Intake:
    """Takes in one account's stream. Deliveries that come together share a transaction: each caller is
    answered only when its own is committed, and one that fails is then tried alone, so it blocks nobody."""

    LARGEST = 50

    def __init__(self, house: House) -> None:
        self._house = house
        self._waiting: dict[tuple[int, int], list[_Delivery]] = {}
        self._draining: dict[tuple[int, int], asyncio.Task[None]] = {}

    async def take(self, account: Account, body: str, now: datetime) -> None:
        """Store one verified delivery; unreadable ones are kept aside with their reason."""
        try:
            if len(body) <= SHORT:
                seen = read_body(self._house, account, body)
            else:
                seen = await self._house.workshop.do(read_body, self._house, account, body)
        except Unreadable as error:
            await keep_aside(self._house, account, now, "webhook", error.message, body)
            return
        key = (account.workspace_id, account.id)
        done: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        self._waiting.setdefault(key, []).append(_Delivery(account, seen, body, now, done))
        if key not in self._draining:
            # A task of its own: no caller who goes away may leave the others waiting.
            self._draining[key] = asyncio.create_task(self._drain(key))
            self._draining[key].add_done_callback(lambda _: self._draining.pop(key))
        await done

    async def _drain(self, key: tuple[int, int]) -> None:
        while self._waiting.get(key):
            batch = self._waiting[key][: self.LARGEST]
            del self._waiting[key][: self.LARGEST]
            try:
                # Of what came twice the first time counts.
                came = {s.external_id: one.at for one in reversed(batch) if isinstance(s := one.seen, MessageSeen)}
                seens = [one.seen for one in batch]
                await take_in(self._house, batch[0].account, seens, batch[-1].at, came=came)
            except (Unavailable, Busy) as error:
                for one in batch:
                    one.end(error)
            except Exception as error:
                log.warning("batch failed, taking one by one", account=key[1], error=repr(error))
                await self._take_singly(batch)
            for one in batch:
                one.end()
        self._waiting.pop(key, None)

    async def _take_singly(self, batch: Sequence[_Delivery]) -> None:
        for one in batch:
            try:
                await take_in_or_keep(self._house, one.account, one.seen, one.body, "webhook", one.at)
            except Exception as error:
                one.end(error)


async def take_in_or_keep(
    house: House,
    account: Account,
    seen: Seen,
    body: str,
    source: str,
    now: datetime,
    history: History | None = None,
) -> int:
    """Take one thing in, whether it was a new message; what fails for its own sake is kept aside, for another try changes nothing, and stops nothing else.

    A database that is away, a race lost five times, or too much at once is another matter: that raises, and the network
    sends again.
    """
    try:
        return await take_in(house, account, [seen], now, history)
    except (Unavailable, Conflict, Busy):
        raise
    except (Unreadable, Unstorable) as error:
        await keep_aside(house, account, now, source, f"It could not be stored: {error}", body)
    except Exception as error:
        log.exception("could not be taken in", account=account.id)
        await keep_aside(house, account, now, source, f"It could not be taken in: {error!r}"[:500], body)
    return 0


async def keep_aside(house: House, account: Account, now: datetime, source: str, reason: str, body: str) -> None:
    """Keep something that could not be taken in, whole; what PostgreSQL cannot hold of it is written out."""
    async with house.db.transact(account.workspace_id) as tx:
        await accounts.add_aside(tx, account.id, now, source, _make_storable(reason), _make_storable(body))


def _make_storable(text: str) -> str:
    """NUL and lone surrogates as the escapes that JSON has for them."""
    return text.encode("utf-8", "backslashreplace").decode().replace("\x00", "\\u0000")


async def backfill(house: House, workspace_id: int, account_id: int, now: datetime) -> int:
    """Read what the network says happened since we last read, and take it in; the number of activities.

    What came by webhook meanwhile is known and changes nothing. A network that never ends is read on with the next call.
    Raises Unreachable.
    """
    account = await get_account(house, workspace_id, account_id)
    begins = None if account.reads_from is None else account.reads_from - JUST_BEFORE
    cursor, count = account.backfill_cursor, 0
    patience = PROBE_PATIENCE if account.silent_since is not None else None
    for _ in range(MOST_PAGES):
        page = await house.networks[account.network].list_since(make_ref(house, account, patience), cursor)
        await take_page(house, account, page, now, lambda seen: not _is_before(seen, begins))
        count += len(page.activities)
        if page.cursor != cursor:
            cursor = page.cursor
            async with house.db.transact(workspace_id) as tx:
                await accounts.set_backfill_cursor(tx, account_id, cursor)
        if not page.more:
            break
    return count


def _is_before(seen: Seen, begins: datetime | None) -> bool:
    """Whether it was said, done or changed before the account was read; that is asked for: see services.earlier."""
    if begins is None:
        return False
    if isinstance(seen, MessageSeen):
        return seen.sent_at < begins
    return isinstance(seen, EditSeen | RemovalSeen | ReactionSeen) and seen.at < begins


async def take_page(
    house: House,
    account: Account,
    page: BackfillPage,
    now: datetime,
    wanted: Callable[[Seen], bool],
    history: History | None = None,
) -> int:
    """Take in what is wanted of a page, some at once, and keep aside what of it cannot be read; the number of messages that were new."""
    seens, unreadable = await house.workshop.do(_read_page, house, account, page.activities)
    for activity, reason in unreadable:
        await keep_aside(house, account, now, "backfill", reason, _write_out(activity))
    seens = await _leave_out_known(house, account, [one for one in seens if wanted(one[0])])
    fresh = 0
    for start in range(0, len(seens), AT_ONCE):
        fresh += await _take_piece(house, account, seens[start : start + AT_ONCE], now, history)
    return fresh


async def _leave_out_known(house: House, account: Account, seens: Sequence[tuple[Seen, Any]]) -> list[tuple[Seen, Any]]:
    """Without the messages that are here: most came by webhook, and what one reads as is asked once."""
    ids = [seen.external_id for seen, _ in seens if isinstance(seen, MessageSeen)]
    async with house.db.transact(account.workspace_id) as tx:
        known = await trail.list_known(tx, account.id, ids) if ids else {}
    return [one for one in seens if not (isinstance(one[0], MessageSeen) and one[0].external_id in known)]


def _read_page(
    house: House, account: Account, activities: Sequence[Any]
) -> tuple[list[tuple[Seen, Any]], list[tuple[Any, str]]]:
    """What of a page can be read, each with its activity; and the activities that cannot, with why."""
    seens: list[tuple[Seen, Any]] = []
    unreadable: list[tuple[Any, str]] = []
    for activity in activities:
        try:
            seens.append((read_activity(house, account, activity), activity))
        except Unreadable as error:
            unreadable.append((activity, error.message))
    return seens, unreadable


def _write_out(activity: Any) -> str:
    return json.dumps(activity, ensure_ascii=False)


async def _take_piece(
    house: House,
    account: Account,
    piece: Sequence[tuple[Seen, Any]],
    now: datetime,
    history: History | None,
) -> int:
    """Take in a piece of a page, or what of it can be; the number of messages that were new."""
    try:
        return await take_in(house, account, [seen for seen, _ in piece], now, history)
    except (Unavailable, Conflict, Busy):
        raise
    except Exception as error:
        log.warning("page failed, taking one by one", account=account.id, error=repr(error))
        fresh = 0
        for seen, activity in piece:
            fresh += await take_in_or_keep(house, account, seen, _write_out(activity), "backfill", now, history)
        return fresh


async def backfill_unless_silent(house: House, workspace_id: int, account_id: int, now: datetime) -> None:
    """Backfill, unless the network is silent and was asked just now; what comes of it is noted. Run by the worker's clock.
    Raises Unreachable."""
    account = await get_account(house, workspace_id, account_id)
    if account.silent_since is not None and account.ask_again_at is not None and account.ask_again_at > now:
        raise Unreachable(f"{TABLE[account.network].name} does not answer; it is asked again in a moment.")
    try:
        await backfill(house, workspace_id, account_id, now)
    except Silent:
        async with house.db.transact(workspace_id) as tx:
            await note_silence(tx, account_id, now)
        raise
    if account.silent_since is not None:
        async with house.db.transact(workspace_id) as tx:
            await note_silence(tx, account_id, None)
            await queue_deliverable_of(house, tx, account_id, now)


async def backfill_all(house: House, workspace_id: int, now: datetime) -> None:
    """Backfill every account of a workspace; one that cannot be reached does not hold up the others."""
    async with house.db.transact(workspace_id) as tx:
        rows = await accounts.list_accounts(tx)
    for account in rows:
        try:
            await backfill(house, workspace_id, account.id, now)
        except Unreachable as error:
            log.warning("backfill put off", account=account.id, reason=str(error))


async def try_aside_again(house: House, workspace_id: int, id: int, now: datetime) -> str | None:
    """Take in something kept aside once more; None when it worked, else why not. Raises NotFound."""
    async with house.db.transact(workspace_id) as tx:
        kept = await accounts.get_aside(tx, id)
    if kept is None:
        raise NotFound("There is nothing kept aside by that number.")
    account = await get_account(house, workspace_id, kept["account_id"])
    reason: str | None = None
    try:
        await take_in(house, account, [read_body(house, account, kept["body"])], now)
    except (Unreadable, ValueError) as error:
        reason = str(error)
    async with house.db.transact(workspace_id) as tx:
        if reason is None:
            await accounts.set_aside_taken(tx, id, now)
        else:
            await accounts.set_aside_reason(tx, id, reason)
    return reason
