"""Reports: figures over a period."""

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.downloads import CSV, XLSX, name_file
from sorta.api.schemas import reports as shapes
from sorta.api.schemas.sorting import Made
from sorta.services import health, replays, report_export, report_sharing, report_staffing, reports, streams, unusual

STREAMS = "application/activity+json"
ReportDep = Annotated[shapes.ReportQuery, Query()]
BehindDep = Annotated[shapes.BehindQuery, Query()]

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["reports"])


@router.get("/report")
async def get_report(house: HouseDep, scope: ScopeDep, now: NowDep, query: ReportDep) -> shapes.Report:
    """The figures of a period, what they are compared with, day by day, by hour of the week, and broken down."""
    return shapes.Report.model_validate(await reports.get_report(house, scope, query.to_ask(), now))


@router.get("/report/standing")
async def get_standing(house: HouseDep, scope: ScopeDep, now: NowDep, query: ReportDep) -> shapes.ReportStanding:
    """Where what waited at each day's end of a period stood."""
    return shapes.ReportStanding.model_validate(await reports.list_standing(house, scope, query.to_ask(), now))


@router.get("/report/doings")
async def get_doings(house: HouseDep, scope: ScopeDep, now: NowDep, query: ReportDep) -> shapes.Doings:
    """What rules, approvals, saved replies, links and cases did in a period, in the whole workspace."""
    return shapes.Doings.model_validate(await reports.list_doings(house, scope, query.to_ask(), now))


@router.get("/accounts/health")
async def get_accounts_health(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.AccountsHealth:
    """How well each account is connected: over the last 24 hours, and as it stands."""
    return shapes.AccountsHealth.model_validate(await health.get_health(house, scope, now))


@router.put("/report/false-alarms", status_code=204)
async def set_false_alarms(house: HouseDep, scope: ScopeDep, body: shapes.FalseAlarms) -> None:
    """About how many unusual hours a month may be told of that chance alone made."""
    await unusual.set_false_alarms(house, scope, body.a_month)


@router.get("/staffing")
async def get_staffing(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.StaffingQuery, Query()]
) -> shapes.Staffing:
    """How many people each hour of the week needs, against who works then."""
    found = await report_staffing.get_staffing(
        house, scope, query.to_ask(), within=query.within, share=query.share, handling=query.handling, now=now
    )
    return shapes.Staffing.model_validate(found)


@router.post("/what-if", status_code=201)
async def start_what_if(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewWhatIf) -> Made:
    """Have the last days played again, many times, in the background."""
    return Made(id=await replays.start(house, scope, body.to_what_if(), now))


@router.get("/what-if")
async def list_what_ifs(house: HouseDep, scope: ScopeDep) -> list[shapes.PlayedWhatIf]:
    """What was asked so in this workspace, the newest first."""
    return [shapes.PlayedWhatIf.model_validate(one) for one in await replays.list_replays(house, scope)]


@router.get("/what-if/{what_if_id}")
async def get_what_if(house: HouseDep, scope: ScopeDep, what_if_id: int) -> shapes.PlayedWhatIf:
    """How far one has come, and what came out."""
    return shapes.PlayedWhatIf.model_validate(await replays.get_replay(house, scope, what_if_id))


@router.delete("/what-if/{what_if_id}", status_code=204)
async def forget_what_if(house: HouseDep, scope: ScopeDep, what_if_id: int) -> None:
    """Forget one of one's own, or stop it."""
    await replays.forget(house, scope, what_if_id)


