"""Live notices as Server-Sent Events: ids only; who listens fetches what it shows."""

from collections.abc import AsyncIterator
from contextlib import aclosing
from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from sorta.api.deps import HouseDep, ScopeDep, TokenDep
from sorta.services import sign_in

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["live"])


@router.get("/live", response_class=EventSourceResponse)
async def stream_live(
    request: Request,
    house: HouseDep,
    scope: ScopeDep,
    token: TokenDep,
    since: Annotated[str, Query(max_length=100)] = "",
) -> EventSourceResponse:
    """Notices of one workspace. Starts with `hello`; what has happened since the mark `since` that the session's answer gave follows,
    or its `gap` says that this is not known. After a lost connection fetch everything anew. Ends within seconds when the session ends or the member belongs here
    no more."""
    notices = sign_in.stream_notices(house, token, scope, lambda: datetime.now(UTC), since)
    # Opened before it is answered: what cannot be opened is refused with words, and not a stream that ends.
    first = await anext(notices)

    async def list_events() -> AsyncIterator[ServerSentEvent]:
        async with aclosing(notices):
            yield ServerSentEvent(first)
            async for notice in notices:
                yield ServerSentEvent(notice)

    return EventSourceResponse(list_events(), ping=15)
