"""The team and its load, alerts, the horizon."""

from typing import Annotated

from fastapi import APIRouter, Query

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import day as day_shapes
from sorta.api.schemas import team as shapes
from sorta.api.schemas.sorting import Made
from sorta.core.alerting import Habits, Wants
from sorta.services import alerts, day, horizon, team

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["team"])


@router.get("/team")
async def get_team(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.TeamState:
    """Everybody's load and whether they are there."""
    return shapes.TeamState.model_validate(await team.get_team(house, scope, now))


@router.get("/day")
async def get_day(house: HouseDep, scope: ScopeDep, now: NowDep, member: int | None = None) -> day_shapes.MemberDay:
    """What a member did today, has open, owes and waits for: oneself, or for who sees reports another."""
    return day_shapes.MemberDay.model_validate(await day.get_day(house, scope, member, now))


@router.get("/team/work")
async def list_work(house: HouseDep, scope: ScopeDep, now: NowDep) -> list[shapes.WorkItem]:
    """The open work that members have in hand."""
    return [shapes.WorkItem.model_validate(one) for one in await team.list_work(house, scope, now)]


@router.get("/team/even")
async def propose_evening(house: HouseDep, scope: ScopeDep, now: NowDep) -> list[shapes.ProposedPass]:
    """Passes that would even out the load; nothing is done."""
    return [shapes.ProposedPass.model_validate(one) for one in await team.propose_evening(house, scope, now)]


@router.put("/team/members/{member_id}", status_code=204)
async def set_availability(
    house: HouseDep, scope: ScopeDep, now: NowDep, member_id: int, body: shapes.Availability
) -> None:
    """When a member works and how much they take."""
    await team.set_availability(house, scope, member_id, **body.model_dump(), now=now)


@router.post("/team/teams", status_code=201)
async def add_team(house: HouseDep, scope: ScopeDep, body: shapes.TeamBody) -> shapes.TeamMade:
    """A new team."""
    return shapes.TeamMade(id=await team.set_team(house, scope, None, name=body.name, members=body.members))


@router.put("/team/teams/{team_id}/members", status_code=204)
async def set_team(house: HouseDep, scope: ScopeDep, team_id: int, body: shapes.TeamBody) -> None:
    """What a team is called, and who is in it."""
    await team.set_team(house, scope, team_id, name=body.name, members=body.members)


@router.put("/team/teams/{team_id}", status_code=204)
async def set_team_way(house: HouseDep, scope: ScopeDep, team_id: int, body: shapes.TeamWay) -> None:
    """How a team chooses."""
    await team.set_way(house, scope, team_id, body.way)


@router.get("/alerts")
async def list_alerts(
    house: HouseDep, scope: ScopeDep, limit: Annotated[int, Query(ge=1, le=100)] = 30
) -> shapes.Alerts:
    """What one was told, newest first."""
    return shapes.Alerts.model_validate(await alerts.list_alerts(house, scope, limit))


@router.post("/alerts/read", status_code=204)
async def read_alerts(house: HouseDep, scope: ScopeDep, now: NowDep, id: int | None = None) -> None:
    """One has read one alert, or all."""
    await alerts.set_read(house, scope, id, now)


@router.get("/alerts/choices")
async def list_alert_choices(house: HouseDep, scope: ScopeDep) -> shapes.AlertChoices:
    """What one can be told of, and how one wants to be."""
    return shapes.AlertChoices.model_validate(await alerts.describe(house, scope))


@router.put("/alerts/choices/{occasion}", status_code=204)
async def set_alert_choice(house: HouseDep, scope: ScopeDep, occasion: str, body: shapes.AlertWants) -> None:
    """How one wants to be told of something."""
    await alerts.set_choice(house, scope, occasion, Wants(**body.model_dump()))


@router.delete("/alerts/choices", status_code=204)
async def forget_alert_choices(house: HouseDep, scope: ScopeDep) -> None:
    """What applies in the workspace applies to oneself again."""
    await alerts.forget_choices(house, scope)


@router.put("/alerts/habits", status_code=204)
async def set_alert_habits(house: HouseDep, scope: ScopeDep, body: shapes.AlertHabits) -> None:
    """When one is not to be disturbed, and how mails are gathered."""
    await alerts.set_habits(house, scope, Habits(**body.model_dump()))


@router.post("/alerts/watches")
async def add_alert_watch(house: HouseDep, scope: ScopeDep, body: shapes.NewAlertWatch) -> Made:
    """Hear of what comes in by accounts, of kinds, with words."""
    return Made(id=await alerts.add_watch(house, scope, accounts=body.accounts, kinds=body.kinds, words=body.words))


@router.delete("/alerts/watches/{watch_id}", status_code=204)
async def delete_alert_watch(house: HouseDep, scope: ScopeDep, watch_id: int) -> None:
    """Hear of it no more."""
    await alerts.delete_watch(house, scope, watch_id)


@router.put("/alerts/defaults/{occasion}", status_code=204)
async def set_alert_default(house: HouseDep, scope: ScopeDep, occasion: str, body: shapes.AlertWants) -> None:
    """How whoever has chosen nothing is told of something."""
    await alerts.set_default(house, scope, occasion, Wants(**body.model_dump()))


@router.get("/horizon")
async def get_horizon(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Horizon:
    """What is due in the next working hours, and when the desk will be clear."""
    return shapes.Horizon.model_validate(await horizon.get_horizon(house, scope, now))
