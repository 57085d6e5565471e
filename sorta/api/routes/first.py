"""What the desk shows first, in one answer: on a slow line each request is a wait of its own."""

from fastapi import APIRouter, Request, Response

from sorta.api.deps import COOKIE, HouseDep, NowDep, ScopeDep, describe_query, read_cookie
from sorta.api.routes import desk, overview, session, setup, sorting, team
from sorta.api.schemas import first as shapes
from sorta.api.schemas.desk import PageQuery

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["desk"])


@router.get("/first", response_model=shapes.First, openapi_extra=describe_query(PageQuery))
async def get_first(
    request: Request, house: HouseDep, scope: ScopeDep, now: NowDep, query: desk.PageQueryDep
) -> Response:
    """What the desk asks for when it is opened: who is signed in, what is known of the workspace, a page of the queue with its counts, and what
    stands around it.
    Each part is what its own address answers, but that the session's own word stands in a header; the page's text comes from the database as it is."""
    # Before what it is about: what is told live from then on is never missed.
    token = read_cookie(request, COOKIE)
    who = await session.get_session(house, token, now) if token else None
    # The session's own word goes apart: compressed together with what strangers write it could be guessed by its length (BREACH).
    headers = {}
    if who is not None:
        headers["X-CSRF-Token"] = who.csrf
        who = who.model_copy(update={"csrf": ""})
    page = await desk.list_conversations(house, scope, now, query)
    around = shapes.Around(
        session=who,
        members=await desk.list_members(house, scope),
        networks=await setup.list_networks(house, scope),
        accounts=await setup.list_accounts(house, scope),
        directory=await sorting.get_directory(house, scope),
        views=await sorting.list_views(house, scope),
        counts=await desk.get_counts(house, scope, now, query),
        presence=await desk.list_presence(house, scope, now),
        waiting=await overview.get_waiting(house, scope, now),
        horizon=await team.get_horizon(house, scope, now),
    )
    text = b'{"page":' + bytes(page.body) + b"," + around.model_dump_json().encode()[1:]
    return Response(text, media_type="application/json", headers=headers)
