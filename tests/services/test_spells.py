"""Answer spells as rows: the hours and readings of their time, found when falsified, told anew the same."""

from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest

from sorta.core.facts import SettledAs
from sorta.core.rules import Anything, Conditions, RuleBody, SettleIt
from sorta.services import acts, answers, desk, rules
from sorta.services.checking import find_differences
from sorta.services.spells import find_other_spells, tell_all, tell_once
from sorta.store import trail
from tests.services.test_hours import COPENHAGEN, FRIDAY, OFFICE, TARGETS, set_hours
from tests.world import World

pytestmark = pytest.mark.anyio


async def list_spells(world: World, id: int) -> list[dict[str, Any]]:
    async with world.house.db.transact(world.workspace_id) as tx:
        return await trail.list_spells(tx, id)


async def execute(world: World, statement: str, *values: Any) -> None:
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute(statement, values)  # type: ignore[call-overload]


async def reply(world: World, id: int, text: str, *, seconds: float) -> None:
    seen = (await world.row(id))["seq"]
    await answers.reply(
        world.house,
        world.scopes["mara"],
        id,
        text=text,
        public=True,
        seen_seq=seen,
        settle=False,
        now=world.after(seconds=seconds),
    )


async def test_a_spell_carries_what_held_when_it_ended(world: World) -> None:
    """Working time by the hours of each stretch, the due by what was promised at the end, and the reading of that time."""
    mara, saturday = world.scopes["mara"], datetime(2026, 11, 21, 12, tzinfo=COPENHAGEN)
    world.now = FRIDAY - timedelta(days=30)
    await set_hours(world)
    id = await world.hear("The ramp was closed and nobody told us. Bad.", handle="a", at=FRIDAY)
    assert [(s["first"], s["ended_at"], s["work_s"]) for s in await list_spells(world, id)] == [(True, None, None)]
    world.now = FRIDAY + timedelta(hours=2)
    week, urgent = ["9-17"] * 5 + ["10-16", "closed"], {**TARGETS, "public": {**TARGETS["public"], "normal": 60}}
    await set_hours(world, week=week, targets=urgent, sure=True)
    sheet = await desk.get_sheet(world.house, mara, id, FRIDAY)
    message = next(m["id"] for m in sheet["messages"] if m["inbound"])
    await acts.correct(
        world.house, mara, id, message_id=message, field="language", value="da", now=saturday - timedelta(hours=1)
    )
    await acts.settle(world.house, mara, id, how=SettledAs.NO_REPLY_NEEDED, now=saturday)
    (spell,) = await list_spells(world, id)
    # An hour of Friday by the old hours, Saturday from 10 to 12 by the new ones; an hour promised by then.
    assert (spell["clock_s"], spell["work_s"]) == (20 * 3600, 3 * 3600)
    assert spell["due"] == FRIDAY + timedelta(hours=1)
    assert (spell["ended_by"], spell["how"], spell["member_id"]) == ("settled", "no_reply_needed", mara.member_id)
    assert spell["language"] == "da"
    await acts.correct(
        world.house, mara, id, message_id=message, field="language", value="de", now=saturday + timedelta(hours=1)
    )
    world.now = FRIDAY + timedelta(days=3)
    await set_hours(world, week=OFFICE)
    assert await tell_all(world.house, world.workspace_id) == 1
    assert await list_spells(world, id) == [spell]


async def test_what_is_falsified_is_found_and_told_anew(world: World) -> None:
    ids = [await world.hear("hi", handle=f"h{n}") for n in range(4)]
    for id in ids:
        await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.JUNK, now=world.after(minutes=5))
    assert await find_other_spells(world.house, world.workspace_id) == []
    await execute(world, "delete from spell where conversation_id = %s", ids[0])
    await execute(world, "update spell set work_s = work_s + 1 where conversation_id = %s", ids[1])
    await execute(world, "update spell set tags = '{7}' where conversation_id = %s", ids[2])
    assert await find_other_spells(world.house, world.workspace_id) == ids[:3]
    await tell_all(world.house, world.workspace_id)
    assert await find_other_spells(world.house, world.workspace_id) == []


async def test_every_column_that_is_falsified_is_found(world: World) -> None:
    id = await world.hear("hi", handle="a")
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.JUNK, now=world.after(minutes=5))
    async with world.house.db.transact(world.workspace_id) as tx:
        found = await tx.execute(
            "select column_name, data_type from information_schema.columns where table_name = 'spell'"
            " and column_name not in ('workspace_id', 'conversation_id')"
        )
        columns = await found.fetchall()
    assert len(columns) > 25
    other = {
        "integer": "coalesce({c}, 0) + 1",
        "bigint": "coalesce({c}, 0) + 1",
        "smallint": "coalesce({c}, 0) + 1",
        "double precision": "coalesce({c}, 0) + 1",
        "real": "coalesce({c}, 0) + 1",
        "text": "case when '{c}' = 'ended_by' then 'removed' else coalesce({c}, '') || 'x' end",
        "boolean": "not {c}",
        "timestamp with time zone": "{c} + case when '{c}' = 'since' then -1 else 1 end * interval '1 second'",
        "jsonb": "'[]'",
        "ARRAY": "'{{9}}'",
    }
    for name, kind in columns:
        value = other[kind].format(c=name) if name not in ("member_id",) else str(world.scopes["ilse"].member_id)
        await execute(world, f"update spell set {name} = {value} where conversation_id = %s", id)
        assert await find_other_spells(world.house, world.workspace_id) == [id], name
        await tell_all(world.house, world.workspace_id)
        assert await find_other_spells(world.house, world.workspace_id) == [], name


async def test_what_was_there_before_spells_were_kept_is_told_once(world: World) -> None:
    id = await world.hear("hi", handle="a")
    await execute(world, "delete from spell where conversation_id = %s", id)
    await tell_once(world.house, world.workspace_id, world.now)
    assert await list_spells(world, id) == []
    await execute(world, "update workspace set spells_told = false where id = %s", world.workspace_id)
    await tell_once(world.house, world.workspace_id, world.now)
    assert len(await list_spells(world, id)) == 1


async def test_how_long_an_answer_took_is_from_opening_to_sending(world: World) -> None:
    mara, id = world.scopes["mara"], await world.hear("Are you open on Monday?", handle="a")
    for seconds in (0, 20, 40, 60):
        await desk.set_presence(world.house, mara, id, "writing", world.after(seconds=seconds))
    await reply(world, id, "Yes, from nine.", seconds=75)
    other = await world.hear("And on Tuesday?", handle="b")
    # Away for a while, and back: what counts is since then.
    for seconds in (80, 300, 310):
        await desk.set_presence(world.house, mara, other, "reading", world.after(seconds=seconds))
    await reply(world, other, "Yes.", seconds=320)
    assert [s["handling_s"] for one in (id, other) for s in await list_spells(world, one)] == [75, 20]


async def test_a_spell_is_the_same_whatever_zone_its_instants_are_told_in(world: World) -> None:
    """As networks tell when something was said, with an offset, and a rule settles it in the same moment."""
    body = RuleBody(name="All", when=Conditions(parts=(Anything(),)), then=(SettleIt(),))
    await rules.add_rule(world.house, world.scopes["mara"], body, on=True, now=world.now)
    there = world.now.astimezone(ZoneInfo("Europe/Copenhagen"))
    said = await world.say("Is it open?", at=there)
    said["published"] = said["object"]["published"] = there.isoformat()
    await world.take(said, now=there)
    assert await find_differences(world.house, world.workspace_id, world.after(hours=1)) == {}
