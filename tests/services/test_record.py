"""Every administrative change is in the record, by whom and from where, secrets not; nobody writes or changes it, and tampering shows."""

import hashlib
import subprocess
from typing import Any

import psycopg
import pytest

from dev.cluster import Cluster
from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import NotAllowed
from sorta.core.permissions import Permission, Role
from sorta.core.record import THINGS
from sorta.services import accounts, leaving, outgoing, policies, record, roles
from sorta.services.house import act_as
from sorta.services.record import Ask
from tests.world import World, name_database

pytestmark = pytest.mark.anyio


@pytest.fixture(autouse=True)
def _nobody_acts() -> Any:
    yield
    act_as(None)


async def told(world: World, **ask: Any) -> list[dict[str, Any]]:
    return await record.list_entries(world.house, world.scopes["noor"], Ask(**ask))


async def test_who_did_what_when_and_from_where_before_and_after(world: World) -> None:
    noor, mara = world.scopes["noor"], world.scopes["mara"]
    act_as(noor.member_id, "203.0.113.9")
    await roles.give_role(world.house, noor, mara.member_id, Role.RESPONDER)
    await roles.add_role(world.house, noor, name="Night", permissions=[Permission.SEE])
    body = PolicyBody(name="Refunds", when=PolicyWhen(words=("refund*",)), roles=(Role.OWNER,))
    policy = await policies.add_policy(world.house, noor, body, on=True, now=world.now)
    act_as(mara.member_id, "198.51.100.7")
    await policies.set_policy(world.house, noor, policy, body, on=False, now=world.now)
    newest = await told(world)
    assert [(e["thing"], e["name"], e["did"], e["by"], e["came_from"]) for e in newest[:4]] == [
        ("approval policy", "Refunds", "switched off", "Mara Person", "198.51.100.7"),
        ("approval policy", "Refunds", "made", "Noor Person", "203.0.113.9"),
        ("role", "Night", "made", "Noor Person", "203.0.113.9"),
        ("member", "Mara Person", "changed", "Noor Person", "203.0.113.9"),
    ]
    assert newest[3]["lines"] == [{"where": "role", "before": "lead", "after": "responder"}]
    assert (await told(world, what="role"))[0]["name"] == "Night"
    assert {e["by"] for e in await told(world, member_id=mara.member_id)} == {"Mara Person"}
    assert await told(world, until=world.now.date().replace(year=2020)) == []
    # What is as it was is no change.
    await policies.set_policy(world.house, noor, policy, body, on=False, now=world.after(hours=1))
    assert len(await told(world)) == len(newest)
    # The past keeps its names.
    await leaving.let_go(world.house, noor, mara.member_id, to_owner=None, to_team=None, now=world.now)
    assert (await told(world, member_id=mara.member_id))[0]["by"] == "Mara Person"
    assert (await told(world))[0]["did"] == "removed"


async def test_of_a_secret_only_that_it_changed_is_said(world: World) -> None:
    noor, account = world.scopes["noor"], world.accounts["quillet"]
    act_as(noor.member_id, "here")
    await accounts.set_token(world.house, noor, account.id, "tok_other")
    await accounts.change_hook_secret(world.house, noor, account.id, world.now)
    entries = await told(world, what="account")
    assert [e["lines"][0]["where"] for e in entries[:2]] == ["signing secret", "access token"]
    async with world.house.db.transact(world.workspace_id) as tx:
        said = "".join(row[0] for row in await (await tx.execute("select said from record")).fetchall())
    assert "sealed:" not in said
    assert "tok_" not in said


async def test_all_that_is_administered_is_in_it_and_all_it_names_is_there(world: World) -> None:
    async with world.house.db.connect() as conn:
        query = "select tgrelid::regclass::text from pg_trigger where tgname = 'recorded'"
        rows = await (await conn.execute(query)).fetchall()
    assert {name for (name,) in rows} == set(THINGS)
    # What a workspace begins with is in it from the start.
    assert {"role", "member", "account", "workspace"} <= {e["thing"] for e in await told(world)}


async def test_what_happens_by_itself_has_nobody_and_another_workspace_nothing(world: World) -> None:
    act_as(None)
    await outgoing.hold(world.house, world.scopes["noor"], "a drill", world.now)
    assert (await told(world))[0]["by"] is None
    other = await record.list_entries(world.house, world.scopes["otto"], Ask())
    assert all("a drill" not in str(e) for e in other)
    for who in ("ilse", "ana", "lise"):
        with pytest.raises(NotAllowed):
            await record.list_entries(world.house, world.scopes[who], Ask())


async def test_nobody_writes_it_but_by_changing_something(world: World) -> None:
    for query in (
        "insert into record (workspace_id, n, said, hash) values (1, 99, '{}', '')",
        "update record set said = '{}'",
        "delete from record",
        "truncate record",
        "select write_record()",
    ):
        async with world.house.db.transact(world.workspace_id) as tx:
            with pytest.raises((psycopg.errors.InsufficientPrivilege, psycopg.errors.FeatureNotSupported)):
                async with tx.transaction():
                    await tx.execute(query)  # type: ignore[arg-type]


async def test_tampering_with_the_database_shows(world: World, pg: Cluster) -> None:
    good = await record.check_record(world.house, world.workspace_id)
    assert good.holds
    with pg.admin(name_database(world)) as conn:
        conn.execute("update record set said = said || ' ' where workspace_id = 1 and n = 9")
    assert not (await record.check_record(world.house, world.workspace_id)).holds
    with pg.admin(name_database(world)) as conn:
        conn.execute("update record set said = rtrim(said) where workspace_id = 1 and n = 9")
        assert (await record.check_record(world.house, world.workspace_id)) == good
        conn.execute("delete from record where workspace_id = 1 and n = 3")
    told_of = await record.check_record(world.house, world.workspace_id)
    assert "entry 3 is missing" in told_of.says


async def test_the_hashes_are_those_of_another_program(world: World) -> None:
    """OpenSSL's SHA-256 over what stands in the rows."""
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (await tx.execute("select said, hash from record order by n limit 3")).fetchall()
    last = b""
    for said, chained in rows:
        digest = subprocess.run(  # noqa: ASYNC221
            ["openssl", "dgst", "-sha256", "-binary"], input=last + said.encode(), capture_output=True
        )
        assert digest.stdout == chained == hashlib.sha256(last + said.encode()).digest()
        last = chained


async def test_taken_out_as_a_table_and_written_down(world: World) -> None:
    noor = world.scopes["noor"]
    act_as(noor.member_id, "203.0.113.9")
    await roles.add_role(world.house, noor, name="=1+1", permissions=[Permission.SEE])
    parts = [row async for part in await record.export(world.house, noor, Ask(), world.now) for row in part]
    assert parts[1][2:8] == ("Noor Person", "203.0.113.9", "role", "=1+1", "made", "name")
    assert len({row[0] for row in parts[1:]}) == len(await told(world))
    with pytest.raises(NotAllowed):
        await record.export(world.house, world.scopes["ilse"], Ask(), world.now)
