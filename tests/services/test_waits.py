"""Spells in bulk: packed days say what rows say, through every filter; whatever changes a spell forgets its day."""

import asyncio
from datetime import UTC, date, datetime, timedelta
from typing import Any

import numpy as np
import psycopg
import pytest

from sorta.core.facts import SettledAs
from sorta.core.periods import Named
from sorta.core.reports import Chosen
from sorta.core.waits import COLUMNS, Counting, Waits
from sorta.services import acts, reports, waits
from sorta.services.reports import Ask
from sorta.store.waits import _list_gaps
from tests.services.test_reports import furnish
from tests.world import World

pytestmark = pytest.mark.anyio

#: Spells by chance over a hundred days, an eighth of them open, by plain SQL: how they look is what matters here.
_SPELLS = """
select setseed(0.3);
insert into conversation (workspace_id, account_id, person_id, thread_key, kind, public, network, person_name, handle, preview,
  messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq, sorted, move, priority, unanswered, answering, team_id, owner_id, tags, sentiment, language)
select workspace_id, account_id, person_id, thread_key || n, kind, public, network, person_name, handle, preview, 1, created_at, last_at, last_at, 1, 1,
  true, 'our_move', n %% 4, '[]', '[]', null, case when n %% 3 = 0 then %(member)s end,
  case when n %% 5 = 0 then array[7::bigint] else '{}' end, random() * 2 - 1, (array['de', 'da', null])[1 + n %% 3]
from conversation, generate_series(1, 400) n where id = %(like)s;
insert into spell (workspace_id, conversation_id, seq, account_id, network, kind, public, first, since, phases, ended_at, ended_by, how,
  ended_seq, member_id, owner_id, priority, language, sentiment, tags, clock_s, work_s, parked_s, review_s, advice_s, case_s, handling_s, due)
select workspace_id, id, 1, account_id, network, (array['comment', 'review', 'mention'])[1 + id %% 3], id %% 2 = 0, true, at, '[]', at + took,
  case when id %% 4 = 0 then 'settled' else 'answered' end, case when id %% 4 = 0 then 'junk' end, 2,
  case when id %% 6 > 1 then %(member)s end, owner_id, priority, language, (id %% 3) - 1,
  case when id %% 5 = 0 then array[7::bigint, 8] when id %% 5 = 1 then array[9::bigint] else '{}' end, extract(epoch from took),
  extract(epoch from took) / 3, 1, 2, 3, 4, case when id %% 2 = 0 then 60 end, at + interval '1 day'
from (select c.*, %(now)s - random() * interval '100 days' as at, -ln(1 - random()) * interval '30 hours' as took
  from conversation c where id <> %(like)s and id %% 8 <> 0) c;
insert into spell (workspace_id, conversation_id, seq, account_id, network, kind, public, first, since, phases)
select workspace_id, id, 1, account_id, network, kind, public, true, %(now)s - random() * interval '20 days', '[]'
from conversation where id %% 8 = 0 and id <> %(like)s;
"""

#: The same filters as SQL says them, of a spell that ended and of one that is open.
_ORACLE = {
    "account": "s.account_id = any(%(v)s)",
    "member": "case when s.ended_at is null then c.owner_id else coalesce(s.member_id, s.owner_id) end = any(%(v)s)",
    "tag": "case when s.ended_at is null then c.tags else s.tags end && %(v)s::bigint[]",
    "person_tag": "exists (select from person_tag t where t.person_id = c.person_id and t.tag_id = any(%(v)s))",
    "kind": "s.kind = any(%(v)s)",
    "public": "s.public = any(%(v)s)",
    "priority": "case when s.ended_at is null then c.priority else s.priority end = any(%(v)s)",
    "language": "case when s.ended_at is null then c.language else s.language end = any(%(v)s)",
    "sentiment": "case when s.ended_at is null then c.sentiment_band else s.sentiment end = any(%(v)s)",
    "network": "s.network = any(%(v)s)",
}


