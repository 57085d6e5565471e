"""How many people each hour of the week needs, against who works then. Used by the API."""

from dataclasses import asdict
from datetime import datetime
from typing import Any

import numpy as np

from sorta.core.errors import Invalid
from sorta.core.periods import Period
from sorta.core.permissions import Permission
from sorta.core.reports import measure_arrivals, pick_answers
from sorta.core.staffing import choose_handling, measure_open, plan_week
from sorta.core.working_time import get_week, read_spans
from sorta.services.hours import get_promise
from sorta.services.house import House, Scope
from sorta.services.reports import Ask, load
from sorta.services.team import may_reply
from sorta.services.waits import Loaded
from sorta.store import team

#: An hour counts as worked when at least so much of it is.
_HALF = 0.5


async def get_staffing(
    house: House, scope: Scope, ask: Ask, *, within: int, share: float, handling: int | None, now: datetime
) -> dict[str, Any]:
    """The hours of the week with what they need so that `share` of what comes in is begun `within` so many minutes; `handling` is
    how many minutes an answer takes, else the mean of those that were timed, else an assumption. Raises Invalid."""
    scope.check(Permission.SEE_REPORTS)
    period, loaded = await load(house, scope, ask, now)
    async with house.db.transact(scope.workspace_id) as tx:
        promise = await get_promise(house, tx)
        rows = await team.list_loads(tx, now)
    week = get_week(promise.hours)
    is_open = [part >= _HALF for part in measure_open(week)]
    on_shift = [0] * 168
    for row in rows:
        if not may_reply(row["permissions"]):
            continue
        works = week if row["shift"] is None else tuple(read_spans(text) for text in row["shift"])
        for cell, part in enumerate(measure_open(works)):
            on_shift[cell] += part >= _HALF
    try:
        return await house.reporting.do(_plan, loaded, period, is_open, on_shift, within, share, handling, now)
    except ValueError as error:
        raise Invalid(f"That cannot be planned: {error}.", "share") from error


def _plan(
    loaded: Loaded,
    period: Period,
    is_open: list[bool],
    on_shift: list[int],
    within: int,
    share: float,
    handling: int | None,
    now: datetime,
) -> dict[str, Any]:
    told = loaded.read()
    timed = told["handling"][pick_answers(told, period) & ~np.isnan(told["handling"])]
    arrivals = measure_arrivals(told, period, now.timestamp())
    took = choose_handling(handling, timed.tolist())
    plan = plan_week(arrivals, is_open, on_shift, handling=took.seconds, within=within * 60.0, share=share)
    return {
        "handling": took.seconds,
        "source": took.source,
        "timed": len(timed),
        "hours": [asdict(need) for need in plan],
    }
