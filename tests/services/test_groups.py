"""Account groups: who is limited sees the accounts of theirs, by the database itself; work goes to nobody who does not see it."""

import time
from dataclasses import replace

import psycopg
import pytest

from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.core.groups import crosses_groups
from sorta.core.periods import Named
from sorta.core.permissions import OVER_ALL, Permission
from sorta.core.texts import SavedReplyBody
from sorta.services import (
    acts,
    alerts,
    approvals,
    desk,
    groups,
    invitations,
    leaving,
    profiles,
    reports,
    roles,
    sorting,
    team,
    texts,
    waits,
)
from sorta.services.house import seen_by
from sorta.services.reads import Reads
from sorta.store import groups as store
from sorta.store import people
from sorta.store import sorting as sorting_store
from sorta.store import team as team_store
from tests.world import World

pytestmark = pytest.mark.anyio


async def limit(world: World, who: str = "ilse", *networks: str, limited: bool = True) -> int:
    """Somebody sees the accounts on these networks, by a group of their own; its number."""
    held = [world.accounts[network].id for network in networks]
    noor, member = world.scopes["noor"], world.scopes[who].member_id
    id = await groups.set_group(world.house, noor, None, name=f"Of {who}", held=held, members=[], now=world.now)
    await groups.set_sight(world.house, noor, member, limited=limited, groups=[id], now=world.now)
    return id


async def count_seen(world: World, member: int | None) -> dict[str, int]:
    """Of every table of the workspace, how many rows whoever asks sees."""
    with seen_by(member):
        async with world.house.db.transact(world.workspace_id) as tx:
            tables = await (
                await tx.execute(
                    "select tablename from pg_policies where schemaname = 'public' and qual like '%seen_accounts%' group by 1"
                )
            ).fetchall()
            found = {}
            for (table,) in tables:
                rows = await (await tx.execute(f"select count(*) from {table}")).fetchone()
                found[table] = rows[0]
            return found


async def test_of_every_table_only_what_went_by_ones_accounts_is_seen(world: World) -> None:
    await world.hear("quokka here", network="commonfold", handle="petra")
    await world.hear("wombat there", network="pixfern", handle="wim", kind="private")
    await world.hear("and again", network="pixfern", handle="wim", kind="private")
    await limit(world, "ilse", "pixfern")
    everything = await count_seen(world, None)
    mine = await count_seen(world, world.scopes["ilse"].member_id)
    nobody = await count_seen(world, world.scopes["ana"].member_id)
    assert (everything["conversation"], everything["message"], everything["person"]) == (2, 3, 2)
    assert (mine["conversation"], mine["message"], mine["person"], mine["identity"], mine["account"]) == (1, 2, 1, 1, 1)
    assert mine["post"] == 0 < everything["post"]
    assert 0 < mine["trail"] < everything["trail"]
    assert 0 < mine["spell"] < everything["spell"]
    # In no group: nothing at all.
    assert {table for table, n in nobody.items() if n} <= {"alert", "presence", "saved_reply", "link"}


async def test_the_web_process_cannot_lift_the_limit(world: World) -> None:
    """Whoever gets a statement of their own past the web process has a pass for what who asked sees, and for no more."""
    await world.hear("quokka")
    await limit(world, "ilse", "pixfern")
    ilse = world.scopes["ilse"].member_id
    with psycopg.connect(world.house.db.conninfo, autocommit=True) as conn:

        def count(seer: str, signed: str) -> int:
            with conn.transaction():
                conn.execute(
                    "select set_config('app.workspace_id', %s, true), set_config('app.seer', %s, true), set_config('app.pass', %s, true)",
                    [str(world.workspace_id), seer, signed],
                )
                return conn.execute("select count(*) from conversation").fetchone()[0]

        now = world.house.keys
        limited = now.sign_pass(world.workspace_id, time.time(), ilse)
        whole = now.sign_pass(world.workspace_id, time.time())
        assert count(str(ilse), limited) == 0
        assert count("", limited) == 0, "a pass for somebody limited opens nothing without them"
        assert count(str(world.scopes["noor"].member_id), limited) == 0
        assert count("", whole) == 1


async def test_what_reaches_over_all_rests_and_comes_back(world: World) -> None:
    await limit(world, "mara", "pixfern")
    async with world.house.db.transact(world.workspace_id) as tx:
        held = await roles.list_held_roles(Reads(tx))
    mara = held[world.scopes["mara"].member_id]
    assert not mara.grants & OVER_ALL
    assert {Permission.SORT, Permission.APPROVE, Permission.SEE_REPORTS} <= mara.grants
    await groups.set_sight(
        world.house, world.scopes["noor"], world.scopes["mara"].member_id, limited=False, groups=[], now=world.now
    )
    async with world.house.db.transact(world.workspace_id) as tx:
        held = await roles.list_held_roles(Reads(tx))
    assert held[world.scopes["mara"].member_id].grants >= OVER_ALL - {Permission.MANAGE_ACCOUNTS}


