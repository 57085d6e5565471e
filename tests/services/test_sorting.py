"""Sorting: tags, teams, watching, corrections, acts on networks, several at once, filters, counts, standing."""

from typing import Any

import pytest

from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound, TooLate
from sorta.core.facts import SettledAs
from sorta.core.ports import Moderation
from sorta.core.targets import Priority
from sorta.networks.abilities import TABLE
from sorta.services import acts, delivery, desk, groups, many, moderation, profiles, reading, sorting
from sorta.services.checking import find_differences
from sorta.store import desk as store
from tests.world import World

pytestmark = pytest.mark.anyio


async def rows(
    world: World, who: str = "mara", move: str = "unsorted", order: str = "due", **filters: Any
) -> list[int]:
    text = await desk.list_rows(
        world.house,
        world.scopes[who],
        filters={"move": move, **filters},
        order=order,
        cursor=None,
        limit=200,
        now=world.now,
    )
    return [row["id"] for row in desk.read_rows(text)]


#: A value for each filter that an index holds in the order of due.
WALKED: dict[str, dict[str, Any]] = {
    "move": {}, "owner": {"owner": [1], "nobody": False}, "nobody": {"owner": [], "nobody": True}, "team": {"team": [1]}, "account": {"account": [1]},
    "network": {"network": ["verdica"]}, "kind": {"kind": ["mention"]}, "private": {"public": False}, "sentiment": {"sentiment": [-1]},
    "language": {"language": ["pl"]}, "priority": {"priority": [3]}, "tag": {"tag": [1]}, "person tag": {"person_tag": [1]}, "watched": {"watched": True},
    "attachment": {"attachment": True}, "unread": {"unread": True}, **{f"reads as {one}": {"reads_as": [one]} for one in store.READINGS},
}  # fmt: skip


@pytest.mark.parametrize("band", [False, True], ids=["whole", "band"])
@pytest.mark.parametrize("name", WALKED)
async def test_a_page_walks_an_index_and_sorts_nothing(world: World, name: str, band: bool) -> None:
    """Made for any workspace, a plan takes what a filter lets through for a few rows: it sorted 40,000 for a page of 50."""
    edges = {"due_from": world.now, "due_until": world.after(hours=1)} if band else {}
    asked = store.narrow({"move": "our_move", **WALKED[name], **edges})
    assert store.is_walked(asked)
    assert not store.is_walked(store.narrow({**WALKED[name], **edges}))  # Over all moves it is sorted.
    values = {"workspace_id": world.workspace_id, "member_id": 1, "limit": 50, **asked}
    async with world.house.db.transact(world.workspace_id) as tx:
        # As where a plan takes sorting for cheap.
        await tx.execute("select set_config('random_page_cost', '1000', true)")
        await tx.execute(store.SQL.plan_once)
        page = store.make_list("due", asked, deep=False)
        plan = await (await tx.execute(f"explain {page}".encode(), values)).fetchall()
    text = "\n".join(row[0] for row in plan)
    assert "Sort" not in text, text
    assert "Index Cond: ((workspace_id =" in text or "filing_by_due" in text, text


async def message_of(world: World, id: int) -> dict[str, Any]:
    sheet = await desk.get_sheet(world.house, world.scopes["mara"], id, world.now)
    return next(m for m in reversed(sheet["messages"]) if m["inbound"])


