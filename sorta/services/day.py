"""My day: what a member did, has open, owes today, and waits for. Used by the API."""

from datetime import datetime, timedelta
from typing import Any

from sorta.core.errors import NotFound
from sorta.core.permissions import Permission
from sorta.core.working_time import get_local_midnight
from sorta.services.house import House, Scope
from sorta.services.team import describe_load
from sorta.store import day as store
from sorta.store import team

#: How many of each list are shown, and how far follow-ups are looked ahead for.
MOST = 50
AHEAD = timedelta(days=7)


async def get_day(house: House, scope: Scope, member_id: int | None, now: datetime) -> dict[str, Any]:
    """The day of a member, by the workspace's clock; one's own, or another's for who sees reports. Raises NotAllowed, NotFound."""
    whose = scope.member_id if member_id is None else member_id
    if whose != scope.member_id:
        scope.check(Permission.SEE_REPORTS)
    today = now.astimezone(scope.zone).date()
    begins, ends = (get_local_midnight(today + timedelta(days=n), scope.zone) for n in (0, 1))
    async with house.db.transact(scope.workspace_id) as tx:
        loads = [row for row in await team.list_loads(tx, now) if row["member_id"] == whose]
        if not loads:
            raise NotFound("There is no such member in this workspace.")
        found = await store.get_day(tx, whose, begins=begins, ends=ends, until=ends + AHEAD, limit=MOST)
    return {
        "day": today,
        "member": describe_load(loads[0], scope.zone, now),
        **found,
        "due_total": found["due"][0]["total"] if found["due"] else 0,
        "done_total": found["done"][0]["conversations"] if found["done"] else 0,
    }
