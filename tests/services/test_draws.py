"""Draws among real commenters: fixed before, drawn once, certified, winners written to once."""

import asyncio
import json
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.draw import DrawRules, check_certificate, digest
from sorta.core.errors import Invalid, NotAllowed, NotFound, TooLate
from sorta.core.texts import SavedReplyBody
from sorta.main import main
from sorta.services import acts, approvals, draws, policies, tags, texts
from sorta.store import draws as store
from tests.services.test_delivery import go, outside
from tests.world import World

pytestmark = pytest.mark.anyio


async def contest(world: World, names: str = "anna bert cilla dora egon frida") -> tuple[int, list[int]]:
    """A post with one entry from each; its number and the conversations."""
    post = await world.publish(title="Name our octopus")
    conversations = []
    for n, name in enumerate(names.split()):
        said = await world.say("Inky", handle=name, parent=post["object"]["id"], at=world.after(minutes=n))
        await world.take(said, now=world.after(minutes=n))
        conversations.append((await world.find(said["object"]["id"])).conversation_id)
    (found,) = await draws.list_posts(world.house, world.scopes["mara"], "octopus")
    return found["id"], conversations


def rules(world: World, **more: Any) -> DrawRules:
    return DrawRules(**{"name": "Octopus", "deadline": world.after(days=1), "winners": 2, "reserves": 1, **more})


async def announce(world: World, post: int, *, now: datetime | None = None, **more: Any) -> int:
    return await draws.announce(world.house, world.scopes["mara"], post, rules(world, **more), now or world.now)


async def draw(world: World, id: int, who: str = "mara", **span: float) -> None:
    await draws.draw_now(world.house, world.scopes[who], id, world.after(**span or {"days": 2}))


