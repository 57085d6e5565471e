"""Reads that go together on one connection: asked before any is answered, and ended by the first that fails."""

import asyncio

import psycopg
import pytest

from sorta.store import db
from tests.world import World

pytestmark = pytest.mark.anyio
NUMBER = "select %(n)s::int as n"


async def test_all_is_asked_before_anything_is_answered(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    order: list[str] = []
    execute, fetch = psycopg.AsyncCursor.execute, psycopg.AsyncCursor.fetchall

    async def note_execute(cursor, *given, **more):  # type: ignore[no-untyped-def]
        order.append("asked")
        return await execute(cursor, *given, **more)

    async def note_fetch(cursor):  # type: ignore[no-untyped-def]
        order.append("waited")
        return await fetch(cursor)

    async with world.house.db.transact(world.workspace_id, pipelined=True) as tx:
        monkeypatch.setattr(psycopg.AsyncCursor, "execute", note_execute)
        monkeypatch.setattr(psycopg.AsyncCursor, "fetchall", note_fetch)
        async with db.at_once() as tasks:
            found = [tasks.create_task(db.fetch_dicts(tx, NUMBER, {"n": n})) for n in range(3)]
        monkeypatch.undo()
    assert order == ["asked"] * 3 + ["waited"] * 3
    assert [one.result() for one in found] == [[{"n": n}] for n in range(3)]


async def test_the_first_failure_is_what_it_is_and_ends_the_others(world: World) -> None:
    waiting: list[asyncio.Task[None]] = []

    async def wait_for_ever() -> None:
        await asyncio.Event().wait()

    async def fail() -> None:
        async with world.house.db.transact(world.workspace_id, pipelined=True) as tx, db.at_once() as tasks:
            waiting.append(tasks.create_task(wait_for_ever()))
            tasks.create_task(db.fetch_dicts(tx, "select 1 / %(n)s::int as n", {"n": 0}))

    with pytest.raises(db.Unstorable):
        await fail()
    assert waiting[0].cancelled()
    async with world.house.db.transact(world.workspace_id) as tx:
        assert await db.fetch_dicts(tx, NUMBER, {"n": 7}) == [{"n": 7}]
