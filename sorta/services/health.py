"""Accounts' health: what came last and how late, what waits and was refused, by hour of the last day. Used by the API."""

from datetime import datetime, timedelta
from typing import Any

from sorta.core.permissions import Permission
from sorta.networks.abilities import TABLE
from sorta.services.house import House, Scope
from sorta.store import health as store

HOURS = 24
#: How far back the last event of an account is looked for.
LONG_AGO = timedelta(days=90)


async def get_health(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """Each account over the last 24 hours, this one among them, by the workspace's clock. Raises NotAllowed."""
    scope.check(Permission.SEE_REPORTS)
    this_hour = now.astimezone(scope.zone).replace(minute=0, second=0, microsecond=0).astimezone(now.tzinfo)
    since = this_hour - timedelta(hours=HOURS - 1)
    async with house.db.transact(scope.workspace_id, steady=True) as tx:
        accounts, hours, lags = await store.get_health(
            tx, since=since, until=now + timedelta(hours=1), long_ago=now - LONG_AGO
        )
    by_hour = {(row["account_id"], row["hour"]): row for row in hours}
    whole = {row["account_id"]: row for row in lags}
    nothing = {"came": 0, "lag_half": None, "lag_worst": None}
    return {
        "since": since,
        "accounts": [
            {
                **row,
                "network_name": TABLE[row["network"]].name,
                "letters": TABLE[row["network"]].letters,
                **{**nothing, **whole.get(row["account_id"], {})},
                "hours": [{**nothing, **by_hour.get((row["account_id"], n), {})} for n in range(HOURS)],
            }
            for row in accounts
        ],
    }
