"""A silent network takes no other's place: few of its requests are under way, one asks whether it is back, and everything else waits
for that; when it answers, all of it goes. Mail: each letter by itself, and no network is asked within a transaction."""

import asyncio
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest

from sorta.core.ports import Letter, LetterRefused, Outcome, Postponed, Unreachable
from sorta.core.retry import FIRST_PATIENCE, PROBE_PATIENCE, get_silence_pause
from sorta.services import accounts, alerts, delivery, duties, outgoing
from sorta.services.delivery import SLOTS_PER_ACCOUNT
from sorta.services.intake import backfill_unless_silent
from sorta.store.db import Database
from tests.services.test_acts import reply
from tests.services.test_delivery import outside
from tests.world import World

pytestmark = pytest.mark.anyio
SILENT = Postponed(reason="Commonfold did not answer (ReadTimeout).", maybe_out=True, silent=True)


class Line:
    """What every try of a network meets, and how many are under way at once."""

    def __init__(self, world: World, monkeypatch: pytest.MonkeyPatch, network: str = "commonfold") -> None:
        self.silent, self.asked, self.under_way, self.most = True, 0, 0, 0
        self.patience: list[float | None] = []
        kind = type(world.house.networks[network])
        send = kind.send

        async def try_to(adapter: Any, account: Any, message: Any, key: str) -> Outcome:
            if adapter.abilities.network != network:
                return await send(adapter, account, message, key)
            self.asked += 1
            self.under_way += 1
            self.most = max(self.most, self.under_way)
            self.patience.append(account.patience)
            await asyncio.sleep(0.01)
            self.under_way -= 1
            return SILENT if self.silent else await send(adapter, account, message, key)

        monkeypatch.setattr(kind, "send", try_to)


async def queue_many(world: World, count: int) -> None:
    for n in range(count):
        await reply(world, await world.hear("hi", handle=f"p{n}"), f"Hello {n}")


async def try_all(world: World, at: float) -> int:
    """What the clock and the queue would try at this second, all at once."""
    now = world.after(seconds=at)
    async with world.house.db.transact(world.workspace_id) as tx:
        ids = await delivery.outbox.list_deliverable(tx, now, now - world.house.lease, most=delivery.QUEUED_AT_ONCE)
    tried = await asyncio.gather(*(delivery.deliver(world.house, world.workspace_id, id, now) for id in ids))
    return sum(one is not None for one in tried)