async def test_an_owner_sees_everything_and_nobody_limits_themselves(world: World) -> None:
    noor, mara = world.scopes["noor"], world.scopes["mara"]
    with pytest.raises(Invalid, match="Nobody limits themselves"):
        await groups.set_sight(world.house, noor, noor.member_id, limited=True, groups=[], now=world.now)
    await roles.give_role(world.house, noor, mara.member_id, "owner")
    with pytest.raises(Invalid, match="An Owner sees every account"):
        await groups.set_sight(world.house, noor, mara.member_id, limited=True, groups=[], now=world.now)
    # Made an Owner, who was limited is so no more.
    await limit(world, "ilse", "pixfern")
    await roles.give_role(world.house, noor, world.scopes["ilse"].member_id, "owner")
    assert (await count_seen(world, None))["account"] == len(world.accounts)
    async with world.house.db.transact(world.workspace_id) as tx:
        assert all(not m.limited for m in await people.list_members(tx))


async def test_nobody_gives_more_than_they_hold_and_names_are_of_here(world: World) -> None:
    house, mara, noor = world.house, world.scopes["mara"], world.scopes["noor"]
    with pytest.raises(NotAllowed):
        await groups.set_sight(house, mara, noor.member_id, limited=False, groups=[], now=world.now)
    with pytest.raises(NotAllowed):
        await groups.set_sight(house, world.scopes["ilse"], mara.member_id, limited=True, groups=[], now=world.now)
    with pytest.raises(NotFound):
        await groups.set_sight(house, noor, world.scopes["otto"].member_id, limited=False, groups=[], now=world.now)
    with pytest.raises(Invalid, match="no such account group"):
        await groups.set_sight(house, noor, mara.member_id, limited=False, groups=[99], now=world.now)
    for held, members, words in (([99], [], "account"), ([], [world.scopes["otto"].member_id], "member")):
        with pytest.raises(Invalid, match=words):
            await groups.set_group(house, noor, None, name="x", held=held, members=members, now=world.now)
    await groups.set_group(house, noor, None, name="Shops", held=[], members=[], now=world.now)
    with pytest.raises(Invalid, match="called SHOPS already"):
        await groups.set_group(house, noor, None, name=" SHOPS ", held=[], members=[], now=world.now)


async def test_work_goes_to_nobody_who_does_not_see_it_and_across_groups_with_a_reason(world: World) -> None:
    id = await world.hear("hi")
    house, now = world.house, world.now
    mara, ilse, ana, noor = (world.scopes[n] for n in ("mara", "ilse", "ana", "noor"))
    await limit(world, "ilse", "pixfern")
    with pytest.raises(Invalid, match="does not see this account"):
        await acts.assign(house, mara, id, owner_id=ilse.member_id, note=None, now=now)
    here = world.accounts["commonfold"].id
    for name, who in (("Days", [mara]), ("Nights", [ana, ilse])):
        members = [s.member_id for s in who]
        await groups.set_group(house, noor, None, name=name, held=[here], members=members, now=now)
    with pytest.raises(Invalid, match="say why"):
        await acts.assign(house, mara, id, owner_id=ana.member_id, note=None, now=now)
    await acts.assign(house, mara, id, owner_id=ana.member_id, note="Yours by night.", now=now)
    # From who has it now, and not from who passes it on; within one group nobody asks.
    await acts.assign(house, mara, id, owner_id=ilse.member_id, note=None, now=now)
    assert (await world.row(id))["owner_id"] == ilse.member_id


async def test_what_its_owner_does_not_see_any_more_goes_back(world: World) -> None:
    id = await world.hear("hi")
    ilse = world.scopes["ilse"]
    await acts.assign(world.house, ilse, id, owner_id=ilse.member_id, note=None, now=world.now)
    await limit(world, "ilse", "pixfern")
    assert (await world.row(id))["owner_id"] is None
    assert (await world.kinds(id))[-1] == "assigned"
    assert await groups.give_back(world.house, world.workspace_id, world.now) == 0


