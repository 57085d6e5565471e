"""Programs: their tokens are worth what their makers may, and they are told signed, once or again, of what they chose."""

import asyncio
import json
import re
import types
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import pytest
import uvicorn
from fastapi import FastAPI
from standardwebhooks.webhooks import Webhook, WebhookVerificationError

from sorta.api.app import make_app
from sorta.core import programs as core
from sorta.core.errors import Invalid, NotAllowed, NotFound, SignInRefused
from sorta.core.events import NAMES
from sorta.core.facts import SettledAs
from sorta.core.permissions import Permission
from sorta.networks.outgoing import Outgoing
from sorta.networks.programs import HttpPrograms
from sorta.services import acts, groups, leaving, programs, roles
from sorta.services.house import seen_by
from tests.world import World

pytestmark = pytest.mark.anyio
P = Permission


class Program:
    """Takes what it is told; answers as it is told to."""

    def __init__(self, world: World) -> None:
        self.taken: list[tuple[dict[str, str], bytes]] = []
        self.status = 204
        client = httpx.AsyncClient(transport=httpx.MockTransport(self.answer))
        world.house = replace(world.house, program_post=HttpPrograms(Outgoing(client)))

    async def answer(self, request: httpx.Request) -> httpx.Response:
        self.taken.append((dict(request.headers), request.content))
        return httpx.Response(self.status)

    def list_said(self) -> list[dict]:
        return [json.loads(body) for _, body in self.taken]


async def add_hook(world: World, *kinds: str) -> tuple[int, str]:
    id, secret = await programs.set_hook(
        world.house,
        world.scopes["noor"],
        None,
        name="Desk lamp",
        url="https://lamp.example/in",
        kinds=kinds,
        now=world.now,
    )
    assert secret is not None
    return id, secret


async def tell(world: World, **after: float) -> int:
    return await programs.tell_programs(world.house, world.workspace_id, datetime.now(UTC) + timedelta(**after))


async def test_what_was_chosen_is_told_signed_and_without_anybodys_words(world: World) -> None:
    program = Program(world)
    _, secret = await add_hook(world, "arrivals", "moves", "decisions")
    id = await world.hear("a rare word: quokka")
    mara = world.scopes["mara"]
    await acts.add_note(world.house, mara, id, text="not chosen", now=world.now)
    await acts.assign(world.house, mara, id, owner_id=mara.member_id, note="quokka, please", now=world.now)
    await acts.settle(world.house, mara, id, how=SettledAs.NO_REPLY_NEEDED, now=world.now)
    assert await tell(world) == 5
    said = program.list_said()
    by_type = {one["type"].partition(".")[2]: one["data"] for one in said}
    assert sorted(by_type) == ["arrived", "assigned", "moved", "settled"]
    assert all(one["data"]["conversation"] == id and one["data"]["workspace"] == world.workspace_id for one in said)
    moves = [(one["data"]["from"], one["data"]["to"]) for one in said if one["type"] == "conversation.moved"]
    assert moves == [("unsorted", "our_move"), ("our_move", "settled")]
    assert by_type["assigned"]["member"] == mara.member_id
    for headers, body in program.taken:
        assert b"quokka" not in body
        assert Webhook(secret).verify(body, headers)["type"].startswith("conversation.")
    with pytest.raises(WebhookVerificationError):
        Webhook("whsec_AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA").verify(body, headers)
    assert await tell(world) == 0
    # The other workspace has nothing to do with it.
    assert await programs.tell_programs(world.house, world.other_workspace_id, datetime.now(UTC)) == 0


async def test_what_is_not_taken_is_told_again_under_the_same_key_until_it_is_given_up(world: World) -> None:
    program = Program(world)
    id, _ = await add_hook(world, "arrivals")
    await world.hear("hi")
    program.status, noor = 500, world.scopes["noor"]
    at = 0.0
    for tries, pause in enumerate((0, *core.PAUSES), 1):
        at += pause
        assert await tell(world, seconds=at + tries) == 1
        assert await tell(world, seconds=at + tries) == 0
    assert len({headers["webhook-id"] for headers, _ in program.taken}) == 1
    log = await programs.list_told(world.house, noor, id, None)
    assert (log[0]["state"], log[0]["attempts"], log[0]["problem"]) == ("failed", 10, "It answered 500.")
    assert await tell(world, days=9) == 0
    program.status = 204
    assert await programs.tell_again(world.house, noor, id, None, datetime.now(UTC)) == 1
    assert await tell(world) == 1
    assert (await programs.list_told(world.house, noor, id, None))[0]["state"] == "sent"
    assert (await programs.list_hooks(world.house, noor))[0]["failing_since"] is None
    assert len({headers["webhook-id"] for headers, _ in program.taken}) == 1