async def test_tags_teams_and_watching_sort_filter_and_undo(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    team = await sorting.add_team(house, world.workspace_id, "Visitor care", [mara.member_id])
    a, b = await world.hear("hi", handle="a"), await world.hear("hi", handle="b")
    seq = await acts.tag(house, mara, a, name=" Season  pass ", on=True, now=world.now)
    tags = (await sorting.get_directory(house, mara))["tags"]
    assert [t["name"] for t in tags] == ["Season pass"]
    assert (await world.row(a))["move"] == "our_move"
    assert await rows(world, move="our_move", tag=[tags[0]["id"]]) == [a]
    await acts.tag(house, mara, b, name="season PASS", on=True, now=world.now)
    assert len((await sorting.get_directory(house, mara))["tags"]) == 1
    await acts.undo(house, mara, a, seq=seq, now=world.now)
    assert await rows(world, move="our_move", tag=[tags[0]["id"]]) == [b]
    await acts.assign(house, mara, b, owner_id=None, team_id=team, note=None, now=world.now)
    assert await rows(world, move="our_move", team=[team]) == [b]
    await acts.watch(house, mara, a, on=True, now=world.now)
    assert await rows(world, move="our_move", watched=True) == [a]
    assert await rows(world, "ilse", move="our_move", watched=True) == []
    await acts.tag_person(house, mara, b, name="school", on=True, now=world.now)
    school = next(t["id"] for t in (await sorting.get_directory(house, mara))["tags"] if t["name"] == "school")
    assert await rows(world, move="our_move", person_tag=[school]) == [b]
    assert await find_differences(house, world.workspace_id, world.now) == {}
    with pytest.raises(Invalid, match="no such team"):
        await acts.assign(house, mara, b, owner_id=None, team_id=team + 99, note=None, now=world.now)
    with pytest.raises(Invalid, match="1 to 40"):
        await acts.tag(house, mara, b, name="x" * 41, on=True, now=world.now)
    with pytest.raises(NotAllowed):
        await acts.tag(house, world.scopes["ana"], b, name="brand new", on=True, now=world.now)
    with pytest.raises(NotAllowed):
        await acts.watch(house, world.scopes["lise"], b, on=True, now=world.now)


_MISFILED = """
with should as (
  select f.under, f.value, c.id, c.move, c.sort_due, c.sort_rank from conversation c cross join lateral (
    select 'tag' as under, unnest(c.tags) as value union all select 'watch', unnest(c.watchers)
    union all select 'person_tag', t.tag_id from person_tag t where t.person_id = c.person_id) f),
has as (select under, value, conversation_id, its_move, its_due, its_rank from filing)
(table should except table has) union all (table has except table should)
"""


async def check_filing(world: World, count: int) -> None:
    """Conversations are filed under what they have, at the move and due they have, and under nothing else."""
    async with world.house.db.transact(world.workspace_id) as tx:
        assert await (await tx.execute(_MISFILED)).fetchall() == []
        assert await (await tx.execute("select count(*) from filing")).fetchone() == (count,)


async def test_conversations_are_filed_under_tags_watchers_and_their_persons_tags(world: World) -> None:
    house, mara, ilse = world.house, world.scopes["mara"], world.scopes["ilse"]
    a, b = await world.hear("One", handle="ann"), await world.hear("Two", handle="bea")
    await acts.tag(house, mara, a, name="noise", on=True, now=world.now)
    await acts.watch(house, mara, a, on=True, now=world.now)
    await acts.tag_person(house, mara, a, name="school", on=True, now=world.now)
    await check_filing(world, 3)
    school = next(t["id"] for t in (await sorting.get_directory(house, mara))["tags"] if t["name"] == "school")
    d = await world.hear("Four", handle="ann")
    assert await rows(world, person_tag=[school]) == [d]
    await acts.prioritise(house, mara, d, priority=Priority.URGENT, now=world.now)
    await acts.settle(house, mara, a, how=SettledAs.ANSWERED, now=world.now)
    await check_filing(world, 4)
    first, second = (await world.row(b))["person_id"], (await world.row(a))["person_id"]
    joining = await profiles.join(house, mara, first, second, world.now)
    await check_filing(world, 5)
    assert set(await rows(world, person_tag=[school])) == {b}
    assert set(await rows(world, move="our_move", person_tag=[school])) == {d}
    await profiles.take_apart(house, mara, joining, world.now)
    await check_filing(world, 4)
    await acts.tag_person(house, ilse, d, name="school", on=False, now=world.now)
    await acts.watch(house, mara, a, on=False, now=world.now)
    await acts.tag(house, mara, a, name="noise", on=False, now=world.now)
    await check_filing(world, 0)


async def test_a_correction_wins_is_counted_and_undone(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    id = await world.hear("Still no refund. It has been nine days.")
    message = await message_of(world, id)
    assert (message["reads_as"], message["evidence"]["first_contact"]) == (["complaint"], True)
    assert await rows(world, reads_as=["complaint"]) == [id]
    seq = await acts.correct(
        house, mara, id, message_id=message["id"], field="reads_as", value=["question"], now=world.now
    )
    assert await rows(world, reads_as=["complaint"]) == []
    assert await rows(world, reads_as=["question"]) == [id]
    await acts.keep(house, mara, id, now=world.now)
    assert (await reading.get_accuracy(house, mara, world.now))["corrected"] == [{"field": "reads_as", "times": 1}]
    await acts.undo(house, mara, id, seq=seq, now=world.now)
    assert (await reading.get_accuracy(house, mara, world.now))["corrected"] == []
    assert (await message_of(world, id))["reads_as"] == ["complaint"]
    with pytest.raises(NotFound):
        await acts.correct(house, mara, id, message_id=message["id"] + 99, field="reads_as", value=[], now=world.now)


@pytest.mark.parametrize(
    ("network", "what", "mark"),
    [("commonfold", "like", "likedByPage"), ("commonfold", "hide", "hidden"), ("commonfold", "delete", "deleted"),
     ("quillet", "repost", "reposted"), ("loopreel", "hide", "hidden"), ("workbarn", "delete", "deleted")],
)  # fmt: skip
async def test_an_act_reaches_the_network_once(world: World, network: str, what: str, mark: str) -> None:
    kind = {"quillet": "mention"}.get(network, "comment")
    id = await world.hear("hello there", network=network, kind=kind)
    message = await message_of(world, id)
    _, seq = await moderation.moderate(
        world.house, world.scopes["mara"], message["id"], what=Moderation(what), now=world.now
    )
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=5))
    thing = next(t for t in await world.things(network) if t["content"] == "hello there")
    assert mark not in thing
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11))
    thing = next(t for t in await world.things(network) if t["content"] == "hello there")
    assert thing[mark]
    assert "moderation_done" in await world.kinds(id)
    after = await message_of(world, id)
    assert {
        "like": after["liked"],
        "hide": after["hidden"],
        "repost": after["reposted"],
        "delete": after["removed_at"],
    }[what]
    assert after["body"] == "hello there"
    with pytest.raises(TooLate):
        await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(seconds=12))
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_an_act_taken_back_never_leaves(world: World) -> None:
    id = await world.hear("hello")
    message = await message_of(world, id)
    mara = world.scopes["mara"]
    _, seq = await moderation.moderate(world.house, mara, message["id"], what=Moderation.DELETE, now=world.now)
    await acts.undo(world.house, mara, id, seq=seq, now=world.after(seconds=5))
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=1))
    assert not any(t.get("deleted") for t in await world.things())