async def test_announced_drawn_once_and_certified(
    world: World, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    post, _ = await contest(world)
    id = await announce(world, post)
    before = await draws.get_draw(world.house, world.scopes["ilse"], id)
    assert before["seed"] is None
    assert [e["name"] for e in before["entries"]] == ["Anna", "Bert", "Cilla", "Dora", "Egon", "Frida"]
    with pytest.raises(Invalid, match="not passed yet"):
        await draw(world, id, hours=23)
    outcomes = await asyncio.gather(draw(world, id), draw(world, id), return_exceptions=True)
    assert sorted(type(o).__name__ for o in outcomes) == ["NoneType", "TooLate"]
    told = await draws.get_certificate(world.house, world.scopes["ilse"], id)
    assert check_certificate(told) == []
    assert told["commitment"] == before["commitment"]
    after = await draws.get_draw(world.house, world.scopes["mara"], id)
    assert [(p["number"], p["is_reserve"]) for p in after["places"]] == [
        (told["winners"][0], False),
        (told["winners"][1], False),
        (told["reserves"][0], True),
    ]
    file = tmp_path / "draw.json"
    file.write_text(json.dumps(told))
    assert main(["", "check-draw", str(file)]) == 0
    told["winners"].reverse()
    file.write_text(json.dumps(told))
    assert main(["", "check-draw", str(file)]) == 1
    file.write_text("{}")
    assert main(["", "check-draw", str(file)]) == 2
    printed = capsys.readouterr().out.splitlines()
    assert printed[0].startswith("The draw “Octopus” holds: 6 entries")
    assert "not those that rank first" in printed[1]
    assert "cannot be checked" in printed[2]


async def test_staff_blocked_late_second_and_removed_are_left_out(world: World) -> None:
    post, conversations = await contest(world, "anna bert cilla dora egon")
    mara = world.scopes["mara"]
    await acts.tag_person(world.house, mara, conversations[0], name="staff", on=True, now=world.now)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update person set blocked = true where name = 'Bert'")
    things = {t["attributedTo"]["name"]: t for t in await world.things() if t["content"] == "Inky"}
    removed = await world.control("remove", id=things["Cilla"]["id"])
    await world.take(removed)
    parent = things["Dora"]["inReplyTo"]["id"]
    for handle, hours, text in (("dora", 1, "Inky again"), ("frida", 30, "Inky"), ("gus", 2, "Blotchy")):
        said = await world.say(text, handle=handle, parent=parent, at=world.after(hours=hours))
        await world.take(said, now=world.after(hours=hours))
    said = await world.say(
        "Inky too", kind="reply", handle="hanna", parent=things["Egon"]["id"], at=world.after(hours=3)
    )
    await world.take(said, now=world.after(hours=3))
    staff = await tags.get_tag(world.house, mara, "staff", make=False)
    id = await announce(world, post, words=("inky",), staff=(staff,))
    found = await draws.get_draw(world.house, mara, id)
    assert [e["name"] for e in found["entries"]] == ["Dora", "Egon"]
    assert {x["name"]: x["reason"] for x in found["excluded"]} == {
        "Anna": "staff",
        "Bert": "blocked",
        "Cilla": "removed",
        "Dora": "entered already, as 1",
        "Frida": "after the deadline",
        "Gus": "none of the words",
        "Hanna": "a reply to another comment",
    }


async def test_what_comes_after_the_draw_changes_nothing(world: World) -> None:
    post, _ = await contest(world)
    id = await announce(world, post)
    await draw(world, id)
    before = await draws.get_draw(world.house, world.scopes["mara"], id)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update person set blocked = true")
    assert await draws.get_draw(world.house, world.scopes["mara"], id) == before


async def test_the_list_is_fixed_at_the_deadline_before_anybody_can_know_the_seed(world: World) -> None:
    post, _ = await contest(world)
    mara = world.scopes["mara"]
    id = await announce(world, post)
    assert await draws.close_due(world.house, world.workspace_id, world.after(hours=23)) == 0
    async with world.house.db.transact(world.workspace_id) as tx:
        assert await store.open_seed(tx, id) is None
    with pytest.raises(Exception, match="permission denied"):
        async with world.house.db.transact(world.workspace_id) as tx:
            await tx.execute("select seed from draw")
    assert await draws.close_due(world.house, world.workspace_id, world.after(days=1, seconds=3)) == 1
    assert await draws.close_due(world.house, world.workspace_id, world.after(days=1, seconds=8)) == 0
    closed = await draws.get_draw(world.house, mara, id)
    assert (closed["seed"], closed["drawn_at"], len(closed["entries"])) == (None, None, 6)
    assert closed["entries_sha256"] == digest(closed["entries"])
    # Whoever is blocked or hidden now has been on the list, and the digest says so.
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update person set blocked = true")
    await draw(world, id)
    told = await draws.get_certificate(world.house, mara, id)
    assert check_certificate(told) == []
    assert told["entries_sha256"] == closed["entries_sha256"]
    assert told["closed_at"] == world.after(days=1, seconds=3).isoformat()
    assert all(e["id"].startswith("http") for e in told["entries"])


async def test_one_open_draw_a_post_and_earlier_ones_on_the_certificate(world: World) -> None:
    post, _ = await contest(world)
    mara = world.scopes["mara"]
    first = await announce(world, post, name="First")
    with pytest.raises(Invalid, match="open already"):
        await announce(world, post)
    both = await asyncio.gather(*(announce(world, post) for _ in range(2)), return_exceptions=True)
    assert all(isinstance(b, Invalid) for b in both)
    await draws.cancel(world.house, mara, first, world.after(hours=1))
    second = await announce(world, post, name="Second")
    await draw(world, second)
    third = await announce(world, post, now=world.after(days=3), deadline=world.after(days=4))
    await draw(world, third, days=5)
    told = await draws.get_certificate(world.house, mara, third)
    assert [(e["name"], e["outcome"]) for e in told["earlier"]] == [("First", "cancelled"), ("Second", "drawn")]
    assert all(len(e["commitment"]) == 64 for e in told["earlier"])


async def test_two_announced_at_once_leave_one_open(world: World) -> None:
    post, _ = await contest(world)
    both = await asyncio.gather(*(announce(world, post) for _ in range(2)), return_exceptions=True)
    assert sum(isinstance(b, int) for b in both) == 1
    assert len(await draws.list_draws(world.house, world.scopes["mara"])) == 1


async def test_a_public_value_named_beforehand_is_mixed_in(world: World) -> None:
    post, _ = await contest(world)
    mara = world.scopes["mara"]
    id = await announce(world, post, public_source="The lottery numbers of Saturday")
    with pytest.raises(Invalid, match="lottery numbers of Saturday"):
        await draw(world, id)
    await draws.draw_now(world.house, mara, id, world.after(days=2), public_value="4 8 15 16 23 42")
    told = await draws.get_certificate(world.house, mara, id)
    assert told["public"] == {"source": "The lottery numbers of Saturday", "value": "4 8 15 16 23 42"}
    assert check_certificate(told) == []


async def test_winners_are_written_to_once(world: World) -> None:
    post, _ = await contest(world)
    mara = world.scopes["mara"]
    saved = await texts.add_saved_reply(
        world.house, mara, SavedReplyBody(name="Won", text="You won, {first name}!"), world.now
    )
    id = await announce(world, post)
    with pytest.raises(Invalid, match="not been drawn"):
        await draws.notify(world.house, mara, id, saved_reply=saved, places=[1], now=world.now)
    await draw(world, id)
    at = world.after(days=2)
    told = await draws.notify(world.house, mara, id, saved_reply=saved, places=[1, 2], now=at)
    assert [t["outcome"] for t in told] == ["sent", "sent"]
    again = await draws.notify(world.house, mara, id, saved_reply=saved, places=[1], now=at)
    assert [(t["outcome"], t["reason"]) for t in again] == [("left", "They have been written to already.")]
    await go(world, days=2, seconds=11)
    places = (await draws.get_draw(world.house, mara, id))["places"]
    assert sorted(await outside(world)) == sorted(f"You won, {p['name']}!" for p in places[:2])
    assert [bool(p["notice"]) for p in places] == [True, True, False]
    with pytest.raises(Invalid, match="no such place"):
        await draws.notify(world.house, mara, id, saved_reply=saved, places=[4], now=at)
    (left,) = await draws.notify(world.house, mara, id, saved_reply=999, places=[3], now=at)
    assert (left["outcome"], "no such saved reply" in left["reason"]) == ("left", True)
    assert (await draws.get_draw(world.house, mara, id))["places"][2]["notice"] is None


async def test_an_answer_to_a_winner_that_needs_approval_is_asked_for(world: World) -> None:
    post, _ = await contest(world, "anna")
    mara = world.scopes["mara"]
    body = PolicyBody(name="Prizes", when=PolicyWhen(words=("won",)), roles=("owner",))
    await policies.add_policy(world.house, mara, body, on=True, now=world.now)
    saved = await texts.add_saved_reply(world.house, mara, SavedReplyBody(name="Won", text="You won!"), world.now)
    id = await announce(world, post)
    await draw(world, id)
    told = await draws.notify(world.house, mara, id, saved_reply=saved, places=[1], now=world.after(days=2))
    assert [t["outcome"] for t in told] == ["asked"]
    assert len(await approvals.list_approvals(world.house, world.scopes["noor"])) == 1


async def test_who_may_and_what_cannot_be(world: World) -> None:
    post, _ = await contest(world, "anna")
    for who in ("ilse", "ana", "lise"):
        with pytest.raises(NotAllowed, match="draw prizes"):
            await draws.announce(world.house, world.scopes[who], post, rules(world), world.now)
    with pytest.raises(NotFound):
        await draws.announce(world.house, world.scopes["otto"], post, rules(world), world.now)
    with pytest.raises(Invalid, match="tag that is not here"):
        await announce(world, post, staff=(99,))
    id = await announce(world, post, words=("nobody says this",))
    with pytest.raises(Invalid, match="Nobody takes part"):
        await draw(world, id)
    with pytest.raises(NotFound, match="no certificate"):
        await draws.get_certificate(world.house, world.scopes["mara"], id)
    await draws.cancel(world.house, world.scopes["mara"], id, world.now)
    with pytest.raises(TooLate):
        await draw(world, id)
    assert (await draws.list_draws(world.house, world.scopes["lise"]))[0]["cancelled_at"] is not None
