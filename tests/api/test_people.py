"""People, overview, hours, listening and translating over the real routes: shapes, files, refusals in words."""

import csv
import io

import pytest
from fastapi import FastAPI

from sorta.services import desk
from tests.api.conftest import Client
from tests.world import World

pytestmark = pytest.mark.anyio


async def person_of(world: World, conversation: int) -> int:
    return (await world.row(conversation))["person_id"]


async def test_the_list_pages_in_every_order(mara: Client, world: World, here: str) -> None:
    for n in range(7):
        # Of a capital that becomes two letters elsewhere the database makes one.
        await world.hear("hi", handle=f"h{n}", name=f"İ~rson {n % 3}")
    await desk.keep_counts(world.house, world.workspace_id, world.now)
    for order in ("standing", "name", "lately"):
        seen: list[int] = []
        after = None
        while True:
            query = {"order": order, "limit": 3, **({"after": after} if after else {})}
            page = (await mara.get(f"{here}/people", params=query)).json()
            assert (page["total"] == 7) is (after is None)
            if not page["persons"]:
                break
            seen += [p["id"] for p in page["persons"]]
            after = page["persons"][-1]["place"]
        assert len(seen) == len(set(seen)) == 7, order


@pytest.mark.parametrize("query", ["order=oldest", "standing=101", "limit=0", "after=x", "colour=blue"])
async def test_a_query_nobody_can_read_is_refused(mara: Client, here: str, query: str) -> None:
    answer = await mara.get(f"{here}/people?{query}")
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"


async def test_the_export_is_a_file_that_spreadsheets_read(mara: Client, world: World, here: str) -> None:
    await world.hear("hi", handle="lucia", name='Lucía; Ortega, "Lu"')
    answer = await mara.get(f"{here}/people.csv")
    assert answer.headers["content-disposition"] == 'attachment; filename="people.csv"'
    assert answer.content.startswith(b"\xef\xbb\xbf")
    table = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
    assert [row["Name"] for row in table] == ['Lucía; Ortega, "Lu"']


async def test_who_may_not_export_is_told_so(anyone: Client, world: World, here: str) -> None:
    id = await person_of(world, await world.hear("hi"))
    await anyone.enter("ilse")
    for path in ("people.csv", f"people/{id}/everything"):
        answer = await anyone.get(f"{here}/{path}")
        assert answer.status_code == 403
        assert "may not export" in answer.json()["detail"]


async def test_a_profile_from_first_words_to_a_joined_record(mara: Client, world: World, here: str) -> None:
    one = await person_of(world, await world.hear("I am a@b.example", handle="one"))
    two = await person_of(world, await world.hear("me too: A@B.example", handle="two"))
    there = f"{here}/people/{one}"
    assert (await mara.post(f"{there}/facts", json={"name": "Note", "value": "kind"})).status_code == 200
    assert (await mara.put(f"{there}/tags", json={"name": "school", "on": True})).status_code == 204
    due = {"words": "Ring", "due_at": world.now.isoformat()}
    assert (await mara.post(f"{there}/follow-ups", json=due)).status_code == 200
    assert [f["words"] for f in (await mara.get(f"{here}/follow-ups")).json()] == ["Ring"]
    profile = (await mara.get(there)).json()
    assert profile["suggestions"][0]["reasons"] == ["same mail a@b.example"]
    joined = (await mara.post(f"{there}/joins", json={"person_id": two})).json()["id"]
    assert (await mara.get(f"{here}/people/{two}")).json()["id"] == one
    held = await mara.get(f"{there}/everything")
    assert held.headers["content-disposition"] == f'attachment; filename="person-{one}.json"'
    assert len(held.json()["messages"]) == 2
    assert (await mara.delete(f"{here}/joins/{joined}")).status_code == 204
    again = await mara.delete(f"{here}/joins/{joined}")
    assert again.status_code == 404
    assert "taken apart already" in again.json()["detail"]


