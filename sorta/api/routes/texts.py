"""Saved replies, what is offered for a conversation, and links."""

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import texts as shapes
from sorta.api.schemas.sorting import Made
from sorta.core.texts import SavedReplyBody
from sorta.services import links, texts

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["texts"])


@router.get("/saved-replies")
async def list_saved_replies(house: HouseDep, scope: ScopeDep, archived: bool = False) -> list[shapes.SavedReply]:
    """The saved replies by name; with `archived` those put away too."""
    found = await texts.list_saved_replies(house, scope, archived=archived)
    return [shapes.SavedReply.model_validate(one) for one in found]


@router.post("/saved-replies")
async def add_saved_reply(house: HouseDep, scope: ScopeDep, now: NowDep, body: SavedReplyBody) -> Made:
    """A new saved reply."""
    return Made(id=await texts.add_saved_reply(house, scope, body, now))


@router.put("/saved-replies/{saved_reply_id}", status_code=204)
async def set_saved_reply(
    house: HouseDep, scope: ScopeDep, now: NowDep, saved_reply_id: int, body: SavedReplyBody
) -> None:
    """A saved reply as it is from now on."""
    await texts.set_saved_reply(house, scope, saved_reply_id, body, now)


@router.put("/saved-replies/{saved_reply_id}/archived", status_code=204)
async def set_saved_reply_archived(
    house: HouseDep, scope: ScopeDep, now: NowDep, saved_reply_id: int, body: shapes.Archive
) -> None:
    """Put it away, or take it out again."""
    await texts.set_archived(house, scope, saved_reply_id, on=body.archived, now=now)


@router.get("/saved-replies/{saved_reply_id}/concerns")
async def get_saved_reply_concerns(
    house: HouseDep, scope: ScopeDep, now: NowDep, saved_reply_id: int
) -> shapes.Concerns:
    """Whom a change of it concerns."""
    return shapes.Concerns.model_validate(await texts.get_concerns(house, scope, saved_reply_id, now))


@router.get("/conversations/{conversation_id}/saved-replies")
async def offer_saved_replies(house: HouseDep, scope: ScopeDep, conversation_id: int) -> list[shapes.OfferedReply]:
    """The saved replies that fit a conversation, suggested ones first."""
    return [shapes.OfferedReply.model_validate(one) for one in await texts.offer(house, scope, conversation_id)]


@router.get("/links")
async def list_links(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Links:
    """Kept links and short ones, with their clicks."""
    return shapes.Links.model_validate(await links.list_all(house, scope, now))


@router.put("/links/kept")
async def set_kept_link(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewKeptLink) -> Made:
    """Keep a link under a name, or change where it leads."""
    return Made(id=await links.set_kept(house, scope, body.name, body.target, now))


@router.delete("/links/kept/{link_id}", status_code=204)
async def remove_kept_link(house: HouseDep, scope: ScopeDep, link_id: int) -> None:
    """Keep it no longer."""
    await links.remove_kept(house, scope, link_id)
