"""What is kept for how long, swept by the role that the worker has."""

from dataclasses import replace

import pytest

from dev.cluster import Cluster
from sorta.services import forgotten, granting, invitations, retention
from sorta.store.db import Database
from tests.services.test_invitations import Post
from tests.world import KEYS, World, name_database

pytestmark = pytest.mark.anyio


async def count(world: World, table: str) -> int:
    async with world.house.db.transact(world.workspace_id) as conn:
        row = await (await conn.execute(f"select count(*) from {table}")).fetchone()  # type: ignore[arg-type]
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
