"""What one sorts by: tags, teams, account groups, saved views; and how accurate the reading has been."""

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import sorting as shapes
from sorta.services import own_reading, reading, sorting, tags

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["sorting"])


@router.get("/directory")
async def get_directory(house: HouseDep, scope: ScopeDep) -> shapes.Directory:
    """Tags, teams and account groups."""
    return shapes.Directory.model_validate(await sorting.get_directory(house, scope))


@router.get("/tags")
async def list_tags(house: HouseDep, scope: ScopeDep) -> list[shapes.UsedTag]:
    """Every tag with what has it and what names it."""
    return [shapes.UsedTag.model_validate(one) for one in await tags.list_tags(house, scope)]


@router.post("/tags", status_code=201)
async def add_tag(house: HouseDep, scope: ScopeDep, body: shapes.NewTag) -> shapes.Made:
    """A new tag."""
    return shapes.Made(id=await tags.add_tag(house, scope, name=body.name, heading=body.heading))


@router.put("/tags/{tag_id}", status_code=204)
async def set_tag(house: HouseDep, scope: ScopeDep, now: NowDep, tag_id: int, body: shapes.TagAsIs) -> None:
    """What a tag is called, what it stands under, whether it is retired."""
    await tags.set_tag(house, scope, tag_id, name=body.name, heading=body.heading, retired=body.retired, now=now)


@router.post("/tags/{tag_id}/merge", status_code=204)
async def merge_tag(house: HouseDep, scope: ScopeDep, now: NowDep, tag_id: int, body: shapes.TagMerge) -> None:
    """Let a tag become another, everywhere."""
    await tags.merge_tag(house, scope, tag_id, into=body.into, now=now)


@router.get("/views")
async def list_views(house: HouseDep, scope: ScopeDep) -> list[shapes.View]:
    """One's own saved views and the shared ones."""
    return [shapes.View.model_validate(v) for v in await sorting.list_views(house, scope)]


@router.post("/views")
async def set_view(house: HouseDep, scope: ScopeDep, body: shapes.NewView) -> shapes.Made:
    """Save a view."""
    id = await sorting.set_view(house, scope, name=body.name, shared=body.shared, query=dict(body.query))
    return shapes.Made(id=id)


@router.delete("/views/{view_id}", status_code=204)
async def delete_view(house: HouseDep, scope: ScopeDep, view_id: int) -> None:
    """Forget a view of one's own."""
    await sorting.delete_view(house, scope, view_id)


@router.get("/reading")
async def get_reading_accuracy(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Accuracy:
    """How right the reading has been here, and what of the week's sample is still to be looked at."""
    return shapes.Accuracy.model_validate(await reading.get_accuracy(house, scope, now))


@router.post("/reading/checks", status_code=204)
async def check_reading(house: HouseDep, scope: ScopeDep, body: shapes.Checked, now: NowDep) -> None:
    """Say what a message of the week's sample is."""
    await reading.check_reading(house, scope, body.message_id, body.labels, now)


@router.post("/reading/own/take-back", status_code=204)
async def take_back_own_reading(house: HouseDep, scope: ScopeDep, now: NowDep) -> None:
    """Read as everybody does again, and not by what was corrected here."""
    await own_reading.take_back(house, scope, now)
