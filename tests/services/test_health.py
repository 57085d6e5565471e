"""Accounts' health: how late what came was, hour by hour, and what waits, was refused or kept aside."""

from datetime import timedelta
from typing import Any

import pytest

from sorta.core.errors import NotAllowed
from sorta.services import answers, delivery, health
from sorta.services.intake import keep_aside
from sorta.store import accounts
from tests.world import World

pytestmark = pytest.mark.anyio


async def look(world: World, **after: float) -> dict[str, Any]:
    found = await health.get_health(world.house, world.scopes["mara"], world.after(**after))
    return {account["network"]: account for account in found["accounts"]}


async def test_how_late_what_came_was(world: World) -> None:
    for n, late in enumerate((2, 10, 60)):
        said = await world.say("hello", handle=f"h{n}", at=world.now)
        await world.take(said, now=world.after(seconds=late))
    said = await world.say("hello again", handle="h9", at=world.after(hours=-3))
    await world.take(said, now=world.after(hours=-2))
    found = await look(world, minutes=30)
    commonfold = found["commonfold"]
    assert (commonfold["came"], commonfold["lag_half"], commonfold["lag_worst"]) == (4, 35.0, 3600.0)
    assert commonfold["last_in_at"] == world.after(seconds=60)
    # The last hour is the one that lasts; two before it one came, an hour late.
    assert [h["came"] for h in commonfold["hours"]] == [0] * 21 + [1, 0, 3]
    assert commonfold["hours"][23] | {} == {**commonfold["hours"][23], "lag_half": 10.0, "lag_worst": 60.0}
    quiet = found["quillet"]
    assert (quiet["came"], quiet["lag_half"], quiet["last_in_at"], quiet["waiting"]) == (0, None, None, 0)
    assert all(h["came"] == 0 for h in quiet["hours"])


async def test_when_a_networks_leave_ends_and_what_is_connected_no_more(world: World) -> None:
    ends = world.after(days=3)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update account set token_ends_at = %s where network = 'commonfold'", [ends])
        await tx.execute("update account set token_ends_at = %s, refresh_token = 'x' where network = 'quillet'", [ends])
    found = await look(world)
    told = {network: (one["token_ends_at"], one["renews"], one["disconnected_at"]) for network, one in found.items()}
    assert (told["commonfold"], told["quillet"]) == ((ends, False, None), (ends, True, None))
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update account set disconnected_at = %s where network = 'quillet'", [world.now])
    assert (await look(world))["quillet"]["disconnected_at"] == world.now


async def test_what_waits_was_refused_and_kept_aside(world: World) -> None:
    ids = [await world.hear("Are you open?", handle=f"h{n}") for n in range(2)]
    for id in ids:
        await answers.reply(
            world.house, world.scopes["mara"], id, text="Yes.", public=True, seen_seq=(await world.row(id))["seq"],
            settle=False, now=world.now,
        )  # fmt: skip
    waiting = (await look(world, seconds=5))["commonfold"]
    assert (waiting["waiting"], waiting["refused"], waiting["last_out_at"]) == (2, 0, None)
    await world.control("mischief/commonfold", refuse=1)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=60))
    after = (await look(world, minutes=2))["commonfold"]
    assert (after["waiting"], after["refused"]) == (0, 1)
    assert after["last_out_at"] is not None
    async with world.house.db.transact(world.workspace_id) as tx:
        account = (await accounts.list_accounts(tx))[0]
    await keep_aside(world.house, account, world.now, "webhook", "It is not JSON.", "{")
    assert (await look(world, minutes=2))[account.network]["aside"] == 1
    assert (await look(world, days=2))[account.network]["aside"] == 0


async def test_it_is_for_who_sees_reports_and_of_ones_own_workspace(world: World) -> None:
    with pytest.raises(NotAllowed):
        await health.get_health(world.house, world.scopes["ilse"], world.now)
    theirs = await health.get_health(world.house, world.scopes["otto"], world.now + timedelta(hours=1))
    ours = {account["account_id"] for account in (await look(world)).values()}
    assert not ours & {account["account_id"] for account in theirs["accounts"]}
