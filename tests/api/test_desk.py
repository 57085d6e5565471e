"""The desk's endpoints: queue and its pages, sheet, acts, drafts, presence, find, live."""

import asyncio
import json
import random

import pytest
from pydantic import TypeAdapter

from sorta.api.schemas import desk as shapes
from sorta.core.facts import SettledAs
from sorta.core.targets import Priority
from sorta.services import acts, desk
from sorta.services.house import Unavailable
from tests.api.conftest import Client
from tests.world import World

pytestmark = [pytest.mark.anyio, pytest.mark.usefixtures("no_blocking")]


def url(world: World, path: str) -> str:
    return f"/api/workspaces/{world.workspace_id}/{path}"


async def fill(world: World, count: int) -> list[int]:
    """Conversations at different times, of different priorities."""
    dice = random.Random(3)
    post = (await world.publish())["object"]["id"]
    ids = []
    for n in range(count):
        id = await world.hear(f"m{n}", handle=f"h{n}", parent=post, at=world.after(minutes=-dice.randint(0, 40)))
        priority = dice.choice(list(Priority))
        await acts.prioritise(world.house, world.scopes["mara"], id, priority=priority, now=world.now)
        ids.append(id)
    return ids


@pytest.mark.parametrize("order", ["due", "newest"])
async def test_pages_follow_each_other_without_gap_or_overlap(mara: Client, world: World, order: str) -> None:
    ids = await fill(world, 23)
    seen, after = [], None
    while True:
        query = {"move": "our_move", "order": order, "limit": 5, **({"after": after} if after else {})}
        rows = (await mara.get(url(world, "conversations"), params=query)).json()["rows"]
        if not rows:
            break
        seen += rows
        after = place(rows[-1])
    assert sorted(r["id"] for r in seen) == sorted(ids)
    keys = [(r["due"], -r["priority"], r["id"]) if order == "due" else (r["last_at"], r["id"]) for r in seen]
    assert keys == sorted(keys, reverse=order == "newest")


def place(row: dict) -> str:
    return ",".join(str(n) for n in row["place"])


@pytest.mark.parametrize("order", ["due", "newest", "oldest", "priority", "standing"])
async def test_a_list_read_from_its_end_is_the_same_list(mara: Client, world: World, order: str) -> None:
    """However one comes through it, and wherever one turns round."""
    ids = await fill(world, 17)
    for id in ids:
        await acts.tag(world.house, world.scopes["mara"], id, name="m", on=True, now=world.now)
    tags = (await mara.get(f"/api/workspaces/{world.workspace_id}/directory")).json()["tags"]
    tag = str(next(t["id"] for t in tags if t["name"] == "m"))

    async def read(limit: int, after: str | None = None, *, backwards: bool, **filters: str) -> list[dict]:
        query = {"move": "our_move", "order": order, "limit": limit, "backwards": backwards, **filters}
        answer = await mara.get(url(world, "conversations"), params={**query, **({"after": after} if after else {})})
        assert answer.status_code == 200, answer.text
        return answer.json()["rows"]

    choices: tuple[dict[str, str], ...] = ({}, {"since": "2020-01-01"}, {"tag": tag}, {"words": "m*"})
    for filters in choices:
        whole = await read(200, backwards=False, **filters)
        assert len(whole) == len(ids)
        assert sorted(whole, key=lambda row: row["place"]) == whole
        back: list[dict] = []
        while page := await read(5, place(back[-1]) if back else None, backwards=True, **filters):
            back += page
        assert back == whole[::-1]
        for n in (0, 1, 8, 15, 16):
            assert await read(200, place(whole[n]), backwards=True, **filters) == whole[:n][::-1]
            assert await read(200, place(whole[n]), backwards=False, **filters) == whole[n + 1 :]
    by_number = await mara.get(url(world, "rows"), params={"ids": ids, "order": order})
    assert sorted(by_number.json()["rows"], key=lambda row: row["place"]) == whole


async def test_pages_go_on_past_what_is_not_due(mara: Client, world: World) -> None:
    for n in range(5):
        id = await world.hear("x", handle=f"h{n}")
        await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.ANSWERED, now=world.now)
    first = (await mara.get(url(world, "conversations"), params={"move": "settled", "limit": 3})).json()["rows"]
    after = place(first[-1])
    rest = (await mara.get(url(world, "conversations"), params={"move": "settled", "after": after})).json()["rows"]
    assert (len(first), len(rest)) == (3, 2)


async def test_the_text_from_the_database_is_the_declared_shape(mara: Client, world: World) -> None:
    """The page is built in SQL for speed: reading it as the response model and writing it again changes nothing."""
    await fill(world, 3)
    await world.hear("¿“Quotes”, \\ and \n 🐙?", kind="private", network="hushline")
    for query in ({"move": "our_move"}, {"move": "unsorted"}):
        answer = await mara.get(url(world, "conversations"), params=query)
        page = TypeAdapter(shapes.Page).validate_json(answer.text)
        assert [json.loads(r.model_dump_json()).keys() for r in page.rows] == [r.keys() for r in answer.json()["rows"]]
        assert shapes.Page.model_validate(answer.json()) == page


