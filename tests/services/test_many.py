"""Several at once: answered with a saved reply, asked of networks, translated; each by itself and told honestly. Rules: docs/trade.md 7."""

import asyncio
from collections import Counter
from dataclasses import replace
from datetime import timedelta
from typing import Any

import psycopg
import pytest

from sorta.core.errors import Invalid, NotFound
from sorta.core.events import Kept
from sorta.core.facts import SettledAs
from sorta.core.ports import Moderation
from sorta.core.texts import SavedReplyBody
from sorta.networks.outgoing import Outgoing
from sorta.networks.translator import HttpTranslator
from sorta.services import accounts, acts, answers, delivery, desk, many, texts
from sorta.services.checking import find_differences
from sorta.services.trail import together, writing
from sorta.store import sorting, trail
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

    return await many.do_together(world.house, scope, list(seen), one, now, apart=True)


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
    seqs = {one["id"]: one["seq"] for one in report["done"]}

    async def undo(id: int) -> int:
        await acts.undo(world.house, world.scopes["mara"], id, seq=seqs[id], now=world.now)
        return seqs[id]

    back = await many.do_together(world.house, world.scopes["mara"], list(seqs), undo, world.now, apart=True)
    assert [one["id"] for one in back["done"]] == list(seqs)
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


async def test_who_is_refused_when_half_is_written_leaves_nothing_behind(world: World) -> None:
    """The link is made short before it is seen that they wrote again."""
    reply = await save(world, "Sorry, see https://news.brinewick.example/gate")
    ids = [await world.hear("The gate is shut", handle=f"p{n}") for n in range(3)]
    seen = {id: (await world.row(id))["seq"] for id in ids}
    seen[ids[1]] -= 1
    world.house = replace(world.house, address="https://desk.brinewick.example")

    async def count_links() -> int:
        async with world.house.db.transact(world.workspace_id) as tx:
            (count,) = await (await tx.execute("select count(*) from link")).fetchone()
        return int(count)

    assert (await answer_seen(world, {ids[1]: seen[ids[1]]}, reply))["done"] == []
    assert await count_links() == 0
    report = await answer_seen(world, seen, reply)
    assert [one["id"] for one in report["done"]] == [ids[0], ids[2]]
    assert await count_links() == 1
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


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

    report = await many.do_many([public, private], like)
    assert [one["id"] for one in report["done"]] == [public]
    assert [one["id"] for one in report["failed"]] == [private]
    again = await many.do_many([public], like)
    assert "under way" in again["failed"][0]["reason"]


async def test_what_they_said_is_translated_once_and_what_is_ours_already_is_not(world: World) -> None:
    object.__setattr__(world.house, "translator", HttpTranslator(Outgoing(world.outside), f"{OUTSIDE}/translator"))
    house, mara = world.house, world.scopes["mara"]
    german = await world.hear("Warum ist das Tor heute Morgen schon wieder geschlossen gewesen?", handle="a")
    english = await world.hear("Why has the gate been shut again this morning?", handle="b")
    before = await world.row(german)

    async def translate(id: int) -> int:
        return await many.translate_last(house, mara, id, language="en", now=world.now)

    report = await many.do_many([german, english], translate)
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


async def count_transactions(world: World, kind: str) -> int:
    """How many transactions wrote what is in the trails by that name."""
    async with world.house.db.transact(world.workspace_id) as tx:
        row = await (
            await tx.execute("select count(distinct xmin::text) from trail where kind = %s", [kind])
        ).fetchone()
    assert row is not None
    return int(row[0])


