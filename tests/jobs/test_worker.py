"""The real worker on a real queue: one reply goes out, what was parked comes back, a hole is filled."""

import pytest

from sorta.core.parking import ParkFor
from sorta.jobs.tasks import add_tasks
from sorta.services import acts, workspaces
from tests.services.test_acts import reply
from tests.services.test_delivery import message, outside
from tests.world import World

pytestmark = pytest.mark.anyio


async def test_a_queued_reply_is_delivered_by_the_worker(world: World) -> None:
    add_tasks(world.house.queue.app, world.house)
    id = await world.hear("hi")
    await reply(world, id, now=world.now)
    await world.house.queue.app.run_worker_async(wait=False, install_signal_handlers=False, listen_notify=False)
    assert (await message(world, id)).delivery == "delivered"
    assert await outside(world) == ["Hello"]


async def test_the_ticks_are_safe_to_run_twice(world: World) -> None:
    app = world.house.queue.app
    add_tasks(app, world.house)
    id = await world.hear("hi")
    await acts.park(
        world.house, world.scopes["mara"], id, choice=ParkFor.THREE_HOURS, until=None, now=world.after(days=-9)
    )
    missed = await world.say("missed", handle="late")
    for _ in range(2):
        for name in ("tick", "backfill"):
            await app.tasks[name].func(timestamp=0)
    assert await world.kinds(id) == ["arrived", "parked", "returned"]
    assert (await world.find(missed["object"]["id"])).body == "missed"
    assert await workspaces.list_all_workspace_ids(world.house) == [world.workspace_id, world.other_workspace_id]
