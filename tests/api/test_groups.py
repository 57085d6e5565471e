"""Who is limited to groups, over every way in: nothing that went by other accounts is there, in lists, by number, or in what is told."""

import json

import pytest
from fastapi import FastAPI

from sorta.core.permissions import OVER_ALL
from sorta.services import groups
from tests.api.conftest import Client
from tests.api.test_isolation import BODIES, ask, list_routes
from tests.api.test_permission_matrix import NEEDS, READS
from tests.world import World

pytestmark = pytest.mark.anyio

#: Words that stand in nothing but what went by an account that is not seen.
HIDDEN = ("quokka", "Petra")


async def limit(world: World, who: str, *networks: str) -> None:
    noor, member = world.scopes["noor"], world.scopes[who].member_id
    held = [world.accounts[network].id for network in networks]
    id = await groups.set_group(world.house, noor, None, name="Theirs", held=held, members=[], now=world.now)
    await groups.set_sight(world.house, noor, member, limited=True, groups=[id], now=world.now)


async def test_nothing_of_other_accounts_is_anywhere(app: FastAPI, anyone: Client, world: World) -> None:
    hidden = await world.hear("a rare word: quokka", network="hushline", kind="private", handle="petra")
    seen = await world.hear("hello there", network="pixfern", kind="private", handle="wim")
    row = await world.row(hidden)
    before = row, await world.kinds(hidden)
    await limit(world, "mara", "pixfern")
    await anyone.enter("mara")
    BODIES["set_presence"] = {"conversation_id": hidden}
    assert (await anyone.get(f"/api/workspaces/{world.workspace_id}/conversations/{seen}")).status_code == 200
    where = {
        "workspace_id": world.workspace_id,
        "account_id": world.accounts["hushline"].id,
        "person_id": row["person_id"],
    }
    for name, method, path in list_routes(app):
        if name in ("archive_workspace", "stream_live", "let_member_go"):
            continue
        answer = await ask(anyone, name, method, path, **where, conversation_id=hidden, any=hidden)
        assert answer.status_code < 500, (name, answer.text)
        for word in HIDDEN:
            assert word not in answer.text, (name, word, answer.text)
        if "{conversation_id}" in path or ("{person_id}" in path and method == "GET"):
            assert answer.status_code in (403, 404), (name, answer.status_code, answer.text)
        if NEEDS.get(name, READS.get(name)) in OVER_ALL and name != "set_availability":
            assert answer.status_code == 403, (name, answer.status_code, answer.text)
    assert (await world.row(hidden), await world.kinds(hidden)) == before


async def test_a_message_and_a_file_by_its_number_are_not_there(anyone: Client, world: World, here: str) -> None:
    await world.hear("a rare word: quokka", network="hushline", kind="private", handle="petra")
    await limit(world, "mara", "pixfern")
    await anyone.enter("mara")
    # The one message there is.
    assert (await anyone.post(f"{here}/messages/1/translations", json={"language": "es"})).status_code == 404
    found = await anyone.get(f"{here}/find", params={"words": "quokka"})
    assert found.json()["messages"] == []
    lists = (await anyone.get(f"{here}/conversations", params={"move": "unsorted"})).text
    assert json.loads(lists)["rows"] == []


async def test_whose_limit_is_lifted_sees_it_with_the_next_request(anyone: Client, world: World, here: str) -> None:
    id = await world.hear("quokka", network="hushline", kind="private")
    await anyone.enter("mara")
    for networks, status in ((("pixfern",), 404), (("hushline",), 200)):
        noor, member = world.scopes["noor"], world.scopes["mara"].member_id
        held = [world.accounts[network].id for network in networks]
        name = f"Of {networks[0]}"
        group = await groups.set_group(world.house, noor, None, name=name, held=held, members=[], now=world.now)
        await groups.set_sight(world.house, noor, member, limited=True, groups=[group], now=world.now)
        assert (await anyone.get(f"{here}/conversations/{id}")).status_code == status
    session = (await anyone.get("/api/session")).json()
    mine = next(w for w in session["workspaces"] if w["id"] == world.workspace_id)
    assert mine["limited"]
    assert not set(mine["permissions"]) & OVER_ALL


async def test_groups_are_made_changed_and_removed(mara: Client, world: World, here: str) -> None:
    account = world.accounts["pixfern"].id
    body = {"name": "Pictures", "accounts": [account], "members": [world.scopes["ilse"].member_id]}
    made = (await mara.post(f"{here}/groups", json=body)).json()["id"]
    assert {**body, "id": made} in (await mara.get(f"{here}/groups")).json()
    assert (await mara.put(f"{here}/groups/{made}", json={**body, "members": []})).status_code == 204
    assert (await mara.post(f"{here}/groups", json=body)).status_code == 422
    assert (await mara.put(f"{here}/groups/999", json=body)).status_code == 404
    assert (await mara.delete(f"{here}/groups/{made}")).status_code == 204
    assert (await mara.delete(f"{here}/groups/{made}")).status_code == 404


async def test_live_notices_name_only_what_is_seen(world: World) -> None:
    from dataclasses import replace

    from sorta.services.sign_in import _reduce
    from sorta.store.live import make_notice

    hidden = await world.hear("quokka", network="hushline", kind="private")
    seen = await world.hear("hello", network="pixfern", kind="private")
    await limit(world, "ilse", "pixfern")
    ilse = replace(world.scopes["ilse"], limited=True)
    place = world.workspace_id

    async def reduce(kind: str, **more: object) -> dict | None:
        told = await _reduce(world.house, ilse, make_notice(place, kind, **more))
        return None if told is None else json.loads(told)

    assert await reduce("conversations", ids=[hidden]) is None
    assert (await reduce("conversations", ids=[hidden, seen]))["ids"] == [seen]
    accounts = [world.accounts["hushline"].id, world.accounts["pixfern"].id]
    assert (await reduce("accounts", ids=accounts))["ids"] == accounts[1:]
    assert (await reduce("presence", member=1, conversation=hidden, doing="reading"))["conversation"] is None
    assert (await reduce("presence", member=1, conversation=seen, doing="reading"))["conversation"] == seen
    assert await reduce("roles") == {"workspace": place, "kind": "roles"}