async def test_what_is_sorted_together_is_one_transaction_and_one_that_moved_on_holds_up_no_other(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [await world.hear("hi", handle=f"p{n}") for n in range(4)]
    seen = {id: (await world.row(id))["seq"] for id in ids}
    await world.hear("and another thing", handle="p2", parent=(await last_said(world, ids[2])), kind="reply")

    async def settle(id: int) -> int:
        how = SettledAs.NO_REPLY_NEEDED
        return await acts.settle(house, mara, id, how=how, now=world.now, seen_seq=seen[id])

    report = await many.do_together(house, mara, [*reversed(ids)], settle, world.now)
    assert [one["id"] for one in report["done"]] == [ids[3], ids[1], ids[0]]
    assert [one["id"] for one in report["failed"]] == [ids[2]]
    assert "Look first" in report["failed"][0]["reason"]
    assert [(await world.row(id))["settled_as"] is not None for id in ids] == [True, True, False, True]
    assert await count_transactions(world, "settled") == 1
    assert await find_differences(house, world.workspace_id, world.now) == {}


async def last_said(world: World, id: int) -> str:
    async with world.house.db.transact(world.workspace_id) as tx:
        last = await trail.get_last_inbound(tx, id)
    assert last is not None
    return last.external_id


async def test_one_that_fails_when_half_done_leaves_no_half_and_takes_nothing_from_the_others(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [await world.hear("hi", handle=f"p{n}") for n in range(3)]

    async def keep(id: int) -> int:
        if id != ids[1]:
            return await acts.keep(house, mara, id, now=world.now)
        async with writing(house, world.workspace_id, world.now) as ledger:
            ledger.add(await ledger.get(id), Kept(), member_id=mara.member_id)
            raise Invalid("Half of it was done.", "act")

    report = await many.do_together(house, mara, ids, keep, world.now)
    assert [one["id"] for one in report["done"]] == [ids[0], ids[2]]
    assert report["failed"] == [{"id": ids[1], "reason": "Half of it was done."}]
    assert [await world.kinds(id) for id in ids] == [["arrived", "kept"], ["arrived"], ["arrived", "kept"]]
    assert await count_transactions(world, "kept") == 2


async def test_a_race_that_all_lose_together_is_run_again_one_by_one(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [await world.hear("hi", handle=f"p{n}") for n in range(3)]
    lost: list[int] = []

    async def keep(id: int) -> int:
        if id == ids[1] and not lost:
            lost.append(id)
            raise psycopg.errors.DeadlockDetected
        return await acts.keep(house, mara, id, now=world.now)

    report = await many.do_together(house, mara, ids, keep, world.now)
    assert ([one["id"] for one in report["done"]], report["failed"], lost) == (ids, [], [ids[1]])
    assert [await world.kinds(id) for id in ids] == [["arrived", "kept"]] * 3
    assert await count_transactions(world, "kept") == 3


async def test_together_each_is_of_its_own_time_and_all_of_one_workspace(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [await world.hear("hi", handle=f"p{n}") for n in range(2)]
    async with together(house, world.workspace_id, world.after(hours=1)):
        for n, id in enumerate(ids):
            await acts.keep(house, mara, id, now=world.after(minutes=n))
            await acts.add_note(house, mara, id, text=f"note {n}", now=world.after(minutes=n + 5))
    async with house.db.transact(world.workspace_id) as tx:
        for n, id in enumerate(ids):
            written = await trail.list_trail(tx, id)
            assert [(e.kind, e.at) for e in written[1:]] == [
                ("kept", world.after(minutes=n)),
                ("noted", world.after(minutes=n + 5)),
            ]
    with pytest.raises(ValueError, match="one workspace"):
        async with together(house, world.other_workspace_id, world.now):
            await acts.keep(house, mara, ids[0], now=world.now)
    # What is done afterwards is by itself again.
    await acts.keep(house, mara, ids[0], now=world.now)
    assert (await world.kinds(ids[0]))[-1] == "kept"


async def test_two_who_sort_the_same_at_once_lose_nothing(world: World) -> None:
    house = world.house
    ids = [await world.hear("hi", handle=f"p{n}") for n in range(30)]

    async def sort(who: str, order: list[int]) -> dict[str, list[dict[str, Any]]]:
        scope = world.scopes[who]
        return await many.do_together(
            house, scope, order, lambda id: acts.add_note(house, scope, id, text=who, now=world.now), world.now
        )

    reports = await asyncio.gather(sort("mara", ids), sort("ilse", ids[::-1]))
    assert [len(report["done"]) for report in reports] == [30, 30]
    for id in ids:
        assert sorted(await world.kinds(id)) == ["arrived", "noted", "noted"]
    assert await find_differences(house, world.workspace_id, world.now) == {}


async def test_acts_done_together_read_their_workspace_and_lock_at_one_go(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A tag that the first of them makes is there for the others; the trails of all come in one statement."""
    ids = [await world.hear("hi", handle=f"p{n}") for n in range(6)]
    asked: list[str] = []
    for module, name in ((sorting, "list_tags"), (trail, "lock_conversations"), (trail, "list_trails")):

        async def count(*given: Any, real: Any = getattr(module, name), name: str = name) -> Any:
            asked.append(name)
            return await real(*given)

        monkeypatch.setattr(module, name, count)
    mara = world.scopes["mara"]

    async def tag(id: int) -> int:
        return await acts.tag(world.house, mara, id, name="zeppel", on=True, now=world.now)

    told = await many.do_together(world.house, mara, ids, tag, world.now)
    assert [one["id"] for one in told["done"]] == ids
    assert Counter(asked) == {"lock_conversations": 1, "list_tags": 2, "list_trails": 1}
    assert len({tuple((await world.row(id))["tags"]) for id in ids}) == 1
    assert await find_differences(world.house, world.workspace_id, world.now) == {}
