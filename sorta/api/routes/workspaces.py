"""Workspaces: which one works in, new ones, and what one is about."""

from fastapi import APIRouter, Request, Response

from sorta.api.deps import HouseDep, NowDep, OwnTokenDep, ScopeDep
from sorta.api.schemas import workspaces as shapes
from sorta.api.schemas.files import BYTES
from sorta.services import looks, sign_in, starting, workspaces

router = APIRouter(prefix="/api", tags=["workspaces"])


@router.get("/workspaces")
async def list_workspaces(house: HouseDep, token: OwnTokenDep, now: NowDep) -> list[shapes.OwnWorkspace]:
    """Those one works in, with how much waits in each; those put away, for their Owners."""
    session = await sign_in.get_session(house, token, now)
    found = await workspaces.list_mine(house, session.member_id)
    return [shapes.OwnWorkspace.model_validate(one) for one in found]


@router.post("/workspaces/{workspace_id}/copies", status_code=201)
async def make_workspace(
    house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewWorkspace
) -> shapes.MadeWorkspace:
    """A new workspace of the same organisation, empty or beginning as this one is set up."""
    made = await workspaces.make(house, scope, name=body.name, time_zone=body.time_zone, copy=body.copy_setup, now=now)
    return shapes.MadeWorkspace(id=made.id, copied=made.copied, left_out=made.left_out)


@router.get("/workspaces/{workspace_id}/about")
async def get_about(house: HouseDep, scope: ScopeDep) -> shapes.About:
    """What this workspace is called and is about."""
    return shapes.About.model_validate(await workspaces.get_about(house, scope))


@router.put("/workspaces/{workspace_id}/about", status_code=204)
async def set_about(house: HouseDep, scope: ScopeDep, body: shapes.SetAbout) -> None:
    """What it is called and is about from now on."""
    await workspaces.set_about(house, scope, **body.model_dump())


@router.put("/workspaces/{workspace_id}/picture", status_code=204, openapi_extra=BYTES)
async def set_picture(request: Request, house: HouseDep, scope: ScopeDep) -> None:
    """Another picture from now on: the body is a PNG, JPEG, WebP or GIF."""
    await looks.set_picture(house, scope, await request.body())


@router.delete("/workspaces/{workspace_id}/picture", status_code=204)
async def remove_picture(house: HouseDep, scope: ScopeDep) -> None:
    """No picture from now on."""
    await looks.remove_picture(house, scope)


@router.get("/workspaces/{workspace_id}/picture", response_class=Response)
async def get_picture(house: HouseDep, scope: ScopeDep) -> Response:
    """The picture, 256 by 256 at most, in PNG. Whoever shows it asks for it by what it is known by, so that it may be kept."""
    image = await looks.get_picture(house, scope)
    return Response(image, media_type="image/png", headers={"Cache-Control": "private, max-age=86400"})


@router.post("/workspaces/{workspace_id}/archive", status_code=204)
async def archive_workspace(house: HouseDep, scope: ScopeDep, now: NowDep) -> None:
    """Put it away: nobody opens it, nothing runs, nothing leaves; everything is kept."""
    await workspaces.archive(house, scope, now)


@router.post("/archived/{workspace_number}/bring-back", status_code=204)
async def bring_back_workspace(house: HouseDep, token: OwnTokenDep, now: NowDep, workspace_number: int) -> None:
    """Open one again that was put away."""
    session = await sign_in.get_session(house, token, now)
    await workspaces.bring_back(house, session.member_id, workspace_number)


@router.get("/workspaces/{workspace_id}/start")
async def get_start(house: HouseDep, scope: ScopeDep) -> list[shapes.StartStep]:
    """The steps of the guided start."""
    return [shapes.StartStep.model_validate(one) for one in await starting.get_start(house, scope)]


@router.put("/workspaces/{workspace_id}/start/{key}", status_code=204)
async def skip_step(house: HouseDep, scope: ScopeDep, key: str, body: shapes.SkipStep) -> None:
    """Pass a step over, or take it up again."""
    await starting.skip(house, scope, key, on=body.skipped)


@router.get("/workspaces/{workspace_id}/ready-rules")
async def list_ready_rules(house: HouseDep, scope: ScopeDep, now: NowDep) -> list[shapes.ReadyRule]:
    """Rules to begin with."""
    return [shapes.ReadyRule.model_validate(one) for one in await starting.list_ready(house, scope, now)]


@router.post("/workspaces/{workspace_id}/ready-rules")
async def add_ready_rules(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.ChosenRules) -> shapes.AddedRules:
    """Add some of them, switched on."""
    return shapes.AddedRules(count=await starting.add_ready(house, scope, body.keys, now))
