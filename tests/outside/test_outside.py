"""The stand-in networks keep their own word: once per key, within their rules, signed, and wrong when told to be."""

import json

import httpx
import pytest
from standardwebhooks import Webhook

from outside import hooks as hooks_module
from outside.hooks import Hooks
from outside.mischief import Mischief
from outside.state import State
from tests.world import SECRET, World

pytestmark = pytest.mark.anyio


async def send(
    world: World, network: str, parent: str, text: str, key: str | None = "k1", public: bool = True
) -> httpx.Response:
    body = {
        "type": "Note",
        "content": text,
        "inReplyTo": parent,
        "to": ["https://www.w3.org/ns/activitystreams#Public"] if public else [],
    }
    headers = {"Authorization": f"Bearer {world.get_token(network)}", **({"Idempotency-Key": key} if key else {})}
    return await world.outside.post(f"/api/{network}/objects", json=body, headers=headers)


async def test_one_key_makes_one_thing(world: World) -> None:
    parent = (await world.say("hi"))["object"]["id"]
    first = await send(world, "commonfold", parent, "Hello")
    again = await send(world, "commonfold", parent, "Hello")
    assert (first.status_code, again.status_code, first.json()["id"] == again.json()["id"]) == (201, 200, True)
    assert (await send(world, "commonfold", parent, "Else")).status_code == 422
    assert (await send(world, "commonfold", parent, "Hello", key=None)).status_code == 400


@pytest.mark.parametrize(
    ("network", "kind", "text", "public", "status"),
    [
        ("quillet", "mention", "Hello", True, 422),
        ("quillet", "mention", "@petra Hello", True, 201),
        ("quillet", "mention", "@petra " + "x" * 294, True, 422),
        ("quillet", "mention", "Hello", False, 403),
        ("quillet", "private", "Hello", False, 201),
        ("hushline", "private", "Hello", True, 403),
        ("commonfold", "comment", "Hello", False, 201),
        ("commonfold", "comment", " ", True, 422),
    ],
)
async def test_rules(world: World, network: str, kind: str, text: str, public: bool, status: int) -> None:
    parent = (await world.say("hi", network=network, kind=kind))["object"]["id"]
    assert (await send(world, network, parent, text, public=public)).status_code == status


async def test_hushline_closes_after_a_day(world: World) -> None:
    parent = (await world.say("hi", network="hushline", kind="private"))["object"]["id"]
    await world.control("clocks", clocks={"hushline": world.after(hours=24, seconds=1).isoformat()})
    assert (await send(world, "hushline", parent, "Hello", public=False)).status_code == 403


async def test_a_thing_is_answered_by_a_clock_of_its_own_where_it_has_one(world: World) -> None:
    """So that histories are told side by side: the other was answered too late by the network's clock, and this one in time by its own."""
    told = {"network": "hushline", "kind": "private", "to": "brinewick", "tell": False, "what": "say"}
    things = [
        {**told, "handle": who, "name": who, "text": f"from {who}", "clock": world.now.isoformat()}
        for who in ("a", "b")
    ]
    activities = (await world.control("happened", things=things))["activities"]
    first, second = [activity["object"]["id"] for activity in activities]
    assert [activity["object"]["content"] for activity in activities] == ["from a", "from b"]
    at = world.after(hours=1).isoformat()
    await world.control("clocks", clocks={"hushline": world.after(hours=25).isoformat(), first: at})
    answer = await send(world, "hushline", first, "Hello", public=False)
    assert (answer.status_code, answer.json()["published"]) == (201, at)
    assert (await send(world, "hushline", second, "Hello", key="k2", public=False)).status_code == 403


async def test_what_is_gone_cannot_be_answered(world: World) -> None:
    parent = (await world.say("hi"))["object"]["id"]
    await world.control("remove", id=parent)
    assert (await send(world, "commonfold", parent, "Hello")).status_code == 410


async def test_the_collection_is_read_page_by_page(world: World) -> None:
    post = (await world.publish())["object"]["id"]
    for n in range(60):
        await world.say(f"n{n}", parent=post)
    headers = {"Authorization": f"Bearer {world.get_token('commonfold')}"}
    first = (await world.outside.get("/api/commonfold/activities", headers=headers)).json()
    rest = (await world.outside.get(first["next"], headers=headers)).json()
    end = (await world.outside.get(rest["next"], headers=headers)).json()
    assert first["type"] == "OrderedCollectionPage"
    assert [len(p["orderedItems"]) for p in (first, rest, end)] == [50, 11, 0]
    assert (await world.outside.get("/api/commonfold/activities")).status_code == 401


async def test_nonsense_settings_are_refused(world: World) -> None:
    for body in ({"fail": True}, {"sing": 1}, {"duplicate": 1}):
        assert (await world.outside.post("/control/mischief/quillet", json=body)).status_code == 422
    assert (await world.outside.post("/control/settings", json={"pace": "frantic"})).status_code == 422


async def deliver(
    mischief: dict[str, object], count: int, monkeypatch: pytest.MonkeyPatch
) -> list[tuple[str, dict[str, str]]]:
    """What a listener hears of `count` webhooks under a mischief; its first answer to each is a 500."""
    heard: list[tuple[str, dict[str, str]]] = []
    asked: dict[str, int] = {}

    def answer(request: httpx.Request) -> httpx.Response:
        id = request.headers["webhook-id"]
        asked[id] = asked.get(id, 0) + 1
        if asked[id] == 1:
            return httpx.Response(500)
        heard.append((request.content.decode(), dict(request.headers)))
        return httpx.Response(202)

    monkeypatch.setattr(hooks_module, "PAUSES", (0.01, 0.01))
    state = State(":memory:")
    settings = Mischief(state)
    settings.set("quillet", mischief)
    hooks = Hooks(settings)
    hooks._client = httpx.AsyncClient(transport=httpx.MockTransport(answer))
    page = {"id": "p", "hook_url": "http://listener.test/", "hook_secret": SECRET}
    for n in range(count):
        hooks.send("quillet", page, {"n": n})
    assert not await hooks.wait(0), "what was just queued has not been heard"
    assert await hooks.wait(10)
    for task in hooks._tasks.values():
        task.cancel()
    return heard


async def test_webhooks_are_signed_and_tried_again(monkeypatch: pytest.MonkeyPatch) -> None:
    heard = await deliver({}, 3, monkeypatch)
    assert [json.loads(body)["n"] for body, _ in heard] == [0, 1, 2]
    for body, headers in heard:
        Webhook(SECRET).verify(body, headers)


async def test_webhooks_misbehave_when_told(monkeypatch: pytest.MonkeyPatch) -> None:
    numbers = lambda heard: [json.loads(body)["n"] for body, _ in heard]  # noqa: E731
    assert numbers(await deliver({"duplicate": True}, 2, monkeypatch)) == [0, 0, 1, 1]
    assert numbers(await deliver({"drop": 2}, 3, monkeypatch)) == [2]
    assert numbers(await deliver({"reorder": True}, 3, monkeypatch)) == [2, 1, 0]
