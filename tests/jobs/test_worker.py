"""The real worker on a real queue: one reply goes out, what was parked comes back, a hole is filled. And the clock: every duty by
itself, whatever becomes of the others."""

import asyncio
import importlib
import inspect
import pkgutil
from collections.abc import AsyncIterator, Callable, Sequence
from contextlib import asynccontextmanager
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import psycopg
import pytest

from dev.cluster import Cluster
from sorta import services
from sorta.core.parking import ParkFor
from sorta.core.ports import Unreachable
from sorta.jobs import clock, worker
from sorta.jobs.clock import Clock, run_all_once
from sorta.jobs.tasks import add_tasks
from sorta.services import acts, duties, workspaces
from sorta.services.duties import BY_NAME, DUTIES, Duty, Ended, Place, run_once, stands_still
from sorta.services.house import House, Unavailable
from sorta.store import duties as duty_store
from sorta.store.db import Database
from sorta.store.duties import DutyRow
from tests.services.test_acts import reply
from tests.services.test_delivery import message, outside
from tests.world import World, name_database

pytestmark = pytest.mark.anyio


@pytest.fixture
async def queue(world: World) -> AsyncIterator[None]:
    add_tasks(world.house.queue.app, world.house)
    async with world.house.queue.app.open_async():
        yield


@pytest.fixture
async def working(world: World, pg: Cluster) -> AsyncIterator[House]:
    """The house as the worker has it: its role sees the duties of all workspaces."""
    db = Database(pg.conninfo("sorta_worker", name_database(world)), min_size=1, max_size=6)
    await db.open()
    yield replace(world.house, db=db)
    await db.close()


@asynccontextmanager
async def going(house: House, monkeypatch: pytest.MonkeyPatch, *these: Duty) -> AsyncIterator[None]:
    """The clock goes meanwhile, with these duties alone."""
    monkeypatch.setattr(duties, "DUTIES", these)
    task = asyncio.create_task(Clock(house).run())
    try:
        yield
    finally:
        task.cancel()
        await asyncio.gather(task, return_exceptions=True)


async def wait_until(is_so: Callable[[], bool], seconds: float = 5) -> None:
    for _ in range(round(seconds / 0.02)):
        if is_so():
            return
        await asyncio.sleep(0.02)
    assert is_so()


@pytest.mark.usefixtures("queue")
async def test_a_queued_reply_is_delivered_by_the_worker(world: World) -> None:
    id = await world.hear("hi")
    await reply(world, id, now=world.now)
    await world.house.queue.app.run_worker_async(wait=False, install_signal_handlers=False, listen_notify=False)
    assert (await message(world, id)).delivery == "delivered"
    assert await outside(world) == ["Hello"]


async def test_the_duties_are_safe_to_do_twice(world: World) -> None:
    id = await world.hear("hi")
    now = datetime.now(UTC)
    await acts.park(
        world.house, world.scopes["mara"], id, choice=ParkFor.THREE_HOURS, until=None, now=world.after(days=-9)
    )
    missed = await world.say("missed", handle="late")
    for n in range(2):
        await run_all_once(world.house, now + timedelta(hours=2 * n))
    assert await world.kinds(id) == ["arrived", "parked", "returned"]
    assert (await world.find(missed["object"]["id"])).body == "missed"
    assert await workspaces.list_working_ids(world.house) == [world.workspace_id, world.other_workspace_id]
    told = await duties.list_duties(world.house, world.scopes["noor"], world.now)
    assert {one["name"] for one in told} == set(BY_NAME)
    assert [one["problem"] for one in told if one["problem"]] == []
    # One for each account where it is about accounts.
    assert len([one for one in told if one["name"] == "backfill"]) == len(world.accounts)


def make_duty(run: Any, **more: Any) -> Duty:
    return Duty(**{"name": "tell_late", "says": "Telling", "every": 5, "within": 0.2, "run": run, **more})


async def get_row(world: World, name: str = "tell_late") -> dict[str, Any]:
    told = await duties.list_duties(world.house, world.scopes["noor"], world.now)
    return next(one for one in told if one["name"] == name)


async def test_a_duty_fails_by_itself_and_says_how(world: World) -> None:
    async def fail(*_: object) -> None:
        raise ZeroDivisionError("a mistake of ours")

    async def hang(*_: object) -> None:
        await asyncio.sleep(60)

    async def be_silent(*_: object) -> None:
        raise Unreachable("Commonfold did not answer.")

    async def succeed(*_: object) -> None:
        return None

    now = world.now
    for run, problem in (
        (fail, "ZeroDivisionError: a mistake of ours"),
        (hang, "It took longer than 0 seconds."),
        (be_silent, "Commonfold did not answer."),
        (succeed, None),
    ):
        now += timedelta(minutes=1)
        assert await run_once(world.house, make_duty(run), world.workspace_id, 0, now)
        assert (await get_row(world))["problem"] == problem
    assert not await run_once(world.house, make_duty(fail), world.workspace_id, 0, now + timedelta(seconds=3)), (
        "not yet"
    )