async def test_a_program_that_is_gone_or_takes_nothing_for_days_is_told_no_more_and_somebody_is(world: World) -> None:
    program = Program(world)
    id, _ = await add_hook(world, "arrivals")
    await world.hear("hi")
    program.status = 410
    await tell(world)
    noor = world.scopes["noor"]
    assert "410" in (await programs.list_hooks(world.house, noor))[0]["off_reason"]
    await world.hear("there", handle="wim")
    assert await tell(world, days=1) == 0
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (await tx.execute("select words from alert where member_id = %s", [noor.member_id])).fetchall()
        waiting = await (await tx.execute("select count(*) from hook_event")).fetchone()
    assert ["told nothing more" in words for (words,) in rows] == [True]
    assert waiting == (1,), "what happens while it is off is not kept for it"
    program.status = 204
    kinds = ["arrivals"]
    await programs.set_hook(world.house, noor, id, name="Lamp", url="https://lamp.example", kinds=kinds, now=world.now)
    assert await tell(world, days=2) == 1


async def test_both_secrets_sign_for_three_days(world: World) -> None:
    program = Program(world)
    id, before = await add_hook(world, "arrivals")
    await world.hear("hi")
    fresh, _ = await programs.change_secret(world.house, world.scopes["noor"], id, datetime.now(UTC))
    await tell(world)
    headers, body = program.taken[0]
    for secret in (before, fresh):
        Webhook(secret).verify(body, headers)
    await world.hear("there", handle="wim")
    await tell(world, days=4)
    headers, _ = program.taken[1]
    assert len(headers["webhook-signature"].split()) == 1


async def test_removed_it_is_told_nothing_and_what_waited_is_gone(world: World) -> None:
    program = Program(world)
    id, _ = await add_hook(world, "arrivals")
    await world.hear("hi")
    await programs.remove_hook(world.house, world.scopes["noor"], id, world.now)
    assert await tell(world) == 0
    assert program.taken == []
    with pytest.raises(NotFound):
        await programs.remove_hook(world.house, world.scopes["noor"], id, world.now)


async def make_token(world: World, *permissions: Permission, who: str = "noor") -> str:
    return await programs.add_token(
        world.house, world.scopes[who], name=f"Of {who}", permissions=permissions, days=30, now=world.now
    )


async def test_a_token_is_worth_what_it_was_given_and_its_maker_may_now(world: World) -> None:
    house, place, now = world.house, world.workspace_id, world.now
    token = await make_token(world, P.SORT, P.EXPORT)
    scope = await programs.get_scope(house, token, place, "here", now)
    assert scope.role.grants == {P.SEE, P.SORT, P.EXPORT}
    assert scope.member_id == world.scopes["noor"].member_id
    await roles.give_role(house, world.scopes["noor"], world.scopes["mara"].member_id, "owner")
    await roles.give_role(house, world.scopes["noor"], world.scopes["noor"].member_id, "observer")
    assert (await programs.get_scope(house, token, place, "here", now)).role.grants == {P.SEE}
    mara = replace(world.scopes["mara"], role=world.scopes["noor"].role)
    await groups.set_sight(house, mara, scope.member_id, limited=True, groups=[], now=now)
    assert (await programs.get_scope(house, token, place, "here", now)).limited
    await leaving.let_go(house, mara, scope.member_id, to_owner=None, to_team=None, now=now)
    with pytest.raises(SignInRefused, match="works here no more"):
        await programs.get_scope(house, token, place, "here", now)


async def test_a_token_opens_its_own_workspace_until_it_ends_or_is_taken_back(world: World) -> None:
    house, place, now = world.house, world.workspace_id, world.now
    token = await make_token(world, P.SORT)
    for wrong, where, at in (
        (token, world.other_workspace_id, now),
        (token, place, now + timedelta(days=31)),
        (token[:-1], place, now),
        ("", place, now),
    ):
        with pytest.raises(SignInRefused):
            await programs.get_scope(house, wrong, where, "here", at)
    noor = world.scopes["noor"]
    kept = (await programs.list_tokens(house, noor, now))[0]
    assert (kept["ending"], kept["name"]) == (token[-4:], "Of noor")
    assert token not in json.dumps(kept, default=str)
    await programs.revoke_token(house, noor, kept["id"], now)
    with pytest.raises(SignInRefused):
        await programs.get_scope(house, token, place, "here", now)
    with pytest.raises(NotFound):
        await programs.revoke_token(house, noor, kept["id"], now)


async def test_nobody_makes_a_token_that_holds_more_than_they_or_what_none_may(world: World) -> None:
    for permissions, days, words in (
        ([P.MANAGE_MEMBERS], 30, "manages members"),
        ([P.SORT], 31, "lasts 7, 30, 90 or 365 days"),
    ):
        with pytest.raises(Invalid, match=words):
            await programs.add_token(
                world.house, world.scopes["noor"], name="x", permissions=permissions, days=days, now=world.now
            )
    with pytest.raises(NotAllowed):
        await make_token(world, P.SORT, who="mara")
    with pytest.raises(Invalid, match="no more than who makes it"):
        core.check_token([P.APPROVE], [P.SEE], 7)
    for url in ("ftp://x", "https://", "https://a:b@x", "javascript:1", "https://x y", "https://[", "x" * 600):
        with pytest.raises(Invalid):
            core.check_url(url)