async def test_a_block_reaches_the_network_and_can_be_lifted(world: World) -> None:
    id = await world.hear("fish jail", handle="troll")
    message = await message_of(world, id)
    mara = world.scopes["mara"]
    await moderation.moderate(world.house, mara, message["id"], what=Moderation.BLOCK, now=world.now)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11))
    sheet = await desk.get_sheet(world.house, mara, id, world.now)
    assert sheet["person"]["blocked"]
    refused = await world.outside.post(
        "/control/say",
        json={"network": "commonfold", "kind": "visitor_post", "handle": "troll", "text": "x", "page": "brinewick"},
    )
    assert refused.status_code == 422
    await moderation.moderate(world.house, mara, message["id"], what=Moderation.UNBLOCK, now=world.after(seconds=20))
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=31))
    assert not (await desk.get_sheet(world.house, mara, id, world.now))["person"]["blocked"]


async def test_a_network_that_refuses_an_act_says_so_in_the_trail(world: World) -> None:
    id = await world.hear("hello")
    message = await message_of(world, id)
    await world.control("mischief/commonfold", refuse=1)
    await moderation.moderate(world.house, world.scopes["mara"], message["id"], what=Moderation.LIKE, now=world.now)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11))
    assert "moderation_refused" in await world.kinds(id)
    assert not (await message_of(world, id))["liked"]


async def test_what_a_network_cannot_do_is_refused_with_its_reason(world: World) -> None:
    id = await world.hear("five stars", network="verdica", kind="review", rating=5)
    message = await message_of(world, id)
    assert message["rating"] == 5
    with pytest.raises(Impossible, match="no likes"):
        await moderation.moderate(world.house, world.scopes["mara"], message["id"], what=Moderation.LIKE, now=world.now)
    with pytest.raises(NotAllowed):
        await moderation.moderate(world.house, world.scopes["ana"], message["id"], what=Moderation.LIKE, now=world.now)


