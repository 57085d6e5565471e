"""Several at once: answered with a saved reply, asked of networks, translated; each by itself and told honestly. Rules: docs/trade.md 7."""

from datetime import timedelta
from typing import Any

import pytest

from sorta.core.errors import Invalid, NotFound
from sorta.core.facts import SettledAs
from sorta.core.ports import Moderation
from sorta.core.texts import SavedReplyBody
from sorta.networks.outgoing import Outgoing
from sorta.networks.translator import HttpTranslator
from sorta.services import accounts, acts, answers, delivery, desk, many, texts
from tests.services.test_approvals import add_policy
from tests.world import OUTSIDE, World

pytestmark = pytest.mark.anyio


async def save(world: World, text: str, **more: Any) -> int:
    body = SavedReplyBody(name="Sorry", text=text, **more)
    return await texts.add_saved_reply(world.house, world.scopes["mara"], body, world.now)


async def answer_all(
    world: World, ids: list[int], reply: int, who: str = "mara", *, settle: bool = False, at: float = 0
) -> dict[str, list[dict[str, Any]]]:
    seen = {id: (await world.row(id))["seq"] for id in ids}
    return await answer_seen(world, seen, reply, who, settle=settle, at=at)


async def answer_seen(
    world: World, seen: dict[int, int], reply: int, who: str = "mara", *, settle: bool = False, at: float = 0
) -> dict[str, list[dict[str, Any]]]:
    house, scope, now = world.house, world.scopes[who], world.now + timedelta(seconds=at)

    async def one(id: int) -> int:
        return await many.answer_with(house, scope, id, saved_reply=reply, settle=settle, seen_seq=seen[id], now=now)

    return await many.do_many(house, scope, list(seen), one)


async def said(world: World, id: int) -> str:
    sheet = await desk.get_sheet(world.house, world.scopes["mara"], id, world.now)
    return str(next(m["body"] for m in reversed(sheet["messages"]) if not m["inbound"]))


async def test_each_is_answered_by_name_as_they_spoke_and_all_taken_back_at_once(world: World) -> None:
    reply = await save(world, "Sorry, {first name}, we look into it.")
    public = await world.hear("The gate is shut", handle="petra")
    private = await world.hear("The gate is shut", network="hushline", kind="private", handle="otto")
    report = await answer_all(world, [public, private], reply, settle=True)
    assert [one["id"] for one in report["done"]] == [public, private]
    assert report["failed"] == []
    assert "Sorry, Petra, we look into it." in await said(world, public)
    assert await said(world, private) == "Sorry, Otto, we look into it."
    assert (await world.row(private))["move"] == "settled"
    # Used once for each, and taken back as any answer.
    used = await texts.list_saved_replies(world.house, world.scopes["mara"], archived=False)
    assert used[0]["uses"] == 2
    for one in report["done"]:
        await acts.undo(world.house, world.scopes["mara"], one["id"], seq=one["seq"], now=world.now)
    assert {(await world.row(id))["move"] for id in (public, private)} == {"unsorted"}
    assert await delivery.queue_deliverable(world.house, world.workspace_id, world.after(minutes=5)) in (None, 0)


