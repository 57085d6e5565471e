"""What the clock does for each workspace, each duty by itself: begun, ended, and told of when it stands still. Used by jobs."""

import asyncio
import time
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import structlog

from sorta.core.permissions import Permission
from sorta.core.ports import Abilities, Unreachable
from sorta.networks.abilities import TABLE
from sorta.services import (
    acts,
    advice,
    alerts,
    approvals,
    cases,
    delivery,
    desk,
    draws,
    earlier,
    finding,
    granting,
    groups,
    intake,
    invitations,
    leaving,
    listening,
    own_reading,
    programs,
    replays,
    report_sharing,
    retention,
    scheduling,
    spells,
    tags,
    unusual,
    waits,
)
from sorta.services.house import House, Scope, Unavailable
from sorta.store import accounts as account_store
from sorta.store import alerts as alert_store
from sorta.store import duties as store
from sorta.store.db import Conn
from sorta.store.duties import Ended as Ended
from sorta.store.duties import Place as Place

log = structlog.get_logger()
Run = Callable[[House, int, datetime], Awaitable[object]]
RunFor = Callable[[House, int, int, datetime], Awaitable[object]]


@dataclass(frozen=True, kw_only=True)
class Duty:
    """Something the clock does for every workspace, or for every account of it, `every` so many seconds; it is given up after
    `within` seconds. `says` names it in a sentence that begins with it."""

    name: str
    says: str
    every: float
    within: float
    run: Run | None = None
    run_for: RunFor | None = None
    #: Of which accounts it is done, where it is about accounts.
    fits: Callable[[Abilities], bool] = lambda abilities: True


async def tell_standing_still(house: House, workspace_id: int, now: datetime) -> int:
    """Tell whoever looks after the accounts of each duty that has not succeeded for long; how many were told."""
    told = 0
    async with house.db.transact(workspace_id) as tx:
        rows = await store.list_duties(tx)
        still = [row for row in rows if stands_still(row, now)]
        if not still:
            return 0
        members = await alert_store.list_members_with(tx, Permission.MANAGE_ACCOUNTS)
        for row in still:
            duty = BY_NAME[row.name]
            about = f" for {row.account_name}" if row.account_name else ""
            since = row.succeeded_at
            words = (
                f"{duty.says}{about} has not worked {f'since {since:%H:%M} UTC' if since else 'yet'}: "
                f"{row.problem or 'it does not end in time'}"
            )
            told += len(
                await alerts.add_alerts(
                    tx,
                    members=members,
                    occasion="standing_still",
                    words=words,
                    conversation_id=None,
                    key=f"duty:{row.name}:{row.target}:{since.isoformat() if since else 'never'}",
                    now=now,
                )
            )
    return told


async def _search(house: House, workspace_id: int, account_id: int, now: datetime) -> None:
    await listening.listen(house, workspace_id, now, account_id=account_id)


async def _close_draws(house: House, workspace_id: int, now: datetime) -> None:
    await draws.close_due(house, workspace_id, now)