@pytest.mark.parametrize(
    ("network", "kind", "expected"),
    [("commonfold", "form_entry", "form_entry"), ("pixfern", "story_mention", "story_mention"), ("pixfern", "mention", "mention"),
     ("workbarn", "comment", "comment"), ("loopreel", "comment", "comment"), ("verdica", "review", "review"),
     ("hushline", "private", "private_message")],
)  # fmt: skip
async def test_every_network_and_kind_comes_in(world: World, network: str, kind: str, expected: str) -> None:
    more = {"to": "brinewick"} if kind == "form_entry" else {}
    activity = await world.control(
        "say", network=network, kind=kind, handle="petra", name="Petra", text="hello", page="brinewick", tell=False,
        parent=(await world.publish(network))["object"]["id"] if kind == "comment" else None,
        **({"to": "brinewick"} if kind == "private" else more),
    )  # fmt: skip
    await world.take(activity, network=network)
    row = await world.row((await world.find(activity["object"]["id"], network)).conversation_id)
    assert row["kind"] == expected
    assert expected in {k.value for k in TABLE[network].kinds}


@pytest.mark.parametrize("is_together", [False, True])
async def test_several_at_once_report_honestly(world: World, is_together: bool) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [await world.hear("hi", handle=f"p{n}") for n in range(4)]

    async def junk(id: int) -> int:
        return await acts.settle(house, mara, id, how=SettledAs.JUNK, now=world.now)

    asked = [*ids, 999_999, ids[0]]
    report = await (many.do_together(house, mara, asked, junk, world.now) if is_together else many.do_many(asked, junk))
    assert [d["id"] for d in report["done"]] == ids
    assert [(f["id"], "no such conversation" in f["reason"]) for f in report["failed"]] == [(999_999, True)]
    assert await rows(world, move="settled", order="newest") != []
    for one in report["done"]:
        await acts.undo(house, mara, one["id"], seq=one["seq"], now=world.now)
    assert set(await rows(world)) == set(ids)
    found = await desk.list_ids(house, mara, filters={"move": "unsorted"}, now=world.now)
    assert found == [(id, (await world.row(id))["seq"]) for id, _ in found]
    assert {id for id, _ in found} == set(ids)


