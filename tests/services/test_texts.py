"""Saved replies, suggestions and links on the real store."""

import pytest

from sorta.core.answers import Extras
from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.rules import AnswerWith, Conditions, HasWords, RuleBody
from sorta.core.texts import SavedReplyBody
from sorta.services import answers, delivery, links, rules, texts
from sorta.store import trail
from tests.world import World

pytestmark = pytest.mark.anyio
BROWSER = "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"


async def save(world: World, name: str, text: str, who: str = "mara", **more: object) -> int:
    body = SavedReplyBody(name=name, text=text, **more)  # type: ignore[arg-type]
    return await texts.add_saved_reply(world.house, world.scopes[who], body, world.now)


async def answer(world: World, id: int, text: str, saved: int | None = None, who: str = "ilse") -> int:
    seen = (await world.row(id))["seq"]
    given = {"public": True, "text": text, "seen_seq": seen, "settle": False, "now": world.now}
    return await answers.reply(world.house, world.scopes[who], id, **given, extras=Extras(saved_reply=saved))


async def list_said(world: World, id: int) -> list[str]:
    async with world.house.db.transact(world.workspace_id) as tx:
        return [m.body for m in await trail.list_messages(tx, id)]


async def test_saved_replies_are_offered_filled_in_and_learned_from(world: World) -> None:
    opening = await save(world, "Opening hours", "Hello {first name}, we open at 9.", shortcut="open")
    refund = await save(world, "Refund", "Sorry {first name}, the ticket office sends your money back.")
    await save(world, "Horario", "Abrimos a las 9.", language="es")
    for n, (text, saved, words) in enumerate(
        [
            ("When do you open on Saturday?", opening, "Hello Petra, we open at 9."),
            ("are you open today", opening, "Hello Petra, we open at 9."),
            ("I want a refund for my tickets", refund, "Sorry Petra, the ticket office sends your money back."),
            ("refund please, we never got in", refund, "Sorry, the ticket office sends the money back."),
        ]
    ):
        id = await world.hear(text, handle=f"visitor{n}")
        await answer(world, id, words, saved)
    asked = await world.hear("is the aquarium open on sunday?", handle="petra")
    first, second = await texts.offer(world.house, world.scopes["ilse"], asked)
    assert (first["id"], first["text"], first["uses"]) == (opening, "Hello Petra, we open at 9.", 2)
    assert first["suggestion"]["like"] in ("When do you open on Saturday?", "are you open today")
    assert second["id"] == refund
    # Written quite anew: no use of it.
    await answer(world, asked, "Yes, come by, bring a coat.", opening)
    listed = await texts.list_saved_replies(world.house, world.scopes["lise"], archived=False)
    assert {r["body"]["name"]: r["uses"] for r in listed} == {"Horario": 0, "Opening hours": 2, "Refund": 2}


async def test_nothing_is_learned_from_another_workspace(world: World) -> None:
    otto = world.scopes["otto"]
    mine = await save(world, "Mine", "We open at 9 every day.")
    id = await world.hear("When do you open?")
    await answer(world, id, "We open at 9 every day.", mine)
    assert (await texts.offer(world.house, world.scopes["ilse"], id))[0]["suggestion"] is not None
    theirs = await texts.add_saved_reply(world.house, otto, SavedReplyBody(name="Theirs", text="At ten."), world.now)
    with pytest.raises(NotFound):
        await texts.offer(world.house, otto, id)
    with pytest.raises(NotFound):
        await texts.set_saved_reply(world.house, otto, mine, SavedReplyBody(name="x", text="x"), world.now)
    await answer(world, await world.hear("Again?", handle="p2"), "At ten.", theirs)
    listed = await texts.list_saved_replies(world.house, otto, archived=True)
    assert [(r["body"]["name"], r["uses"]) for r in listed] == [("Theirs", 0)]