DUTIES: Sequence[Duty] = (
    Duty(name="return_parked", says="Bringing back what was parked", every=5, within=20, run=acts.return_parked),
    Duty(name="send_scheduled", says="Sending answers at their time", every=5, within=20, run=scheduling.send_due),
    Duty(
        name="queue_deliveries", says="Taking up answers that wait", every=5, within=20, run=delivery.queue_deliverable
    ),
    Duty(name="mark_late", says="Saying which answers are not out", every=5, within=20, run=delivery.mark_late),
    Duty(name="tell_late", says="Telling of what is late", every=5, within=20, run=alerts.tell_late),
    Duty(name="ask_approvers", says="Asking the next approver", every=5, within=20, run=approvals.ask_next),
    Duty(name="pass_on_cases", says="Passing cases on to their desks", every=5, within=20, run=cases.pass_on_due),
    Duty(name="close_draws", says="Closing prize draws", every=5, within=60, run=_close_draws),
    Duty(name="send_advice", says="Mailing questions to advisers", every=5, within=60, run=advice.send_due),
    Duty(
        name="tell_follow_ups",
        says="Telling of follow-ups that are due",
        every=15,
        within=60,
        run=alerts.tell_follow_ups,
    ),
    Duty(name="text_alerts", says="Sending alerts by text message", every=5, within=60, run=alerts.text_alerts),
    Duty(name="mail_alerts", says="Mailing alerts", every=5, within=60, run=alerts.mail_alerts),
    Duty(
        name="renew_tokens",
        says="Renewing networks’ leave before it ends",
        every=30,
        within=300,
        run=granting.renew_tokens,
    ),
    Duty(name="tell_programs", says="Telling programs what happens", every=5, within=60, run=programs.tell_programs),
    Duty(name="give_back", says="Giving back what its owner does not see", every=30, within=300, run=groups.give_back),
    Duty(name="merge_tags", says="Putting one tag in place of another", every=5, within=60, run=tags.merge_on),
    Duty(name="pass_on_work", says="Passing on the work of who left", every=5, within=60, run=leaving.pass_on),
    Duty(name="mail_invitations", says="Mailing invitations", every=5, within=60, run=invitations.mail_invitations),
    Duty(name="mail_reports", says="Mailing reports", every=60, within=300, run=report_sharing.mail_reports),
    Duty(name="fold_counts", says="Keeping the counts", every=30, within=30, run=desk.fold_counts),
    Duty(name="rank_people", says="Bringing standings up to date", every=30, within=60, run=desk.rank_people),
    Duty(
        name="note_words",
        says="Making older messages and names ready to be found",
        every=5,
        within=60,
        run=finding.note_words,
    ),
    Duty(name="note_looks", says="Noting what handles look like", every=5, within=20, run=desk.note_looks),
    Duty(
        name="backfill", says="Filling holes in what came", every=20, within=60, run_for=intake.backfill_unless_silent
    ),
    Duty(name="read_earlier", says="Reading what was said before", every=5, within=120, run=earlier.read_on),
    Duty(
        name="listen", says="Searching for saved words", every=15, within=60, run_for=_search, fits=lambda a: a.search
    ),
    Duty(name="tell_standing_still", says="Watching the clock", every=30, within=20, run=tell_standing_still),
    Duty(
        name="learn_reading",
        says="Learning from what was corrected",
        every=900,
        within=300,
        run=own_reading.learn_due,
    ),
    Duty(name="tell_spells", says="Telling earlier waits from the trail", every=60, within=1800, run=spells.tell_once),
    Duty(name="tell_unusual", says="Telling of unusual hours", every=120, within=60, run=unusual.tell_unusual),
    Duty(name="pack_days", says="Packing the waits of days that are over", every=3600, within=900, run=waits.pack_days),
    Duty(name="take_up_what_if", says="Taking up what is played", every=30, within=20, run=replays.take_up_silent),
    Duty(name="sweep", says="Sweeping what is out of use", every=3600, within=300, run=retention.sweep),
)
BY_NAME = {duty.name: duty for duty in DUTIES}
#: A duty stands still when it has not succeeded for so many of its rounds, and for so long at least.
STILL_ROUNDS, STILL_FOR = 10, timedelta(minutes=2)


def stands_still(row: store.DutyRow, now: datetime) -> bool:
    """Whether a duty has failed, or not ended, for so long that somebody must look."""
    duty = BY_NAME.get(row.name)
    if duty is None:
        return False
    still_for = max(STILL_FOR, timedelta(seconds=STILL_ROUNDS * duty.every))
    if row.succeeded_at is not None:
        # One that is not due yet is not late.
        return now - row.succeeded_at > still_for and (row.failures > 0 or now - row.began_at > still_for)
    return row.failures >= STILL_ROUNDS


