"""Cookies, the session's word, and errors as problem details."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import httpx
import pytest
from fastapi import FastAPI

from sorta.api.app import give_house, make_app
from sorta.api.deps import COOKIE, DEVICE_COOKIE
from sorta.services.duties import DUTIES, note_round
from sorta.store.keyring import Keyring, make_key
from tests.api.conftest import Client
from tests.world import PASSWORD, World

pytestmark = [pytest.mark.anyio, pytest.mark.usefixtures("no_blocking")]


async def test_the_cookie_is_for_this_site_and_no_script(anyone: Client) -> None:
    answer = await anyone.post("/api/session", json={"email": "mara@brinewick.example", "password": PASSWORD})
    cookies = answer.headers.get_list("set-cookie")
    assert [c.partition("=")[0] for c in cookies] == [COOKIE, DEVICE_COOKIE]
    for cookie in cookies:
        assert {"HttpOnly", "SameSite=strict", "Path=/"} <= {part.strip() for part in cookie.split(";")}
    assert anyone.cookies[COOKIE] not in (await anyone.get("/api/session")).text


async def test_who_is_in(mara: Client, app: FastAPI, world: World) -> None:
    give_house(app, replace(world.house, undo_for=timedelta(seconds=45)))
    told = (await mara.get("/api/session")).json()
    assert told["undo_seconds"] == 45
    assert (told["name"], [w["id"] for w in told["workspaces"]]) == ("Mara Person", [world.workspace_id])
    assert "sort" in told["workspaces"][0]["permissions"]
    assert (await mara.delete("/api/session")).status_code == 204
    assert (await mara.get("/api/session")).status_code == 401


async def test_a_problem_has_the_members_of_rfc_9457(anyone: Client) -> None:
    """RFC 9457, 3.1: type, title, status, detail, instance; the media type application/problem+json."""
    answer = await anyone.post("/api/session", json={"email": "mara@brinewick.example", "password": "no"})
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.json() == {
        "reference": answer.headers["X-Request-Id"],
        "type": "/problems/sign-in",
        "title": "Sign in",
        "status": 401,
        "instance": "/api/session",
        "detail": "E-mail address and password do not belong together.",
    }


async def test_slowed_tries_say_for_how_long(anyone: Client) -> None:
    for _ in range(5):
        await anyone.post("/api/session", json={"email": "mara@brinewick.example", "password": "no"})
    answer = await anyone.post("/api/session", json={"email": "mara@brinewick.example", "password": PASSWORD})
    assert answer.status_code == 429
    assert 1 <= int(answer.headers["Retry-After"]) <= 2
    assert answer.json()["type"] == "/problems/too-many-tries"


async def test_a_write_without_the_sessions_word_is_refused(mara: Client, world: World) -> None:
    id = await world.hear("hi")
    del mara.headers["X-CSRF-Token"]
    url = f"/api/workspaces/{world.workspace_id}/conversations/{id}/acts"
    answer = await mara.post(url, json={"act": {"act": "keep"}, "seen_seq": 1})
    assert (answer.status_code, answer.json()["type"]) == (403, "/problems/not-our-page")
    assert await world.kinds(id) == ["arrived"]
    assert (await mara.delete("/api/session")).status_code == 403


async def test_a_field_that_cannot_be_used_is_named(mara: Client, world: World) -> None:
    id = await world.hear("hi")
    url = f"/api/workspaces/{world.workspace_id}/conversations/{id}"
    answer = await mara.post(f"{url}/acts", json={"act": {"act": "prioritise", "priority": 9}, "seen_seq": 1})
    assert (answer.status_code, answer.json()["field"]) == (422, "act.prioritise.priority")
    answer = await mara.post(f"{url}/replies", json={"public": True, "text": " ", "seen_seq": 1})
    assert (answer.status_code, answer.json()["field"]) == (422, "text")
    answer = await mara.get(f"/api/workspaces/{world.workspace_id}/conversations?move=our_move&after=x~1")
    assert (answer.status_code, answer.json()["field"]) == (422, "after")


async def test_the_request_id_comes_back_and_headers_are_set(mara: Client) -> None:
    answer = await mara.get("/healthz", headers={"X-Request-Id": "abc"})
    assert (answer.headers["X-Request-Id"], answer.json()) == ("abc", {"status": "alive"})
    assert "frame-ancestors 'none'" in answer.headers["Content-Security-Policy"]
    assert answer.headers["X-Content-Type-Options"] == "nosniff"


async def test_the_unforeseen_is_a_problem_too(mara: Client, world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    async def fail(*_: object) -> None:
        raise RuntimeError("secret details")

    monkeypatch.setattr("sorta.services.desk.count_moves", fail)
    answer = await mara.get(f"/api/workspaces/{world.workspace_id}/counts?move=unsorted")
    assert (answer.status_code, answer.json()["type"]) == (500, "/problems/unforeseen")
    assert "secret" not in answer.text


async def test_ready_only_with_a_living_worker(anyone: Client, world: World) -> None:
    answer = await anyone.get("/readyz")
    assert (answer.status_code, answer.json()) == (
        503,
        {"database": True, "migrations": True, "keys": True, "clock": False, "behind": None},
    )
    for late, status in ((0, 200), (34, 200), (40, 503)):
        for duty in DUTIES:
            await note_round(world.house, duty, datetime.now(UTC) - timedelta(seconds=late))
        answer = await anyone.get("/readyz")
        assert (answer.status_code, answer.json()["clock"]) == (status, status == 200), late
    assert answer.json()["behind"] == pytest.approx(35, abs=1)


async def test_not_ready_with_a_key_the_database_does_not_know(anyone: Client, world: World) -> None:
    for duty in DUTIES:
        await note_round(world.house, duty, datetime.now(UTC))
    assert (await anyone.get("/readyz")).status_code == 200
    world.house.db._keys = Keyring.read(make_key())
    answer = await anyone.get("/readyz")
    assert (answer.status_code, answer.json()["keys"], answer.json()["database"]) == (503, False, True)


async def test_every_answer_says_what_browsers_are_to_obey(
    anyone: Client, mara: Client, world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    async def fail(*_: object) -> None:
        raise RuntimeError("secret details")

    here = f"/api/workspaces/{world.workspace_id}"
    answers = [
        await mara.get(f"{here}/accounts"),
        await anyone.get(f"{here}/accounts"),
        await anyone.get("/api/nothing"),
        await anyone.post("/api/session", content=b"x" * 100_000),
        await anyone.post("/hooks/1/1", content=b"{}"),
        await anyone.get("/readyz"),
    ]
    monkeypatch.setattr("sorta.services.accounts.list_accounts", fail)
    answers.append(await mara.get(f"{here}/accounts"))
    assert [a.status_code for a in answers] == [200, 401, 404, 413, 403, 503, 500]
    for answer in answers:
        for name in (
            "content-security-policy",
            "x-content-type-options",
            "x-frame-options",
            "referrer-policy",
            "permissions-policy",
            "x-request-id",
        ):
            assert answer.headers.get(name), (answer.url, name)
        assert "strict-transport-security" not in answer.headers
        if answer.url.path.startswith("/api/"):
            assert answer.headers["cache-control"] == "no-store"


async def test_over_https_cookies_are_this_hosts_alone(world: World) -> None:
    app = make_app(world.house, secure_cookies=True)
    transport = httpx.ASGITransport(app=app)
    async with Client(transport=transport, base_url="https://sorta.test") as client:
        await client.enter("mara")
        assert set(client.cookies) == {f"__Host-{COOKIE}", f"__Host-{DEVICE_COOKIE}"}
        answer = await client.get("/api/session")
        assert (answer.status_code, answer.headers["strict-transport-security"]) == (200, "max-age=31536000")
        assert (await client.delete("/api/session")).status_code == 204
        assert (await client.get("/api/session")).status_code == 401
        # Another host of the domain could have set one without the prefix: it is nothing here.
        client.cookies.set(COOKIE, "x", domain="sorta.test")
        assert (await client.get("/api/session")).json()["detail"] == "Sign in to go on."


async def test_the_description_is_for_who_is_signed_in(anyone: Client, mara: Client) -> None:
    assert (await anyone.get("/api/openapi.json")).status_code == 401
    assert "paths" in (await mara.get("/api/openapi.json")).json()


async def test_a_word_in_other_letters_is_refused_and_no_error(mara: Client, world: World) -> None:
    answer = await mara.put("/api/session/screen", json={"single_keys": "off"}, headers={"X-CSRF-Token": "ä".encode()})
    assert answer.status_code == 403


async def test_a_connection_that_says_nothing_is_not_kept(monkeypatch: pytest.MonkeyPatch) -> None:
    """A real server: silent, half a head, a head without end; and one that speaks is heard."""
    import asyncio

    import uvicorn

    from sorta.api import serving

    monkeypatch.setattr(serving, "HEAD_WITHIN", 0.3)

    async def app(scope: dict, receive: object, send: object) -> None:
        await send({"type": "http.response.start", "status": 204, "headers": []})  # type: ignore[operator]
        await send({"type": "http.response.body", "body": b""})  # type: ignore[operator]

    config = uvicorn.Config(app, port=0, http=serving.BoundedProtocol, lifespan="off", log_level="critical", ws="none")
    server = uvicorn.Server(config)
    serve = asyncio.create_task(server.serve())
    while not server.started:  # noqa: ASYNC110
        await asyncio.sleep(0.01)
    port = server.servers[0].sockets[0].getsockname()[1]

    async def ask(*pieces: bytes) -> bytes:
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        try:
            for piece in pieces:
                writer.write(piece)
                await writer.drain()
            return await asyncio.wait_for(reader.read(100), 3)
        except ConnectionError:
            return b""
        finally:
            writer.close()

    try:
        assert await ask() == b""
        assert await ask(b"GET / HTTP/1.1\r\nHost: a\r\n") == b""
        assert await ask(b"GET / HTTP/1.1\r\n", *[b"X-A: " + b"a" * 10_000 + b"\r\n"] * 8) == b""
        assert (await ask(b"GET / HTTP/1.1\r\nHost: a\r\n\r\n")).startswith(b"HTTP/1.1 204")
    finally:
        server.should_exit = True
        await serve


async def test_the_screen_is_kept_wish_by_wish(mara: Client) -> None:
    assert (await mara.put("/api/session/screen", json={"theme": "dark"})).status_code == 204
    assert (
        await mara.put("/api/session/screen", json={"text_size": 130, "strip": "folded", "shown_around": True})
    ).status_code == 204
    assert (await mara.get("/api/session")).json()["screen"] == {
        "single_keys": "plain",
        "theme": "dark",
        "text_size": 130,
        "density": "full",
        "strip": "folded",
        "tab": "all",
        "shown_around": True,
    }
    for wrong in ({"theme": "sepia"}, {"text_size": 101}, {"density": 1}, {"colour": "red"}):
        assert (await mara.put("/api/session/screen", json=wrong)).status_code == 422


async def test_what_the_screen_may_be_is_said_alike_in_the_table(world: World) -> None:
    """The choices of the API and of the column's own check are the same."""
    import re
    from typing import get_args

    from sorta.api.schemas import session

    async with world.house.db.connect() as conn:
        checks = await (
            await conn.execute(
                "select pg_get_constraintdef(oid) from pg_constraint where conrelid = 'member'::regclass and contype = 'c'"
            )
        ).fetchall()
    said = {
        match[1]: set(re.findall(r"'(\w+)'::text|(\d+)", text))
        for (text,) in checks
        if (match := re.search(r"\(\((\w+) = ANY", text))
    }
    for column, choices in {
        "single_keys": session.SingleKeys,
        "theme": session.Theme,
        "text_size": session.TextSize,
        "density": session.Density,
        "strip": session.Strip,
        "tab": session.Tab,
    }.items():
        assert {a or b for a, b in said[column]} == {str(c) for c in get_args(choices)}