async def test_a_program_asks_over_the_api_and_the_record_says_so(world: World) -> None:
    id = await world.hear("hello")
    token = await make_token(world, P.SORT, P.MANAGE_TAGS)
    transport = httpx.ASGITransport(app=make_app(world.house))
    headers = {"Authorization": f"Bearer {token}"}
    here = f"/api/workspaces/{world.workspace_id}"
    async with httpx.AsyncClient(transport=transport, base_url="http://sorta.test", headers=headers) as client:
        assert (await client.get(f"{here}/conversations/{id}")).status_code == 200
        act = {"act": {"act": "keep"}, "seen_seq": 1}
        assert (await client.post(f"{here}/conversations/{id}/acts", json=act)).status_code == 200
        refused = await client.put(f"{here}/workspace", json={"name": "x", "description": ""})
        assert refused.status_code in (403, 404, 405)
        reply = {"public": True, "text": "x", "seen_seq": 1}
        answer = await client.post(f"{here}/conversations/{id}/replies", json=reply)
        assert answer.status_code == 403
        assert "by the token “Of noor”" in answer.json()["detail"]
        assert (await client.get(f"{here}/programs/tokens")).status_code == 403
        assert (await client.get(f"{here}/live")).status_code == 401
        assert (await client.get("/api/session")).status_code == 401
        assert (await client.get(f"{here}/first")).json()["session"] is None
        client.headers["Authorization"] = "Bearer made-up"
        assert (await client.get(f"{here}/conversations/{id}")).status_code == 401
    assert "kept" in await world.kinds(id)


async def test_the_trail_tells_also_what_its_author_does_not_see_others_are_told(world: World) -> None:
    """A place is told of every account, whoever acts: the table writes it past their sight."""
    program = Program(world)
    await add_hook(world, "decisions")
    id = await world.hear("hi", network="pixfern", kind="private", handle="wim")
    noor, ilse = world.scopes["noor"], world.scopes["ilse"]
    held = [world.accounts["pixfern"].id]
    group = await groups.set_group(world.house, noor, None, name="x", held=held, members=[], now=world.now)
    await groups.set_sight(world.house, noor, ilse.member_id, limited=True, groups=[group], now=world.now)
    limited = replace(ilse, limited=True)
    with seen_by(limited.seer):
        await acts.assign(world.house, limited, id, owner_id=ilse.member_id, note=None, now=world.now)
    assert await tell(world) == 1
    assert program.list_said()[0]["type"] == "conversation.assigned"


def test_what_can_be_told_are_events_that_trails_have() -> None:
    assert frozenset().union(*core.TOLD.values()) <= {*NAMES.values(), "moved"}
    text = (Path(__file__).parents[2] / "docs" / "programs.md").read_text()
    for kind, events in core.TOLD.items():
        row = next(line for line in text.splitlines() if line.startswith(f"| {kind} |"))
        assert set(re.findall(r"`(\w+)`", row)) == events


async def test_the_example_for_programmers_works_as_it_stands(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    program = Program(world)
    _, secret = await add_hook(world, "arrivals")
    token = await make_token(world, P.SORT, P.MANAGE_TAGS)
    asked = [await world.hear("Is there parking?"), await world.hear("Nice seals", handle="wim")]
    await tell(world)
    text = (Path(__file__).parents[2] / "docs" / "programs.md").read_text()
    code = re.search(r"```python\n(.*?)```", text, re.DOTALL)
    assert code is not None
    for name, value in (("URL", "http://sorta.test"), ("TOKEN", token), ("SECRET", secret)):
        monkeypatch.setenv(f"SORTA_{name}", value)
    example = types.ModuleType("example")
    exec(code[1], example.__dict__)
    async with serve(make_app(world.house)) as address:
        example.SORTA.base_url = address
        for headers, body in [*program.taken, *program.taken]:
            assert await asyncio.to_thread(example.take, headers, body) == 204
        example.SORTA.close()
    async with world.house.db.transact(world.workspace_id) as tx:
        tagged = await (await tx.execute("select conversation_id from filing where under = 'tag'")).fetchall()
    assert tagged == [(asked[0],)]


@asynccontextmanager
async def serve(app: FastAPI) -> AsyncIterator[str]:
    """An application at an address of its own."""
    config = uvicorn.Config(app, port=0, lifespan="off", log_level="critical", ws="none")
    server = uvicorn.Server(config)
    running = asyncio.create_task(server.serve())
    while not server.started:  # noqa: ASYNC110
        await asyncio.sleep(0.01)
    try:
        yield f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
    finally:
        server.should_exit = True
        await running
