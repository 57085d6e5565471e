"""Cases at support desks, and the desks."""

from typing import Annotated

from fastapi import APIRouter, Query

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import cases as shapes
from sorta.api.schemas.setup import HookSecret
from sorta.core.cases import CaseState
from sorta.services import cases

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["cases"])


@router.get("/cases")
async def list_cases(
    house: HouseDep,
    scope: ScopeDep,
    state: Annotated[list[CaseState] | None, Query()] = None,
    desk: int | None = None,
    mine: bool = False,
    words: Annotated[str, Query(max_length=200)] = "",
    conversation: int | None = None,
    person: int | None = None,
) -> shapes.Cases:
    """Cases through the filters, the latest change first."""
    found = await cases.list_cases(
        house,
        scope,
        states=[s.value for s in state or ()],
        desk_id=desk,
        mine=mine,
        words=words,
        conversation_id=conversation,
        person_id=person,
    )
    return shapes.Cases.model_validate(found)


@router.post("/cases/{case_id}/try", status_code=204)
async def try_case_again(house: HouseDep, scope: ScopeDep, now: NowDep, case_id: int) -> None:
    """Pass on now what waits for a case."""
    await cases.try_again(house, scope, case_id, now)


@router.post("/desks/{desk_id}/hook-secret")
async def change_desk_hook_secret(house: HouseDep, scope: ScopeDep, now: NowDep, desk_id: int) -> HookSecret:
    """A new secret for what the desk tells, shown this once."""
    secret, until = await cases.change_hook_secret(house, scope, desk_id, now)
    return HookSecret(secret=secret, before_until=until)


@router.put("/desks/{desk_id}", status_code=204)
async def set_desk(house: HouseDep, scope: ScopeDep, desk_id: int, body: shapes.ChangedDesk) -> None:
    """A desk's name and follow-on window."""
    await cases.set_desk(house, scope, desk_id, name=body.name, follow_hours=body.follow_hours)
