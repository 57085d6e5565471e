"""One poisoned thing stops nothing else: it is kept aside with its reason, and what came with it, after it and elsewhere goes on."""

import asyncio
import json
from datetime import UTC, datetime
from typing import Any, LiteralString

import psycopg
import pytest

from sorta.core.bounds import LONGEST_ID, LONGEST_TEXT, bound
from sorta.core.errors import Unreadable
from sorta.core.ports import BackfillPage, IdentitySeen, Kind, MessageSeen, RemovalSeen
from sorta.services import accounts, intake
from sorta.services.intake import Intake
from sorta.store import db
from sorta.store.db import Unavailable, Unstorable
from tests.world import World

pytestmark = pytest.mark.anyio


def poison(activity: dict[str, Any], how: str) -> dict[str, Any]:
    """An activity that something in us chokes on; each of these once stopped a workspace."""
    thing = activity["object"]
    match how:
        case "words":
            thing["content"] = " ".join(f"w{n}" for n in range(116_000))
        case "id":
            thing["id"] += "x" * 5000
        case "nul":
            thing["content"] = "a\x00b"
        case "surrogate":
            thing["content"] = "a\ud83db"
        case "year":
            thing["published"] = "0001-01-01T00:00:00+02:00"
        case "far":
            thing["published"] = "9999-12-31T23:59:59-12:00"
        case "nested":
            for _ in range(900):
                thing["content"] = [thing["content"]]
    return activity


HOW = ("words", "id", "nul", "surrogate", "year", "far", "nested")


@pytest.mark.parametrize("how", HOW)
async def test_what_came_with_it_is_taken_in(world: World, how: str) -> None:
    door = Intake(world.house)
    said = [await world.say(f"hello {n}", handle=f"p{n}") for n in range(5)]
    poison(said[2], how)
    account = world.accounts["commonfold"]
    await asyncio.gather(*(door.take(account, json.dumps(one), world.now) for one in said))
    for one in (*said[:2], *said[3:]):
        assert (await world.find(one["object"]["id"])).body.startswith("hello")
    kept = await accounts.list_aside(world.house, world.scopes["noor"])
    # A text without end is cut and says so; everything else is kept aside, and says why.
    assert len(kept) == (0 if how == "words" else 1)
    if how == "words":
        assert "more characters were left out" in (await world.find(said[2]["object"]["id"])).body


@pytest.mark.parametrize("how", HOW)
async def test_backfill_goes_on_behind_it_and_with_every_other_account(
    world: World, how: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    said = [await world.say(f"hello {n}", handle=f"p{n}") for n in range(3)]
    poison(said[1], how)
    later = await world.say("elsewhere", network="pixfern", kind="mention")
    network = type(world.house.networks["commonfold"])

    async def list_since(self: Any, account: Any, cursor: str | None) -> BackfillPage:
        if self.abilities.network == "commonfold":
            return BackfillPage(activities=tuple(said), cursor="end", more=False)
        found = (later,) if self.abilities.network == "pixfern" else ()
        return BackfillPage(activities=found, cursor="end", more=False)

    monkeypatch.setattr(network, "list_since", list_since)
    for _ in range(2):
        await intake.backfill_all(world.house, world.workspace_id, world.now)
    assert (await world.find(said[0]["object"]["id"])).body == "hello 0"
    assert (await world.find(said[2]["object"]["id"])).body == "hello 2"
    assert (await world.find(later["object"]["id"], "pixfern")).body == "elsewhere"
    assert (
        await accounts.get_account(world.house, world.workspace_id, world.accounts["commonfold"].id)
    ).backfill_cursor


async def test_an_adapter_that_fails_unforeseen_keeps_it_aside(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    """A mistake of ours in one message is as little the database's absence as it is everybody's trouble."""
    door, account = Intake(world.house), world.accounts["commonfold"]

    def fail(*_: object, **__: object) -> None:
        raise ZeroDivisionError("a mistake of ours")

    monkeypatch.setattr("sorta.services.ingest.get_thread_key", fail)
    await door.take(account, json.dumps(await world.say("hi")), world.now)
    (kept,) = await accounts.list_aside(world.house, world.scopes["noor"])
    assert "a mistake of ours" in kept["reason"]
    monkeypatch.undo()
    assert await intake.try_aside_again(world.house, world.workspace_id, kept["id"], world.now) is None


async def test_who_goes_away_leaves_nobody_waiting(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    """A caller that hangs up while its batch fails: the others are answered all the same."""
    door, account = Intake(world.house), world.accounts["commonfold"]
    said = [json.dumps(await world.say(f"hello {n}", handle=f"p{n}")) for n in range(3)]

    async def fail(*_: object) -> int:
        await asyncio.sleep(0.05)
        raise Unavailable("away")

    monkeypatch.setattr("sorta.services.intake.take_in", fail)
    waiting = [asyncio.create_task(door.take(account, one, world.now)) for one in said]
    await asyncio.sleep(0.03)
    waiting[0].cancel()
    _, *others = await asyncio.wait_for(asyncio.gather(*waiting, return_exceptions=True), 60)
    assert all(isinstance(one, Unavailable) for one in others)
    monkeypatch.undo()
    await asyncio.wait_for(door.take(account, said[1], world.now), 60)


async def test_trouble_is_told_apart_by_its_sqlstate(world: World) -> None:
    """PostgreSQL 15, appendix A: 54000 program_limit_exceeded is the value's own doing, 57014 is not; both are errors of
    operation to the driver (psycopg.errors)."""
    assert issubclass(psycopg.errors.ProgramLimitExceeded, psycopg.OperationalError)

    async def ask(statement: LiteralString, within: int = 0, **values: Any) -> None:
        """Ended by the database after `within` milliseconds; 0 for never."""
        async with world.house.db.transact(world.workspace_id) as tx:
            await tx.execute(f"set local statement_timeout = {within}")  # type: ignore[arg-type]
            await db.fetch_value(tx, statement, values)

    with pytest.raises(Unstorable, match="too long for tsvector"):
        await ask("select to_tsvector('simple', %(words)s)", words=" ".join(f"w{n}" for n in range(200_000)))
    with pytest.raises(Unavailable, match="statement timeout"):
        await ask("select pg_sleep(30)", within=50)
    with pytest.raises(Unstorable):
        await ask("select %(words)s", words="a\x00b")


def seen(**more: Any) -> MessageSeen:
    partner = IdentitySeen(external_id="p", handle="p", name="P")
    given = {"external_id": "m", "kind": Kind.COMMENT, "public": True, "by_us": False, "partner": partner, "body": "b"}
    return MessageSeen(**{**given, "sent_at": datetime(2026, 1, 1, tzinfo=UTC), "thread_root": "t", **more})


def test_bounds_cut_texts_and_refuse_ids() -> None:
    assert bound(seen(body="x" * LONGEST_TEXT)).body == "x" * LONGEST_TEXT
    assert "[… 1 more" in bound(seen(body="x" * (LONGEST_TEXT + 1))).body
    assert bound(seen(external_id="ä" * (LONGEST_ID // 2))).external_id
    for name in ("external_id", "thread_root", "in_reply_to"):
        with pytest.raises(Unreadable, match="longer than"):
            bound(seen(**{name: "ä" * (LONGEST_ID // 2 + 1)}))
    assert bound(seen(url="https://x.example/" + "y" * 4000)).url is None
    with pytest.raises(Unreadable, match="year 1"):
        bound(RemovalSeen(external_id="m", at=datetime(1, 1, 1, tzinfo=UTC)))
