"""Far more than usual comes in: kept and told while it lasts, once, to those who lead; and how often chance may call it so."""

from datetime import datetime, timedelta
from typing import Any

import psycopg
import pytest

from sorta.core.errors import Invalid, NotAllowed
from sorta.core.periods import Named
from sorta.services import horizon, reports, unusual, waits
from sorta.services.reports import Ask
from tests.world import World

pytestmark = pytest.mark.anyio

#: So many conversations an hour, each hour of eight weeks: quiet weeks, as they would be by Poisson's law.
_WEEKS = """
insert into conversation (workspace_id, account_id, person_id, thread_key, kind, public, network, person_name, handle, preview,
  messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq, sorted, move, priority, unanswered, answering, tags)
select workspace_id, account_id, person_id, thread_key || at, kind, public, network, person_name, handle, preview, 1, at, at, at, 1, 1,
  true, 'settled', 1, '[]', '[]', '{}' from conversation, unnest(%(ats)s::timestamptz[]) at where id = %(like)s;
insert into spell (workspace_id, conversation_id, seq, account_id, network, kind, public, first, since, phases)
select workspace_id, id, 1, account_id, network, kind, public, true, created_at, '[]' from conversation where id > %(like)s
on conflict do nothing;
"""


async def fill(world: World, ats: list[datetime]) -> None:
    like = await world.hear("Are you open?")
    async with world.house.db.transact(world.workspace_id) as tx:
        for statement in _WEEKS.split(";\n"):
            if statement.strip():
                await psycopg.AsyncClientCursor(tx).execute(statement, {"ats": ats, "like": like})  # type: ignore[arg-type]


def list_weeks(world: World, storm: int) -> list[datetime]:
    """Two an hour for eight weeks, and a storm in this one."""
    hour = world.now.replace(minute=0, second=0, microsecond=0)
    usual = [hour - timedelta(hours=n, minutes=-20 * k) for n in range(1, 8 * 7 * 24) for k in (1, 2)]
    return usual + [hour + timedelta(seconds=n) for n in range(storm)]


async def list_alerts(world: World) -> list[tuple[int, str]]:
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await tx.execute("select member_id, words from alert where occasion = 'unusual' order by 1")
        return [(r[0], r[1]) for r in await rows.fetchall()]


async def look(world: World, **after: float) -> list[dict[str, Any]]:
    found = await horizon.get_horizon(world.house, world.scopes["ilse"], world.after(**after))
    shown: list[dict[str, Any]] = found["unusual"]
    return shown


async def test_a_storm_is_told_while_it_lasts_once_and_stands_on_the_desk(world: World) -> None:
    await fill(world, list_weeks(world, 20))
    now = world.after(minutes=10)
    leads = [world.scopes[name].member_id for name in ("mara", "noor")]
    assert await unusual.tell_unusual(world.house, world.workspace_id, now) == len(await list_alerts(world)) > 0
    told = await list_alerts(world)
    assert {member for member, _ in told} <= set(leads)
    assert world.scopes["mara"].member_id in {member for member, _ in told}
    # The fixture's own conversation came in the same hour.
    assert told[0][1].startswith("21 conversations came in since 13:00, where 2.")
    assert [(u["came"], round(u["expected"])) for u in await look(world, minutes=11)] == [(21, 2)]
    assert await unusual.tell_unusual(world.house, world.workspace_id, world.after(minutes=30)) == 0
    assert await look(world, hours=4) == []
    # Packing the days that are over changes nothing about it.
    await waits.pack_days(world.house, world.workspace_id, now)
    assert await unusual.tell_unusual(world.house, world.workspace_id, world.after(minutes=40)) == 0
    assert len(await list_alerts(world)) == len(told)


async def test_a_usual_hour_is_not_told_and_an_old_storm_is_a_matter_of_reports(world: World) -> None:
    await fill(world, list_weeks(world, 3))
    assert await unusual.tell_unusual(world.house, world.workspace_id, world.after(minutes=10)) == 0
    assert await look(world, minutes=10) == []


async def test_a_storm_that_is_over_for_hours_is_not_told(world: World) -> None:
    await fill(world, list_weeks(world, 30))
    assert await unusual.tell_unusual(world.house, world.workspace_id, world.after(hours=3)) == 0
    assert await list_alerts(world) == []


async def test_how_many_false_alarms_are_accepted_decides_what_is_unusual(world: World) -> None:
    mara = world.scopes["mara"]
    await fill(world, list_weeks(world, 7))
    counts = {}
    for a_month in unusual.CHOICES:
        await unusual.set_false_alarms(world.house, mara, a_month)
        report = await reports.get_report(world.house, mara, Ask(period=Named.DAYS_7), world.after(minutes=10))
        assert report["false_alarms"] == a_month
        counts[a_month] = len(report["unusual"])
    assert counts[0.25] < counts[4.0]
    with pytest.raises(Invalid, match="Choose one of"):
        await unusual.set_false_alarms(world.house, mara, 30)
    with pytest.raises(NotAllowed):
        await unusual.set_false_alarms(world.house, world.scopes["ilse"], 1.0)
