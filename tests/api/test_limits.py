"""What anybody may send: how much, how deep, how slowly, how many at once. Every way in, from the application's own list."""

import asyncio
import json
import re

import httpx
import pytest
from fastapi import FastAPI

from sorta.api.app import list_routes
from sorta.api.limits import DEEPEST, NOBODY, OWN, SOMEBODY, nests_too_deeply
from sorta.core.errors import Busy, Unreadable
from sorta.services import workshop
from sorta.services.workshop import Workshop
from tests.api.conftest import Client
from tests.world import World

pytestmark = pytest.mark.anyio


def address(path: str) -> str:
    return re.sub(r"\{[^}]+\}", "1", path)


WRITING = [
    (method, route.name, address(route.path))
    for route in list_routes()
    for method in sorted((route.methods or set()) - {"GET", "HEAD"})
]


def test_every_limit_of_its_own_is_of_a_route_that_there_is() -> None:
    assert set(OWN) <= {name for _, name, _ in WRITING}
    assert len(WRITING) > 75


async def test_every_way_in_takes_so_much_and_no_more(app: FastAPI, anyone: Client) -> None:
    """With and without a session, with the length said and unsaid; nothing of it reaches the application."""
    reached: list[str] = []

    async def chunks(size: int):
        for _ in range(0, size, 2**16):
            yield b"1" * 2**16
        yield b"1"

    for method, name, path in WRITING:
        for cookie in ({}, {"Cookie": "sorta_session=x"}):
            limit = OWN.get(name) or (SOMEBODY if cookie and path != "/api/session" else NOBODY)
            largest = limit.largest
            said = await anyone.request(method, path, headers={**cookie, "Content-Length": str(largest + 1)})
            unsaid = await anyone.request(method, path, headers=cookie, content=chunks(largest))
            if {said.status_code, unsaid.status_code} != {413}:
                reached.append(f"{method} {path}: {said.status_code} {unsaid.status_code}")
            assert "large, not more" in said.json()["detail"]
    assert reached == []


async def test_no_way_in_takes_what_is_nested_without_end(anyone: Client, world: World) -> None:
    """60,000 lists within one another once were a 500 for ever."""
    await anyone.enter("noor")
    for method, name, path in WRITING:
        if name in OWN and not OWN[name].nests:
            continue
        for piece in ("[", '{"a":'):
            answer = await anyone.request(method, path, content=piece * 9000)
            assert answer.status_code == 422, (path, answer.text[:200])
            assert "within one another" in answer.json()["detail"]


@pytest.mark.parametrize("piece", ['{"a":', "[", "[{}],", '"[" ', '"', r"\"", r'"\"', "[]", "}", "]["])
def test_depth_is_measured_as_a_parser_would(piece: str) -> None:
    """Against the standard library's own parser, where there is something to parse; and what is no JSON does not raise."""
    for deep in (DEEPEST - 1, DEEPEST, DEEPEST + 1):
        assert nests_too_deeply((b"[" * deep) + b'"[[["' + (b"]" * deep)) is (deep > DEEPEST)
    text = '"' + json.dumps(piece * 100)[1:-1] + '"'
    assert not nests_too_deeply(f"[{text}]".encode())
    assert isinstance(nests_too_deeply((piece * 2000).encode()), bool)


async def test_who_is_slow_is_not_waited_for(app: FastAPI, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("sorta.api.limits.NOBODY", type(NOBODY)(largest=100, seconds=0.05))

    async def slowly():
        yield b"{"
        await asyncio.sleep(3)
        yield b"}"

    async with httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url="http://sorta.test") as client:
        answer = await client.post("/api/session", content=slowly())
    assert (answer.status_code, answer.json()["type"]) == (408, "/problems/too-slow")


async def test_one_caller_has_so_many_under_way_and_others_go_on(
    app: FastAPI, mara: Client, world: World, here: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    gate = asyncio.Event()

    async def wait(*_: object) -> list:
        await gate.wait()
        return []

    monkeypatch.setattr("sorta.services.accounts.list_accounts", wait)
    asked = [asyncio.create_task(mara.get(f"{here}/accounts")) for _ in range(SOMEBODY.at_once + 5)]
    done, _ = await asyncio.wait(asked, timeout=2, return_when=asyncio.FIRST_COMPLETED)
    while len(done) < 5:
        done, _ = await asyncio.wait(asked, timeout=0.05)
    refused = [one.result() for one in done]
    assert [(r.status_code, r.headers["Retry-After"]) for r in refused] == [(429, "1")] * 5
    assert (await mara.get("/healthz")).status_code == 200
    transport = httpx.ASGITransport(app=app)
    async with Client(transport=transport, base_url="http://sorta.test") as other:
        await other.enter("noor")
    gate.set()
    assert {r.status_code for r in await asyncio.gather(*asked)} == {200, 429}
    # All are over: the caller may ask as much again.
    assert (await mara.get(f"{here}/accounts")).status_code == 200


async def test_header_lines_and_addresses_have_an_end(anyone: Client) -> None:
    for answer in (
        await anyone.get("/api/demo", headers={"X-Long": "x" * 20_000}),
        await anyone.get("/api/demo", params={"q": "x" * 20_000}),
    ):
        assert answer.status_code == 431
        assert answer.headers["content-security-policy"]


async def test_the_workshop_turns_away_what_it_cannot_do(monkeypatch: pytest.MonkeyPatch) -> None:
    """Bounded, and what outruns its time is told of and still counted, for its thread is not free."""
    import threading

    go = threading.Event()
    shop = Workshop(threads=1, waiting=1)
    monkeypatch.setattr(workshop, "DEADLINE", 0.1)
    first = asyncio.create_task(shop.do(go.wait, 5))
    second = asyncio.create_task(shop.do(go.wait, 5))
    await asyncio.sleep(0)
    with pytest.raises(Busy):
        await shop.do(go.wait, 5)
    with pytest.raises(Unreadable, match="longer"):
        await first
    assert shop.busy >= 1
    go.set()
    await asyncio.gather(first, second, return_exceptions=True)
    for _ in range(200):
        await asyncio.sleep(0.01 if shop.busy else 0)
    assert shop.busy == 0
    assert await shop.do(lambda a, b: a + b, 1, b=2) == 3
    with pytest.raises(ZeroDivisionError):
        await shop.do(lambda: 1 / 0)
    shop.close()