async def fill(world: World) -> None:
    like = await world.hear("Are you open?")
    async with world.house.db.transact(world.workspace_id) as tx:
        values = {"like": like, "now": world.now, "member": world.scopes["mara"].member_id}
        for statement in _SPELLS.split(";\n"):
            if statement.strip():
                await psycopg.AsyncClientCursor(tx).execute(statement, values)  # type: ignore[arg-type]


async def read(world: World, begins: datetime, ends: datetime, **filters: Any) -> Waits:
    return (await waits.load(world.house, world.workspace_id, begins, ends, filters, Counting.CLOCK)).read()


def list_rows(told: Waits) -> list[tuple[Any, ...]]:
    """Everything of each, in an order of its own; what is not there is told alike."""
    tags: dict[int, list[int]] = {}
    for row, tag in told.tags.tolist():
        tags.setdefault(row, []).append(tag)
    columns = [np.nan_to_num(told[n], nan=-1) if told[n].dtype.kind == "f" else told[n] for n in (*COLUMNS, "network")]
    rows = zip(*(column.tolist() for column in columns), strict=True)
    return sorted((*row, tuple(sorted(tags.get(n, [])))) for n, row in enumerate(rows))


async def ask_rows(world: World, name: str, values: list[Any], begins: datetime, ends: datetime) -> set[int]:
    query = (
        "select s.conversation_id from spell s join conversation c on c.id = s.conversation_id where s.since < %(ends)s"
        f" and (s.ended_at is null or s.ended_at >= %(begins)s) and {_ORACLE[name]}"
    )
    async with world.house.db.transact(world.workspace_id) as tx:
        return {r[0] for r in await (await tx.execute(query, {"v": values, "begins": begins, "ends": ends})).fetchall()}  # type: ignore[arg-type]


async def count_packed(world: World) -> int:
    async with world.house.db.transact(world.workspace_id) as tx:
        row = await (await tx.execute("select count(*) from spell_day")).fetchone()
    assert row is not None
    return int(row[0])


async def test_packed_days_say_what_rows_say_and_filters_what_sql_says(world: World) -> None:
    await fill(world)
    async with world.house.db.transact(world.workspace_id) as tx:
        tag = await (await tx.execute("insert into tag (workspace_id, name) values (%s, 'Press') returning id", [world.workspace_id])).fetchone()  # fmt: skip
        assert tag is not None
        await tx.execute("insert into person_tag select workspace_id, %s, person_id from conversation where id %% 7 = 0 on conflict do nothing", tag)  # fmt: skip
    member = world.scopes["mara"].member_id
    periods = [
        (world.now - timedelta(days=a, hours=5), world.now - timedelta(days=b, hours=7))
        for a, b in ((120, -1), (60, 30), (40, 40), (9, -1), (2, -1))
    ]
    asked: list[tuple[str, Any]] = [
        ("account", [1]),
        ("member", [member]),
        ("tag", [7]),
        ("tag", [8, 9]),
        ("person_tag", [tag[0]]),
        ("kind", ["review", "mention"]),
        ("public", False),
        ("priority", [0, 3]),
        ("language", ["de"]),
        ("sentiment", [-1, 1]),
        ("network", ["commonfold"]),
        ("network", ["quillet"]),
    ]
    before = [list_rows(await read(world, *period)) for period in periods]
    assert len(before[0]) > 300
    packed = await waits.pack_days(world.house, world.workspace_id, world.now)
    assert packed > 80
    assert await waits.pack_days(world.house, world.workspace_id, world.now) == 0
    for period, rows in zip(periods, before, strict=True):
        # A packed day is read whole: what ended earlier on the first day is narrowed away by whoever counts.
        told = (await read(world, *period)).between(period[0].timestamp(), period[1].timestamp())
        assert list_rows(told) == rows
    for begins, ends in periods[:2]:
        for name, values in asked:
            told = (await read(world, begins, ends, **{name: values})).between(begins.timestamp(), ends.timestamp())
            listed = values if isinstance(values, list) else [values]
            assert set(told["conversation"].tolist()) == await ask_rows(world, name, listed, begins, ends), name
    assert await waits.find_other_days(world.house, world.workspace_id) == []


