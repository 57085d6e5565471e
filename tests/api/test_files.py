"""Files over HTTP: the body is the file; served to members only, never as something a browser runs."""

import pytest

from tests.api.conftest import Client
from tests.core.test_attachments import nested_zip, picture
from tests.world import World

pytestmark = pytest.mark.anyio


async def put(client: Client, here: str, id: int, content: bytes, kind: str, name: str) -> tuple[int, dict]:
    answer = await client.post(
        f"{here}/conversations/{id}/attachments",
        params={"name": name},
        content=content,
        headers={"Content-Type": kind},
    )
    return answer.status_code, answer.json()


async def test_a_picture_is_shown_and_anything_else_downloaded(mara: Client, here: str, world: World) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    status, made = await put(mara, here, id, picture("PNG"), "image/png", "a ray.png")
    assert (status, made["name"], made["media_type"]) == (201, "a ray.png", "image/png")
    served = await mara.get(made["url"])
    assert served.content == picture("PNG")
    assert served.headers["content-type"] == "image/png"
    assert served.headers["x-content-type-options"] == "nosniff"
    assert served.headers["content-disposition"] == "inline; filename*=UTF-8''a%20ray.png"
    assert "private" in served.headers["cache-control"]
    _, text = await put(mara, here, id, b"<script>alert(1)</script>", "text/plain", "notes.txt")
    page = await mara.get(text["url"])
    assert page.headers["content-type"].startswith("text/plain")
    assert page.headers["content-disposition"].startswith("attachment;")


async def test_what_is_refused_says_why_and_leaves_nothing(mara: Client, here: str, world: World) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    for content, kind, name, why in [
        (nested_zip(), "application/zip", "x.zip", "not sent"),
        (picture("GIF"), "text/html", "x.html", "but is a GIF picture"),
        (b"<svg onload='alert(1)'/>", "image/svg+xml", "x.svg", "but is plain text"),
    ]:
        status, told = await put(mara, here, id, content, kind, name)
        assert (status, told["type"], told["field"]) == (422, "/problems/invalid", "file")
        assert why in told["detail"]
    assert world.files is not None
    assert not list(world.files.rglob("*.*"))
    assert not [p for p in world.files.rglob("*") if p.is_file()]


async def test_files_are_for_members_of_the_workspace(anyone: Client, mara: Client, here: str, world: World) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    _, made = await put(mara, here, id, picture("PNG"), "image/png", "x.png")
    assert (await anyone.get(made["url"])).status_code == 401
    await anyone.enter("otto")
    assert (await anyone.get(made["url"])).status_code == 404
    own = f"/api/workspaces/{world.other_workspace_id}/attachments/{made['id']}"
    assert (await anyone.get(own)).status_code == 404
    assert (await anyone.delete(own)).status_code == 404
