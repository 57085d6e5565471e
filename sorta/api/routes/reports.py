"""Reports: figures over a period."""

from typing import Annotated

from fastapi import APIRouter, Query

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import reports as shapes
from sorta.services import reports

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["reports"])


@router.get("/report")
async def get_report(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.ReportQuery, Query()]
) -> shapes.Report:
    """The figures of a period, what they are compared with, day by day, by hour of the week, and broken down."""
    return shapes.Report.model_validate(await reports.get_report(house, scope, query.to_ask(), now))
