"""What was said before an account was connected: read when somebody asks for it, over a range, page by page, with how far it is. Used by the
API and the clock.

No rule reads it, nothing is answered because of it: see ingest.History.
"""

from datetime import datetime, timedelta
from typing import Any

import structlog

from sorta.core.errors import Impossible, Invalid, NotFound
from sorta.core.facts import SettledAs
from sorta.core.permissions import Permission
from sorta.core.ports import MessageSeen, ReactionSeen, Seen, Unreachable
from sorta.core.retry import get_pause
from sorta.services.accounts import get_account, make_ref
from sorta.services.house import House, Scope
from sorta.services.ingest import History
from sorta.services.intake import take_page
from sorta.store import earlier as store
from sorta.store.live import tell

log = structlog.get_logger()
LONGEST_DAYS = 3_650
#: Pages of one run in one round of the clock, and how long nobody else takes it up.
PAGES, LEASE = 10, timedelta(minutes=2)


async def start(house: House, scope: Scope, account_id: int, *, days: int, stays_open: bool, now: datetime) -> int:
    """Read what was said within so many days up to now; the run's number. `stays_open`: what has no answer stays open, else all of it is
    settled. Raises NotAllowed, NotFound, Invalid, Impossible while one is under way or the account is disconnected."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    if not 1 <= days <= LONGEST_DAYS:
        raise Invalid(f"Choose from 1 to {LONGEST_DAYS:,} days.", "days")
    account = await get_account(house, scope.workspace_id, account_id)
    if account.disconnected_at is not None:
        raise Impossible("This account is disconnected: connect it again first.")
    async with house.db.transact(scope.workspace_id) as tx:
        id = await store.add_run(
            tx,
            account_id,
            since=now - timedelta(days=days),
            until=now,
            stays_open=stays_open,
            member_id=scope.member_id,
            now=now,
        )
        if id is None:
            raise Impossible("Earlier messages of this account are being read already. Wait for that, or stop it.")
    return id


async def list_runs(house: House, scope: Scope, account_id: int) -> list[dict[str, Any]]:
    """The latest of an account, the newest first, with how far each is. Raises NotAllowed, NotFound."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    await get_account(house, scope.workspace_id, account_id)
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.list_runs(tx, account_id)


async def stop(house: House, scope: Scope, account_id: int, id: int, now: datetime) -> None:
    """Read no more; what came stays. Raises NotAllowed, NotFound for one that is over."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        if not await store.stop_run(tx, account_id, id, now):
            raise NotFound("That is over already.")


def _is_within(seen: Seen, since: datetime, until: datetime) -> bool:
    """Networks that know no ranges give more than was asked for. What was changed or taken back is about something that was said."""
    if isinstance(seen, MessageSeen):
        return since <= seen.sent_at < until
    return not isinstance(seen, ReactionSeen) or since <= seen.at < until


async def read_on(house: House, workspace_id: int, now: datetime) -> int:
    """Go on with the runs of a workspace, some pages each; how many activities were looked at. Run by the worker's clock."""
    count = 0
    while True:
        async with house.db.transact(workspace_id) as tx:
            run = await store.claim_run(tx, now, now + LEASE)
        if run is None:
            return count
        try:
            count += await _read(house, workspace_id, run, now)
        except Unreachable as error:
            again = now + timedelta(seconds=get_pause(run["tries"]))
            async with house.db.transact(workspace_id) as tx:
                await store.set_problem(tx, run["id"], str(error)[:500], again)
            log.warning("earlier messages put off", account=run["account_id"], reason=str(error))


async def _read(house: House, workspace_id: int, run: dict[str, Any], now: datetime) -> int:
    account = await get_account(house, workspace_id, run["account_id"])
    history = History(settled_as=None if run["stays_open"] else SettledAs.NO_REPLY_NEEDED)
    cursor, count = run["cursor"], 0
    for n in range(PAGES):
        page = await house.networks[account.network].list_range(
            make_ref(house, account), run["since"], run["until"], cursor
        )
        taken = await take_page(
            house, account, page, now, lambda seen: _is_within(seen, run["since"], run["until"]), history
        )
        count += len(page.activities)
        cursor, over = page.cursor, not page.more
        async with house.db.transact(workspace_id) as tx:
            goes_on = await store.set_progress(
                tx,
                run["id"],
                cursor=cursor,
                seen=len(page.activities),
                taken=taken,
                expected=page.total,
                over=over,
                # After the last page of this round it is anybody's in the next.
                next_at=now + LEASE if n < PAGES - 1 else now + timedelta(seconds=1),
                now=now,
            )
            if over or not goes_on:
                await tell(tx, "accounts", ids=[account.id])
        if over or not goes_on:
            break
    return count