async def test_each_filter_lets_through_what_it_says(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ray = await world.hear("The ray is bleeding, I hate this terrible place", handle="ray")
    love = await world.hear(
        "Lovely afternoon, wonderful seals, we were so happy", network="quillet", kind="mention", handle="love"
    )
    secret = await world.hear("¿A qué hora abren el sábado?", network="hushline", kind="private", handle="rosa")
    await acts.prioritise(house, mara, ray, priority=Priority.URGENT, now=world.now)
    await acts.assign(house, mara, love, owner_id=mara.member_id, note=None, now=world.now)
    await acts.keep(house, mara, secret, now=world.now)
    group = await groups.make_group(house, world.workspace_id, "Quiet", [world.accounts["hushline"].id])
    await desk.set_read(house, mara, love, 99)
    for filters, expected in [
        ({"owner": ["me"]}, [love]),
        ({"owner": ["nobody"]}, [ray, secret]),
        ({"owner": ["me", "nobody"]}, [ray, love, secret]),
        ({"network": ["quillet"]}, [love]),
        ({"account": [world.accounts["commonfold"].id]}, [ray]),
        ({"group": [group]}, [secret]),
        ({"kind": ["private_message", "mention"]}, [love, secret]),
        ({"public": False}, [secret]),
        ({"sentiment": [-1]}, [ray]),
        ({"sentiment": [1]}, [love]),
        ({"reads_as": ["question"]}, [secret]),
        ({"language": ["es"]}, [secret]),
        ({"priority": [3]}, [ray]),
        ({"band": "within_hour"}, [ray]),
        ({"band": "late"}, []),
        ({"band": "not_due"}, []),
        ({"since": "2026-11-21"}, []),
        ({"since": "2026-11-20"}, [ray, love, secret]),
        ({"until": "2026-11-20"}, [ray, love, secret]),
        ({"until": "2026-11-19"}, []),
        ({"unread": True}, [ray, secret]),
        ({"attachment": True}, []),
        ({"words": "ray bleed"}, [ray]),
        ({"words": "'; drop"}, []),
        ({"priority": [3], "public": True, "owner": ["nobody"]}, [ray]),
    ]:
        assert sorted(await rows(world, move="our_move", **filters)) == sorted(expected), filters
    for order in ("due", "newest", "oldest", "priority", "standing"):
        assert sorted(await rows(world, move="our_move", order=order)) == sorted([ray, love, secret])
    assert (await rows(world, move="our_move", order="priority"))[0] == ray


async def test_kept_counts_are_exact_before_and_after_folding(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [
        await world.hear(
            "Lovely", handle=f"p{n}", network=["commonfold", "quillet"][n % 2], kind=["comment", "mention"][n % 2]
        )
        for n in range(6)
    ]

    async def check() -> None:
        counts = await desk.count_moves(house, mara, {"move": "our_move"}, world.now)
        said = {(v["dimension"], v["value"]): v["n"] for v in counts["values"]}
        async with house.db.transact(world.workspace_id) as tx:
            found = await (
                await tx.execute("select owner_id, kind, priority, tags from conversation where move = 'our_move'")
            ).fetchall()
            totals = dict(await (await tx.execute("select move, count(*) from conversation group by move")).fetchall())
        assert {m["move"]: m["total"] for m in counts["moves"] if m["total"]} == totals
        for at, name in enumerate(("owner", "kind", "priority")):
            for value in {row[at] for row in found}:
                key = "" if value is None else str(value)
                assert said[name, key] == sum(row[at] == value for row in found), (name, value)
        assert sum(n for (name, _), n in said.items() if name == "tag") == sum(len(row[3]) for row in found)

    for n, id in enumerate(ids):
        await acts.keep(house, mara, id, now=world.now)
        if n % 2:
            await acts.assign(house, mara, id, owner_id=mara.member_id, note=None, now=world.now)
            await acts.tag(house, mara, id, name=f"t{n}", on=True, now=world.now)
        if n == 3:
            await desk.keep_counts(house, world.workspace_id, world.now)
        await check()
    await acts.settle(house, mara, ids[0], how=SettledAs.ANSWERED, now=world.now)
    await check()
    await desk.keep_counts(house, world.workspace_id, world.now)
    await desk.keep_counts(house, world.workspace_id, world.now)
    await check()


async def test_standing_ranks_people_by_what_they_did_lately(world: World) -> None:
    quiet = await world.hear("one comment", handle="quiet")
    loud = await world.hear("a letter", network="hushline", kind="private", handle="loud")
    await world.hear("another", network="hushline", kind="private", handle="loud", at=world.after(minutes=1))
    await desk.keep_counts(world.house, world.workspace_id, world.after(minutes=2))
    low = (await desk.get_sheet(world.house, world.scopes["mara"], quiet, world.after(minutes=2)))["person"]
    high = (await desk.get_sheet(world.house, world.scopes["mara"], loud, world.after(minutes=2)))["person"]
    assert (low["standing"], high["standing"]) == (25, 75)
    assert low["points"] == pytest.approx(3, abs=0.01)
    assert high["points"] == pytest.approx(10, abs=0.01)
    assert (await rows(world, order="standing"))[0] == loud


async def test_the_whole_thread_in_order_with_what_answers_what(world: World) -> None:
    post = (await world.publish())["object"]["id"]
    first = await world.say("first", parent=post, handle="a")
    second = await world.say("second", parent=first["object"]["id"], kind="reply", handle="b")
    await world.take(first, second)
    row = await world.row((await world.find(first["object"]["id"])).conversation_id)
    thread = await desk.get_thread(world.house, world.scopes["mara"], row["post_id"])
    assert [(m["body"], m["parent_id"] is not None) for m in thread["messages"]] == [("first", False), ("second", True)]
    with pytest.raises(NotFound):
        await desk.get_thread(world.house, world.scopes["otto"], row["post_id"])


async def test_views_are_ones_own_or_shared(world: World) -> None:
    mara, ilse = world.scopes["mara"], world.scopes["ilse"]
    own = await sorting.set_view(world.house, mara, name="Mine", shared=False, query={"move": "our_move"})
    await sorting.set_view(world.house, mara, name="Ours", shared=True, query={"tag": ["1"]})
    assert [(v["name"], v["own"]) for v in await sorting.list_views(world.house, ilse)] == [("Ours", False)]
    with pytest.raises(NotFound):
        await sorting.delete_view(world.house, ilse, own)
    await sorting.delete_view(world.house, mara, own)
    assert [v["name"] for v in await sorting.list_views(world.house, mara)] == ["Ours"]
    with pytest.raises(Invalid):
        await sorting.set_view(world.house, mara, name=" ", shared=False, query={})
