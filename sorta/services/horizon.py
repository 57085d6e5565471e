"""The horizon strip and the pace line, from what is open now. Used by the API."""

from collections import Counter
from datetime import datetime, timedelta
from typing import Any

from sorta.core.horizon import count_dues, get_pace, get_start_of, list_slots
from sorta.core.working_time import get_local_midnight_after
from sorta.services import unusual
from sorta.services.hours import get_promise
from sorta.services.house import House, Scope
from sorta.store import overview

_LATELY = 120


async def get_horizon(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """Dues of the next 8 working hours in quarters, the late ones, and when the desk will be clear."""
    local = now.astimezone(scope.zone)
    async with house.db.transact(scope.workspace_id) as tx:
        promise = await get_promise(house, tx)
        slots = list_slots(promise.hours, local)
        until = slots[-1].ends if slots else now
        dues = await overview.list_dues(tx, until)
        lately_from = get_start_of(promise.hours, now, _LATELY)
        today_from = get_local_midnight_after(local) - timedelta(days=1)
        finished = await overview.count_finished(tx, lately_from, today_from)
        shown = await unusual.list_shown(tx, now)
        open_work = (await overview.count_waiting(tx, scope.member_id, now))["our_move"]
    pace = get_pace(
        promise.hours,
        now,
        open_work=open_work,
        lately=(finished["lately"], promise.hours.working_minutes_between(lately_from, now)),
        today=(finished["today"], promise.hours.working_minutes_between(today_from, now)),
    )
    ahead = [(due, priority) for due, priority in dues if due >= now]
    counts = count_dues(slots, ahead)
    return {
        "now": now,
        "late": Counter(priority for due, priority in dues if due < now),
        "within_hour": sum(1 for due, _ in ahead if due < now + timedelta(hours=1)),
        "slots": [
            {"starts": s.starts, "ends": s.ends, "is_open": s.is_open, "dues": c}
            for s, c in zip(slots, counts, strict=True)
        ],
        "open_work": open_work,
        "clear_at": pace.clear_at,
        "over": pace.over,
        "finished": pace.finished,
        "minutes": pace.minutes,
        "unusual": shown,
    }
