"""Cookies, the session's word, and errors as problem details."""

from datetime import UTC, datetime, timedelta

import pytest

from sorta.api.deps import COOKIE
from sorta.services.duties import DUTIES, note_round
from tests.api.conftest import Client
from tests.world import PASSWORD, World

pytestmark = [pytest.mark.anyio, pytest.mark.usefixtures("no_blocking")]


async def test_the_cookie_is_for_this_site_and_no_script(anyone: Client) -> None:
    answer = await anyone.post("/api/session", json={"email": "mara@brinewick.example", "password": PASSWORD})
    cookie = answer.headers["set-cookie"]
    assert cookie.startswith(f"{COOKIE}=")
    assert {"HttpOnly", "SameSite=strict", "Path=/"} <= {part.strip() for part in cookie.split(";")}
    assert anyone.cookies[COOKIE] not in (await anyone.get("/api/session")).text


async def test_who_is_in(mara: Client, world: World) -> None:
    told = (await mara.get("/api/session")).json()
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
        {"database": True, "migrations": True, "clock": False, "behind": None},
    )
    for late, status in ((0, 200), (34, 200), (40, 503)):
        for duty in DUTIES:
            await note_round(world.house, duty, datetime.now(UTC) - timedelta(seconds=late))
        answer = await anyone.get("/readyz")
        assert (answer.status_code, answer.json()["clock"]) == (status, status == 200), late
    assert answer.json()["behind"] == pytest.approx(35, abs=1)
