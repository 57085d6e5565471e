"""What was said before an account was connected: not read by itself, read over a range when asked for, and no rule answers it."""

from datetime import timedelta
from typing import Any

import pytest

from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.core.ports import Unreachable
from sorta.core.rules import AnswerWith
from sorta.services import accounts, acts, earlier, granting, intake
from sorta.services.checking import find_differences
from sorta.store.accounts import Account
from tests.services.test_ruling import add
from tests.world import World

pytestmark = pytest.mark.anyio


async def connect(world: World, network: str = "commonfold") -> Account:
    """The account there is, as if it were connected just now and had never been read."""
    id = world.accounts[network].id
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update account set reads_from = %s, backfill_cursor = null where id = %s", [world.now, id])
    return await accounts.get_account(world.house, world.workspace_id, id)


async def say(world: World, text: str, **ago: float) -> dict[str, Any]:
    return await world.say(
        text, handle=text.split(" ")[0].lower(), kind="visitor_post", at=world.now - timedelta(**ago)
    )


async def list_rows(world: World) -> dict[str, tuple[str, str | None]]:
    """What is here: each conversation by its first word, with its move and how it was settled."""
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (await tx.execute("select preview, move, settled_as from conversation order by id")).fetchall()
    return {row[0].split(" ")[0]: (row[1], row[2]) for row in rows}


async def start(world: World, days: int = 30, *, stays_open: bool = False, who: str = "noor", **after: float) -> int:
    account = world.accounts["commonfold"].id
    scope = world.scopes[who]
    return await earlier.start(world.house, scope, account, days=days, stays_open=stays_open, now=world.after(**after))


async def read(world: World, **after: float) -> int:
    return await earlier.read_on(world.house, world.workspace_id, world.after(**after))


async def look(world: World) -> dict[str, Any]:
    return (await earlier.list_runs(world.house, world.scopes["noor"], world.accounts["commonfold"].id))[0]


async def test_an_account_just_connected_reads_what_is_new_and_no_rule_answers_years_ago(world: World) -> None:
    await add(world, AnswerWith(text="We are on our way"), name="Answers")
    for text, days in (("Ancient one", 700), ("Older one", 20)):
        await say(world, text, days=days)
    await say(world, "Just before", minutes=20)
    account = await connect(world)
    await intake.backfill(world.house, world.workspace_id, account.id, world.now)
    assert list(await list_rows(world)) == ["Just"]
    await say(world, "Fresh one", minutes=-5)
    await intake.backfill(world.house, world.workspace_id, account.id, world.after(minutes=6))
    assert list(await list_rows(world)) == ["Just", "Fresh"]
    # What was asked for comes, and is answered by nobody.
    await start(world, minutes=6)
    await read(world, minutes=7)
    rows = await list_rows(world)
    assert rows["Older"] == ("settled", "no_reply_needed")
    assert "Ancient" not in rows
    async with world.house.db.transact(world.workspace_id) as tx:
        answered = await (
            await tx.execute(
                "select c.preview from outbox o join conversation c on c.id = o.conversation_id order by 1"
            )
        ).fetchall()
    assert [row[0].split(" ")[0] for row in answered] == ["Fresh", "Just"]
    assert await find_differences(world.house, world.workspace_id, world.after(minutes=8)) == {}


async def test_what_has_no_answer_stays_open_where_that_is_wanted(world: World) -> None:
    asked = await say(world, "Asked then", days=3)
    await world.control(
        "say", network="commonfold", handle="brinewick", name="Brinewick Aquarium", page="brinewick", kind="reply",
        text="Answered then", parent=asked["object"]["id"], tell=False,
    )  # fmt: skip
    await say(world, "Unanswered yet", days=2)
    await connect(world)
    await start(world, stays_open=True, minutes=1)
    await read(world, minutes=1)
    rows = await list_rows(world)
    assert rows["Unanswered"] == ("unsorted", None)
    assert (await look(world))["state"] == "done"


