"""Every endpoint of a workspace, asked for another workspace's things."""

import re

import pytest
from fastapi import FastAPI
from fastapi.routing import iter_route_contexts

from tests.api.conftest import Client
from tests.world import World

pytestmark = pytest.mark.anyio

BODIES = {
    "add_act": {"act": "keep"},
    "add_reply": {"public": True, "text": "x", "seen_seq": 1},
    "undo_act": {"seq": 1},
    "set_read": {"seq": 1},
    "set_draft": {"mode": "note", "body": "x"},
    "set_presence": {"conversation_id": 1},
    "set_token": {"token": "x"},
}
QUERIES = {"list_conversations": {"move": "unsorted"}, "find": {"words": "quokka"}, "list_rows": {"ids": [1]}}


def list_routes(app: FastAPI) -> list[tuple[str, str, str]]:
    return [
        (c.name, next(iter(c.methods)), c.path)
        for c in iter_route_contexts(app.routes)
        if "{workspace_id}" in c.path and c.path.startswith("/api/")
    ]


async def ask(client: Client, name: str, method: str, path: str, **ids: int) -> object:
    url = re.sub(r"{(\w+)}", lambda m: str(ids.get(m[1], ids["any"])), path)
    return await client.request(method, url, json=BODIES.get(name), params=QUERIES.get(name))


async def test_no_endpoint_answers_for_a_workspace_one_is_not_in(app: FastAPI, mara: Client, world: World) -> None:
    routes = list_routes(app)
    assert len(routes) >= 18
    for name, method, path in routes:
        answer = await ask(mara, name, method, path, workspace_id=world.other_workspace_id, any=1)
        assert answer.status_code == 404, (name, answer.text)


async def test_no_endpoint_answers_without_a_session(app: FastAPI, anyone: Client, world: World) -> None:
    for name, method, path in list_routes(app):
        answer = await ask(anyone, name, method, path, workspace_id=world.workspace_id, any=1)
        assert answer.status_code == 401, (name, answer.text)


async def test_in_ones_own_workspace_the_others_things_do_not_exist(app: FastAPI, anyone: Client, world: World) -> None:
    """Otto owns the other workspace and asks there, by the numbers of this one's conversation and account."""
    conversation_id = await world.hear("a rare word: quokka")
    account_id = world.accounts["commonfold"].id
    before = await world.row(conversation_id)
    await anyone.enter("otto")
    BODIES["set_presence"] = {"conversation_id": conversation_id}
    for name, method, path in list_routes(app):
        if name == "stream_live":
            continue
        if "{" in path.replace("{workspace_id}", "") or name == "set_presence":
            answer = await ask(
                anyone,
                name,
                method,
                path,
                workspace_id=world.other_workspace_id,
                account_id=account_id,
                any=conversation_id,
            )
            assert answer.status_code == 404, (name, answer.status_code, answer.text)
            continue
        answer = await ask(anyone, name, method, path, workspace_id=world.other_workspace_id, any=conversation_id)
        assert answer.status_code == 200, (name, answer.text)
        assert "quokka" not in answer.text
        assert "Petra" not in answer.text
        if name in ("list_conversations", "list_rows", "list_accounts", "list_aside", "list_presence"):
            assert answer.json() in ([], {"rows": []}), name
    assert await world.row(conversation_id) == before