async def test_counts_are_exact_and_bands_have_edges(mara: Client, world: World) -> None:
    await fill(world, 12)
    counts = (await mara.get(url(world, "counts"))).json()
    ours = next(m for m in counts["moves"] if m["move"] == "our_move")
    assert [m["move"] for m in counts["moves"]] == [
        "unsorted",
        "our_move",
        "in_review",
        "their_move",
        "parked",
        "settled",
    ]
    bands = ("late", "within_hour", "later_today", "after_today", "not_due")
    assert ours["total"] == sum(ours[b] for b in bands) == 12


async def test_the_sheet(mara: Client, world: World) -> None:
    id = await world.hear("Who do I talk to?", reach=64)
    sheet = (await mara.get(url(world, f"conversations/{id}"))).json()
    assert sheet["post"]["title"] == "Meet the touch pool"
    assert sheet["person"]["identities"] == [
        {"network": "commonfold", "handle": "petra", "name": "Petra", "reach": 64, "caution": None}
    ]
    assert [m["obstacle"] for m in sheet["modes"]] == [None, None]
    assert sheet["modes"][0]["readers"] == "Anyone on Commonfold can read this"
    assert [e["kind"] for e in sheet["trail"]] == ["arrived"]
    assert (await mara.get(url(world, "conversations/99999"))).status_code == 404


@pytest.mark.parametrize(
    ("act", "move"),
    [
        ({"act": "assign", "owner_id": None}, "our_move"),
        ({"act": "keep"}, "our_move"),
        ({"act": "note", "text": "x"}, "our_move"),
        ({"act": "prioritise", "priority": 2}, "our_move"),
        ({"act": "park", "choice": "tomorrow"}, "parked"),
        ({"act": "settle", "how": "no_reply_needed"}, "settled"),
    ],
)
async def test_acts_and_undo(mara: Client, world: World, act: dict, move: str) -> None:
    id = await world.hear("hi")
    done = await mara.post(url(world, f"conversations/{id}/acts"), json={"act": act, "seen_seq": 1})
    assert (done.status_code, done.json()) == (200, {"seq": 2, "sheet": None})
    assert (await world.row(id))["move"] == move
    undone = await mara.post(url(world, f"conversations/{id}/undo"), json={"seq": 2})
    assert undone.json() == {"text": None, "attachments": []}
    assert (await world.row(id))["move"] == "unsorted"


async def test_an_act_brings_the_conversation_as_it_is_after_it(mara: Client, world: World) -> None:
    id = await world.hear("hi")
    act = {"act": {"act": "prioritise", "priority": 2}, "seen_seq": 1, "with_sheet": True}
    done = (await mara.post(url(world, f"conversations/{id}/acts"), json=act)).json()
    assert (done["seq"], done["sheet"]["conversation"]["seq"], done["sheet"]["conversation"]["priority"]) == (2, 2, 2)
    looked_up = (await mara.get(url(world, f"conversations/{id}"))).json()
    # Standing fades from instant to instant.
    assert {**done["sheet"], "person": None} == {**looked_up, "person": None}


