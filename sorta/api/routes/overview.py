"""Open work at a glance, the live feed, what waits; listening; translating."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import AwareDatetime

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import people as shapes
from sorta.api.schemas.desk import Translation
from sorta.api.schemas.sorting import Made
from sorta.services import listening, overview, translating

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["overview"])


@router.get("/overview")
async def get_overview(
    house: HouseDep, scope: ScopeDep, now: NowDep, query: Annotated[shapes.CrossQuery, Query()]
) -> shapes.Cross:
    """Open work counted by two things at once."""
    filters = query.model_dump(mode="json", exclude={"rows", "columns"})
    found = await overview.get_cross(house, scope, rows=query.rows, columns=query.columns, filters=filters, now=now)
    return shapes.Cross.model_validate(found)


@router.get("/feed")
async def list_feed(
    house: HouseDep,
    scope: ScopeDep,
    now: NowDep,
    before: AwareDatetime | None = None,
    limit: Annotated[int, Query(ge=1, le=100)] = 40,
) -> list[shapes.FeedItem]:
    """What came in, newest first, reactions included."""
    return [shapes.FeedItem.model_validate(i) for i in await overview.list_feed(house, scope, before or now, limit)]


@router.get("/waiting")
async def get_waiting(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Waiting:
    """What waits, for the browser's tab."""
    return shapes.Waiting.model_validate(await overview.count_waiting(house, scope, now))


@router.get("/listening")
async def list_listening(house: HouseDep, scope: ScopeDep) -> list[shapes.Listening]:
    """The words that are searched for."""
    return [shapes.Listening.model_validate(one) for one in await listening.list_listening(house, scope)]


@router.post("/listening")
async def add_listening(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewListening) -> Made:
    """Search for words from now on."""
    id = await listening.add_listening(house, scope, words=body.words, account_id=body.account_id, now=now)
    return Made(id=id)


@router.delete("/listening/{listening_id}", status_code=204)
async def delete_listening(house: HouseDep, scope: ScopeDep, listening_id: int) -> None:
    """Stop searching."""
    await listening.delete_listening(house, scope, listening_id)


@router.post("/messages/{message_id}/translation")
async def add_translation(
    house: HouseDep, scope: ScopeDep, now: NowDep, message_id: int, body: shapes.TranslateTo
) -> Translation:
    """A message in another language, kept beside it."""
    made = await translating.translate_message(house, scope, message_id, target=body.language, now=now)
    return Translation.model_validate(made)


@router.post("/translation")
async def translate_text(house: HouseDep, scope: ScopeDep, body: shapes.Translate) -> shapes.TranslatedText:
    """What one is writing, in another language."""
    made = await translating.translate_text(house, scope, body.text, target=body.language)
    return shapes.TranslatedText.model_validate(made)