async def test_a_team_and_a_rule_give_to_those_who_see_it(world: World) -> None:
    ilse, ana = world.scopes["ilse"].member_id, world.scopes["ana"].member_id
    await limit(world, "ilse", "pixfern")
    id = await sorting.add_team(world.house, world.workspace_id, "Both", [ilse, ana])
    async with world.house.db.transact(world.workspace_id) as tx:
        for network, who in (("commonfold", {ana}), ("pixfern", {ilse, ana})):
            account = world.accounts[network].id
            rows = await team_store.list_candidates(tx, id, 0, account, world.now)
            assert {row["member_id"] for row in rows} == who
    conversation = await world.hear("hi")
    await acts.assign(world.house, world.scopes["ana"], conversation, owner_id=ana, note=None, now=world.now)
    passes = await team.propose_evening(world.house, world.scopes["noor"], world.now)
    assert ilse not in {one["taker"] for one in passes}


async def test_nobody_is_told_or_asked_about_what_they_do_not_see(world: World) -> None:
    id = await world.hear("hi")
    await limit(world, "mara", "pixfern")
    both = [world.scopes[n].member_id for n in ("mara", "noor")]
    async with world.house.db.transact(world.workspace_id) as tx:
        told = await alerts.add_alerts(
            tx,
            members=both,
            occasion="rule",
            words="x",
            conversation_id=id,
            key="k",
            now=world.now,
        )
        assert told == [world.scopes["noor"].member_id]
        able = await approvals._list_able(Reads(tx), world.accounts["commonfold"].id)
    assert world.scopes["mara"].member_id not in able
    assert world.scopes["noor"].member_id in able


async def test_counts_are_of_what_is_seen(world: World) -> None:
    await world.hear("hi")
    for handle in ("wim", "wendel"):
        await world.hear("hi there", network="pixfern", handle=handle, kind="private")
    await limit(world, "ilse", "pixfern")
    ilse = replace(world.scopes["ilse"], limited=True)
    with seen_by(ilse.seer):
        counts = await desk.count_moves(world.house, ilse, {"move": "unsorted"}, world.now)
    unsorted = next(m for m in counts["moves"] if m["move"] == "unsorted")
    assert unsorted["total"] == 2
    accounts = {v["value"]: v["n"] for v in counts["values"] if v["dimension"] == "account"}
    assert accounts == {str(world.accounts["pixfern"].id): 2}


async def test_people_who_are_partly_seen_are_joined_by_who_sees_all(world: World) -> None:
    first = (await world.row(await world.hear("hi", network="pixfern", handle="wim", kind="private")))["person_id"]
    second = (await world.row(await world.hear("ho", network="pixfern", handle="wum", kind="private")))["person_id"]
    hidden = (await world.row(await world.hear("hu", handle="wom")))["person_id"]
    await profiles.join(world.house, world.scopes["noor"], second, hidden, world.now)
    await limit(world, "ilse", "pixfern")
    ilse = replace(world.scopes["ilse"], limited=True)
    with seen_by(ilse.seer):
        with pytest.raises(NotAllowed, match="other groups"):
            await profiles.join(world.house, ilse, first, second, world.now)
        with pytest.raises(NotFound):
            await profiles.join(world.house, ilse, first, 12345, world.now)


async def test_a_packed_day_is_forgotten_also_by_who_does_not_see_it(world: World) -> None:
    """What follows from an act of theirs is done whole: a day's waits are packed of all accounts."""
    id = await world.hear("hi", network="pixfern", handle="wim", kind="private", at=world.after(days=-9))
    await acts.settle(world.house, world.scopes["noor"], id, how=SettledAs.NO_REPLY_NEEDED, now=world.after(days=-8))
    await limit(world, "ilse", "pixfern")
    day = world.after(days=-8).date()
    async with world.house.db.transact(world.workspace_id) as tx:
        packed = "insert into spell_day (workspace_id, day, shape, waits, tags) values (%s, %s, 'x', '', '')"
        await tx.execute(packed, [world.workspace_id, day])
    with seen_by(world.scopes["ilse"].member_id):
        async with world.house.db.transact(world.workspace_id) as tx:
            assert await (await tx.execute("select from spell_day")).fetchall() == []
            await tx.execute("update spell set work_s = work_s + 1 where ended_at is not null")
    async with world.house.db.transact(world.workspace_id) as tx:
        assert await (await tx.execute("select from spell_day")).fetchall() == []


