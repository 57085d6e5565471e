"""What is kept for how long, swept by the role that the worker has."""

import asyncio
from dataclasses import replace

import pytest

from dev.cluster import Cluster
from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.services import acts, alerts, erasing, forgotten, granting, invitations, profiles, retention
from sorta.services.checking import find_differences
from sorta.store.db import Database
from tests.services.test_erasing import find_word
from tests.services.test_invitations import Post
from tests.world import KEYS, World, name_database

pytestmark = pytest.mark.anyio


async def count(world: World, table: str) -> int:
    async with world.house.db.transact(world.workspace_id) as tx:
        row = await (await tx.execute(f"select count(*) from {table}")).fetchone()  # type: ignore[arg-type]
    assert row is not None
    return int(row[0])


async def test_the_worker_may_sweep_all_that_is_named_and_it_goes_in_its_time(world: World, pg: Cluster) -> None:
    world.house = replace(world.house, post=Post(), address="https://desk.example")
    scope = world.scopes["noor"]
    await invitations.invite(world.house, scope, "late@tidewater.example", invitations.Place(role="lead"), world.now)
    await invitations.invite(world.house, scope, "gone@tidewater.example", invitations.Place(role="lead"), world.now)
    pending = {one["email"]: one["id"] for one in await invitations.list_pending(world.house, scope, world.now)}
    await invitations.cancel(world.house, scope, pending["gone@tidewater.example"], world.now)
    await forgotten.mail_link(world.house, "ilse@brinewick.example", world.now)
    await granting.ask(world.house, world.scopes["noor"], "quillet", world.now)
    worker = replace(
        world.house,
        db=Database(pg.conninfo("sorta_worker", name_database(world)), keys=KEYS, min_size=1, max_size=2),
    )
    await worker.db.open()
    try:
        await retention.sweep(worker, world.workspace_id, world.after(hours=1))
        assert (await count(world, "invitation"), await count(world, "password_link")) == (2, 1)
        assert await count(world, "grant_try") == 1
        await retention.sweep(worker, world.workspace_id, world.after(days=3))
        assert (await count(world, "invitation"), await count(world, "password_link")) == (2, 0)
        assert await count(world, "grant_try") == 0
        await retention.sweep(worker, world.workspace_id, world.after(days=60))
        assert await count(world, "invitation") == 0
    finally:
        await worker.db.close()
    assert len({kept.name for kept in retention.PERIODS}) == len(retention.PERIODS)


async def test_a_workspace_chooses_and_sees_before_what_would_go(world: World) -> None:
    """Counted by deleting and taking that back: what the preview says is what goes, and nothing before."""
    house, noor = world.house, world.scopes["noor"]
    async with house.db.transact(world.workspace_id) as tx:
        for n in range(5):
            await alerts.add_alerts(
                tx,
                members=[noor.member_id],
                occasion="late",
                words="x",
                conversation_id=None,
                key=str(n),
                now=world.after(days=-10 * n - 1),
            )
    for days, goes in ((30, 2), (20, 3), (1, 4), (None, 0)):
        assert await retention.preview(house, noor, "alerts", days, world.now) == {"count": goes, "more": False}
    assert await count(world, "alert") == 5
    await retention.set_period(house, noor, "alerts", 30)
    await retention.sweep(house, world.workspace_id, world.now)
    assert await count(world, "alert") == 3
    await retention.set_period(house, noor, "alerts", None)
    await retention.sweep(house, world.workspace_id, world.after(days=999))
    assert await count(world, "alert") == 3
    shown = {p["name"]: p for p in await retention.list_periods(house, world.workspace_id)}
    assert (shown["alerts"]["days"], shown["alerts"]["usual"], shown["people"]["days"]) == (None, 90, None)
    assert {p["usual"] for p in await retention.list_periods(house, world.other_workspace_id)} >= {90}
    for name, days, wrong in (
        ("sessions", 1, NotFound),
        ("rain", 1, NotFound),
        ("alerts", 0, Invalid),
        ("alerts", 40_000, Invalid),
    ):
        with pytest.raises(wrong):
            await retention.set_period(house, noor, name, days)
    with pytest.raises(NotAllowed):
        await retention.set_period(house, world.scopes["mara"], "alerts", 1)
    with pytest.raises(NotAllowed):
        await retention.preview(house, world.scopes["mara"], "alerts", 1, world.now)


async def test_who_was_heard_of_long_ago_is_erased_and_nobody_with_whom_something_is_open(
    world: World, pg: Cluster
) -> None:
    house, mara, noor = world.house, world.scopes["mara"], world.scopes["noor"]
    ids = {}
    for name, days in (
        ("longago", 400),
        ("openold", 400),
        ("lately", 10),
        ("reminded", 400),
        ("joinedin", 400),
        ("keeper", 400),
    ):
        ids[name] = await world.hear(f"{name} was here", handle=name, at=world.after(days=-days))
        if name != "openold":
            await acts.settle(
                house, mara, ids[name], how=SettledAs.NO_REPLY_NEEDED, now=world.after(days=-days, minutes=5)
            )
    people = {name: (await world.row(id))["person_id"] for name, id in ids.items()}
    await profiles.add_follow_up(
        house, mara, people["reminded"], words="Ring", due_at=world.after(days=1), member_id=None, now=world.now
    )
    # Joined into somebody who writes on: theirs stays with them.
    await profiles.join(house, mara, people["keeper"], people["joinedin"], world.now)
    await world.hear("still here", handle="keeper", at=world.after(days=-2))
    assert await retention.preview(house, noor, "people", 365, world.now) == {"count": 1, "more": False}
    await retention.set_period(house, noor, "people", 365)
    await retention.sweep(house, world.workspace_id, world.now)
    gone = {name for name, id in ids.items() if (await world.row(id))["person_name"] == "Erased person"}
    assert gone == {"longago"}
    assert find_word(pg, world, "longago was here") == {}
    assert await find_differences(house, world.workspace_id, world.now) == {}
    async with house.db.transact(world.workspace_id) as tx:
        row = await (await tx.execute("select person_id, made_by from erasure")).fetchone()
    assert row == (people["longago"], None)
    # One who writes just as it begins is left.
    assert not await erasing.erase_forgotten(
        house, world.workspace_id, people["lately"], world.after(days=-365), world.now
    )


async def test_two_sweeps_at_once_erase_somebody_once_and_neither_fails(world: World) -> None:
    id = await world.hear("longago was here", handle="longago", at=world.after(days=-400))
    person = (await world.row(id))["person_id"]
    at = world.after(days=-400, minutes=5)
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.NO_REPLY_NEEDED, now=at)
    args = (world.house, world.workspace_id, person, world.after(days=-365), world.now)
    done = await asyncio.gather(erasing.erase_forgotten(*args), erasing.erase_forgotten(*args))
    assert sorted(done) == [False, True]
