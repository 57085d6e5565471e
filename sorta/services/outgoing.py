"""Holding everything that goes out of a workspace, and letting it go. Used by the API."""

from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid
from sorta.core.permissions import Permission
from sorta.services.delivery import queue_deliverable
from sorta.services.house import House, Scope
from sorta.store import outgoing as store
from sorta.store.live import make_notice, tell


async def get_outgoing(house: House, scope: Scope) -> dict[str, Any]:
    """Whether it is held, by whom, why, and how much waits."""
    async with house.db.transact(scope.workspace_id) as conn:
        return await store.get_outgoing(conn, scope.workspace_id)


async def hold(house: House, scope: Scope, reason: str, now: datetime) -> None:
    """From now on nothing goes out; what is written waits. Raises Invalid without a reason."""
    scope.check(Permission.HOLD_OUTGOING)
    said = " ".join(reason.split())
    if not said:
        raise Invalid("Say why, so that the others understand.", "reason")
    async with house.db.transact(scope.workspace_id) as conn:
        await store.set_hold(conn, scope.workspace_id, now, scope.member_id, said)
        await tell(conn, make_notice(scope.workspace_id, "outgoing"))


async def release(house: House, scope: Scope, now: datetime) -> None:
    """Everything that waited goes, in its order."""
    scope.check(Permission.HOLD_OUTGOING)
    async with house.db.transact(scope.workspace_id) as conn:
        await store.set_hold(conn, scope.workspace_id, None, None, None)
        await tell(conn, make_notice(scope.workspace_id, "outgoing"))
    await queue_deliverable(house, scope.workspace_id, now)
