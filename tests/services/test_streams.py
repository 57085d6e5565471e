"""Conversations out of the house and in again: elsewhere they stand as they stood, here they change nothing, however often."""

import json
from datetime import timedelta
from typing import Any

import pytest

from sorta.core.errors import Invalid, NotAllowed
from sorta.core.facts import Move, SettledAs
from sorta.core.periods import Named
from sorta.core.reports import Chosen
from sorta.core.rules import AnswerWith, Anything, Conditions, RuleBody, SetPriority
from sorta.core.targets import Priority
from sorta.services import acts, answers, delivery, rules, security_log, streams
from sorta.services.checking import find_differences
from sorta.services.reports import Ask
from tests.world import World

pytestmark = pytest.mark.anyio
CAME_IN = Chosen(figure="came_in", day=None, cell=None)


async def furnish(world: World) -> list[int]:
    """A question that was answered, a private word that is settled, one that waits, and one that was taken back."""
    post = await world.publish()
    ids = [
        await world.hear("Are you open on Monday?", handle="anna", parent=post["object"]["id"]),
        await world.hear("Thank you all", handle="bo", kind="private"),
        await world.hear("Where do I park?", handle="cleo"),
        await world.hear("Never mind", handle="dana"),
    ]
    row = await world.row(ids[0])
    await answers.reply(
        world.house,
        world.scopes["mara"],
        ids[0],
        text="From ten on.",
        public=True,
        seen_seq=row["seq"],
        settle=False,
        now=world.after(minutes=5),
    )
    await world.house.queue.app.open_async()
    await delivery.queue_deliverable(world.house, world.workspace_id, world.after(minutes=6))
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (await tx.execute("select id from outbox")).fetchall()
    for (id,) in rows:
        await delivery.deliver(world.house, world.workspace_id, id, world.after(minutes=6))
    await acts.settle(world.house, world.scopes["mara"], ids[1], how=SettledAs.ANSWERED, now=world.after(minutes=7))
    return ids


async def export(world: World, who: str = "noor") -> dict[str, Any]:
    now = world.after(hours=5)
    blocks = await streams.export(world.house, world.scopes[who], Ask(period=Named.DAYS_7), CAME_IN, now)
    text = b"".join([block async for block in blocks])
    found: dict[str, Any] = json.loads(text)
    return found


async def bring(world: World, document: Any, *, settle: bool = False, who: str = "noor") -> streams.Brought:
    return await streams.bring_in(world.house, world.scopes[who], document, world.after(days=2), settle=settle)


async def count(world: World, what: str = "conversation") -> int:
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (await tx.execute(f"select count(*) from {what}")).fetchall()  # type: ignore[arg-type]
    return int(rows[0][0])


async def test_here_it_changes_nothing_however_often(world: World) -> None:
    await furnish(world)
    document = await export(world)
    assert (document["type"], document["totalItems"]) == ("OrderedCollection", 4)
    before = [await count(world, what) for what in ("conversation", "message", "trail", "person", "post")]
    for _ in range(2):
        found = await bring(world, document)
        assert (found.conversations, found.new_conversations, found.messages) == (4, 0, 0)
        assert found.known == 5
        assert found.left_out == []
    assert [await count(world, what) for what in ("conversation", "message", "trail", "person", "post")] == before


def elsewhere(document: dict[str, Any]) -> dict[str, Any]:
    """The same conversations as if they had been had by others under other names: nothing of it is known here."""
    text = json.dumps(document)
    for item in document["orderedItems"]:
        for activity in item["orderedItems"]:
            id = activity["object"]["id"]
            text = text.replace(json.dumps(id), json.dumps(f"{id}-there"))
            actor = activity["actor"]
            if isinstance(actor, dict):
                text = text.replace(json.dumps(actor["id"]), json.dumps(f"{actor['id']}-there"))
    moved: dict[str, Any] = json.loads(text)
    return moved


async def test_elsewhere_they_stand_as_they_stood(world: World) -> None:
    ids = await furnish(world)
    document = elsewhere(await export(world))
    found = await bring(world, document)
    assert (found.new_conversations, found.messages, found.left_out) == (4, 5, [])
    async with world.house.db.transact(world.workspace_id) as tx:
        cursor = await tx.execute(
            "select c.move, c.settled_as, c.public, c.person_name, c.preview, c.post_id, c.created_at, c.priority,"
            " (select array_agg(m.body order by m.sent_at) from message m where m.conversation_id = c.id)"
            " from conversation c order by c.id"
        )
        rows = await cursor.fetchall()
    was, brought = rows[: len(ids)], rows[len(ids) :]
    assert brought == was
    assert [row[0] for row in brought] == [Move.THEIR_MOVE, Move.SETTLED, Move.UNSORTED, Move.UNSORTED]
    # Again, also in part, it changes nothing.
    assert (await bring(world, document["orderedItems"][0])).messages == 0
    assert await find_differences(world.house, world.workspace_id, world.after(days=3)) == {}


