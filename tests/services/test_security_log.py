"""What happens around who may do what is written down once, seen by who manages members, and changed by nobody."""

from typing import Any

import psycopg
import pytest

from sorta.core.errors import NotAllowed, SignInRefused
from sorta.core.permissions import Permission
from sorta.core.security import WORDS, Happening, say
from sorta.services import accounts, advice, cases, erasing, outgoing, profiles, roles, security_log, sign_in
from sorta.store import security_log as store
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio


async def read(world: World, name: str = "noor") -> list[str]:
    return [f"{e['name']} {e['words']}" for e in await security_log.list_entries(world.house, world.scopes[name])]


async def test_each_kind_has_words() -> None:
    assert set(WORDS) == set(Happening)
    assert say(Happening.HELD, "a {fire}") == "held everything outgoing: a {fire}"


async def test_what_a_member_changes_is_written_down(world: World) -> None:
    house, noor = world.house, world.scopes["noor"]
    key = await roles.add_role(house, noor, name="Night shift", permissions=[Permission.SEE])
    await roles.set_role(house, noor, key, name="Nights", permissions=[Permission.SEE, Permission.SORT])
    await roles.give_role(house, noor, world.scopes["ana"].member_id, key)
    await roles.give_role(house, noor, world.scopes["ana"].member_id, "trainee")
    await roles.remove_role(house, noor, key)
    await accounts.set_token(house, noor, world.accounts["quillet"].id, "tok_new_secret")
    secret, _ = await accounts.change_hook_secret(house, noor, world.accounts["quillet"].id, world.now)
    await cases.change_hook_secret(house, noor, world.desk_id, world.now)
    await advice.set_domains(house, noor, ["harbour.example"])
    await outgoing.hold(house, noor, "A seal is ill", world.now)
    await outgoing.release(house, noor, world.now)
    person = (await world.row(await world.hear("Hello")))["person_id"]
    await erasing.get_everything(house, noor, person, world.now)
    await profiles.export_persons(house, noor, filters={}, order="name")
    told = await read(world)
    assert told[::-1] == [
        "Noor Person made the role Night shift",
        "Noor Person changed what the role Nights holds",
        "Noor Person gave a role: Ana Person is Nights now",
        "Noor Person gave a role: Ana Person is Trainee now",
        "Noor Person removed the role Nights",
        "Noor Person gave Brinewick Aquarium on Quillet a new access token",
        "Noor Person made a new signing secret for Brinewick Aquarium on Quillet",
        "Noor Person made a new signing secret for Ticket office",
        "Noor Person set whom outside can be asked: harbour.example",
        "Noor Person held everything outgoing: A seal is ill",
        "Noor Person let go out what was held",
        "Noor Person exported everything about one person",
        "Noor Person exported 1 people as a table",
    ]
    async with house.db.transact(world.workspace_id) as tx:
        rows = await (await tx.execute("select about::text from security_event")).fetchall()
    assert not [row for (row,) in rows if "tok_new_secret" in row or secret in row]


async def test_what_is_refused_leaves_no_entry(world: World) -> None:
    with pytest.raises(NotAllowed):
        await accounts.set_token(world.house, world.scopes["ilse"], world.accounts["quillet"].id, "tok")
    assert await read(world) == []


async def test_signing_in_is_seen_in_the_members_own_workspaces(world: World) -> None:
    told: dict[str, Any] = {"came_from": "192.0.2.7", "now": world.now}
    entered = await sign_in.sign_in(world.house, email="mara@brinewick.example", password=PASSWORD, **told)
    for email in ("mara@brinewick.example", "nobody@brinewick.example", "otto@brinewick.example"):
        with pytest.raises(SignInRefused):
            await sign_in.sign_in(world.house, email=email, password="wrong", **told)
    await sign_in.sign_out(world.house, entered.token)
    await sign_in.sign_out(world.house, entered.token)
    assert await read(world) == [
        "Mara Person signed out",
        "Mara Person was not let in: the password was wrong",
        "Mara Person signed in",
    ]
    assert await read(world, "otto") == ["Otto Person was not let in: the password was wrong"]


async def test_it_is_read_in_pages_by_who_manages_members(world: World) -> None:
    async with world.house.db.transact(world.workspace_id) as tx:
        for n in range(security_log.PAGE + 3):
            await security_log.note(tx, world.scopes["noor"], Happening.EXPORTED, f"{n} rows")
    first = await security_log.list_entries(world.house, world.scopes["noor"])
    rest = await security_log.list_entries(world.house, world.scopes["noor"], first[-1]["id"])
    assert [e["words"] for e in (*first, *rest)] == [f"exported {n} rows" for n in reversed(range(103))]
    for name in ("ilse", "ana", "lise"):
        with pytest.raises(NotAllowed):
            await security_log.list_entries(world.house, world.scopes[name])


async def test_nobody_changes_or_takes_away_an_entry(world: World) -> None:
    async with world.house.db.transact(world.workspace_id) as tx:
        await security_log.note(tx, world.scopes["noor"], Happening.RELEASED)
    async with world.house.db.transact(world.workspace_id) as tx:
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            async with tx.transaction():
                await tx.execute("update security_event set kind = 'held'")
        # The policy lets the worker's role alone sweep.
        assert (await tx.execute("delete from security_event")).rowcount == 0
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            async with tx.transaction():
                await store.add_entry(tx, world.other_workspace_id, world.scopes["noor"].member_id, "held", {})