async def test_an_act_is_done_where_what_it_made_cannot_be_read(
    mara: Client, world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    async def fail(*_: object) -> None:
        raise Unavailable("gone")

    id = await world.hear("hi")
    monkeypatch.setattr(desk, "get_sheet", fail)
    act = {"act": {"act": "prioritise", "priority": 2}, "seen_seq": 1, "with_sheet": True}
    done = await mara.post(url(world, f"conversations/{id}/acts"), json=act)
    assert (done.status_code, done.json()) == (200, {"seq": 2, "sheet": None})
    assert (await world.row(id))["priority"] == 2


async def test_a_reply_that_comes_too_late_says_what_is_new(mara: Client, world: World) -> None:
    post = (await world.publish())["object"]["id"]
    id = await world.hear("one", parent=post)
    await world.hear("two", parent=post)
    body = {"public": True, "text": "Hello", "seen_seq": 1}
    answer = await mara.post(url(world, f"conversations/{id}/replies"), json=body)
    assert (answer.status_code, answer.json()["type"], answer.json()["new_seqs"]) == (409, "/problems/moved-on", [2])
    answer = await mara.post(url(world, f"conversations/{id}/replies"), json={**body, "seen_seq": 2})
    assert answer.status_code == 200


async def test_unread_is_ones_own(mara: Client, world: World) -> None:
    id = await world.hear("hi")
    rows = url(world, "rows")
    assert (await mara.get(rows, params={"ids": [id]})).json()["rows"][0]["unread"] is True
    await mara.put(url(world, f"conversations/{id}/read"), json={"seq": 1})
    assert (await mara.get(rows, params={"ids": [id]})).json()["rows"][0]["unread"] is False
    assert (
        desk.read_rows(await desk.list_rows_by_id(world.house, world.scopes["ilse"], [id], "due"))[0]["unread"] is True
    )


async def test_a_draft_is_kept_until_it_is_sent(mara: Client, world: World) -> None:
    id = await world.hear("hi")
    draft = {"mode": "private", "body": "Half a sen", "shared": False}
    await mara.put(url(world, f"conversations/{id}/draft"), json=draft)
    sheet = url(world, f"conversations/{id}")
    assert (await mara.get(sheet)).json()["drafts"] == [{**draft, "attachments": [], "account": None, "rev": 1}]
    for account, kept in ((world.accounts["commonfold"].id, world.accounts["commonfold"].id), (999_999, None)):
        await mara.put(f"{sheet}/draft", json={**draft, "account": account, "rev": 1})
        assert (await mara.get(sheet)).json()["drafts"][0]["account"] == kept
    await mara.post(f"{sheet}/replies", json={"public": False, "text": "Whole.", "seen_seq": 1})
    assert (await mara.get(sheet)).json()["drafts"] == []
    await mara.put(f"{sheet}/draft", json={**draft, "body": "  "})
    assert (await mara.get(sheet)).json()["drafts"] == []


async def test_a_draft_is_shown_to_colleagues_only_when_its_author_says_so(
    mara: Client, anyone: Client, world: World
) -> None:
    id = await world.hear("hi")
    await anyone.enter("ilse")
    sheet = url(world, f"conversations/{id}")
    draft = {"mode": "public", "body": "Half a sen"}
    await mara.put(f"{sheet}/draft", json=draft)
    assert (await anyone.get(sheet)).json()["shared_drafts"] == []
    await mara.put(f"{sheet}/draft", json={**draft, "shared": True, "rev": 1})
    (shown,) = (await anyone.get(sheet)).json()["shared_drafts"]
    assert (shown["member_id"], shown["body"]) == (world.scopes["mara"].member_id, "Half a sen")
    assert (await mara.get(sheet)).json()["shared_drafts"] == []
    assert (await anyone.get(sheet)).json()["drafts"] == []
    await mara.put(f"{sheet}/draft", json={**draft, "body": "", "rev": 2})
    assert (await anyone.get(sheet)).json()["shared_drafts"] == []


async def test_presence(mara: Client, world: World) -> None:
    id = await world.hear("hi")
    await mara.put(url(world, "presence"), json={"conversation_id": id, "doing": "writing"})
    here = (await mara.get(url(world, "presence"))).json()
    assert here == [{"member_id": world.scopes["mara"].member_id, "conversation_id": id, "doing": "writing"}]
    await mara.put(url(world, "presence"), json={"conversation_id": None})
    assert (await mara.get(url(world, "presence"))).json() == []


@pytest.mark.parametrize(
    ("words", "people", "messages"),
    [
        ("ray", 0, 1),
        ("RAY hurt", 0, 1),
        ("hu", 0, 1),
        ("petra", 1, 0),
        ("100%", 0, 0),
        ("'; drop table", 0, 0),
        ("&|!():*<->", 0, 0),
        ("   ", 0, 0),
        ("raya", 0, 0),
        ("rochen", 0, 1),
    ],
)
async def test_find(mara: Client, world: World, words: str, people: int, messages: int) -> None:
    await world.hear("Is the ray hurt?", handle="jonas")
    await world.hear("Der Rochen: geht es ihm gut", handle="petra")
    found = (await mara.get(url(world, "find"), params={"words": words})).json()
    assert (len(found["people"]), len(found["messages"])) == (people, messages)


async def test_live_tells_ids_to_this_workspace_only(world: World) -> None:
    await world.house.live.open()
    try:
        async with (
            world.house.live.subscribe(world.workspace_id, 1) as ours,
            world.house.live.subscribe(world.other_workspace_id, 2) as theirs,
        ):
            id = await world.hear("hi")
            notice = json.loads(await asyncio.wait_for(ours.get(), 2))
            assert notice == {"workspace": world.workspace_id, "kind": "conversations", "ids": [id], "seq": 1}
            assert theirs.empty()
    finally:
        await world.house.live.close()


async def test_the_query_of_a_page_is_read_as_it_is_described(mara: Client, world: World) -> None:
    """The queue reads its query itself; what is described, given twice, unknown or wrong is treated as everywhere."""
    id = await world.hear("hi", handle="petra")
    await world.hear("hi", handle="tom", network="quillet", kind="mention")
    page = url(world, "conversations")
    both = await mara.get(f"{page}?move=unsorted&network=commonfold&network=quillet&limit=5&nonsense=1")
    assert len(both.json()["rows"]) == 2
    one = await mara.get(f"{page}?move=unsorted&network=commonfold&public=true&reads_as=")
    assert one.status_code == 422
    one = await mara.get(f"{page}?move=unsorted&network=commonfold&public=true")
    assert [row["id"] for row in one.json()["rows"]] == [id]
    for query, field in (("limit=abc", "limit"), ("limit=0", "limit"), ("move=nowhere", "move")):
        answer = await mara.get(f"{page}?{query}")
        assert (answer.status_code, answer.json()["field"]) == (422, field), answer.text
