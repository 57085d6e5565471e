"""The desk: queue, sheet, acts, answers."""

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query, Response
from fastapi.responses import StreamingResponse

from sorta.api.deps import HouseDep, NowDep, ScopeDep, describe_query, make_query_reader
from sorta.api.downloads import CSV, XLSX, name_file
from sorta.api.schemas import desk as shapes
from sorta.api.schemas.reports import read_behind
from sorta.services import desk, finding, report_export, reports, rules
from sorta.services.filters import ANY_MOVE
from sorta.services.house import House, Scope

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["desk"])
PageQueryDep = Annotated[shapes.PageQuery, Depends(make_query_reader(shapes.PageQuery))]


async def _narrow(house: House, scope: Scope, query: shapes.ListFilters, now: datetime) -> dict[str, Any]:
    """The filters by name, and the conversations behind a report's figure where the list is one."""
    filters = query.model_dump(mode="json", exclude={*shapes.PAGING, "report", "rule"})
    if query.report is not None:
        behind = read_behind(query.report)
        found = await reports.list_behind(house, scope, behind.to_ask(), behind.to_chosen(), now)
        # Of a figure that counts nothing the list is empty, and not all there is.
        filters["ids"] = found or [0]
    if query.rule is not None:
        met = dict.fromkeys(await rules.list_met(house, scope, query.rule, now))
        filters["ids"] = [id for id in filters.get("ids", met) if id in met] or [0]
    return filters


@router.get("/counts")
async def get_counts(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.ListFilters, Query()]
) -> shapes.Counts:
    """How many conversations stand at each move and in each band, and have each value within the move."""
    return shapes.Counts.model_validate(
        await desk.count_moves(house, scope, await _narrow(house, scope, query, now), now)
    )


@router.get("/conversations", response_model=shapes.Page, openapi_extra=describe_query(shapes.PageQuery))
async def list_conversations(house: HouseDep, scope: ScopeDep, now: NowDep, query: PageQueryDep) -> Response:
    """A page of the queue. The text comes from the database as it is: a test holds it equal to the declared shape."""
    filters = await _narrow(house, scope, query, now)
    text = await desk.list_rows(
        house,
        scope,
        filters=filters,
        order=query.order,
        cursor=query.after,
        limit=query.limit,
        now=now,
        backwards=query.backwards,
    )
    return Response(text, media_type="application/json")


@router.get("/conversation-ids")
async def list_conversation_ids(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.ListFilters, Query()]
) -> shapes.Ids:
    """All that the filters let through, for one act on all of it."""
    found = await desk.list_ids(house, scope, filters=await _narrow(house, scope, query, now), now=now)
    return shapes.Ids(ids=[id for id, _ in found], seqs=[seq for _, seq in found])


@router.get("/count")
async def count_conversations(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.ListFilters, Query()]
) -> shapes.Many:
    """How many conversations the filters let through, up to a thousand."""
    n = await desk.count_some(house, scope, filters=await _narrow(house, scope, query, now), now=now)
    return shapes.Many(n=n, is_more=n >= desk.MOST_COUNTED)


@router.get("/conversations.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def export_conversations(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.ListFilters, Query()]
) -> Response:
    """All that the filters let through, as CSV (RFC 4180)."""
    filters = await _narrow(house, scope, query, now)
    parts = await report_export.list_filtered(house, scope, filters, now)
    return StreamingResponse(report_export.stream_csv(parts), media_type=CSV, headers=name_file("conversations.csv"))


@router.get("/conversations.xlsx", response_class=Response, responses={200: {"content": {XLSX: {}}}})
async def export_workbook(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.ListFilters, Query()]
) -> Response:
    """The same as a workbook."""
    filters = await _narrow(house, scope, query, now)
    parts = await report_export.list_filtered(house, scope, filters, now)
    blocks = report_export.stream_rows(house, scope, parts)
    return StreamingResponse(blocks, media_type=XLSX, headers=name_file("conversations.xlsx"))


@router.post("/conversations/export", response_class=Response, responses={200: {"content": {"text/csv": {}, XLSX: {}}}})
async def export_selected(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.Selected) -> Response:
    """Those that are selected, as CSV (RFC 4180) or as a workbook."""
    parts = await report_export.list_filtered(house, scope, {"move": ANY_MOVE, "ids": body.ids}, now)
    if body.form == "csv":
        return StreamingResponse(report_export.stream_csv(parts), media_type=CSV, headers=name_file("selected.csv"))
    blocks = report_export.stream_rows(house, scope, parts)
    return StreamingResponse(blocks, media_type=XLSX, headers=name_file("selected.xlsx"))


@router.get("/rows", response_model=shapes.Page)
async def list_rows(
    house: HouseDep,
    scope: ScopeDep,
    ids: Annotated[list[int], Query(max_length=desk.LONGEST_PAGE)],
    order: shapes.Order = "due",
) -> Response:
    """Rows by number, whatever their move: what a live notice says has changed; each with its place in `order`."""
    return Response(await desk.list_rows_by_id(house, scope, ids, order), media_type="application/json")


@router.get("/conversations/{conversation_id}")
async def get_conversation(house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int) -> shapes.Sheet:
    """Everything about one conversation."""
    return shapes.Sheet.model_validate(await desk.get_sheet(house, scope, conversation_id, now))


@router.get("/posts/{post_id}/thread")
async def get_thread(house: HouseDep, scope: ScopeDep, post_id: int) -> shapes.Thread:
    """Everything said under a post."""
    return shapes.Thread.model_validate(await desk.get_thread(house, scope, post_id))


@router.put("/conversations/{conversation_id}/read", status_code=204)
async def set_read(house: HouseDep, scope: ScopeDep, conversation_id: int, body: shapes.Read) -> None:
    """Say how far one has read."""
    await desk.set_read(house, scope, conversation_id, body.seq)


@router.put("/conversations/{conversation_id}/draft")
async def set_draft(
    house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.Draft
) -> shapes.DraftKept:
    """Keep what one is typing in one mode."""
    rev = await desk.set_draft(
        house,
        scope,
        conversation_id,
        mode=body.mode,
        body=body.body,
        shared=body.shared,
        files=body.files,
        account=body.account,
        rev=body.rev,
        now=now,
    )
    return shapes.DraftKept(rev=rev)


@router.put("/presence", status_code=204)
async def set_presence(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.Presence) -> None:
    """Say what one has open."""
    await desk.set_presence(house, scope, body.conversation_id, body.doing, now)


@router.get("/presence")
async def list_presence(house: HouseDep, scope: ScopeDep, now: NowDep) -> list[shapes.Present]:
    """Who has what open."""
    return [shapes.Present.model_validate(p) for p in await desk.list_presence(house, scope, now)]


@router.get("/members")
async def list_members(house: HouseDep, scope: ScopeDep) -> list[shapes.Member]:
    """Who works here."""
    return [shapes.Member.model_validate(m) for m in await desk.list_members(house, scope)]


@router.get("/find/suggestion")
async def suggest_words(
    house: HouseDep, scope: ScopeDep, words: Annotated[str, Query(max_length=200)]
) -> shapes.Suggestion:
    """What somebody who found nothing may have meant."""
    return shapes.Suggestion(words=await finding.suggest(house, scope, words))


@router.get("/find")
async def find(house: HouseDep, scope: ScopeDep, words: Annotated[str, Query(max_length=200)]) -> shapes.Found:
    """People and messages by their words."""
    return shapes.Found.model_validate(await finding.find(house, scope, words))
