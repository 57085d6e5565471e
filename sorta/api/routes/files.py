"""Files that go along with answers: put beside a draft, shown to members, taken away again."""

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query, Request, Response

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas.files import BYTES, Attachment, Described, Kept, LibraryFile
from sorta.api.schemas.sorting import Made
from sorta.core.attachments import is_image
from sorta.services import attachments, library

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


@router.post("/conversations/{conversation_id}/attachments/library/{library_id}", status_code=201)
async def add_from_library(
    house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, library_id: int
) -> Attachment:
    """A file of the workspace's own goes along with an answer, with its description."""
    return Attachment.model_validate(await attachments.add_from_library(house, scope, conversation_id, library_id, now))


@router.get("/attachments/{attachment_id}", response_class=Response)
async def get_attachment(house: HouseDep, scope: ScopeDep, attachment_id: int) -> Response:
    """What is in a file: pictures are shown, everything else is downloaded."""
    row, content = await attachments.read_attachment(house, scope, attachment_id)
    return _serve(row.name, row.media_type, content)


def _serve(name: str, media_type: str, content: bytes) -> Response:
    how = "inline" if is_image(media_type) else "attachment"
    headers = {
        "Content-Disposition": f"{how}; filename*=UTF-8''{quote(name, safe='')}",
        "Cache-Control": "private, max-age=86400, immutable",
    }
    return Response(content, media_type=media_type, headers=headers)


@router.put("/attachments/{attachment_id}/description")
async def describe_attachment(
    house: HouseDep, scope: ScopeDep, now: NowDep, attachment_id: int, body: Described
) -> Attachment:
    """Say what a file shows. Where an answer holds it already, another file with the same content takes its place: see `id`."""
    return Attachment.model_validate(
        await attachments.describe_attachment(house, scope, attachment_id, body.description, now)
    )


@router.delete("/attachments/{attachment_id}", status_code=204)
async def delete_attachment(house: HouseDep, scope: ScopeDep, attachment_id: int) -> None:
    """Take one's own file away again, while no answer holds it."""
    await attachments.remove_attachment(house, scope, attachment_id)


@router.get("/library")
async def list_library(house: HouseDep, scope: ScopeDep) -> list[LibraryFile]:
    """The workspace's own files, by name."""
    return [LibraryFile.model_validate(one) for one in await library.list_files(house, scope)]


@router.post("/library", status_code=201, openapi_extra=BYTES)
async def add_library_file(
    request: Request,
    house: HouseDep,
    scope: ScopeDep,
    now: NowDep,
    name: Annotated[str, Query(max_length=300)],
    description: Annotated[str, Query(max_length=4000)] = "",
) -> Made:
    """Keep a file to be sent along again and again: the body is the file, its type in Content-Type."""
    id = await library.add_file(
        house,
        scope,
        content=await request.body(),
        declared=request.headers.get("content-type", ""),
        name=name,
        description=description,
        now=now,
    )
    return Made(id=id)


@router.get("/library/{library_id}", response_class=Response)
async def get_library_file(house: HouseDep, scope: ScopeDep, library_id: int) -> Response:
    """What is in it."""
    row, content = await library.read_file(house, scope, library_id)
    return _serve(row.name, row.media_type, content)


@router.put("/library/{library_id}", status_code=204)
async def set_library_file(house: HouseDep, scope: ScopeDep, library_id: int, body: Kept) -> None:
    """What it is called and what it shows, from now on."""
    await library.set_file(house, scope, library_id, name=body.name, description=body.description)


@router.delete("/library/{library_id}", status_code=204)
async def remove_library_file(house: HouseDep, scope: ScopeDep, library_id: int) -> None:
    """Take it out of the library; what was sent of it stays."""
    await library.remove_file(house, scope, library_id)
