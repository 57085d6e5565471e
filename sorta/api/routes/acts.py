"""What members do: acts on one conversation or several, acts on networks, replies, and taking back."""

from datetime import datetime

import structlog
from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import acts as shapes
from sorta.api.schemas.desk import Acted, Sheet
from sorta.api.schemas.files import TakenBack
from sorta.core.targets import Priority
from sorta.services import acts, answers, cases, desk, many, moderation
from sorta.services.house import House, Scope

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["desk"])
log = structlog.get_logger()

#: Acts that are all written here, and so some of them at once.
_SORTING = (
    shapes.Assign,
    shapes.Prioritise,
    shapes.Note,
    shapes.Keep,
    shapes.Park,
    shapes.Settle,
    shapes.Tag,
    shapes.Watch,
)
#: Acts of which also what leaves is written here, to leave later; some of it before all is checked.
_SENDING = (shapes.AnswerWith, shapes.ModerateLast)


async def _do(house: House, scope: Scope, now: datetime, id: int, seen_seq: int, body: shapes.Act) -> int:
    """One act on one conversation; its number in the trail."""
    match body:
        case shapes.Assign():
            return await acts.assign(
                house, scope, id, owner_id=body.owner_id, team_id=body.team_id, note=body.note, now=now
            )
        case shapes.Prioritise():
            return await acts.prioritise(house, scope, id, priority=Priority(body.priority), now=now)
        case shapes.Note():
            return await acts.add_note(house, scope, id, text=body.text, now=now)
        case shapes.Keep():
            return await acts.keep(house, scope, id, now=now)
        case shapes.Park():
            return await acts.park(house, scope, id, choice=body.choice, until=body.until, now=now, seen_seq=seen_seq)
        case shapes.Settle():
            return await acts.settle(house, scope, id, how=body.how, now=now, seen_seq=seen_seq)
        case shapes.HandOver():
            return await cases.hand_over(
                house, scope, id, desk_id=body.desk_id, note=body.note, now=now, seen_seq=seen_seq
            )
        case shapes.Reopen():
            return await acts.reopen(house, scope, id, now=now)
        case shapes.Tag():
            put = acts.tag_person if body.person else acts.tag
            return await put(house, scope, id, name=body.name, on=body.on, now=now)
        case shapes.Watch():
            return await acts.watch(house, scope, id, on=body.on, now=now)
        case shapes.AnswerWith():
            return await many.answer_with(
                house, scope, id, saved_reply=body.saved_reply, settle=body.settle, seen_seq=seen_seq, now=now
            )
        case shapes.ModerateLast():
            return await many.moderate_last(house, scope, id, what=body.what, now=now)
        case shapes.TranslateLast():
            return await many.translate_last(house, scope, id, language=body.language, now=now)
        case shapes.Correct():
            return await acts.correct(
                house, scope, id, message_id=body.message_id, field=body.field, value=body.value, now=now
            )


@router.post("/conversations/{conversation_id}/acts")
async def add_act(house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.OneAct) -> Acted:
    """Do one thing to a conversation."""
    seq = await _do(house, scope, now, conversation_id, body.seen_seq, body.act)
    return Acted(seq=seq, sheet=await _read_sheet(house, scope, now, conversation_id) if body.with_sheet else None)


async def _read_sheet(house: House, scope: Scope, now: datetime, conversation_id: int) -> Sheet | None:
    """None where it cannot be read, for whatever reason. The act is done all the same and must not be said to have failed: whoever wants
    the sheet asks for it, and is told why it cannot be had."""
    try:
        return Sheet.model_validate(await desk.get_sheet(house, scope, conversation_id, now))
    except Exception:
        log.exception("sheet_not_read", conversation=conversation_id)
        return None


@router.post("/acts")
async def add_acts(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.Many) -> shapes.DoneMany:
    """Do one thing to several conversations; what failed is told one by one."""
    seen = {one.id: one.seen_seq for one in body.on}

    async def do(id: int) -> int:
        return await _do(house, scope, now, id, seen[id], body.act)

    if isinstance(body.act, _SORTING + _SENDING):
        apart = isinstance(body.act, _SENDING)
        return shapes.DoneMany.model_validate(await many.do_together(house, scope, list(seen), do, now, apart=apart))
    return shapes.DoneMany.model_validate(await many.do_many(list(seen), do))


@router.post("/undo")
async def undo_acts(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.UndoMany) -> shapes.DoneMany:
    """Take back several acts of one's own."""
    seqs = {one.id: one.seq for one in body.acts}

    async def undo(id: int) -> int:
        await acts.undo(house, scope, id, seq=seqs[id], now=now)
        return seqs[id]

    return shapes.DoneMany.model_validate(await many.do_together(house, scope, list(seqs), undo, now, apart=True))


@router.post("/messages/{message_id}/moderation")
async def add_moderation(
    house: HouseDep, scope: ScopeDep, now: NowDep, message_id: int, body: shapes.Moderate
) -> shapes.DoneThere:
    """Ask the network to like, hide, delete, repost or block."""
    conversation_id, seq = await moderation.moderate(house, scope, message_id, what=body.what, now=now)
    return shapes.DoneThere(conversation_id=conversation_id, seq=seq)


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
        extras=body.get_extras(),
    )
    return shapes.Done(seq=seq)


@router.post("/conversations/{conversation_id}/undo")
async def undo_act(house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.Undo) -> TakenBack:
    """Take back an act of one's own."""
    return TakenBack.of(await acts.undo(house, scope, conversation_id, seq=body.seq, now=now))