async def test_a_persons_tag_is_on_all_they_said_whoever_puts_it_there(world: World) -> None:
    seen = await world.hear("hi", network="pixfern", handle="wim", kind="private")
    hidden = await world.hear("hu", handle="wom")
    people_of = [(await world.row(id))["person_id"] for id in (seen, hidden)]
    await profiles.join(world.house, world.scopes["noor"], *people_of, world.now)
    await limit(world, "ilse", "pixfern")
    ilse = replace(world.scopes["ilse"], limited=True)
    with seen_by(ilse.seer):
        await acts.tag_person(world.house, ilse, seen, name="regular", on=True, now=world.now)
    async with world.house.db.transact(world.workspace_id) as tx:
        filed = await (await tx.execute("select conversation_id from filing where under = 'person_tag'")).fetchall()
    assert {id for (id,) in filed} == {seen, hidden}


@pytest.mark.parametrize("packed", [False, True])
async def test_reports_of_who_is_limited_are_those_of_their_accounts(world: World, *, packed: bool) -> None:
    """The same figures and lists as who sees all gets through a filter; also where days are packed, which hold all accounts."""
    for n in range(6):
        network = "pixfern" if n % 2 else "hushline"
        at = world.after(days=-9, minutes=7 * n)
        id = await world.hear(f"hello {n}", network=network, kind="private", handle=f"h{n}", at=at)
        how = SettledAs.JUNK if n < 2 else SettledAs.NO_REPLY_NEEDED
        await acts.settle(world.house, world.scopes["noor"], id, how=how, now=world.after(days=-9, hours=n + 1))
    if packed:
        await waits.pack_days(world.house, world.workspace_id, world.now)
    await limit(world, "mara", "pixfern")
    mara, noor = replace(world.scopes["mara"], limited=True), world.scopes["noor"]
    ask = reports.Ask(period=Named.DAYS_28)
    with seen_by(mara.seer):
        mine = await reports.get_report(world.house, mara, ask, world.now)
    through = replace(ask, filters={"account": [world.accounts["pixfern"].id]})
    theirs = await reports.get_report(world.house, noor, through, world.now)
    assert mine["figures"] == theirs["figures"]
    assert mine["figures"] != (await reports.get_report(world.house, noor, ask, world.now))["figures"]


async def test_invited_to_groups_and_teams_they_have_them_when_they_come(world: World) -> None:
    noor = world.scopes["noor"]
    days = await sorting.add_team(world.house, world.workspace_id, "Days", [])
    held = [world.accounts["pixfern"].id]
    group = await groups.set_group(world.house, noor, None, name="Pictures", held=held, members=[], now=world.now)
    place = invitations.Place(role="responder", limited=True, groups=[group], teams=[days])
    await invitations.invite(world.house, noor, "uma@tidewater.example", place, world.now)
    pending = (await invitations.list_pending(world.house, noor, world.now))[0]
    assert (pending["limited"], pending["groups"], pending["teams"]) == (True, [group], [days])
    token = pending["address"].rpartition("/")[2]
    coming = invitations.Coming(name="Uma Berg", password="a tidal pool at dawn")
    await invitations.come_in(world.house, token, coming, "127.0.0.1", world.now)
    async with world.house.db.transact(world.workspace_id) as tx:
        uma = next(m for m in await people.list_members(tx) if m.name == "Uma Berg")
        assert uma.limited
        assert (await store.list_groups(tx))[0]["members"] == [uma.id]
        teams = {t["name"]: t["members"] for t in await sorting_store.list_teams(tx)}
    assert teams["Days"] == [uma.id]
    for wrong in (invitations.Place(role="owner", limited=True), invitations.Place(role="lead", groups=[99])):
        with pytest.raises(Invalid):
            await invitations.invite(world.house, noor, "una@tidewater.example", wrong, world.now)
    await leaving.let_go(world.house, noor, uma.id, to_owner=None, to_team=None, now=world.now)
    async with world.house.db.transact(world.workspace_id) as tx:
        assert (await store.list_groups(tx))[0]["members"] == []


async def test_a_group_that_is_named_stays(world: World) -> None:
    noor = world.scopes["noor"]
    group = await groups.set_group(world.house, noor, None, name="Pictures", held=[], members=[], now=world.now)
    body = SavedReplyBody(name="Hello", text="Hello!", groups=(group,))
    await texts.add_saved_reply(world.house, noor, body, world.now)
    with pytest.raises(Invalid, match="saved reply “Hello” names it"):
        await groups.remove_group(world.house, noor, group, world.now)


@pytest.mark.parametrize(
    ("giver", "taker", "crosses"),
    [(1, 2, False), (1, 3, True), (3, 1, True), (1, 9, False), (9, 1, False), (2, 3, False), (3, 3, False)],
)
def test_crossing_is_between_members_of_no_common_group(giver: int, taker: int, crosses: bool) -> None:
    assert crosses_groups({10: {1, 2}, 11: {2, 3}}, giver, taker) is crosses
