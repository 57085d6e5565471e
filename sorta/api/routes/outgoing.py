"""What goes out: what waits and why, answers to be sent later, holding everything."""

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import outgoing as shapes
from sorta.api.schemas.acts import Done
from sorta.api.schemas.files import TakenBack
from sorta.services import outgoing, scheduling

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["outgoing"])


@router.get("/outgoing")
async def get_outgoing(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Outgoing:
    """What has not gone out yet and why, what is to be sent later, what was refused, and whether all is held."""
    return shapes.Outgoing.model_validate(await outgoing.get_outgoing(house, scope, now))


@router.post("/outgoing/{outgoing_id}/try", status_code=204)
async def try_outgoing(house: HouseDep, scope: ScopeDep, now: NowDep, outgoing_id: int) -> None:
    """Do not wait for the next try."""
    await outgoing.try_now(house, scope, outgoing_id, now)


@router.post("/letters/try")
async def try_letters(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.TriedLetters:
    """Do not wait for the next try of letters and the like that were not taken."""
    return shapes.TriedLetters(count=await outgoing.try_letters(house, scope, now))


@router.put("/outgoing/hold", status_code=204)
async def hold_outgoing(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.Hold) -> None:
    """Hold everything that goes out."""
    await outgoing.hold(house, scope, body.reason, now)


@router.delete("/outgoing/hold", status_code=204)
async def release_outgoing(house: HouseDep, scope: ScopeDep, now: NowDep) -> None:
    """Let everything go that was held."""
    await outgoing.release(house, scope, now)


@router.post("/conversations/{conversation_id}/scheduled")
async def add_scheduled(
    house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.NewScheduled
) -> Done:
    """Send an answer later; the conversation is parked until then."""
    seq = await scheduling.schedule(
        house,
        scope,
        conversation_id,
        public=body.public,
        text=body.text,
        seen_seq=body.seen_seq,
        settle=body.settle,
        send_at=body.send_at,
        now=now,
        extras=body.get_extras(),
    )
    return Done(seq=seq)


@router.put("/scheduled/{scheduled_id}", status_code=204)
async def set_scheduled(
    house: HouseDep, scope: ScopeDep, now: NowDep, scheduled_id: int, body: shapes.ChangedScheduled
) -> None:
    """Other words, another time, or that it is still right after they wrote again."""
    await scheduling.change(
        house, scope, scheduled_id, text=body.text, send_at=body.send_at, seen_seq=body.seen_seq, now=now
    )


@router.delete("/scheduled/{scheduled_id}")
async def remove_scheduled(house: HouseDep, scope: ScopeDep, now: NowDep, scheduled_id: int) -> TakenBack:
    """Take back an answer that was to be sent later."""
    return TakenBack.of(await scheduling.cancel(house, scope, scheduled_id, now))