async def test_nobody_does_what_somebody_is_at_unless_they_died(world: World) -> None:
    began, go = asyncio.Event(), asyncio.Event()

    async def wait(*_: object) -> None:
        began.set()
        await go.wait()

    duty = make_duty(wait, within=10)
    first = asyncio.create_task(run_once(world.house, duty, world.workspace_id, 0, world.now))
    await began.wait()
    assert not await run_once(world.house, duty, world.workspace_id, 0, world.after(seconds=14))
    # Another workspace's is another's.
    second = asyncio.create_task(run_once(world.house, duty, world.other_workspace_id, 0, world.now))
    third = asyncio.create_task(run_once(world.house, duty, world.workspace_id, 0, world.after(seconds=16)))
    await asyncio.sleep(0.1)
    go.set()
    assert await asyncio.gather(first, second, third) == [True, True, True]


async def test_one_that_hangs_holds_up_no_other(world: World, working: House, monkeypatch: pytest.MonkeyPatch) -> None:
    """A duty that hangs in one workspace is done in the other, and all other duties everywhere."""
    done: list[tuple[str, int]] = []

    async def hang_in_one(house: House, workspace_id: int, now: datetime) -> None:
        if workspace_id == world.workspace_id:
            await asyncio.sleep(60)
        done.append(("hangs", workspace_id))

    async def other(house: House, workspace_id: int, now: datetime) -> None:
        done.append(("other", workspace_id))

    these = (make_duty(hang_in_one, name="mail_alerts", every=0.05, within=30), make_duty(other, every=0.05))
    monkeypatch.setattr(clock, "NOTED_EVERY", 0.02)
    async with going(working, monkeypatch, *these):
        await wait_until(lambda: len(done) > 12)
    assert done.count(("hangs", world.other_workspace_id)) >= 3
    assert done.count(("other", world.workspace_id)) >= 3
    assert ("hangs", world.workspace_id) not in done


