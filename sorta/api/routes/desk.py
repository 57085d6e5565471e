"""The desk: queue, sheet, acts, answers."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import desk as shapes
from sorta.core.moves import Move
from sorta.core.targets import Priority
from sorta.services import acts, answers, desk

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["desk"])


@router.get("/counts")
async def get_counts(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Counts:
    """How many conversations stand at each move and in each band."""
    return shapes.Counts.model_validate(await desk.count_moves(house, scope, now))


@router.get("/conversations", response_model=shapes.Page)
async def list_conversations(
    house: HouseDep,
    scope: ScopeDep,
    move: Move,
    order: Literal["due", "newest"] = "due",
    after: Annotated[str | None, Query(max_length=120)] = None,
    limit: Annotated[int, Query(ge=1, le=desk.LONGEST_PAGE)] = 50,
) -> Response:
    """A page of the queue; `after` is the last row's `due~priority~id` or `last_at~id`.

    The text comes from the database as it is: a test holds it equal to the declared shape.
    """
    text = await desk.list_rows(house, scope, move=move, order=order, cursor=after, limit=limit)
    return Response(text, media_type="application/json")


@router.get("/rows", response_model=shapes.Page)
async def list_rows(
    house: HouseDep, scope: ScopeDep, ids: Annotated[list[int], Query(max_length=desk.LONGEST_PAGE)]
) -> Response:
    """Rows by number, whatever their move: what a live notice says has changed."""
    return Response(await desk.list_rows_by_id(house, scope, ids), media_type="application/json")


@router.get("/conversations/{conversation_id}")
async def get_conversation(house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int) -> shapes.Sheet:
    """Everything about one conversation."""
    return shapes.Sheet.model_validate(await desk.get_sheet(house, scope, conversation_id, now))


@router.post("/conversations/{conversation_id}/acts")
async def add_act(house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.Act) -> shapes.Done:
    """Do one thing to a conversation."""
    match body:
        case shapes.Assign():
            seq = await acts.assign(house, scope, conversation_id, owner_id=body.owner_id, note=body.note, now=now)
        case shapes.Prioritise():
            seq = await acts.prioritise(house, scope, conversation_id, priority=Priority(body.priority), now=now)
        case shapes.Note():
            seq = await acts.add_note(house, scope, conversation_id, text=body.text, now=now)
        case shapes.Keep():
            seq = await acts.keep(house, scope, conversation_id, now=now)
        case shapes.Park():
            seq = await acts.park(house, scope, conversation_id, choice=body.choice, until=body.until, now=now)
        case shapes.Settle():
            seq = await acts.settle(house, scope, conversation_id, how=body.how, now=now)
    return shapes.Done(seq=seq)


@router.post("/conversations/{conversation_id}/replies")
async def add_reply(
    house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.Reply
) -> shapes.Done:
    """Answer, publicly or privately."""
    seq = await answers.reply(
        house,
        scope,
        conversation_id,
        public=body.public,
        text=body.text,
        seen_seq=body.seen_seq,
        settle=body.settle,
        now=now,
    )
    return shapes.Done(seq=seq)


@router.post("/conversations/{conversation_id}/undo")
async def undo_act(
    house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.Undo
) -> shapes.Undone:
    """Take back an act of one's own."""
    return shapes.Undone(text=await acts.undo(house, scope, conversation_id, seq=body.seq, now=now))


@router.put("/conversations/{conversation_id}/read", status_code=204)
async def set_read(house: HouseDep, scope: ScopeDep, conversation_id: int, body: shapes.Read) -> None:
    """Say how far one has read."""
    await desk.set_read(house, scope, conversation_id, body.seq)


@router.put("/conversations/{conversation_id}/draft", status_code=204)
async def set_draft(house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.Draft) -> None:
    """Keep what one is typing."""
    await desk.set_draft(house, scope, conversation_id, body.mode, body.body, now)


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


@router.get("/find")
async def find(house: HouseDep, scope: ScopeDep, words: Annotated[str, Query(max_length=200)]) -> shapes.Found:
    """People and messages by their words."""
    return shapes.Found.model_validate(await desk.find(house, scope, words))