async def test_a_change_says_whom_it_concerns_and_a_rule_keeps_it(world: World) -> None:
    mara = world.scopes["mara"]
    saved = await save(world, "Sorry", "So sorry, {first name}. {account} looks into it.")
    body = RuleBody(name="Lost", when=Conditions(parts=(HasWords(words=("lost",)),)), then=(AnswerWith(saved=saved),))
    await rules.add_rule(world.house, mara, body, on=True, now=world.now)
    id = await world.hear("I lost my hat")
    assert (await list_said(world, id))[-1] == "So sorry, Petra. Brinewick Aquarium looks into it."
    await answer(world, await world.hear("My hat", handle="other"), "So sorry. Brinewick looks into it.", saved)
    concerns = await texts.get_concerns(world.house, mara, saved, world.now)
    assert [r["name"] for r in concerns["rules"]] == ["Lost"]
    assert [(m["member_id"], m["uses"]) for m in concerns["members"]] == [(world.scopes["ilse"].member_id, 1)]
    with pytest.raises(Invalid, match="Lost"):
        await texts.set_archived(world.house, mara, saved, on=True, now=world.now)
    (rule,) = (await rules.list_rules(world.house, mara, world.now))["rules"]
    await rules.set_rule(world.house, mara, rule["id"], body=None, on=False, version=rule["version"], now=world.now)
    await texts.set_archived(world.house, mara, saved, on=True, now=world.now)
    assert await texts.offer(world.house, mara, id) == []
    file = await rules.export_rules(world.house, mara, world.now)
    assert file["rules"][0]["then"][0]["saved"] == saved
    with pytest.raises(Invalid, match="saved reply"):
        await rules.set_rule(
            world.house, mara, rule["id"], body=body, on=True, version=rule["version"] + 1, now=world.now
        )
    await texts.set_archived(world.house, mara, saved, on=False, now=world.now)
    assert await rules.import_rules(world.house, mara, file | {"names": {**file["names"], "saved replies": {str(saved): "Sorry"}}}, world.now) == {"count": 0, "known": 1}  # fmt: skip


async def test_who_may_write_them_and_what_is_refused(world: World) -> None:
    for who in ("ilse", "ana", "lise"):
        with pytest.raises(NotAllowed):
            await save(world, "x", "x", who)
    await save(world, "One", "x", shortcut="one")
    with pytest.raises(Invalid, match="shortcut"):
        await save(world, "Two", "x", shortcut="ONE")
    with pytest.raises(Invalid, match="not here"):
        await save(world, "Three", "x", accounts=(999,))
    with pytest.raises(Invalid, match="No link"):
        await save(world, "Four", "See {link:tickets}")


async def test_links_leave_short_with_their_tags_and_clicks_are_counted(world: World) -> None:
    world.house = world.house.__class__(**{**world.house.__dict__, "address": "https://sorta.example"})
    mara = world.scopes["mara"]
    kept = await links.set_kept(world.house, mara, "tickets", "https://brinewick.example/tickets", world.now)
    saved = await save(world, "Tickets", "Here you are, {first name}: {link:tickets}")
    with pytest.raises(Invalid, match="Tickets"):
        await links.remove_kept(world.house, mara, kept)
    id = await world.hear("Where do I book?", network="quillet", kind="mention")
    (offered,) = await texts.offer(world.house, mara, id)
    assert offered["text"] == "Here you are, Petra: https://brinewick.example/tickets"
    await answer(world, id, offered["text"], saved)
    (short,) = (await links.list_all(world.house, mara, world.now))["short"]
    assert short["target"] == "https://brinewick.example/tickets?utm_source=quillet&utm_medium=social&utm_campaign=brinewick"  # fmt: skip
    said = (await list_said(world, id))[-1]
    assert said == f"@petra Here you are, Petra: {short['address']}"
    assert len(short["address"]) == links.get_link_length(world.house)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=1))
    assert short["address"] in next(t["content"] for t in await world.things("quillet") if "clientKey" in t)
    slug = short["address"].rsplit("/", 1)[1]
    for agent, method, member in ((BROWSER, "GET", None), ("curl/8", "GET", None), (BROWSER, "GET", mara.member_id), (BROWSER, "HEAD", None)):  # fmt: skip
        target = await links.open_link(
            world.house, slug, user_agent=agent, method=method, member_of=member, now=world.now
        )
        assert target == short["target"]
    (short,) = (await links.list_all(world.house, mara, world.now))["short"]
    assert (short["clicks"], short["apart"]) == (1, 3)
    with pytest.raises(NotFound):
        await links.open_link(world.house, "nothing1", user_agent=BROWSER, method="GET", member_of=None, now=world.now)
    # The same link again is the same short one; an unsafe one is refused with the text kept by its author.
    await answer(world, await world.hear("And now?", network="quillet", kind="mention", handle="q"), offered["text"])
    assert len((await links.list_all(world.house, mara, world.now))["short"]) == 1
    with pytest.raises(Invalid, match="leads inside"):
        await answer(world, id, "See http://10.0.0.1/")
    assert (await links.list_all(world.house, world.scopes["otto"], world.now))["short"] == []
