"""What the desk shows first: in one answer what its parts answer, small on the line, and nothing missed until the live stream greets."""

import asyncio
import gzip
from contextlib import aclosing
from datetime import UTC, datetime
from pathlib import Path

import httpx
import pytest

from sorta.api.app import make_app
from sorta.services import sign_in
from tests.api.conftest import Client
from tests.services.test_alerts import sign_in_as
from tests.world import World

pytestmark = pytest.mark.anyio
PARTS = ("members", "networks", "accounts", "directory", "views", "presence", "waiting")


@pytest.mark.parametrize("query", ["move=unsorted", "move=any&words=walrus&order=newest", "network=pixfern&limit=1"])
async def test_the_first_answer_is_what_its_parts_answer(mara: Client, world: World, here: str, query: str) -> None:
    await world.hear("the walrus is loud", handle="lucia")
    await world.hear("seal", handle="jonas", network="pixfern")
    first = (await mara.get(f"{here}/first?{query}")).json()
    assert [part for part in PARTS if first[part] != (await mara.get(f"{here}/{part}")).json()] == []
    assert first["page"] == (await mara.get(f"{here}/conversations?{query}")).json()
    filters = "&".join(part for part in query.split("&") if not part.startswith(("order", "limit")))
    counts = (await mara.get(f"{here}/counts?{filters}")).json()
    assert (first["counts"]["moves"], first["counts"]["values"]) == (counts["moves"], counts["values"])
    assert set(first["horizon"]) == set((await mara.get(f"{here}/horizon")).json())
    assert (await mara.get(f"{here}/first?order=sideways")).status_code == 422


@pytest.fixture
def built(tmp_path: Path) -> Path:
    """Pages as a build leaves them, a part of it twice compressed."""
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("<title>Sorta</title>")
    (tmp_path / "assets" / "desk-1.js").write_text("plain")
    (tmp_path / "assets" / "desk-1.js.br").write_bytes(b"as brotli")
    (tmp_path / "assets" / "desk-1.js.gz").write_bytes(gzip.compress(b"as gzip", mtime=0))
    (tmp_path / "assets" / "face.woff2").write_bytes(b"a font")
    return tmp_path


async def get(world: World, built: Path, path: str, encodings: str) -> httpx.Response:
    transport = httpx.ASGITransport(app=make_app(world.house, web=built))
    async with httpx.AsyncClient(transport=transport, base_url="http://sorta.test") as client:
        request = client.build_request("GET", path, headers={"Accept-Encoding": encodings})
        answer = await client.send(request, stream=True)
        answer.extensions["raw"] = b"".join([part async for part in answer.aiter_raw()])
        return answer


@pytest.mark.parametrize(
    ("path", "encodings", "encoding", "body"),
    [
        ("desk-1.js", "gzip, deflate, br;q=1.0", "br", b"as brotli"),
        ("desk-1.js", "gzip", "gzip", gzip.compress(b"as gzip", mtime=0)),
        ("desk-1.js", "identity", None, b"plain"),
        ("face.woff2", "gzip, br", None, b"a font"),
    ],
)
async def test_a_part_goes_out_as_it_was_built_and_is_kept(
    world: World, built: Path, path: str, encodings: str, encoding: str | None, body: bytes
) -> None:
    answer = await get(world, built, f"/assets/{path}", encodings)
    assert (answer.status_code, answer.headers.get("content-encoding")) == (200, encoding)
    assert len(answer.extensions["raw"]) == len(body)
    if encoding != "gzip":
        assert answer.extensions["raw"] == body
    kind = "text/javascript" if path.endswith("js") else "font/woff2"
    assert answer.headers["content-type"].split(";")[0] == kind
    assert "immutable" in answer.headers["cache-control"]
    # The page itself names the parts, and is looked at each time.
    page = await get(world, built, "/w/1/desk", "br")
    assert page.headers["cache-control"] == "no-cache"
    for nothing in ("/assets/../index.html.br", "/assets/desk-2.js"):
        assert (await get(world, built, nothing, "br")).status_code in (200, 404)
    assert (await get(world, built, "/assets/desk-2.js", "br")).status_code == 404


async def test_the_greeting_says_whether_something_passed_by_unheard(world: World, mara: Client) -> None:
    house, scope = world.house, world.scopes["mara"]
    token = await sign_in_as(world, "mara")

    async def greet(since: str) -> str:
        async with aclosing(sign_in.stream_notices(house, token, scope, lambda: datetime.now(UTC), since)) as notices:
            return await anext(notices)

    def mark() -> str:
        return house.live.mark(world.workspace_id)

    assert mark() == ""
    assert await greet(mark()) == '{"kind":"hello","gap":true}'
    await house.live.open()
    try:
        before = mark()
        assert before
        assert (await mara.get("/api/session")).json()["workspaces"][0]["heard"] == before
        assert await greet(before) == '{"kind":"hello","gap":false}'
        # What happens elsewhere is no gap here.
        await world.hear("hi")
        for _ in range(40):
            if mark() != before:
                break
            await asyncio.sleep(0.05)
        assert await greet(before) == '{"kind":"hello","gap":true}'
        assert await greet(mark()) == '{"kind":"hello","gap":false}'
        assert await greet("") == '{"kind":"hello","gap":true}'
        assert await greet("elsewhere.3") == '{"kind":"hello","gap":true}'
        first = mark()
    finally:
        await house.live.close()
    # Another stretch of listening knows nothing of the one before.
    await house.live.open()
    try:
        assert await greet(first) == '{"kind":"hello","gap":true}'
    finally:
        await house.live.close()
