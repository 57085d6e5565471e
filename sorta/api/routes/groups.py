"""Account groups, and who sees what."""

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import groups as shapes
from sorta.services import groups

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["groups"])


@router.get("/groups")
async def list_groups(house: HouseDep, scope: ScopeDep) -> list[shapes.AccountGroup]:
    """The account groups; who is limited sees their own."""
    return [shapes.AccountGroup.model_validate(one) for one in await groups.list_groups(house, scope)]


@router.post("/groups", status_code=201)
async def add_group(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.GroupBody) -> shapes.GroupAdded:
    """A new account group."""
    return shapes.GroupAdded(
        id=await groups.set_group(house, scope, None, name=body.name, held=body.accounts, members=body.members, now=now)
    )


@router.put("/groups/{group_id}", status_code=204)
async def set_group(house: HouseDep, scope: ScopeDep, now: NowDep, group_id: int, body: shapes.GroupBody) -> None:
    """What a group is called, which accounts it holds, and who looks after them."""
    await groups.set_group(house, scope, group_id, name=body.name, held=body.accounts, members=body.members, now=now)


@router.delete("/groups/{group_id}", status_code=204)
async def remove_group(house: HouseDep, scope: ScopeDep, now: NowDep, group_id: int) -> None:
    """Forget a group; its accounts stay."""
    await groups.remove_group(house, scope, group_id, now)


@router.put("/members/{member_id}/sight", status_code=204)
async def set_sight(house: HouseDep, scope: ScopeDep, now: NowDep, member_id: int, body: shapes.Sight) -> None:
    """Whether a member sees every account, or the accounts of their groups."""
    await groups.set_sight(house, scope, member_id, limited=body.limited, groups=body.groups, now=now)
