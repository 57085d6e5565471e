"""Roles, and who has which."""

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import roles as shapes
from sorta.services import leaving, roles

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["roles"])


@router.get("/roles")
async def list_roles(house: HouseDep, scope: ScopeDep) -> shapes.Roles:
    """Members by permissions."""
    return shapes.Roles.model_validate(await roles.list_roles(house, scope))


@router.get("/members/{member_id}/work")
async def get_work(house: HouseDep, scope: ScopeDep, member_id: int) -> shapes.Work:
    """What would be without its member, and what names them."""
    return shapes.Work.model_validate(await leaving.preview(house, scope, member_id))


@router.post("/members/{member_id}/let-go")
async def let_member_go(
    house: HouseDep, scope: ScopeDep, now: NowDep, member_id: int, body: shapes.Heirs
) -> shapes.PassedOn:
    """A member works here no more; their work goes to others."""
    count = await leaving.let_go(house, scope, member_id, to_owner=body.to_owner, to_team=body.to_team, now=now)
    return shapes.PassedOn(conversations=count)


@router.post("/roles", status_code=201)
async def add_role(house: HouseDep, scope: ScopeDep, body: shapes.RoleBody) -> shapes.RoleAdded:
    """A role of the workspace's own."""
    return shapes.RoleAdded(key=await roles.add_role(house, scope, name=body.name, permissions=body.permissions))


@router.put("/roles/{key}", status_code=204)
async def set_role(house: HouseDep, scope: ScopeDep, key: str, body: shapes.RoleBody) -> None:
    """What a role is called and holds."""
    await roles.set_role(house, scope, key, name=body.name, permissions=body.permissions)


@router.delete("/roles/{key}", status_code=204)
async def remove_role(house: HouseDep, scope: ScopeDep, key: str) -> None:
    """Forget a role that nobody has."""
    await roles.remove_role(house, scope, key)


@router.put("/members/{member_id}/role", status_code=204)
async def give_role(house: HouseDep, scope: ScopeDep, member_id: int, body: shapes.GivenRole) -> None:
    """What a member is from now on."""
    await roles.give_role(house, scope, member_id, body.role)