async def test_an_observer_sees_and_changes_nothing(anyone: Client, world: World, here: str) -> None:
    id = await person_of(world, await world.hear("hi"))
    await anyone.enter("lise")
    assert (await anyone.get(f"{here}/people/{id}")).status_code == 200
    for method, path, body in (
        ("POST", f"people/{id}/facts", {"name": "x", "value": "x"}),
        ("PUT", f"people/{id}/tags", {"name": "x", "on": True}),
        ("POST", f"people/{id}/follow-ups", {"words": "x", "due_at": world.now.isoformat()}),
        ("POST", f"people/{id}/joins", {"person_id": id + 1}),
        ("POST", "listening", {"words": "brinewick", "account_id": world.accounts["quillet"].id}),
        ("POST", "translation", {"text": "x", "language": "es"}),
    ):
        answer = await anyone.request(method, f"{here}/{path}", json=body)
        assert answer.status_code == 403, (path, answer.text)


@pytest.mark.parametrize(
    ("rows", "columns"), [("account", "move"), ("tag", "owner"), ("priority", "band"), ("team", "sentiment")]
)
async def test_a_cross_tab_of_any_two_things(mara: Client, world: World, here: str, rows: str, columns: str) -> None:
    for n in range(3):
        await world.hear("awful!", handle=f"h{n}")
    cross = (await mara.get(f"{here}/overview", params={"rows": rows, "columns": columns})).json()
    assert cross["n"] == sum(s["n"] for s in cross["row_sums"]) == sum(c["n"] for c in cross["cells"]) == 3
    same = await mara.get(f"{here}/overview", params={"rows": rows, "columns": rows})
    assert same.status_code == 422
    assert same.json()["field"] == "columns"


async def test_the_counts_name_flags_too(mara: Client, world: World, here: str) -> None:
    id = await world.hear("@somebody you", handle="a")
    await mara.post(f"{here}/conversations/{id}/acts", json={"act": {"act": "watch", "on": True}, "seen_seq": 1})
    tag = {"act": "tag", "name": "school", "on": True, "person": True}
    await mara.post(f"{here}/conversations/{id}/acts", json={"act": tag, "seen_seq": 1})
    counts = (await mara.get(f"{here}/counts", params={"move": "our_move"})).json()
    values = {(v["dimension"], v["value"]): v["n"] for v in counts["values"]}
    assert values["watched", "true"] == values["bare_mention", "true"] == values["unread", "true"] == 1
    assert values["person_tag", "1"] == 1
    assert ("attachment", "true") not in values


async def test_hours_are_read_as_written_and_refused_with_their_reason(mara: Client, here: str) -> None:
    hours = (await mara.get(f"{here}/hours")).json()
    assert hours["changed_at"] is None
    targets = hours["targets"]
    body = {"time_zone": "Asia/Kathmandu", "week": ["9 - 17"] * 6 + [""], "special": {}, "targets": targets}
    assert (await mara.put(f"{here}/hours", json=body)).status_code == 204
    shown = (await mara.get(f"{here}/hours")).json()
    assert shown["week"] == ["09:00-17:00"] * 6 + ["closed"]
    assert shown["time_zone"] == "Asia/Kathmandu"
    answer = await mara.put(f"{here}/hours", json={**body, "week": ["9-26"] * 7})
    assert answer.status_code == 422
    assert answer.json()["field"] == "hours"
    assert "no clock shows" in answer.json()["detail"]


async def test_asked_for_what_is_not_connected(mara: Client, world: World, here: str, app: FastAPI) -> None:
    answer = await mara.post(f"{here}/translation", json={"text": "x", "language": "es"})
    assert answer.status_code == 422
    assert "No translator" in answer.json()["detail"]
    assert (await mara.get(f"{here}/directory")).json()["can_translate"] is False
    assert (await mara.get(f"{here}/feed?limit=101")).status_code == 422
    assert (await mara.get(f"{here}/waiting")).json() == {
        "unsorted": 0,
        "our_move": 0,
        "late": 0,
        "mine": 0,
        "my_team": 0,
        "follow_ups": 0,
        "alerts": 0,
        "device_alerts": 0,
        "approvals": 0,
        "to_review": 0,
        "stuck": [],
        "held_reason": None,
    }
