"""A role that is not the worker's sees the workspace it holds a pass for, whatever statement it runs."""

import hashlib
import hmac
import time
from typing import Any

import psycopg
import pytest

from dev.cluster import Cluster
from sorta.store.db import Unstorable
from sorta.store.keyring import Keyring, make_key
from tests.world import KEYS, World

HOUR = 3600
pytestmark = pytest.mark.anyio


@pytest.fixture
async def web(world: World):
    """A connection as the web process has it, with which somebody can do as they please."""
    with psycopg.connect(world.house.db.conninfo, autocommit=True) as conn:
        yield conn


def look(conn: psycopg.Connection[Any], workspace_id: object, signed: str) -> tuple[list[int], object]:
    """The workspaces whose accounts are seen, and the one that the database takes as chosen."""
    conn.execute(
        "select set_config('app.workspace_id', %s, false), set_config('app.pass', %s, false)",
        [str(workspace_id), signed],
    )
    seen = [w for (w,) in conn.execute("select distinct workspace_id from account order by 1")]
    (chosen,) = conn.execute("select chosen_workspace()").fetchone() or (None,)
    return seen, chosen


async def test_only_the_workspace_of_the_pass_is_seen(web: psycopg.Connection[Any], world: World) -> None:
    here, elsewhere, now = world.workspace_id, world.other_workspace_id, time.time()
    assert look(web, here, KEYS.sign_pass(here, now)) == ([here], here)
    name, hour, mac = KEYS.sign_pass(here, now).split(".")
    for workspace_id, signed in (
        (elsewhere, KEYS.sign_pass(here, now)),
        (here, ""),
        (here, "nonsense"),
        (here, f"{name}.{hour}."),
        (here, f"{name}.{hour}"),
        (here, f"{name}.{int(hour) - 1}.{mac}"),
        (here, f"other.{hour}.{mac}"),
        (here, KEYS.sign_pass(here, now - 2 * HOUR)),
        (here, KEYS.sign_pass(here, now + 2 * HOUR)),
        (here, Keyring.read(make_key()).sign_pass(here, now)),
        (here, KEYS.sign_pass(here, now).upper()),
    ):
        assert look(web, workspace_id, signed) == ([], None), signed


async def test_a_pass_holds_over_the_turn_of_the_hour(web: psycopg.Connection[Any], world: World) -> None:
    here, now = world.workspace_id, time.time()
    for ago in (-HOUR, 0, HOUR):
        assert look(web, here, KEYS.sign_pass(here, now - ago))[1] == here


async def test_a_statement_of_somebody_elses_within_a_request_sees_one_workspace(world: World) -> None:
    """As an injected one would: it runs in the request's own transaction, and may set what it likes."""
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("select set_config('app.workspace_id', %s, true)", [str(world.other_workspace_id)])
        for table in ("membership", "account", "conversation", "role"):
            rows = await tx.execute(f"select count(*) from {table}")  # type: ignore[arg-type]
            assert await rows.fetchone() == (0,)
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            async with tx.transaction():
                await tx.execute("select * from pass_key")
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            async with tx.transaction():
                await tx.execute("set session authorization sorta_worker")
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            async with tx.transaction():
                await tx.execute("set role sorta_worker")
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            async with tx.transaction():
                await tx.execute(
                    "insert into account (workspace_id, network, name, handle, external_id, api_url, token, hook_secret)"
                    " values (%s, 'quillet', '', '', '', '', '', '')",
                    [world.other_workspace_id],
                )


async def test_the_worker_chooses_as_it_needs(pg: Cluster, world: World) -> None:
    name = world.house.db.conninfo.rpartition("/")[2]
    with psycopg.connect(pg.conninfo("sorta_worker", name), autocommit=True) as conn:
        assert look(conn, world.other_workspace_id, "")[1] == world.other_workspace_id


async def test_the_database_computes_hmac_as_python_does(
    web: psycopg.Connection[Any], pg: Cluster, world: World
) -> None:
    """RFC 2104, by Python's own `hmac` as the reference, over both ends of what a number can be."""
    (_, inner, outer), *_ = KEYS.list_pads()
    for workspace_id, hour in ((1, 0), (2**63 - 1, 2**40), (77, 495_000)):
        said = workspace_id.to_bytes(8, "big") + hour.to_bytes(8, "big")
        row = web.execute(
            "select sha256(%b::bytea || sha256(%b::bytea || int8send(%s) || int8send(%s)))",
            [outer, inner, workspace_id, hour],
        ).fetchone()
        assert row == (hmac.new(KEYS._pass_keys[0], said, hashlib.sha256).digest(),)


async def test_no_policy_and_no_function_reads_the_setting_by_itself(world: World) -> None:
    async with world.house.db.connect() as conn:
        for query in (
            "select polname::text from pg_policy where coalesce(pg_get_expr(polqual, polrelid), '') ||"
            " coalesce(pg_get_expr(polwithcheck, polrelid), '') like '%app.workspace_id%'",
            "select proname::text from pg_proc where prosrc like '%app.workspace_id%' and proname <> all('{chosen_workspace,seen_accounts}')",
        ):
            assert await (await conn.execute(query)).fetchall() == []  # type: ignore[arg-type]


async def test_a_number_no_workspace_can_have_is_refused(world: World) -> None:
    with pytest.raises(Unstorable):
        async with world.house.db.transact(2**63):
            raise AssertionError("entered")
