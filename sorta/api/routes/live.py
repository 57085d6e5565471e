"""Live notices as Server-Sent Events: ids only; who listens fetches what it shows."""

from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from sorta.api.deps import HouseDep, ScopeDep

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["live"])


@router.get("/live", response_class=EventSourceResponse)
async def stream_live(request: Request, house: HouseDep, scope: ScopeDep) -> EventSourceResponse:
    """Notices of one workspace. Starts with `hello`; after a lost connection fetch everything anew."""

    async def list_notices() -> AsyncIterator[ServerSentEvent]:
        async with house.live.subscribe(scope.workspace_id) as queue:
            yield ServerSentEvent('{"kind":"hello"}')
            while True:
                yield ServerSentEvent(await queue.get())

    return EventSourceResponse(list_notices(), ping=15)
