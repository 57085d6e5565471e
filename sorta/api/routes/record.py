"""The record of changes."""

from typing import Annotated

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.downloads import CSV, name_file
from sorta.api.schemas import record as shapes
from sorta.services import record, report_export

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["record"])


@router.get("/record")
async def list_record(
    house: HouseDep, scope: ScopeDep, query: Annotated[shapes.RecordPageQuery, Query()]
) -> shapes.RecordPage:
    """Every administrative change, the newest first: who, when, from where, before and after. Secrets are not shown."""
    entries = await record.list_entries(house, scope, query.to_ask(), query.before)
    return shapes.RecordPage.model_validate({"things": record.list_things(), "entries": entries})


@router.get("/record.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def export_record(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.RecordQuery, Query()]
) -> Response:
    """The same as CSV, streamed."""
    parts = await record.export(house, scope, query.to_ask(), now)
    return StreamingResponse(report_export.stream_csv(parts), media_type=CSV, headers=name_file("record.csv"))
