"""People: list, export, profile, facts, tags, follow-ups, joining."""

from typing import Annotated

from fastapi import APIRouter, Query, Response

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.downloads import CSV, name_file
from sorta.api.schemas import people as shapes
from sorta.api.schemas.sorting import Made
from sorta.services import erasing, profiles

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["people"])
PeopleQueryDep = Annotated[shapes.PeopleQuery, Query()]


def _read(query: shapes.PeopleQuery) -> dict[str, object]:
    return query.model_dump(exclude={"order", "after", "limit"})


@router.get("/people")
async def list_people(house: HouseDep, scope: ScopeDep, query: PeopleQueryDep) -> shapes.PeoplePage:
    """A page of people."""
    page = await profiles.list_persons(
        house, scope, filters=_read(query), order=query.order, cursor=query.after, limit=query.limit
    )
    return shapes.PeoplePage.model_validate(page)


@router.get("/people.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def export_people(house: HouseDep, scope: ScopeDep, query: PeopleQueryDep) -> Response:
    """The list through its filters, as CSV (RFC 4180)."""
    text = await profiles.export_persons(house, scope, filters=_read(query), order=query.order)
    # The mark in front tells spreadsheets that the text is UTF-8.
    return Response("\ufeff" + text, media_type=CSV, headers=name_file("people.csv"))


@router.get("/people/{person_id}")
async def get_profile(house: HouseDep, scope: ScopeDep, now: NowDep, person_id: int) -> shapes.Profile:
    """Everything about one person."""
    return shapes.Profile.model_validate(await profiles.get_profile(house, scope, person_id, now))


@router.get("/people/{person_id}/everything")
async def get_everything(
    house: HouseDep, scope: ScopeDep, now: NowDep, response: Response, person_id: int
) -> shapes.Everything:
    """All that is held about a person, for themselves."""
    response.headers.update(name_file(f"person-{person_id}.json"))
    return shapes.Everything.model_validate(await erasing.get_everything(house, scope, person_id, now))


@router.get("/people/{person_id}/erasure")
async def preview_erasure(house: HouseDep, scope: ScopeDep, person_id: int) -> shapes.ErasurePreview:
    """What would go if this person were erased, and what has to be finished before."""
    return shapes.ErasurePreview.model_validate(await erasing.preview(house, scope, person_id))


@router.post("/people/{person_id}/erasure")
async def erase_person(
    house: HouseDep, scope: ScopeDep, now: NowDep, person_id: int, body: shapes.Erase
) -> shapes.ErasedCounts:
    """Erase every word, name and file of a person, at their wish. It cannot be taken back."""
    return shapes.ErasedCounts.model_validate(await erasing.erase(house, scope, person_id, name=body.name, now=now))


@router.post("/people/{person_id}/facts")
async def add_fact(house: HouseDep, scope: ScopeDep, now: NowDep, person_id: int, body: shapes.NewFact) -> Made:
    """Save a fact."""
    return Made(id=await profiles.add_fact(house, scope, person_id, name=body.name, value=body.value, now=now))


@router.delete("/people/{person_id}/facts/{fact_id}", status_code=204)
async def delete_fact(house: HouseDep, scope: ScopeDep, person_id: int, fact_id: int) -> None:
    """Forget a fact."""
    await profiles.delete_fact(house, scope, person_id, fact_id)


@router.put("/people/{person_id}/tags", status_code=204)
async def set_person_tag(house: HouseDep, scope: ScopeDep, person_id: int, body: shapes.PersonTag) -> None:
    """Tag a person or take the tag off."""
    await profiles.set_tag(house, scope, person_id, name=body.name, on=body.on)


@router.post("/people/{person_id}/follow-ups")
async def add_follow_up(
    house: HouseDep, scope: ScopeDep, now: NowDep, person_id: int, body: shapes.NewFollowUp
) -> Made:
    """Something to do about a person at a time."""
    id = await profiles.add_follow_up(
        house, scope, person_id, words=body.words, due_at=body.due_at, member_id=body.member_id, now=now
    )
    return Made(id=id)


@router.put("/follow-ups/{follow_up_id}", status_code=204)
async def set_follow_up(
    house: HouseDep, scope: ScopeDep, now: NowDep, follow_up_id: int, body: shapes.FollowUpDone
) -> None:
    """It is done, or open again."""
    await profiles.set_follow_up_done(house, scope, follow_up_id, done=body.done, now=now)


@router.get("/follow-ups")
async def list_follow_ups(house: HouseDep, scope: ScopeDep) -> list[shapes.DueFollowUp]:
    """What one has to do about people, soonest first."""
    return [shapes.DueFollowUp.model_validate(f) for f in await profiles.list_due_follow_ups(house, scope)]


@router.post("/people/{person_id}/joins")
async def add_join(house: HouseDep, scope: ScopeDep, now: NowDep, person_id: int, body: shapes.NewJoin) -> Made:
    """Another record is the same person: it comes to this one."""
    return Made(id=await profiles.join(house, scope, person_id, body.person_id, now))


@router.delete("/joins/{join_id}", status_code=204)
async def delete_join(house: HouseDep, scope: ScopeDep, now: NowDep, join_id: int) -> None:
    """Take two apart again."""
    await profiles.take_apart(house, scope, join_id, now)
