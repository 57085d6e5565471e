"""What the desk shows first: in one answer what its parts answer, small on the line, and nothing missed until the live stream greets."""

import asyncio
import gzip
import json
from contextlib import aclosing
from datetime import UTC, datetime
from pathlib import Path

import httpx
import pytest

from sorta.api.app import make_app
from sorta.core.targets import Priority
from sorta.services import acts, sign_in
from sorta.store.live import KEPT
from tests.api.conftest import Client
from tests.services.test_alerts import sign_in_as
from tests.world import World

pytestmark = pytest.mark.anyio
PARTS = ("members", "networks", "accounts", "directory", "views", "presence", "waiting")


@pytest.mark.parametrize("query", ["move=unsorted", "move=any&words=walrus&order=newest", "network=pixfern&limit=1"])
async def test_the_first_answer_is_what_its_parts_answer(mara: Client, world: World, here: str, query: str) -> None:
    await world.hear("the walrus is loud", handle="lucia")
    await world.hear("seal", handle="jonas", network="pixfern")
    answer, who = await mara.get(f"{here}/first?{query}"), (await mara.get("/api/session")).json()
    first = answer.json()
    # Its own word stands in no answer with what strangers write.
    assert first["session"] == {**who, "csrf": ""}
    assert answer.headers["X-CSRF-Token"] == who["csrf"]
    assert who["csrf"] not in answer.text
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


async def test_what_passed_by_unheard_follows_the_greeting_or_is_said_to_be_unknown(world: World, mara: Client) -> None:
    house, scope = world.house, world.scopes["mara"]
    token = await sign_in_as(world, "mara")

    async def greet(since: str) -> str:
        async with aclosing(sign_in.stream_notices(house, token, scope, lambda: datetime.now(UTC), since)) as notices:
            return await anext(notices)

    def mark() -> str:
        return house.live.mark(world.workspace_id)

    async def listen(since: str, most: int) -> list[dict]:
        async with aclosing(sign_in.stream_notices(house, token, scope, lambda: datetime.now(UTC), since)) as notices:
            return [json.loads(await asyncio.wait_for(anext(notices), 5)) for _ in range(most)]

    async def wait_for(many: int) -> None:
        for _ in range(60):
            if int(mark().partition(".")[2]) >= many:
                return
            await asyncio.sleep(0.05)

    assert mark() == ""
    assert await greet(mark()) == '{"kind":"hello","gap":true}'
    await house.live.open()
    try:
        before = mark()
        assert before
        assert (await mara.get("/api/session")).json()["workspaces"][0]["heard"] == before
        assert await greet(before) == '{"kind":"hello","gap":false}'
        # What passed by unheard follows the greeting, in its order.
        id = await world.hear("hi")
        await acts.prioritise(house, scope, id, priority=Priority.HIGH, now=world.now)
        await wait_for(2)
        told = await listen(before, int(mark().partition(".")[2]) + 1)
        assert told[0] == {"kind": "hello", "gap": False}
        assert [id] in [notice.get("ids") for notice in told[1:]]
        assert len(await listen(mark(), 1)) == 1
        # More than is kept is a gap, and so is what nobody can have heard yet.
        stretch, _, number = mark().partition(".")
        for n in range(KEPT):
            await acts.prioritise(house, scope, id, priority=(Priority.LOW, Priority.HIGH)[n % 2], now=world.now)
        await wait_for(int(number) + KEPT)
        assert await greet(before) == '{"kind":"hello","gap":true}'
        assert len(await listen(f"{stretch}.{int(mark().partition('.')[2]) - KEPT}", KEPT + 1)) == KEPT + 1
        for bent in (f"{stretch}.{10**6}", f"{stretch}.-1", f"{stretch}.", f"{stretch}.²", stretch, f".{number}"):
            assert await greet(bent) == '{"kind":"hello","gap":true}', bent
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