@router.get("/report.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def export_report_csv(house: HouseDep, scope: ScopeDep, now: NowDep, query: ReportDep) -> Response:
    """The same as tables one below the other, as CSV (RFC 4180)."""
    sheets = await report_export.list_sheets(house, scope, query.to_ask(), now)
    text = "\ufeff" + report_export.write_sheets_csv(sheets)
    return Response(text, media_type=CSV, headers=name_file("report.csv"))


@router.get("/report.xlsx", response_class=Response, responses={200: {"content": {XLSX: {}}}})
async def export_report_xlsx(house: HouseDep, scope: ScopeDep, now: NowDep, query: ReportDep) -> Response:
    """The same as a workbook, a sheet for each table."""
    sheets = await report_export.list_sheets(house, scope, query.to_ask(), now)
    blocks = report_export.stream_workbook(house, scope, sheets)
    return StreamingResponse(blocks, media_type=XLSX, headers=name_file("report.xlsx"))


@router.get("/report/conversations.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def export_conversations_csv(house: HouseDep, scope: ScopeDep, now: NowDep, query: BehindDep) -> Response:
    """The conversations behind a figure, as CSV, streamed."""
    parts = await report_export.list_conversations(house, scope, query.to_ask(), query.to_chosen(), now)
    return StreamingResponse(report_export.stream_csv(parts), media_type=CSV, headers=name_file("conversations.csv"))


@router.get("/report/conversations.xlsx", response_class=Response, responses={200: {"content": {XLSX: {}}}})
async def export_conversations_xlsx(house: HouseDep, scope: ScopeDep, now: NowDep, query: BehindDep) -> Response:
    """The conversations behind a figure, as a workbook, streamed."""
    parts = await report_export.list_conversations(house, scope, query.to_ask(), query.to_chosen(), now)
    blocks = report_export.stream_rows(house, scope, parts)
    return StreamingResponse(blocks, media_type=XLSX, headers=name_file("conversations.xlsx"))


@router.get("/report/conversations.json", response_class=Response, responses={200: {"content": {STREAMS: {}}}})
async def export_conversations_streams(house: HouseDep, scope: ScopeDep, now: NowDep, query: BehindDep) -> Response:
    """The conversations behind a figure with all that was said in them, as ActivityStreams collections, streamed."""
    blocks = await streams.export(house, scope, query.to_ask(), query.to_chosen(), now)
    return StreamingResponse(blocks, media_type=STREAMS, headers=name_file("conversations.json"))


@router.post("/conversations/import")
async def import_conversations(
    house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.ConversationsFile
) -> shapes.Brought:
    """Take in conversations of a file of ActivityStreams collections; what is known already changes nothing."""
    found = await streams.bring_in(house, scope, body.document, now, settle=body.settle)
    return shapes.Brought.model_validate(asdict(found))


@router.get("/kept-reports")
async def list_kept_reports(house: HouseDep, scope: ScopeDep) -> list[shapes.KeptReport]:
    """Reports kept under a name, one's own and shared ones."""
    return [shapes.KeptReport.model_validate(one) for one in await reports.list_kept(house, scope)]


@router.post("/kept-reports")
async def keep_report(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewKeptReport) -> Made:
    """Keep a report under a name."""
    id = await reports.keep(house, scope, name=body.name, shared=body.shared, query=body.query, now=now)
    return Made(id=id)


@router.delete("/kept-reports/{kept_id}", status_code=204)
async def forget_report(house: HouseDep, scope: ScopeDep, kept_id: int) -> None:
    """Forget a report of one's own."""
    await reports.forget(house, scope, kept_id)


@router.get("/shared-reports")
async def list_shared_reports(house: HouseDep, scope: ScopeDep, now: NowDep) -> list[shapes.SharedReport]:
    """Reports that are shared by a link, the newest first."""
    return [shapes.SharedReport.model_validate(one) for one in await report_sharing.list_shares(house, scope, now)]


@router.post("/shared-reports", status_code=201)
async def share_report(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewSharedReport) -> Made:
    """Share a report by a link, and mail it at its times."""
    return Made(id=await report_sharing.add_share(house, scope, body.to_share(), now))


@router.delete("/shared-reports/{shared_id}", status_code=204)
async def revoke_shared_report(house: HouseDep, scope: ScopeDep, now: NowDep, shared_id: int) -> None:
    """Take a link back."""
    await report_sharing.revoke_share(house, scope, shared_id, now)