async def test_what_cannot_be_answered_so_is_left_with_its_reason(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    reply = await save(world, "Sorry about that.", language="en")
    long = await save(world, "So sorry. " * 120, shortcut="long")
    fine, answered, busy, moved, german, settled = [
        await world.hear(text, handle=f"h{n}")
        for n, text in enumerate(
            (
                "The gate is shut today",
                "The gate is shut",
                "The gate is shut now",
                "The gate is shut here",
                "Warum ist das Tor heute Morgen schon wieder geschlossen gewesen?",
                "The gate was shut",
            )
        )
    ]
    await answers.reply(
        house, mara, answered, public=True, text="Sorry", seen_seq=1, settle=False, now=world.now
    )  # answered by hand
    await acts.settle(house, mara, settled, how=SettledAs.NO_REPLY_NEEDED, now=world.now)
    await desk.set_presence(house, world.scopes["ilse"], busy, "writing", world.now)
    seen = {id: (await world.row(id))["seq"] for id in (fine, answered, busy, moved, german, settled)}
    seen[moved] -= 1
    report = await answer_seen(world, seen, reply)
    assert [one["id"] for one in report["done"]] == [fine]
    why = {one["id"]: one["reason"] for one in report["failed"]}
    assert why[answered] == why[settled] == "Nothing of theirs waits for an answer."
    assert why[busy] == "Ilse Person is writing an answer there."
    assert "moved on" in why[moved]
    assert "not written in the language" in why[german]
    short = await world.hear("The gate is shut", network="pixfern", handle="h9")
    too_long = await answer_all(world, [short], long)
    assert "characters" in too_long["failed"][0]["reason"]
    await texts.set_archived(house, mara, reply, on=True, now=world.now)
    assert "no such saved reply" in (await answer_all(world, [busy], reply, at=120))["failed"][0]["reason"]


async def test_what_needs_consent_or_a_right_goes_out_to_nobody(world: World) -> None:
    reply = await save(world, "Sorry about that.")
    id = await world.hear("The gate is shut")
    report = await answer_all(world, [id], reply, "ana")
    assert "approval" in report["failed"][0]["reason"]
    await add_policy(world, public=True)
    assert "approval" in (await answer_all(world, [id], reply))["failed"][0]["reason"]
    assert "may not" in (await answer_all(world, [id], reply, "lise"))["failed"][0]["reason"]
    assert (await world.row(id))["move"] == "unsorted"


async def test_likes_and_hides_are_asked_of_each_network_that_has_them(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    public = await world.hear("Lovely")
    private = await world.hear("Lovely", network="hushline", kind="private", handle="otto")

    async def like(id: int) -> int:
        return await many.moderate_last(house, mara, id, what=Moderation.LIKE, now=world.now)

    report = await many.do_many(house, mara, [public, private], like)
    assert [one["id"] for one in report["done"]] == [public]
    assert [one["id"] for one in report["failed"]] == [private]
    again = await many.do_many(house, mara, [public], like)
    assert "under way" in again["failed"][0]["reason"]


async def test_what_they_said_is_translated_once_and_what_is_ours_already_is_not(world: World) -> None:
    object.__setattr__(world.house, "translator", HttpTranslator(Outgoing(world.outside), f"{OUTSIDE}/translator"))
    house, mara = world.house, world.scopes["mara"]
    german = await world.hear("Warum ist das Tor heute Morgen schon wieder geschlossen gewesen?", handle="a")
    english = await world.hear("Why has the gate been shut again this morning?", handle="b")
    before = await world.row(german)

    async def translate(id: int) -> int:
        return await many.translate_last(house, mara, id, language="en", now=world.now)

    report = await many.do_many(house, mara, [german, english], translate)
    assert report["done"] == [{"id": german, "seq": before["seq"]}]
    assert "in that language already" in report["failed"][0]["reason"]
    sheet = await desk.get_sheet(house, mara, german, world.now)
    assert [t["language"] for m in sheet["messages"] for t in m["translations"]] == ["en"]
    assert (await world.row(german))["move"] == "unsorted"


async def test_an_answer_is_closed_once_by_whoever_writes_it_and_comes_back_as_it_went(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    await accounts.set_sign_off(house, world.scopes["noor"], world.accounts["commonfold"].id, "– {initials}")
    with pytest.raises(Invalid, match="surname"):
        await accounts.set_sign_off(house, world.scopes["noor"], world.accounts["commonfold"].id, "{surname}")
    with pytest.raises(NotFound):
        await accounts.set_sign_off(house, world.scopes["noor"], 99_999, "")
    id = await world.hear("The gate is shut")
    sheet = await desk.get_sheet(house, mara, id, world.now)
    closing = sheet["modes"][0]["sign_off"]
    assert (
        closing
        == f"\n– {next(m['initials'] for m in await desk.list_members(house, mara) if m['id'] == mara.member_id)}"
    )
    seq = await answers.reply(house, mara, id, public=True, text="We open it.", seen_seq=1, settle=False, now=world.now)
    assert await said(world, id) == f"We open it.{closing}"
    back = await acts.undo(house, mara, id, seq=seq, now=world.now)
    assert back is not None
    # Written on as it came back, it is not closed twice.
    await answers.reply(
        house, mara, id, public=True, text=back.text, seen_seq=sheet["conversation"]["seq"], settle=False, now=world.now
    )
    assert await said(world, id) == f"We open it.{closing}"
