"""Working hours and targets."""

from fastapi import APIRouter, Response

from sorta.api.deps import HouseDep, NowDep, ScopeDep, needs
from sorta.api.downloads import name_file
from sorta.api.schemas import hours as shapes
from sorta.core.permissions import Permission
from sorta.services import hours

_RULES = [needs(Permission.MANAGE_RULES)]
router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["hours"])


@router.get("/hours")
async def get_hours(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Hours:
    """When the workspace works, what it promises, and the coming two weeks."""
    return shapes.Hours.model_validate(await hours.get_hours(house, scope, now))


@router.put("/hours", status_code=204, dependencies=_RULES)
async def set_hours(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.SetHours) -> None:
    """Work so from now on; dues are counted anew in the background. What looks like a slip is asked about: say it is `sure`."""
    await hours.set_hours(
        house,
        scope,
        zone=body.time_zone,
        week=body.week,
        special=body.special,
        targets={audience.value: minutes.model_dump() for audience, minutes in body.targets.items()},
        now=now,
        sure=bool(body.sure),
    )


@router.post("/hours/calendar", dependencies=_RULES)
async def read_calendar(
    house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.CalendarFile
) -> shapes.ReadCalendar:
    """The special dates an iCalendar file holds, and what of it is left out; nothing is kept yet."""
    return shapes.ReadCalendar.model_validate(await hours.read_calendar(house, scope, body.text, now))


@router.get("/hours/calendar.ics", response_class=Response)
async def write_calendar(house: HouseDep, scope: ScopeDep, now: NowDep) -> Response:
    """The hours and special dates as an iCalendar file."""
    text = await hours.write_calendar(house, scope, now)
    return Response(text, media_type="text/calendar; charset=utf-8", headers=name_file("hours.ics"))
