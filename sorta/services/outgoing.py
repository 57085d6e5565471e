"""What waits to go out and why; holding everything that goes out of a workspace, and letting it go. Used by the API."""

from datetime import datetime, timedelta
from typing import Any

from sorta.core.errors import ChangedElsewhere, Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.core.security import Happening
from sorta.services.answers import queue_delivery
from sorta.services.delivery import queue_deliverable
from sorta.services.house import House, Scope
from sorta.services.report_sharing import may_share
from sorta.services.security_log import note
from sorta.store import accounts, people, scheduled
from sorta.store import outgoing as store
from sorta.store.live import tell

#: So long what was given up is shown.
SHOWN_FOR = timedelta(days=7)


def _tell_sight(scope: Scope) -> dict[str, Any]:
    """Whose letters somebody is told of: their own, and what their permissions let them see where it is made."""
    return {
        "member_id": scope.member_id,
        "sees_reports": may_share(scope.role),
        "manages_members": Permission.MANAGE_MEMBERS in scope.role.grants,
        "manages_accounts": Permission.MANAGE_ACCOUNTS in scope.role.grants,
    }


async def get_outgoing(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """Whether it is held, by whom and why; what has not gone out yet and what for, what is to be sent later, what networks would not
    have, and letters and the like that were tried and not taken."""
    async with house.db.transact(scope.workspace_id) as tx:
        return {
            **await store.get_hold(tx),
            "waiting": await store.list_waiting(tx, now),
            "scheduled": await scheduled.list_scheduled(tx, now),
            "refused": await store.list_refused(tx, now),
            "letters": await store.list_letters(tx, now - SHOWN_FOR, **_tell_sight(scope)),
        }


async def try_letters(house: House, scope: Scope, now: datetime) -> int:
    """Do not wait for the next try of letters and the like: the clock takes them up when it comes by. How many there were."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        count = await store.try_letters(tx, now, **_tell_sight(scope))
        await tell(tx, "outgoing")
    return count


async def try_now(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Do not wait for the next try. Raises NotFound when it does not wait, or no more."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        account = await store.try_now(tx, id, now)
        if account is None:
            raise NotFound("Nothing of this number waits for another try here.")
        # A network that was silent is asked now, whatever its pause.
        await accounts.set_ask_again(tx, account, now)
        await queue_delivery(house, tx, id, now)
        await tell(tx, "outgoing")


async def hold(house: House, scope: Scope, reason: str, now: datetime) -> None:
    """From now on nothing goes out; what is written waits. Raises Invalid without a reason, ChangedElsewhere when it is
    held already."""
    scope.check(Permission.HOLD_OUTGOING)
    said = " ".join(reason.split())
    if not said:
        raise Invalid("Say why, so that the others understand.", "reason")
    async with house.db.transact(scope.workspace_id) as tx:
        if not await store.hold(tx, now, scope.member_id, said):
            held = await store.get_hold(tx)
            by = (await people.list_names(tx)).get(held["held_by"], "Somebody")
            raise ChangedElsewhere(f"{by} holds it already: {held['held_reason']}. It stays held for that reason.")
        await note(tx, scope, Happening.HELD, said)
        await tell(tx, "outgoing")


async def release(house: House, scope: Scope, now: datetime) -> None:
    """Everything that waited goes, in its order."""
    scope.check(Permission.HOLD_OUTGOING)
    async with house.db.transact(scope.workspace_id) as tx:
        await store.release(tx)
        await note(tx, scope, Happening.RELEASED)
        await tell(tx, "outgoing")
    await queue_deliverable(house, scope.workspace_id, now)