async def test_it_goes_on_page_by_page_says_how_far_it_is_and_takes_each_once(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(earlier, "PAGES", 2)
    for n in range(130):
        await say(world, f"Number{n} here", days=9, minutes=-n)
    await connect(world)
    id = await start(world, days=10)
    seen = []
    for minute in range(12):
        await earlier.read_on(world.house, world.workspace_id, world.after(minutes=minute))
        run = await look(world)
        seen.append((run["seen"], run["expected"], run["state"]))
        if run["state"] == "done":
            break
    assert seen[0][1] == 130
    assert seen[-1] == (130, 130, "done")
    assert (await look(world))["taken"] == len(await list_rows(world)) == 130
    assert [s for s, _, _ in seen] == sorted(s for s, _, _ in seen)
    # Once more, nothing is new.
    assert await start(world, days=10, hours=1) != id
    await earlier.read_on(world.house, world.workspace_id, world.after(hours=1))
    for minute in range(12):
        await earlier.read_on(world.house, world.workspace_id, world.after(hours=1, minutes=minute))
    assert ((await look(world))["state"], (await look(world))["taken"]) == ("done", 0)


async def test_a_network_that_breaks_is_asked_again_from_where_it_was(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    for n in range(3):
        await say(world, f"Number{n} here", days=1)
    await connect(world)
    await start(world)
    known = world.house.networks["commonfold"]

    async def fail(*_: Any) -> Any:
        raise Unreachable("Commonfold: 500")

    with monkeypatch.context() as patch:
        patch.setattr(known, "list_range", fail)
        assert await read(world) == 0
    assert "500" in (await look(world))["problem"]
    assert await read(world) == 0, "not at once again"
    await read(world, minutes=5)
    assert ((await look(world))["state"], (await look(world))["taken"], (await look(world))["problem"]) == (
        "done",
        3,
        None,
    )


async def test_one_at_a_time_stopped_and_refused(world: World) -> None:
    await say(world, "Earlier one", days=1)
    await connect(world)
    id = await start(world)
    with pytest.raises(Impossible, match="already"):
        await start(world)
    account = world.accounts["commonfold"].id
    await earlier.stop(world.house, world.scopes["noor"], account, id, world.now)
    assert await read(world) == 0
    assert await list_rows(world) == {}
    with pytest.raises(NotFound):
        await earlier.stop(world.house, world.scopes["noor"], account, id, world.now)
    for days in (0, 4_000):
        with pytest.raises(Invalid):
            await start(world, days)
    for refused in (start(world, who="mara"), earlier.list_runs(world.house, world.scopes["mara"], account)):
        with pytest.raises(NotAllowed):
            await refused
    with pytest.raises(NotFound):
        await earlier.start(world.house, world.scopes["otto"], account, days=1, stays_open=False, now=world.now)
    await granting.disconnect(world.house, world.scopes["noor"], account, world.now)
    with pytest.raises(Impossible, match="disconnected"):
        await start(world)


async def test_what_was_settled_is_not_reopened_by_what_was_said_before(world: World) -> None:
    """A message that was missed comes after all: whoever settled the conversation has settled it."""
    first = await world.say(
        "Hello then", handle="anna", kind="private", network="hushline", at=world.now - timedelta(days=3)
    )
    missed = await world.say(
        "One more thing", handle="anna", kind="private", network="hushline", at=world.now - timedelta(days=2)
    )
    await world.take(first, network="hushline", now=world.now - timedelta(days=3))
    id = (await world.find(first["object"]["id"], "hushline")).conversation_id
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.ANSWERED, now=world.now - timedelta(days=1))
    account = world.accounts["hushline"].id
    await earlier.start(world.house, world.scopes["noor"], account, days=5, stays_open=False, now=world.now)
    await read(world)
    assert (await world.find(missed["object"]["id"], "hushline")).conversation_id == id
    assert (await world.row(id))["move"] == "settled"
    assert await find_differences(world.house, world.workspace_id, world.now) == {}