async def test_groups_and_accounts_are_asked_for_together(world: World) -> None:
    await fill(world)
    async with world.house.db.transact(world.workspace_id) as tx:
        row = await (await tx.execute("select account_id from spell limit 1")).fetchone()
        assert row is not None
        made = await tx.execute(
            "insert into account_group (workspace_id, name, accounts) values (%s, 'One', %s), (%s, 'None', '{}') returning id",
            [world.workspace_id, [row[0]], world.workspace_id],
        )
        one, none = [r[0] for r in await made.fetchall()]
    begins, ends = world.now - timedelta(days=120), world.now
    every = len(await read(world, begins, ends))
    assert len(await read(world, begins, ends, group=[one])) == every
    assert len(await read(world, begins, ends, group=[none])) == 0
    for filters in ({"group": [one], "account": [row[0]]}, {"account": [row[0]], "group": [one]}):
        assert len(await read(world, begins, ends, **filters)) == every
    for filters in ({"group": [one], "account": [99]}, {"account": [99], "group": [one]}):
        assert len(await read(world, begins, ends, **filters)) == 0
    with pytest.raises(ValueError, match="no filter"):
        await read(world, begins, ends, colour=["red"])


@pytest.mark.parametrize(
    "change",
    [
        "update spell set work_s = work_s + 1 where conversation_id = %(id)s",
        "update spell set ended_at = ended_at - interval '1 day', since = since - interval '1 day' where conversation_id = %(id)s",
        "update spell set ended_at = now(), due = now() where conversation_id = %(id)s",
        "update spell set ended_at = null, ended_by = null where conversation_id = %(id)s",
        "delete from spell where conversation_id = %(id)s",
        "insert into spell select (jsonb_populate_record(s, '{\"seq\": 77}')).* from spell s where conversation_id = %(id)s",
    ],
)
async def test_whatever_changes_a_spell_forgets_its_day(world: World, change: str) -> None:
    await fill(world)
    await waits.pack_days(world.house, world.workspace_id, world.now)
    packed = await count_packed(world)
    begins = world.now - timedelta(days=120)
    async with world.house.db.transact(world.workspace_id) as tx:
        row = await (await tx.execute("select conversation_id from spell where ended_at < %s order by 1 limit 1", [world.now - timedelta(days=5)])).fetchone()  # fmt: skip
        assert row is not None
        await tx.execute(change, {"id": row[0]})  # type: ignore[arg-type]
    assert packed - await count_packed(world) in (1, 2)
    fresh = list_rows(await read(world, begins, datetime.now(UTC)))
    await waits.pack_days(world.house, world.workspace_id, world.now)
    assert list_rows(await read(world, begins, datetime.now(UTC))) == fresh
    assert await waits.find_other_days(world.house, world.workspace_id) == []


async def test_what_is_told_anew_as_it_was_forgets_nothing(world: World) -> None:
    ids = await furnish(world)
    await waits.pack_days(world.house, world.workspace_id, world.now)
    packed = await count_packed(world)
    assert packed > 0
    # Telling the same is no change; opening again an answered one is.
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update spell set seq = seq")
    assert await count_packed(world) == packed
    before = await reports.list_behind(world.house, world.scopes["mara"], Ask(period=Named.DAYS_7), Chosen(figure="without_reply"), world.after(hours=5))  # fmt: skip
    assert before == [ids[6]]
    await acts.reopen(world.house, world.scopes["mara"], ids[6], now=world.after(hours=4))
    await acts.settle(world.house, world.scopes["mara"], ids[6], how=SettledAs.ANSWERED, now=world.after(hours=5))
    assert await waits.find_other_days(world.house, world.workspace_id) == []


