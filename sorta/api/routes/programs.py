"""Programs: their tokens, and what they are told."""

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import programs as shapes
from sorta.api.schemas.setup import HookSecret
from sorta.services import programs

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["programs"])


@router.get("/programs/tokens")
async def list_api_tokens(house: HouseDep, scope: ScopeDep, now: NowDep) -> list[shapes.ApiToken]:
    """The tokens, the newest first."""
    return [shapes.ApiToken.model_validate(one) for one in await programs.list_tokens(house, scope, now)]


@router.post("/programs/tokens", status_code=201)
async def add_api_token(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewApiToken) -> shapes.MadeApiToken:
    """A new token."""
    token = await programs.add_token(
        house, scope, name=body.name, permissions=body.permissions, days=body.days, now=now
    )
    return shapes.MadeApiToken(token=token)


@router.delete("/programs/tokens/{token_id}", status_code=204)
async def revoke_api_token(house: HouseDep, scope: ScopeDep, now: NowDep, token_id: int) -> None:
    """Take a token back: it opens nothing from now on."""
    await programs.revoke_token(house, scope, token_id, now)


@router.get("/programs/hooks")
async def list_hooks(house: HouseDep, scope: ScopeDep) -> list[shapes.Hook]:
    """Where programs are told."""
    return [shapes.Hook.model_validate(one) for one in await programs.list_hooks(house, scope)]


@router.post("/programs/hooks", status_code=201)
async def add_hook(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.HookBody) -> shapes.MadeHook:
    """A new place where a program is told."""
    id, secret = await programs.set_hook(house, scope, None, name=body.name, url=body.url, kinds=body.kinds, now=now)
    assert secret is not None
    return shapes.MadeHook(id=id, secret=secret)


@router.put("/programs/hooks/{hook_id}", status_code=204)
async def set_hook(house: HouseDep, scope: ScopeDep, now: NowDep, hook_id: int, body: shapes.HookBody) -> None:
    """What it is called, where it is and what it is told of; it is told again where that was switched off."""
    await programs.set_hook(house, scope, hook_id, name=body.name, url=body.url, kinds=body.kinds, now=now)


@router.post("/programs/hooks/{hook_id}/secret")
async def change_program_secret(house: HouseDep, scope: ScopeDep, now: NowDep, hook_id: int) -> HookSecret:
    """Another secret to sign with, shown this once."""
    secret, until = await programs.change_secret(house, scope, hook_id, now)
    return HookSecret(secret=secret, before_until=until)


@router.delete("/programs/hooks/{hook_id}", status_code=204)
async def remove_hook(house: HouseDep, scope: ScopeDep, now: NowDep, hook_id: int) -> None:
    """It is told nothing more."""
    await programs.remove_hook(house, scope, hook_id, now)


@router.get("/programs/hooks/{hook_id}/events")
async def list_hook_events(
    house: HouseDep, scope: ScopeDep, hook_id: int, before: int | None = None
) -> list[shapes.HookEvent]:
    """What it was told or is to be, the newest first."""
    return [shapes.HookEvent.model_validate(one) for one in await programs.list_told(house, scope, hook_id, before)]


@router.post("/programs/hooks/{hook_id}/again")
async def tell_hook_again(
    house: HouseDep, scope: ScopeDep, now: NowDep, hook_id: int, body: shapes.Again
) -> shapes.ToldAgain:
    """Tell once more, under the same key."""
    return shapes.ToldAgain(count=await programs.tell_again(house, scope, hook_id, body.event_id, now))
