"""Files that go along with answers: put beside a draft, shown to members, taken away again."""

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query, Request, Response

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas.files import BYTES, Attachment
from sorta.core.attachments import is_image
from sorta.services import attachments

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["files"])


@router.post("/conversations/{conversation_id}/attachments", status_code=201, openapi_extra=BYTES)
async def add_attachment(
    request: Request,
    house: HouseDep,
    scope: ScopeDep,
    now: NowDep,
    conversation_id: int,
    name: Annotated[str, Query(max_length=300)],
) -> Attachment:
    """Keep a file to go along with an answer: the body is the file, its type in Content-Type."""
    kept = await attachments.add_attachment(
        house,
        scope,
        conversation_id,
        content=await request.body(),
        declared=request.headers.get("content-type", ""),
        name=name,
        now=now,
    )
    return Attachment.model_validate(kept)


@router.get("/attachments/{attachment_id}", response_class=Response)
async def get_attachment(house: HouseDep, scope: ScopeDep, attachment_id: int) -> Response:
    """What is in a file: pictures are shown, everything else is downloaded."""
    row, content = await attachments.read_attachment(house, scope, attachment_id)
    how = "inline" if is_image(row.media_type) else "attachment"
    headers = {
        "Content-Disposition": f"{how}; filename*=UTF-8''{quote(row.name, safe='')}",
        "Cache-Control": "private, max-age=86400, immutable",
    }
    return Response(content, media_type=row.media_type, headers=headers)


@router.delete("/attachments/{attachment_id}", status_code=204)
async def delete_attachment(house: HouseDep, scope: ScopeDep, attachment_id: int) -> None:
    """Take one's own file away again, while no answer holds it."""
    await attachments.remove_attachment(house, scope, attachment_id)