async def test_what_is_claimed_together_asks_a_silent_network_once(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    Line(world, monkeypatch)
    await queue_many(world, 6)
    now = world.after(seconds=11)
    async with world.house.db.transact(world.workspace_id) as tx:
        ids = await delivery.outbox.list_deliverable(tx, now, now - world.house.lease, most=9)
    assert len(ids) == 6
    for second, tried in ((11, SLOTS_PER_ACCOUNT), (14, 1)):
        due = [(world.after(seconds=second), id) for id in ids]
        assert len(await delivery.deliver_together(world.house, world.workspace_id, due)) == tried


async def test_forty_replies_to_a_silent_network_hold_few_places(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    line = Line(world, monkeypatch)
    await queue_many(world, 40)
    assert await try_all(world, 11) == SLOTS_PER_ACCOUNT
    assert line.most <= SLOTS_PER_ACCOUNT
    assert line.patience == [FIRST_PATIENCE] * SLOTS_PER_ACCOUNT
    # From now on one asks, and nobody else does while it does.
    for second in (14, 17, 20):
        assert await try_all(world, second) == 1
    assert await try_all(world, 20.5) == 0
    told = await outgoing.get_outgoing(world.house, world.scopes["mara"], world.after(seconds=21))
    assert [one["why"] for one in told["waiting"]].count("silent") >= 35
    (account,) = [
        a for a in await accounts.list_accounts(world.house, world.scopes["mara"]) if a["network"] == "commonfold"
    ]
    assert account["silent_since"] is not None


async def test_when_it_answers_everything_goes(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    line = Line(world, monkeypatch)
    await queue_many(world, 12)
    await try_all(world, 11)
    line.silent = False
    tried = 0
    for n in range(12):
        tried += await try_all(world, 14 + n / 10)
    assert sorted(await outside(world)) == sorted(f"Hello {n}" for n in range(12))
    assert tried == 12
    (account,) = [
        a for a in await accounts.list_accounts(world.house, world.scopes["mara"]) if a["network"] == "commonfold"
    ]
    assert account["silent_since"] is None


async def test_a_silent_network_is_read_at_its_pace_too(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    account, house = world.accounts["commonfold"], world.house
    asked: list[float | None] = []
    from sorta.core.ports import BackfillPage, Silent

    silent = True

    async def list_since(self: Any, ref: Any, cursor: str | None) -> BackfillPage:
        asked.append(ref.patience)
        if silent:
            raise Silent("Commonfold did not answer (ConnectTimeout).")
        return BackfillPage(activities=(), cursor="end", more=False)

    monkeypatch.setattr(type(house.networks["commonfold"]), "list_since", list_since)
    with pytest.raises(Unreachable):
        await backfill_unless_silent(house, world.workspace_id, account.id, world.now)
    with pytest.raises(Unreachable, match="in a moment"):
        await backfill_unless_silent(house, world.workspace_id, account.id, world.after(seconds=0.5))
    assert asked == [None]
    await queue_many(world, 1)
    silent = False
    await backfill_unless_silent(house, world.workspace_id, account.id, world.after(seconds=20))
    assert asked == [None, PROBE_PATIENCE]
    # The reading noticed that it is back: what waited is asked for as ever.
    assert await try_all(world, 21) == 1
    assert await outside(world) == ["Hello 0"]


async def test_a_paused_account_is_not_asked_at_all(world: World) -> None:
    account = world.accounts["commonfold"]
    duty = next(d for d in duties.DUTIES if d.name == "backfill")
    assert account.id in await duties.list_targets(world.house, duty, world.workspace_id)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update account set paused_reason = 'the token' where id = %s", [account.id])
    assert account.id not in await duties.list_targets(world.house, duty, world.workspace_id)


def test_how_soon_a_silent_network_is_asked_again() -> None:
    pauses = [get_silence_pause(timedelta(seconds=s)).total_seconds() for s in (0, 299, 300, 3599, 3600, 90_000)]
    assert pauses == [1, 1, 15, 15, 60, 60]


class Post:
    """A mail server that refuses some for good, some for now, and is told within no transaction."""

    sender = "desk@brinewick.example"

    def __init__(self, db: Database) -> None:
        self.db, self.sent, self.tried = db, [], []
        self.refused: set[str] = set()
        self.busy: set[str] = set()
        self.within: list[str] = []

    async def send(self, letter: Letter) -> None:
        self.tried.append(letter.to)
        async with self.db.connect() as conn:
            rows = await (
                await conn.execute(
                    "select query from pg_stat_activity where datname = current_database() and state = 'idle in transaction'"
                )
            ).fetchall()
            self.within += [row[0] for row in rows]
        if letter.to in self.refused:
            raise LetterRefused("550 no such mailbox")
        if letter.to in self.busy:
            raise Unreachable("450 come back later")
        self.sent.append(letter.to)


async def tell(world: World, names: list[str], key: str) -> None:
    async with world.house.db.transact(world.workspace_id) as tx:
        await alerts.add_alerts(
            tx,
            members=[world.scopes[name].member_id for name in names],
            occasion="late",
            words="It is late.",
            conversation_id=None,
            key=key,
            now=world.now,
        )


async def test_one_mailbox_refused_for_good_stops_nobody_elses_mail(world: World) -> None:
    post = Post(world.house.db)
    house = replace(world.house, post=post)
    post.refused.add("mara@brinewick.example")
    post.busy.add("ilse@brinewick.example")
    await tell(world, ["mara", "ilse", "noor"], "one")
    await alerts.mail_alerts(house, world.workspace_id, world.now)
    assert post.sent == ["noor@brinewick.example"]
    async with house.db.connect() as conn:
        row = await (await conn.execute("select mail_refused from member where email like 'mara@%'")).fetchone()
    assert row == ("550 no such mailbox",)
    # A greylisted one comes through the second time; the refused one is left alone, and tried again after a day.
    post.busy.clear()
    await tell(world, ["mara"], "two")
    await alerts.mail_alerts(house, world.workspace_id, world.after(seconds=5))
    assert post.sent == ["noor@brinewick.example", "ilse@brinewick.example"]
    assert post.tried.count("mara@brinewick.example") == 1
    post.refused.clear()
    async with house.db.transact(world.workspace_id) as tx:
        await tx.execute("update alert_way set leaves_at = leaves_at + interval '25 hours' where sent_at is null")
    await alerts.mail_alerts(house, world.workspace_id, world.after(hours=25))
    assert post.sent[-1] == "mara@brinewick.example"
    async with house.db.connect() as conn:
        row = await (await conn.execute("select mail_refused from member where email like 'mara@%'")).fetchone()
    assert row == (None,)
    assert post.within == [], "no network call inside a transaction"


async def test_a_server_that_is_away_is_not_asked_fifty_times(world: World) -> None:
    post = Post(world.house.db)
    house = replace(world.house, post=post)
    post.busy.update(f"{name}@brinewick.example" for name in world.scopes)
    await tell(world, [name for name in world.scopes if name != "otto"], "one")
    await alerts.mail_alerts(house, world.workspace_id, world.now)
    assert len(post.tried) == 3


async def test_no_network_is_asked_within_a_transaction(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever any adapter, desk, translator or mail server is asked, no transaction of ours is open meanwhile."""
    within: list[str] = []
    request = type(world.outside).send

    async def look(client: Any, asked: Any, **more: Any) -> Any:
        if "/control/" not in str(asked.url):
            async with world.house.db.connect() as conn:
                rows = await (
                    await conn.execute(
                        "select query from pg_stat_activity where datname = current_database() and state = 'idle in transaction'"
                    )
                ).fetchall()
                within.extend(f"{asked.url}: {row[0]}" for row in rows)
        return await request(client, asked, **more)

    monkeypatch.setattr(type(world.outside), "send", look)
    await queue_many(world, 2)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11))
    assert len(await outside(world)) == 2
    for duty in duties.DUTIES:
        for target in await duties.list_targets(world.house, duty, world.workspace_id):
            await duties.run_once(world.house, duty, world.workspace_id, target, world.after(minutes=1))
    assert within == []
