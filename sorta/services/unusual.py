"""Far more than usual comes in just now: kept for the desk, and told to whoever can hold what goes out. Used by duties, horizon."""

from datetime import UTC, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sorta.core.errors import Invalid
from sorta.core.periods import Period
from sorta.core.permissions import Permission
from sorta.core.unusual import WEEKS, Unusual, judge_period
from sorta.core.waits import Counting
from sorta.core.working_time import get_local_midnight
from sorta.services import waits
from sorta.services.alerts import add_alerts
from sorta.services.house import House, Scope
from sorta.services.members import get_zone
from sorta.store import alerts, trail
from sorta.store import unusual as store
from sorta.store.db import Tx
from sorta.store.waits import Opened

#: What a workspace chooses among: about how many alarms a month chance alone may cause.
CHOICES = (0.25, 1.0, 4.0)
#: An hour is looked at until so long after it began; later it is a matter of reports.
_LOOKED_AT = timedelta(hours=2)
#: So long the desk shows that one was unusual.
SHOWN_FOR = timedelta(hours=3)


async def tell_unusual(house: House, workspace_id: int, now: datetime) -> int:
    """Judge this hour and the one before by the weeks before; how many members were told of one."""
    async with house.db.transact(workspace_id) as tx:
        if not await trail.are_spells_told(tx):
            return 0
        zone = await get_zone(tx)
        false_alarms = await store.get_false_alarms(tx)
    today = now.astimezone(zone).date()
    period = Period(first=today - timedelta(days=1), last=today, zone=zone)
    begins = get_local_midnight(period.first - timedelta(days=7 * WEEKS), zone)
    loaded = await waits.load(house, workspace_id, begins, now, {}, Counting.CLOCK, Opened.BEGUN)

    def judge() -> list[Unusual]:
        told = loaded.read()
        return judge_period(told["since"][told["first"] == 1], period, now.timestamp(), false_alarms)

    told = 0
    for hour in await house.reporting.do(judge):
        begins_at = _begin(period, hour)
        if now - begins_at < _LOOKED_AT:
            async with house.db.transact(workspace_id) as tx:
                told += await _tell(tx, hour, begins_at, zone, now)
    return told


def _begin(period: Period, hour: Unusual) -> datetime:
    """When it began; of one that the clocks repeat, the first time."""
    day = period.first + timedelta(days=hour.day)
    return datetime.combine(day, time(hour.hour), period.zone).astimezone(UTC)


async def _tell(tx: Tx, hour: Unusual, begins_at: datetime, zone: ZoneInfo, now: datetime) -> int:
    await store.keep_hour(tx, begins_at, hour.came, hour.expected)
    local = begins_at.astimezone(zone)
    told = await add_alerts(
        tx,
        members=await alerts.list_members_with(tx, Permission.HOLD_OUTGOING),
        occasion="unusual",
        words=f"{hour.came} conversations came in since {local:%H:%M}, where {hour.expected:.1f} are usual in the whole hour.",
        conversation_id=None,
        key=f"unusual:{begins_at.isoformat()}",
        now=now,
    )
    return len(told)


async def list_shown(tx: Tx, now: datetime) -> list[dict[str, Any]]:
    """The unusual hours that the desk still shows, the latest first."""
    return await store.list_hours(tx, now - SHOWN_FOR)


async def set_false_alarms(house: House, scope: Scope, false_alarms: float) -> None:
    """About how many alarms a month chance alone may cause. Raises Invalid, NotAllowed."""
    scope.check(Permission.MANAGE_RULES)
    if false_alarms not in CHOICES:
        raise Invalid(f"Choose one of {', '.join(f'{c:g}' for c in CHOICES)} alarms a month.", "false_alarms")
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_false_alarms(tx, false_alarms)
