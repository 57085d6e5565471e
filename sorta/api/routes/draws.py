"""Prize draws."""

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import JSONResponse

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.downloads import name_file
from sorta.api.schemas import draws as shapes
from sorta.services import draws

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["draws"])


@router.get("/posts")
async def list_posts(
    house: HouseDep, scope: ScopeDep, words: Annotated[str, Query(max_length=200)] = ""
) -> list[shapes.PostChoice]:
    """Posts of ours that people have spoken under, the most lately spoken under first."""
    return [shapes.PostChoice.model_validate(p) for p in await draws.list_posts(house, scope, words)]


@router.get("/draws")
async def list_draws(house: HouseDep, scope: ScopeDep) -> list[shapes.DrawOne]:
    """All draws, the latest first."""
    return [shapes.DrawOne.model_validate(d) for d in await draws.list_draws(house, scope)]


@router.post("/draws", status_code=201)
async def add_draw(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewDraw) -> shapes.DrawAdded:
    """Announce a draw: its rules and its seed are fixed from now on."""
    return shapes.DrawAdded(id=await draws.announce(house, scope, body.post_id, body.rules, now))


@router.get("/draws/{draw_id}")
async def get_draw(house: HouseDep, scope: ScopeDep, draw_id: int) -> shapes.DrawInFull:
    """Who takes part, who is left out and why, who has won."""
    return shapes.DrawInFull.model_validate(await draws.get_draw(house, scope, draw_id))


@router.post("/draws/{draw_id}/draw", status_code=204)
async def draw_winners(
    house: HouseDep, scope: ScopeDep, now: NowDep, draw_id: int, body: shapes.DrawNow | None = None
) -> None:
    """Draw, once, from the list that was fixed at the deadline."""
    await draws.draw_now(house, scope, draw_id, now, public_value=body.public_value if body else "")


@router.delete("/draws/{draw_id}", status_code=204)
async def cancel_draw(house: HouseDep, scope: ScopeDep, now: NowDep, draw_id: int) -> None:
    """It will not be drawn."""
    await draws.cancel(house, scope, draw_id, now)


@router.get("/draws/{draw_id}/certificate", response_model=shapes.Certificate)
async def get_certificate(house: HouseDep, scope: ScopeDep, draw_id: int) -> JSONResponse:
    """The certificate as a file, which anybody can check again."""
    told = await draws.get_certificate(house, scope, draw_id)
    return JSONResponse(told, headers=name_file(f"draw-{draw_id}.json"))


@router.post("/draws/{draw_id}/notify")
async def notify_winners(
    house: HouseDep, scope: ScopeDep, now: NowDep, draw_id: int, body: shapes.Notify
) -> list[shapes.Notified]:
    """Write to winners with a saved reply."""
    done = await draws.notify(house, scope, draw_id, saved_reply=body.saved_reply_id, places=body.places, now=now)
    return [shapes.Notified.model_validate(one) for one in done]