async def test_how_each_ended_is_written_down_where_it_was(
    world: World, working: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Together, for all workspaces; what could not be written is written the next time, and what is left when the clock stops then."""
    began, kept, tries = set[int](), duties.end, list[int]()

    async def fail_in_one(house: House, workspace_id: int, now: datetime) -> None:
        began.add(workspace_id)
        if workspace_id == world.workspace_id:
            raise Unreachable("Commonfold did not answer.")

    async def end(house: House, ended: Sequence[Ended]) -> None:
        tries.append(len(ended))
        if len(tries) == 1:
            raise Unavailable("away")
        await kept(house, ended)

    monkeypatch.setattr(duties, "end", end)
    monkeypatch.setattr(clock, "NOTED_EVERY", 0.02)
    async with going(working, monkeypatch, make_duty(fail_in_one)):
        await wait_until(lambda: len(tries) > 1)
    began.clear()
    monkeypatch.setattr(clock, "NOTED_EVERY", 60)
    async with going(working, monkeypatch, make_duty(fail_in_one, name="mail_alerts")):
        await wait_until(lambda: len(began) == 2)
    for name in ("tell_late", "mail_alerts"):
        assert (await get_row(world, name))["problem"] == "Commonfold did not answer."
        assert (await get_row(world, name))["succeeded_at"] is None
        async with world.house.db.transact(world.other_workspace_id) as tx:
            (row,) = [row for row in await duty_store.list_duties(tx) if row.name == name]
        assert (row.succeeded_at is not None, row.problem, row.failures) == (True, None, 0)


async def test_more_than_there_are_slots_for_are_done_some_at_a_time_and_by_one_worker_each(
    world: World, working: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    running, most, done, begun = 0, 0, list[int](), list[int]()
    kept = duties.begin

    async def list_targets(house: House, duty: Duty, workspace_id: int) -> list[int]:
        return list(range(1, 21)) if workspace_id == world.workspace_id else []

    async def take_long(house: House, workspace_id: int, target: int, now: datetime) -> None:
        nonlocal running, most
        running += 1
        most = max(most, running)
        await asyncio.sleep(0.05)
        running -= 1
        done.append(target)

    async def begin(house: House, duty: Duty, places: Sequence[Place], now: datetime) -> list[Place]:
        begun.append(len(places) + running)
        return await kept(house, duty, places, now)

    monkeypatch.setattr(duties, "list_targets", list_targets)
    monkeypatch.setattr(duties, "begin", begin)
    # What ends while others still run is written down without losing those.
    monkeypatch.setattr(clock, "NOTED_EVERY", 0.01)
    duty = make_duty(None, run_for=take_long, every=60, within=5)
    async with going(working, monkeypatch, duty):
        await wait_until(lambda: len(done) == 20)
        assert most == clock.AT_ONCE
        # A lease runs from when it is begun: none is begun before there is a slot for it.
        assert max(begun) <= clock.AT_ONCE
        # Another worker, at the same time, finds nothing to do.
        async with going(working, monkeypatch, duty):
            await asyncio.sleep(0.3)
    assert sorted(done) == list(range(1, 21))
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await duty_store.list_duties(tx)
    assert len([row for row in rows if row.succeeded_at is not None]) == 20


async def test_only_the_workers_role_begins_for_all_workspaces(world: World, working: House) -> None:
    duty, now = make_duty(None), world.now
    places = [(world.workspace_id, 0), (world.other_workspace_id, 0)]
    with pytest.raises(psycopg.errors.InsufficientPrivilege):
        await duties.begin(world.house, duty, places, now)
    assert sorted(await duties.begin(working, duty, places, now)) == places
    assert await duties.begin(working, duty, places, world.after(seconds=5)) == [], "somebody is at it"
    ended = await asyncio.gather(*(duties.do(working, make_duty(asyncio.sleep), *place, now) for place in places))
    # Nobody else can say that it ended.
    await duties.end(world.house, ended)
    assert await duties.begin(working, duty, places, world.after(seconds=5)) == []
    await duties.end(working, ended)
    assert sorted(await duties.begin(working, duty, places, world.after(seconds=5))) == places
    # What was begun since is somebody else's, and goes on.
    await duties.end(working, ended)
    assert await duties.begin(working, duty, places, world.after(seconds=10)) == []


async def test_an_absent_database_stops_neither_clock_nor_queue(
    world: World, working: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    away, done = True, asyncio.Event()

    async def list_ids(house: House) -> list[int]:
        if away:
            raise Unavailable("away")
        return [world.workspace_id]

    async def succeed(*_: object) -> None:
        done.set()

    monkeypatch.setattr("sorta.jobs.clock.list_working_ids", list_ids)
    monkeypatch.setattr(duties, "DUTIES", (make_duty(succeed, every=5),))
    stop, begun = asyncio.Event(), []

    async def end_at_once(*_: object) -> None:
        begun.append(1)
        if len(begun) % 2:
            raise RuntimeError("the listener failed")

    monkeypatch.setattr(worker, "PAUSE", 0.01)
    monkeypatch.setattr(worker, "_work_off", end_at_once)
    work = asyncio.create_task(worker.work(working, stop))
    await asyncio.sleep(0.3)
    assert len(begun) > 4
    away = False
    await asyncio.wait_for(done.wait(), 3)
    stop.set()
    await asyncio.wait_for(work, 5)


@pytest.mark.parametrize(
    ("succeeded", "began", "failures", "still"),
    [
        (10, 5, 0, False),
        (130, 5, 0, False),
        (130, 5, 1, True),
        (130, 125, 0, True),
        (None, 5, 3, False),
        (None, 5, 10, True),
    ],
)
def test_when_a_duty_stands_still(succeeded: int | None, began: int, failures: int, still: bool) -> None:
    now = datetime(2026, 11, 20, 12, tzinfo=UTC)
    row = DutyRow(
        name="tell_late",
        target=0,
        began_at=now - timedelta(seconds=began),
        succeeded_at=None if succeeded is None else now - timedelta(seconds=succeeded),
        took_ms=1,
        failed_at=None,
        problem="x",
        failures=failures,
        account_name=None,
    )
    assert stands_still(row, now) is still


async def test_who_looks_after_accounts_is_told_once_of_what_stands_still(world: World) -> None:
    async def fail(*_: object) -> None:
        raise Unreachable("Commonfold did not answer.")

    duty = next(d for d in DUTIES if d.name == "backfill")
    account = world.accounts["commonfold"]
    failing = Duty(name=duty.name, says=duty.says, every=1, within=1, run_for=fail)
    for n in range(12):
        await run_once(world.house, failing, world.workspace_id, account.id, world.after(seconds=20 * n))
    for _ in range(2):
        await duties.tell_standing_still(world.house, world.workspace_id, world.after(minutes=5))
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (
            await tx.execute("select m.email, a.words from alert a join member m on m.id = a.member_id")
        ).fetchall()
    assert {row[0].split("@")[0] for row in rows} == {"noor"}
    ((_, words),) = rows
    assert "Brinewick Aquarium has not worked yet: Commonfold did not answer." in words


#: Shaped as a duty and none: by what it is done instead.
NO_DUTIES = {
    "attachments.sweep": "retention.sweep",
    "checking.find_differences": "`sorta check`, and carrying in",
    "delivery.deliver_due": "the demo and tests, at once",
    "desk.keep_counts": "folding the counts",
    "draws.close_due": "the duty close_draws",
    "intake.backfill_all": "the demo and tests, at once",
}


def test_whatever_is_shaped_as_a_duty_is_one_or_says_by_what_it_is_done() -> None:
    """A duty that is left out of the clock is missed by nobody until much later."""
    shaped = {
        f"{module.name}.{name}": made
        for module in pkgutil.iter_modules(services.__path__)
        for name, made in vars(importlib.import_module(f"sorta.services.{module.name}")).items()
        if inspect.iscoroutinefunction(made)
        and made.__module__ == f"sorta.services.{module.name}"
        and not name.startswith("_")
        and list(inspect.signature(made).parameters) == ["house", "workspace_id", "now"]
    }
    run = {duty.run for duty in DUTIES}
    assert {name for name, made in shaped.items() if made not in run} == set(NO_DUTIES)
    assert {duty.name for duty in DUTIES if duty.run is None} == {"backfill", "listen"}
    assert "close_draws" in {duty.name for duty in DUTIES}
