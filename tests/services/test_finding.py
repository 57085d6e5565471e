"""Finding what stands on the screen, as it is written there or nearly so."""

from itertools import permutations

import pytest

from sorta.core.errors import Invalid
from sorta.core.ports import EditSeen
from sorta.services import desk, finding, ingest, profiles
from sorta.services.house import seen_by
from tests.services.test_acts import reply
from tests.services.test_groups import limit
from tests.world import World, name_database

pytestmark = pytest.mark.anyio
SAID = {
    "B-2207": "My booking B-2207 is gone",
    "48-1930": "Pass 48-1930 does not open the gate",
    "pass": "The pass season begins",
    "season": "A season pass, please",
    "Ødegård": "Greetings from Ødegård",
    "水族館": "水族館は楽しい",
    "straße": "Which Straße is it in?",
}


async def fill(world: World) -> dict[str, int]:
    return {key: await world.hear(text, handle=f"h{n}") for n, (key, text) in enumerate(SAID.items())}


async def find(world: World, words: str, who: str = "ilse") -> list[int]:
    found = await finding.find(world.house, world.scopes[who], words)
    return sorted(m["conversation_id"] for m in found["messages"])


async def list_desk(world: World, words: str) -> list[int]:
    """The same through the desk's filter, over all moves."""
    page = await desk.list_rows(
        world.house,
        world.scopes["ilse"],
        filters={"move": "any", "words": words},
        order="newest",
        cursor=None,
        limit=50,
        now=world.now,
    )
    return sorted(row["id"] for row in desk.read_rows(page))


@pytest.mark.parametrize(
    ("words", "found"),
    [
        ("B-2207", ["B-2207"]),
        ("b2207", []),
        ("2207", ["B-2207"]),
        ("22", ["B-2207"]),
        ("48-1930", ["48-1930"]),
        ("1930", ["48-1930"]),
        ("odegard", ["Ødegård"]),
        ("ødegård", ["Ødegård"]),
        ("strasse", ["straße"]),
        ('"pass season"', ["pass"]),
        ('"season pass"', ["season"]),
        ("season pass", ["pass", "season"]),
        ("pass -please", ["pass", "48-1930"]),
        ('pass -"season pass"', ["pass", "48-1930"]),
        ("族館", ["水族館"]),
        ("ＰＡＳＳ begins", ["pass"]),
        ("boo*", ["B-2207"]),
        ("nothing of it", []),
    ],
)
async def test_it_finds_what_stands_there(world: World, words: str, found: list[str]) -> None:
    ids = await fill(world)
    expected = sorted(ids[key] for key in found)
    assert await find(world, words) == expected
    assert await list_desk(world, words) == expected


async def test_people_are_found_by_name_and_handle_however_they_are_written(world: World) -> None:
    id = await world.hear("Hello", handle="marek.rask", name="Marek Råsk-Ødegård")
    scope = world.scopes["ilse"]
    for ready in (False, True):
        # Before they are made ready as they are written; then however they are written.
        for words in ("marek.rask", "Marek R") + (("@marek.rask", "odegard", "rask odegard", "RASK") if ready else ()):
            people = (await finding.find(world.house, scope, words))["people"]
            assert [p["conversation_id"] for p in people] == [id], words
        await finding.note_words(world.house, world.workspace_id, world.now)
    listed = await profiles.list_persons(
        world.house, scope, filters={"words": "@marek.rask odegard"}, order="name", cursor=None, limit=10
    )
    assert [p["name"] for p in listed["persons"]] == ["Marek Råsk-Ødegård"]
    with pytest.raises(Invalid, match="no letters"):
        await profiles.list_persons(world.house, scope, filters={"words": "…"}, order="name", cursor=None, limit=10)


async def test_what_is_found_is_shown_with_where_it_stands_and_whether_there_is_more(world: World) -> None:
    for n in range(10):
        await world.hear(f"We waited. Then {n} of us saw the Ødegård again.", handle=f"h{n}")
    found = await finding.find(world.house, world.scopes["ilse"], "odegard")
    assert (len(found["messages"]), found["has_more"], found["is_ready"]) == (8, True, True)
    one = found["messages"][0]
    assert [one["body"][a:b] for a, b in one["marks"]] == ["Ødegård"]


async def test_what_was_changed_or_said_by_us_is_found_by_what_it_says_now(world: World) -> None:
    said = await world.say("Is the walrus in?")
    await world.take(said)
    id = (await world.find(said["object"]["id"])).conversation_id
    await reply(world, id, "The narwhal is.")
    edit = EditSeen(external_id=said["object"]["id"], body="Is the dugong in?", at=world.after(minutes=1))
    await ingest.take_in(world.house, world.accounts["commonfold"], [edit], world.after(minutes=1))
    assert [await find(world, word) for word in ("narwhal", "dugong", "walrus")] == [[id], [id], []]


@pytest.mark.parametrize("length", [1, 3_000])
@pytest.mark.parametrize("order", list(permutations(range(3))))
async def test_in_whatever_order_it_comes_it_is_found_by_what_stands_there_at_last(
    world: World, order: tuple[int, ...], length: int
) -> None:
    """The words of a message are those of its body, also where its changes were delivered before it."""
    said = await world.say("Is the walrus in?")
    id = said["object"]["id"]
    edits = [
        EditSeen(external_id=id, body=word + " in?" * length, at=world.after(minutes=n))
        for n, word in ((1, "dugong"), (2, "narwhal"))
    ]
    for what in order:
        if what:
            await ingest.take_in(world.house, world.accounts["commonfold"], [edits[what - 1]], world.after(minutes=3))
        else:
            await world.take(said)
    await finding.note_words(world.house, world.workspace_id, world.now)
    conversation = (await world.find(id)).conversation_id
    assert [await find(world, word) for word in ("narwhal", "dugong", "walrus")] == [[conversation], [], []]


async def test_what_asks_for_nothing_is_said(world: World) -> None:
    await world.hear("Hello")
    for words, why in (("-hello", "what is to be found"), ("…", "no letters"), ("😀", "no letters")):
        assert await find(world, words) == []
        with pytest.raises(Invalid, match=why):
            await list_desk(world, words)


async def test_what_was_there_before_is_made_ready_and_until_then_it_is_said(world: World) -> None:
    await fill(world)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update message set words = null")
        await tx.execute("update identity set folded = null")
    found = await finding.find(world.house, world.scopes["ilse"], "B-2207")
    assert (found["messages"], found["is_ready"]) == ([], False)
    assert await finding.note_words(world.house, world.workspace_id, world.now) == 2 * len(SAID)
    assert await finding.note_words(world.house, world.workspace_id, world.now) == 0
    assert len(await find(world, "B-2207")) == 1


async def test_another_workspace_finds_nothing_of_it(world: World) -> None:
    await fill(world)
    assert await find(world, "pass", "otto") == []
    assert name_database(world)


async def test_who_mistypes_is_told_what_stands_here_and_nothing_of_elsewhere(world: World) -> None:
    await fill(world)

    async def suggest(words: str, who: str = "ilse") -> str | None:
        return await finding.suggest(world.house, world.scopes[who], words)

    assert await suggest("seasson pas") == "season pas"
    assert await suggest("Odegrad") == "odegard"
    assert await suggest("season") is None
    assert await suggest("-season") is None
    # Each word stands somewhere, but nowhere together.
    assert await suggest("seasson 1930") is None
    assert await suggest("seasson", "otto") is None
    # Who does not see what it stands in hears of none of its words.
    await limit(world, "ilse", "pixfern")
    with seen_by(world.scopes["ilse"].member_id):
        assert await suggest("seasson pas") is None