async def test_history_is_read_by_no_rule_and_waits_for_nobody_where_one_wants_that(world: World) -> None:
    await furnish(world)
    document = elsewhere(await export(world))
    body = RuleBody(
        name="All urgent", when=Conditions(parts=(Anything(),)), then=(SetPriority(priority=Priority.URGENT),)
    )
    await rules.add_rule(world.house, world.scopes["mara"], body, on=True, now=world.now)
    assert (await bring(world, document, settle=True)).new_conversations == 4
    async with world.house.db.transact(world.workspace_id) as tx:
        cursor = await tx.execute("select move, settled_as, priority from conversation order by id offset 4")
        rows = await cursor.fetchall()
        cursor = await tx.execute("select max(at) from trail where kind = 'settled'")
        (settled_at,) = (await cursor.fetchall())[0]
    assert [row[0] for row in rows] == ["settled"] * 4
    assert sorted(row[1] for row in rows) == ["answered", *["no_reply_needed"] * 3]
    assert {row[2] for row in rows} == {int(Priority.NORMAL)}
    # As of then, and not as of now: today's figures do not count it.
    assert settled_at < world.after(hours=1)
    assert await find_differences(world.house, world.workspace_id, world.after(days=3)) == {}


async def test_what_they_write_after_it_brings_it_back(world: World) -> None:
    await furnish(world)
    await bring(world, elsewhere(await export(world)), settle=True)
    async with world.house.db.transact(world.workspace_id) as tx:
        cursor = await tx.execute("select c.id from conversation c order by id desc limit 1")
        ((id,),) = await cursor.fetchall()
    await acts.reopen(world.house, world.scopes["mara"], id, now=world.after(days=2))
    assert (await world.row(id))["move"] != "settled"
    assert await find_differences(world.house, world.workspace_id, world.after(days=3)) == {}


async def test_what_was_taken_back_goes_without_its_words(world: World) -> None:
    ids = await furnish(world)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update message set removed_at = now() where conversation_id = %s", [ids[3]])
    document = await export(world)
    assert "Never mind" not in json.dumps(document)
    last = document["orderedItems"][3]["orderedItems"]
    assert [activity["type"] for activity in last] == ["Delete"]


async def test_what_cannot_be_brought_in_is_named_and_stops_nothing(world: World) -> None:
    await furnish(world)
    document = elsewhere(await export(world))
    items = document["orderedItems"]
    items[0]["attributedTo"] = "https://page.example/others"
    items[1]["orderedItems"].insert(0, {"type": "Travel"})
    items[1]["orderedItems"][1]["object"]["published"] = "yesterday"
    del items[2]["sorta:network"]
    found = await bring(world, document)
    assert (found.conversations, found.messages) == (2, 1)
    told = [(one.where, one.why) for one in found.left_out]
    assert [(where.split(":")[-1], why.split(".")[0]) for where, why in told] == [
        ("conversation 3", "It does not say on which account, and which network, it was had"),
        (items[0]["id"].split(":")[-1], "The account https://page"),
        (f"{items[1]['id'].split(':')[-1]}, activity 1", "Travel is not a kind of activity that is taken in"),
        (f"{items[1]['id'].split(':')[-1]}, activity 2", "The time 'yesterday' cannot be read"),
    ]


@pytest.mark.parametrize("document", [{}, {"orderedItems": []}, {"type": "Note"}])
async def test_a_file_that_holds_nothing_is_refused(world: World, document: Any) -> None:
    with pytest.raises(Invalid, match="holds"):
        await bring(world, document)


async def test_so_many_at_once(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    await furnish(world)
    document = await export(world)
    monkeypatch.setattr(streams, "MOST_CONVERSATIONS", 3)
    with pytest.raises(Invalid, match="At most 3 conversations"):
        await bring(world, document)


async def test_a_long_conversation_is_settled_once_it_is_whole(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(streams, "MESSAGES_AT_ONCE", 2)
    for n in range(5):
        await world.hear(f"Word {n}", handle="anna", kind="private", at=world.after(minutes=n))
    document = elsewhere(await export(world))
    assert len(document["orderedItems"]) == 1
    found = await bring(world, document, settle=True)
    assert (found.new_conversations, found.messages) == (1, 5)
    async with world.house.db.transact(world.workspace_id) as tx:
        cursor = await tx.execute("select move, messages from conversation order by id")
        assert await cursor.fetchall() == [("unsorted", 5), ("settled", 5)]
    assert await find_differences(world.house, world.workspace_id, world.after(days=3)) == {}


async def test_who_may(world: World) -> None:
    await furnish(world)
    document = await export(world)
    with pytest.raises(NotAllowed):
        await bring(world, document, who="ilse")
    with pytest.raises(NotAllowed):
        await export(world, who="ilse")
    await bring(world, elsewhere(document))
    told = await security_log.list_entries(world.house, world.scopes["noor"])
    assert "brought in from a file: 5 messages of 4 conversations" in told[0]["words"]


async def test_an_answer_that_waits_is_not_called_back_for_what_was_said_long_ago(world: World) -> None:
    body = RuleBody(
        name="Answer", when=Conditions(parts=(Anything(),)), then=(AnswerWith(language="any", text="On its way."),)
    )
    await rules.add_rule(world.house, world.scopes["mara"], body, on=True, now=world.now)
    await world.hear("And Tuesday?", handle="anna", kind="private")
    document = await export(world)
    (conversation,) = document["orderedItems"]
    (create,) = conversation["orderedItems"]
    earlier = (world.now - timedelta(days=3)).isoformat()
    ours = {
        "type": "Create",
        "actor": conversation["attributedTo"],
        "published": earlier,
        "object": {**create["object"], "id": "urn:long-ago", "to": [create["actor"]], "published": earlier},
    }
    conversation["orderedItems"] = [ours]
    assert (await bring(world, document)).messages == 1
    async with world.house.db.transact(world.workspace_id) as tx:
        cursor = await tx.execute("select state from outbox")
        assert [state for (state,) in await cursor.fetchall()] == ["queued"]
