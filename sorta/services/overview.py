"""Open work at a glance: the cross-tab, everything that comes in, what waits. Used by the API."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid
from sorta.networks.abilities import TABLE
from sorta.services.approvals import count_mine
from sorta.services.desk import get_band_edges
from sorta.services.filters import read_filters
from sorta.services.house import House, Scope
from sorta.store import outbox, overview

LONGEST_FEED = 100


async def get_cross(
    house: House, scope: Scope, *, rows: str, columns: str, filters: Mapping[str, Any], now: datetime
) -> dict[str, Any]:
    """How many open conversations have each pair of values, and how many of these are late.

    Sums count each conversation once, also where it stands in several rows because of several tags.
    """
    if rows == columns:
        raise Invalid("Choose two different things for rows and columns.", "columns")
    edges = get_band_edges(scope, now)
    async with house.db.transact(scope.workspace_id) as tx:
        found = await overview.count_cross(
            tx,
            scope.member_id,
            row=rows,
            column=columns,
            filters=read_filters(filters, scope, edges),
            edges=edges,
        )
    cells: dict[str, list[dict[str, Any]]] = {"cells": [], "row_sums": [], "column_sums": []}
    total = {"n": 0, "late": 0}
    for one in found:
        count = {"n": one["n"], "late": one["late"]}
        match one["all_rows"], one["all_columns"]:
            case False, False:
                cells["cells"].append({"row": one["row"], "column": one["column"], **count})
            case False, True:
                cells["row_sums"].append({"value": one["row"], **count})
            case True, False:
                cells["column_sums"].append({"value": one["column"], **count})
            case _:
                total = count
    return {**cells, **total}


async def list_feed(house: House, scope: Scope, before: datetime, limit: int) -> list[dict[str, Any]]:
    """What came in before an instant, newest first, reactions included."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await overview.list_feed(tx, before, min(limit, LONGEST_FEED))


async def count_waiting(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """What waits, for the browser's tab."""
    async with house.db.transact(scope.workspace_id) as tx:
        waiting = await overview.count_waiting(tx, scope.member_id, now)
        stuck = [
            {**one, "network": TABLE[one["network"]].name} for one in await outbox.list_stuck(tx) if not one["is_held"]
        ]
        return {**waiting, "approvals": await count_mine(tx, scope), "stuck": stuck}