async def test_a_falsified_day_is_found(world: World) -> None:
    await furnish(world)
    await waits.pack_days(world.house, world.workspace_id, world.now)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute(
            "update spell_day set waits = set_byte(waits, 0, 255 - get_byte(waits, 0)) where length(waits) > 0"
        )
    assert await waits.find_other_days(world.house, world.workspace_id) == [f"{world.now:%Y-%m-%d}"]


async def test_a_day_is_packed_with_a_change_or_forgotten_by_it(world: World) -> None:
    """The change is made and not committed when packing begins: packing waits for it."""
    await furnish(world)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update spell set work_s = work_s + 5 where ended_at is not null")
        packing = asyncio.create_task(waits.pack_days(world.house, world.workspace_id, world.now))
        done, _ = await asyncio.wait([packing], timeout=0.5)
        assert not done
    assert await packing > 0
    assert await waits.find_other_days(world.house, world.workspace_id) == []


async def test_another_workspace_packs_and_reads_its_own(world: World) -> None:
    await furnish(world)
    assert await waits.pack_days(world.house, world.other_workspace_id, world.now) == 0
    await waits.pack_days(world.house, world.workspace_id, world.now)
    told = await waits.load(
        world.house, world.other_workspace_id, world.now - timedelta(days=30), world.now, {}, Counting.CLOCK
    )
    assert len(told.read()) == 0
    async with world.house.db.transact(world.other_workspace_id) as tx:
        assert await (await tx.execute("select 1 from spell_day")).fetchone() is None


def test_what_is_not_packed_is_read_from_rows() -> None:
    def day(n: int, hour: int = 0) -> datetime:
        return datetime(2026, 3, n, hour, tzinfo=UTC)

    days, never = [date(2026, 3, n) for n in (2, 3, 6)], datetime.max.replace(tzinfo=UTC)
    assert _list_gaps(day(1, 5), []) == [(day(1, 5), never)]
    assert _list_gaps(day(1, 5), days) == [(day(1, 5), day(2)), (day(4), day(6)), (day(7), never)]
    assert _list_gaps(day(2, 5), days) == [(day(4), day(6)), (day(7), never)]


async def test_a_figure_and_its_list_are_of_one_moment_while_others_write(world: World) -> None:
    """Answers given, reopened and days packed meanwhile: no conversation is counted twice or not at all."""
    ids = await furnish(world)
    mara = world.scopes["mara"]
    ask = Ask(period=Named.DAYS_7, clock=Counting.CLOCK)
    stop = asyncio.Event()

    async def write() -> None:
        n = 0
        while not stop.is_set():
            n += 1
            at = world.after(hours=1, minutes=n)
            await acts.reopen(world.house, mara, ids[6], now=at)
            await acts.settle(world.house, mara, ids[6], how=SettledAs.NO_REPLY_NEEDED, now=at + timedelta(seconds=30))
            await waits.pack_days(world.house, world.workspace_id, world.now)

    writing = asyncio.create_task(write())
    try:
        for _ in range(30):
            report = await reports.get_report(world.house, mara, ask, world.after(days=1))
            figures = {f["name"]: f for f in report["figures"]}
            # Every conversation of the eight came in once, whatever happens to one of them.
            assert (figures["came_in"]["cases"], figures["came_in"]["conversations"]) == (8, 8)
            assert figures["answers"]["cases"] == 6
            assert sum(report["days"]["came_in"]) == 8
            assert sum(report["days"]["without_reply"]) == figures["without_reply"]["cases"]
            for by in report["breakdowns"]:
                if by["by"] != "tag":
                    assert sum(row["came_in"] for row in by["rows"]) == 8, by["by"]
            behind = await reports.list_behind(world.house, mara, ask, Chosen(figure="came_in"), world.after(days=1))
            assert behind == sorted(ids)
            assert not writing.done()
    finally:
        stop.set()
        await writing
    assert await waits.find_other_days(world.house, world.workspace_id) == []
