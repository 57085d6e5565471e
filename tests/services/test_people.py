"""People: list, profile, facts, follow-ups, joining and taking apart; overview, feed, listening, translating."""

import csv
import io

import httpx
import pytest

from sorta.core.answers import Extras
from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.core.targets import Priority
from sorta.networks.outgoing import Outgoing
from sorta.networks.translator import HttpTranslator
from sorta.services import acts, answers, desk, erasing, listening, overview, profiles, sorting, translating
from sorta.services.checking import find_differences
from sorta.services.house import House, Scope
from tests.world import OUTSIDE, World

pytestmark = pytest.mark.anyio


async def person_of(world: World, conversation: int) -> int:
    return (await world.row(conversation))["person_id"]


async def listed(world: World, order: str = "standing", **filters: object) -> list[str]:
    page = await profiles.list_persons(
        world.house, world.scopes["mara"], filters=filters, order=order, cursor=None, limit=50
    )
    assert page["total"] == len(page["persons"])
    return [p["name"] for p in page["persons"]]


async def test_the_list_its_filters_orders_and_export(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    a = await world.hear("=SUM(1)", handle="anna")
    await world.hear("hello again", handle="anna", kind="private")
    b = await world.hear("hi", handle="bert", network="quillet", kind="mention", reach=80)
    await desk.keep_counts(house, world.workspace_id, world.now)
    assert await listed(world) == ["Anna", "Bert"]
    assert await listed(world, "name") == ["Anna", "Bert"]
    assert await listed(world, network=["quillet"]) == ["Bert"]
    assert await listed(world, words="ANN") == ["Anna"]
    assert await listed(world, words="100%") == []
    assert await listed(world, standing=60) == ["Anna"]
    assert await listed(world, reach=50) == ["Bert"]
    await acts.tag_person(house, mara, a, name="school", on=True, now=world.now)
    assert await listed(world, tag=[1]) == ["Anna"]
    first = await profiles.list_persons(house, mara, filters={}, order="name", cursor=None, limit=1)
    place = first["persons"][0]["place"]
    rest = await profiles.list_persons(house, mara, filters={}, order="name", cursor=place, limit=5)
    assert [p["name"] for p in rest["persons"]] == ["Bert"]
    with pytest.raises(Invalid):
        await profiles.list_persons(house, mara, filters={}, order="standing", cursor="x~y", limit=5)
    await profiles.add_fact(house, mara, await person_of(world, b), name="Mail", value="b@x.example", now=world.now)
    assert await listed(world, words="b@x") == ["Bert"]
    text = await profiles.export_persons(house, mara, filters={}, order="name")
    table = list(csv.DictReader(io.StringIO(text)))
    assert [row["Name"] for row in table] == ["Anna", "Bert"]
    assert table[0]["Tags"] == "school"
    with pytest.raises(NotAllowed):
        await profiles.export_persons(house, world.scopes["ilse"], filters={}, order="name")


async def test_a_profile_says_where_standing_comes_from(world: World) -> None:
    id = await person_of(world, await world.hear("hi", handle="anna"))
    await world.hear("and privately", handle="anna", kind="private")
    await desk.keep_counts(world.house, world.workspace_id, world.now)
    later = world.after(days=30)
    profile = await profiles.get_profile(world.house, world.scopes["mara"], id, later)
    worth = {w["kind"]: (w["n"], round(w["points"], 3)) for w in profile["worth"]}
    assert worth == {"private_message": (1, 2.5), "comment": (1, 1.5)}
    assert round(profile["points"], 3) == 4.0
    assert len(profile["contacts"]) == 2
    assert profile["identities"][0]["can_block"]
    assert profile["identities"][0]["latest_message_id"]


async def test_facts_tags_and_follow_ups(world: World) -> None:
    house, mara, ilse = world.house, world.scopes["mara"], world.scopes["ilse"]
    conversation = await world.hear("hi", handle="anna")
    id = await person_of(world, conversation)
    fact = await profiles.add_fact(house, mara, id, name=" Customer  number ", value="B-2207", now=world.now)
    await profiles.set_tag(house, mara, id, name="season pass", on=True)
    due = world.after(days=2)
    made = await profiles.add_follow_up(
        house, mara, id, words="Ask how it went", due_at=due, member_id=ilse.member_id, now=world.now
    )
    sheet = await desk.get_sheet(house, mara, conversation, world.now)
    assert sheet["person"]["facts"] == [{"name": "Customer number", "value": "B-2207", "is_one_of_two": False}]
    assert [f["words"] for f in sheet["person"]["follow_ups"]] == ["Ask how it went"]
    assert await profiles.list_due_follow_ups(house, mara) == []
    assert [f["words"] for f in await profiles.list_due_follow_ups(house, ilse)] == ["Ask how it went"]
    assert (await overview.count_waiting(house, ilse, world.now))["follow_ups"] == 0
    assert (await overview.count_waiting(house, ilse, due))["follow_ups"] == 1
    await profiles.set_follow_up_done(house, ilse, made, done=True, now=due)
    assert (await overview.count_waiting(house, ilse, due))["follow_ups"] == 0
    profile = await profiles.get_profile(house, mara, id, world.now)
    assert [(f["name"], f["value"]) for f in profile["facts"]] == [("Customer number", "B-2207")]
    assert (await desk.get_sheet(house, mara, conversation, due))["person"]["follow_ups"] == []
    assert profile["follow_ups"][0]["done_by"] == ilse.member_id
    await profiles.delete_fact(house, mara, id, fact)
    for broken in (
        profiles.delete_fact(house, mara, id, fact),
        profiles.set_follow_up_done(house, mara, 999, done=True, now=due),
        profiles.get_profile(house, mara, 999, world.now),
        profiles.add_fact(house, mara, 999, name="x", value="x", now=world.now),
    ):
        with pytest.raises(NotFound):
            await broken
    for words, member in (("", None), ("x", 999)):
        with pytest.raises(Invalid):
            await profiles.add_follow_up(house, mara, id, words=words, due_at=due, member_id=member, now=world.now)
    with pytest.raises(NotAllowed):
        await profiles.add_fact(house, world.scopes["lise"], id, name="x", value="x", now=world.now)


async def test_facts_that_speak_against_each_other_are_marked_once_records_are_joined(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    a = await world.hear("hello", handle="jo", kind="private", network="hushline")
    b = await world.hear("hello", handle="jo_c", network="quillet", kind="mention")
    one, two = await person_of(world, a), await person_of(world, b)
    for person, value in ((one, "B-2207"), (two, "B-2208")):
        await profiles.add_fact(house, mara, person, name="Customer number", value=value, now=world.now)
        await profiles.add_fact(house, mara, person, name="Note", value=f"writes from {value}", now=world.now)

    async def marked(person: int) -> list[tuple[str, bool]]:
        facts = (await profiles.get_profile(house, mara, person, world.now))["facts"]
        return sorted((f["value"], f["is_one_of_two"]) for f in facts)

    assert [is_marked for _, is_marked in await marked(one)] == [False, False]
    join = await profiles.join(house, mara, one, two, world.now)
    assert await marked(one) == [
        ("B-2207", True),
        ("B-2208", True),
        ("writes from B-2207", False),
        ("writes from B-2208", False),
    ]
    sheet = await desk.get_sheet(house, mara, a, world.now)
    assert [f["is_one_of_two"] for f in sheet["person"]["facts"] if f["name"] == "Customer number"] == [True, True]
    await profiles.take_apart(house, mara, join, world.now)
    assert [is_marked for _, is_marked in await marked(one)] == [False, False]


async def test_two_records_are_joined_and_taken_apart_without_loss(world: World) -> None:
    """Same customer number on two networks, and two handles on one: everything goes over, comes back, and counts."""
    house, mara = world.house, world.scopes["mara"]
    a = await world.hear("my number is B-2207", handle="jo", kind="private", network="hushline")
    b = await world.hear("nobody answers, B-2207!", handle="jo_c", network="quillet", kind="mention")
    c = await world.hear("still me", handle="jo.two", kind="private", network="hushline")
    one, two, three = [await person_of(world, x) for x in (a, b, c)]
    suggested = (await profiles.get_profile(house, mara, one, world.now))["suggestions"]
    assert [(s["person_id"], s["reasons"]) for s in suggested] == [(two, ("same customer number B-2207",))]
    before = [await profiles.get_profile(house, mara, p, world.now) for p in (one, two, three)]
    await profiles.add_fact(house, mara, two, name="Pass", value="family", now=world.now)
    first = await profiles.join(house, mara, one, two, world.now)
    second = await profiles.join(house, mara, one, three, world.now)
    merged = await profiles.get_profile(house, mara, two, world.now)
    assert merged["id"] == one
    assert len(merged["identities"]) == len(merged["contacts"]) == 3
    assert merged["suggestions"] == []
    assert [f["value"] for f in merged["facts"]] == ["family"]
    assert round(merged["points"], 3) == round(sum(p["points"] for p in before), 3) == 14
    assert len(await listed(world)) == 1
    assert await world.hear("the other handle again", handle="jo.two", kind="private", network="hushline") == a
    assert await world.hear("and quillet", handle="jo_c", network="quillet", kind="mention") != b
    with pytest.raises(NotFound):
        await profiles.join(house, mara, one, two, world.now)
    with pytest.raises(Invalid):
        await profiles.join(house, mara, one, one, world.now)
    await profiles.take_apart(house, mara, second, world.now)
    await profiles.take_apart(house, mara, first, world.now)
    after = [await profiles.get_profile(house, mara, p, world.now) for p in (one, two, three)]
    assert [len(p["contacts"]) for p in after] == [1, 2, 1]
    assert [len(p["identities"]) for p in after] == [1, 1, 1]
    assert after[1]["facts"][0]["value"] == "family"
    assert await person_of(world, c) == three
    assert await world.hear("and once more", handle="jo.two", kind="private", network="hushline") == c
    with pytest.raises(NotFound):
        await profiles.take_apart(house, mara, first, world.now)
    assert await find_differences(house, world.workspace_id, world.now) == {}


async def test_a_joined_record_comes_apart_from_the_outside_in(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    one, two, three = [await person_of(world, await world.hear("hi", handle=h)) for h in ("a", "b", "c")]
    inner = await profiles.join(house, mara, two, three, world.now)
    await profiles.join(house, mara, one, two, world.now)
    with pytest.raises(Impossible, match="take that apart first"):
        await profiles.take_apart(house, mara, inner, world.now)


async def test_everything_held_about_a_person(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    id = await person_of(world, await world.hear("hi", handle="anna"))
    held = await erasing.get_everything(house, mara, id, world.now)
    assert [m["body"] for m in held["messages"]] == ["hi"]
    with pytest.raises(NotAllowed):
        await erasing.get_everything(house, world.scopes["ilse"], id, world.now)


async def test_the_cross_tab_counts_each_cell_and_each_sum_once(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    a, b = await world.hear("hi", handle="a"), await world.hear("hi", handle="b", network="quillet", kind="mention")
    done = await world.hear("bye", handle="c")
    await acts.settle(house, mara, done, how=SettledAs.JUNK, now=world.now)
    for name in ("x", "y"):
        await acts.tag(house, mara, a, name=name, on=True, now=world.now)
    await acts.prioritise(house, mara, a, priority=Priority.URGENT, now=world.now)
    cross = await overview.get_cross(house, mara, rows="tag", columns="move", filters={}, now=world.after(hours=1))
    assert sorted((c["row"], c["column"], c["n"], c["late"]) for c in cross["cells"]) == [
        ("", "unsorted", 1, 0),
        ("1", "our_move", 1, 1),
        ("2", "our_move", 1, 1),
    ]
    assert (cross["n"], cross["late"]) == (2, 1)
    assert {(s["value"], s["n"]) for s in cross["column_sums"]} == {("unsorted", 1), ("our_move", 1)}
    cross = await overview.get_cross(
        house, mara, rows="account", columns="band", filters={"move": "unsorted"}, now=world.now
    )
    assert [(c["row"], c["n"]) for c in cross["cells"]] == [(str(world.accounts["quillet"].id), 1)]
    with pytest.raises(Invalid):
        await overview.get_cross(house, mara, rows="tag", columns="tag", filters={}, now=world.now)
    assert (await overview.count_waiting(house, mara, world.now))["unsorted"] == 1
    assert b


async def test_the_feed_shows_reactions_beside_messages(world: World) -> None:
    await world.hear("Mitten lost", kind="form_entry", handle="a")
    post = (await world.publish())["object"]["id"]
    like = await world.control(
        "like", network="commonfold", handle="b", name="Bea", id=post, clock=world.after(seconds=30).isoformat()
    )
    await world.take(like, now=world.after(minutes=1))
    feed = await overview.list_feed(world.house, world.scopes["mara"], world.after(minutes=2), 10)
    assert [(f["what"], f["kind"], f["name"]) for f in feed] == [
        ("reaction", "reaction", "Bea"),
        ("message", "form_entry", "A"),
    ]
    older = await overview.list_feed(world.house, world.scopes["mara"], feed[0]["at"], 10)
    assert [f["kind"] for f in older] == ["form_entry"]


async def test_listening_finds_once_and_answers_work(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    quillet = world.accounts["quillet"].id
    talk = {"network": "quillet", "kind": "talk", "handle": "wanderer", "name": "Wanderer", "tell": False}
    await world.control("say", **talk, text="Anybody been to BRINEWICK with a pram?")
    await world.control("say", **talk, text="something else")
    await listening.add_listening(house, mara, words="brinewick pram", account_id=quillet, now=world.now)
    for _ in range(2):
        await listening.listen(house, world.workspace_id, world.now)
    page = desk.read_rows(
        await desk.list_rows(house, mara, filters={"kind": ["found"]}, order="due", cursor=None, limit=9, now=world.now)
    )
    assert [row["preview"] for row in page] == ["Anybody been to BRINEWICK with a pram?"]
    saved = (await listening.list_listening(house, mara))[0]
    assert (saved["found"], saved["problem"]) == (1, None)
    await world.control("say", **talk, text="brinewick pram again")
    await listening.listen(house, world.workspace_id, world.now)
    assert (await listening.list_listening(house, mara))[0]["found"] == 2
    row = page[0]
    await answers.reply(
        house, mara, row["id"], public=True, text="We have a lift.", seen_seq=row["seq"], settle=False, now=world.now
    )
    with pytest.raises(Impossible, match="lets nobody search"):
        await listening.add_listening(
            house, mara, words="brinewick", account_id=world.accounts["commonfold"].id, now=world.now
        )
    with pytest.raises(Invalid):
        await listening.add_listening(house, mara, words=" x ", account_id=quillet, now=world.now)
    for words in ("…!", "-spam", '""'):
        with pytest.raises(Invalid, match="can never be found"):
            await listening.add_listening(house, mara, words=words, account_id=quillet, now=world.now)
    with pytest.raises(NotAllowed):
        await listening.add_listening(house, world.scopes["ana"], words="xyz", account_id=quillet, now=world.now)
    await listening.delete_listening(house, mara, saved["id"])
    with pytest.raises(NotFound):
        await listening.delete_listening(house, mara, saved["id"])


async def test_what_is_listened_for_means_what_it_means_when_one_finds(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    said = {
        "quillet": (
            "Ødegård was at the reef",
            "reefs of brinewick",
            "a reef at brinewick",
            "brinewick, the reef. a job!",
        ),
        "pixfern": ("harbour seal", "seal of the harbour", "harbour seals"),
    }
    for network, texts in said.items():
        for n, text in enumerate(texts):
            actor = {"handle": f"w{n}", "name": f"W {n}"}
            await world.control("say", network=network, kind="talk", text=text, tell=False, **actor)
    quillet, pixfern = world.accounts["quillet"].id, world.accounts["pixfern"].id
    with pytest.raises(Impossible, match="Pixfern searches for whole words only"):
        await listening.add_listening(house, mara, words="seal*", account_id=pixfern, now=world.now)
    for words in ("reef -reef", "-reef* reefs", '"the reef" -reef'):
        with pytest.raises(Invalid, match="asks for what must not be there"):
            await listening.add_listening(house, mara, words=words, account_id=quillet, now=world.now)
    for words, account in (('"HARBOUR seal"', pixfern), ("brinewick reef* -job", quillet), ("ødegård", quillet)):
        await listening.add_listening(house, mara, words=words, account_id=account, now=world.now)
    await listening.listen(house, world.workspace_id, world.now)
    saved = {one["words"]: one["found"] for one in await listening.list_listening(house, mara)}
    assert saved == {'"harbour seal"': 1, "brinewick reef* -job": 2, "ødegård": 1}


async def test_a_search_that_fails_says_why_and_goes_on_later(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    await listening.add_listening(
        house, mara, words="brinewick", account_id=world.accounts["quillet"].id, now=world.now
    )
    await world.control("expire", network="quillet", page="brinewick")
    await listening.listen(house, world.workspace_id, world.now)
    assert "401" in (await listening.list_listening(house, mara))[0]["problem"]


@pytest.fixture
def translating_house(world: World) -> House:
    object.__setattr__(world.house, "translator", HttpTranslator(Outgoing(world.outside), f"{OUTSIDE}/translator"))
    return world.house


async def test_translations_are_kept_beside_the_original(translating_house: House, world: World) -> None:
    mara = world.scopes["mara"]
    id = await world.hear("Kan man dele et årskort i familien?", handle="anna")
    sheet = await desk.get_sheet(translating_house, mara, id, world.now)
    message = sheet["messages"][0]
    for _ in range(2):
        made = await translating.translate_message(translating_house, mara, message["id"], target="en", now=world.now)
        assert (made["body"], made["rough"]) == ("Can a family share an annual pass?", False)
    written = await translating.translate_text(translating_house, mara, "Yes, at both places.", target="da")
    assert written["text"] == "Ja, begge steder."
    await answers.reply(
        translating_house,
        mara,
        id,
        public=True,
        text=written["text"],
        seen_seq=sheet["conversation"]["seq"],
        settle=False,
        now=world.now,
        extras=Extras(written=("Yes, at both places.", "en")),
    )
    said = (await desk.get_sheet(translating_house, mara, id, world.now))["messages"]
    assert [(t["what"], t["body"]) for m in said for t in m["translations"]] == [
        ("translated", "Can a family share an annual pass?"),
        ("written", "Yes, at both places."),
    ]
    rough = await translating.translate_text(translating_house, mara, "The moon is full.", target="fr")
    assert rough["rough"]
    assert "not in the phrase table" in rough["text"]
    with pytest.raises(Invalid):
        await translating.translate_text(translating_house, mara, " ", target="fr")
    with pytest.raises(NotFound):
        await translating.translate_message(translating_house, mara, 999, target="en", now=world.now)


async def test_without_a_translator_nothing_pretends(world: World) -> None:
    id = await world.hear("Merci", handle="anna")
    message = (await desk.get_sheet(world.house, world.scopes["mara"], id, world.now))["messages"][0]
    with pytest.raises(Impossible, match="No translator"):
        await translating.translate_message(
            world.house, world.scopes["mara"], message["id"], target="en", now=world.now
        )
    away = HttpTranslator(
        Outgoing(httpx.AsyncClient(transport=httpx.MockTransport(lambda _: httpx.Response(500)))), "http://x"
    )
    object.__setattr__(world.house, "translator", away)
    with pytest.raises(Impossible, match="Nothing is lost"):
        await translating.translate_text(world.house, world.scopes["mara"], "Hi", target="fr")


async def test_the_tabs_number_is_of_what_waits_for_oneself_or_for_ones_team(world: World) -> None:
    house, mara, ilse = world.house, world.scopes["mara"], world.scopes["ilse"]
    team = await sorting.add_team(house, world.workspace_id, "Visitor care", [mara.member_id])
    other = await sorting.add_team(house, world.workspace_id, "Shop", [ilse.member_id])
    ids = [await world.hear("hi", handle=f"h{n}") for n in range(6)]
    given: list[tuple[int | None, int | None]] = [
        (mara.member_id, None),
        (mara.member_id, team),
        (None, team),
        (ilse.member_id, team),
        (None, other),
    ]
    for id, (owner, to_team) in zip(ids, given, strict=False):
        await acts.assign(house, ilse, id, owner_id=owner, team_id=to_team, note=None, now=world.now)

    async def count(who: Scope) -> tuple[int, int]:
        found = await overview.count_waiting(house, who, world.now)
        return found["mine"], found["my_team"]

    assert (await count(mara), await count(ilse)) == ((2, 2), (1, 1))
    for id in ids:
        await acts.settle(house, mara, id, how=SettledAs.NO_REPLY_NEEDED, now=world.now)
    assert (await count(mara), await count(ilse)) == ((0, 0), (0, 0))