async def run_once(house: House, duty: Duty, workspace_id: int, target: int, now: datetime) -> bool:
    """Do a duty once, when its time has come and nobody else is at it; true when it was done.

    It never raises but for an absent database: what goes wrong is written down and holds up nothing else.
    """
    async with house.db.transact(workspace_id) as tx:
        mine = await _claim(tx, duty, [(workspace_id, target)], now)
    if not mine:
        return False
    ended = await do(house, duty, workspace_id, target, now)
    async with house.db.transact(workspace_id) as tx:
        await store.end_duties(tx, [ended])
    return True


async def _claim(conn: Conn, duty: Duty, places: Sequence[Place], now: datetime) -> list[Place]:
    return await store.claim_duties(
        conn,
        places,
        name=duty.name,
        now=now,
        # A round comes by a little early or late.
        not_since=now - timedelta(seconds=duty.every * 0.9),
        lease_until=now + timedelta(seconds=duty.within + 5),
    )


async def begin(house: House, duty: Duty, places: Sequence[Place], now: datetime) -> list[Place]:
    """Begin a duty at all of these places where its time has come and nobody else is at it; which they are. For the worker's role, which
    sees all workspaces' duties: what finds nothing to do, which is most of it, would otherwise be three transactions each."""
    async with house.db.connect() as conn:
        return await _claim(conn, duty, places, now)


async def end(house: House, ended: Sequence[Ended]) -> None:
    """Write down how these ended, of whichever workspaces. Likewise."""
    async with house.db.connect() as conn:
        await store.end_duties(conn, ended)


async def do(house: House, duty: Duty, workspace_id: int, target: int, began_at: datetime) -> Ended:
    """Do what was begun; how it ended. It never raises."""
    began, problem = time.monotonic(), None
    try:
        async with asyncio.timeout(duty.within):
            if duty.run is not None:
                await duty.run(house, workspace_id, began_at)
            elif duty.run_for is not None:
                await duty.run_for(house, workspace_id, target, began_at)
    except TimeoutError:
        problem = f"It took longer than {duty.within:.0f} seconds."
    except Unavailable as error:
        problem = f"The database was away: {error}"
    except Unreachable as error:
        # The other side's absence is told of as it is, and is no mistake of ours.
        problem = str(error)
    except Exception as error:
        log.exception("a duty failed", duty=duty.name, workspace=workspace_id, target=target)
        problem = f"{type(error).__name__}: {error}"
    took = time.monotonic() - began
    if problem is not None:
        log.warning("a duty failed", duty=duty.name, workspace=workspace_id, target=target, reason=problem)
    return Ended(
        workspace_id=workspace_id,
        name=duty.name,
        target=target,
        began_at=began_at,
        now=began_at + timedelta(seconds=took),
        took_ms=round(took * 1000),
        problem=None if problem is None else problem[:1000],
    )


async def list_targets(house: House, duty: Duty, workspace_id: int) -> list[int]:
    """What a duty is done for in one workspace: itself, or each account that is not paused."""
    if duty.run_for is None:
        return [0]
    async with house.db.transact(workspace_id) as tx:
        rows = await account_store.list_accounts(tx)
    return [
        row.id
        for row in rows
        if row.paused_reason is None and row.disconnected_at is None and duty.fits(TABLE[row.network])
    ]


async def note_round(house: House, duty: Duty, now: datetime) -> None:
    """The clock came by this duty."""
    async with house.db.connect() as conn:
        await store.set_came_by(conn, duty.name, duty.every, now)


async def list_duties(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """What the clock does for this workspace, with how it went last."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_duties(tx)
    return [
        {
            "name": row.name,
            "says": BY_NAME[row.name].says,
            "account_name": row.account_name,
            "network": row.network,
            "every": BY_NAME[row.name].every,
            "succeeded_at": row.succeeded_at,
            "failed_at": row.failed_at,
            "took_ms": row.took_ms,
            "problem": row.problem if row.failures else None,
            "stands_still": stands_still(row, now),
        }
        for row in rows
        if row.name in BY_NAME
    ]
