"""Every table belongs to a workspace or is named here; every statement fits the schema; hot queries use their index."""

import hashlib
import importlib
import itertools
import json
import pkgutil
import re
from pathlib import Path
from typing import Any

import psycopg
import pytest

from dev.cluster import Cluster
from sorta import store
from sorta.core.reading import BAND, NOT_SURE, ReadsAs, Tone, get_tone
from sorta.store import checking, desk, finding, migrate, overview, people, profiles, trail
from tests.world import KEYS, World

#: Tables above the workspaces, and those of packages.
ABOVE = {
    "organisation",
    "workspace",
    "member",
    "session",
    "sign_in_failure",
    "device",
    "clock",
    "pass_key",
    "member_passkey",
    "provider_login",
    "answered_challenge",
    "password_link",
    "phone_try",
    "second_factor",
    "recovery_code",
}
#: The first four hex digits of each applied file; a changed file fails, a new one is added here.
APPLIED = json.loads((Path(__file__).parent / "migrations.json").read_text())


@pytest.fixture(scope="module")
def app(pg: Cluster):
    """One empty database for all that only looks."""
    pg.create_database("looking", "template_sorta")
    with psycopg.connect(pg.conninfo("sorta_worker", "looking"), autocommit=True) as conn:
        yield conn
    pg.drop_database("looking")


def test_an_applied_migration_is_never_edited() -> None:
    now = {f.name: hashlib.sha256(f.read_bytes()).hexdigest()[:16] for f in sorted(migrate.FOLDER.glob("*.sql"))}
    assert now == APPLIED


def test_every_table_names_its_workspace_and_forces_row_level_security(app: psycopg.Connection[Any]) -> None:
    rows = app.execute(
        "select c.relname, c.relrowsecurity and c.relforcerowsecurity, exists (select from pg_attribute a "
        "where a.attrelid = c.oid and a.attname = 'workspace_id'), (select count(*) from pg_policy p where p.polrelid = c.oid) "
        "from pg_class c where c.relkind in ('r', 'p') and c.relnamespace = 'public'::regnamespace"
    ).fetchall()
    ours = [r for r in rows if not r[0].startswith(("procrastinate_", "_yoyo", "yoyo_"))]
    assert {r[0] for r in ours if not (r[1] and r[2] and r[3])} == ABOVE


#: By what a row says which account it belongs to.
BELONGS_BY = ["account_id", "conversation_id", "message_id", "person_id"]


def test_what_belongs_to_an_account_is_seen_by_who_sees_the_account(app: psycopg.Connection[Any]) -> None:
    rows = app.execute(
        "select c.table_name, c.column_name, max(p.qual), max(p.with_check) from information_schema.columns c"
        " join pg_policies p on p.tablename = c.table_name and p.policyname = 'in_workspace'"
        " where c.table_schema = 'public' and c.column_name = any(%s) group by 1, 2",
        [BELONGS_BY],
    ).fetchall()
    assert len(rows) > 35
    for table, column, *conditions in rows:
        for condition in conditions:
            assert "seen_accounts()" in condition, (table, column)


def test_the_application_role_can_neither_bypass_nor_rewrite_the_trail(app: psycopg.Connection[Any]) -> None:
    assert app.execute("select rolsuper, rolbypassrls from pg_roles where rolname = current_user").fetchone() == (
        False,
        False,
    )
    with pytest.raises(psycopg.errors.InsufficientPrivilege):
        app.execute("update trail set kind = 'kept'")
    with pytest.raises(psycopg.errors.InsufficientPrivilege):
        app.execute("delete from trail")


#: Every module of the store that has statements.
STORES = [
    module
    for found in pkgutil.iter_modules(store.__path__)
    if hasattr(module := importlib.import_module(f"sorta.store.{found.name}"), "SQL")
]
STATEMENTS = [
    pytest.param(query, id=f"{module.__name__.rsplit('.', 1)[-1]}.{name}")
    for module in STORES
    for name, query in module.SQL.statements.items()
    if "{" not in query
] + [
    pytest.param(
        desk.make_list(order, set(desk.FILTERS) - without, deep=deep, backwards=backwards),
        id=f"desk.list_{order}_{deep}_{backwards}_{n}",
    )
    for order in desk.ORDERS
    for deep, backwards in itertools.product((False, True), repeat=2)
    for n, without in enumerate((set(), {f"move_{move}" for move in desk.MOVES[1:]}))
]
STATEMENTS += [pytest.param(desk.make_flags(move), id=f"desk.flags_{move}") for move in desk.MOVES]
STATEMENTS += [
    pytest.param(profiles.make_list(order, profiles.FILTERS, deep=deep), id=f"profiles.list_{order}_{deep}")
    for order in profiles.ORDERS
    for deep in (False, True)
]
STATEMENTS += [
    pytest.param(overview.make_cross(row, column, desk.FILTERS), id=f"overview.{row}_{column}")
    for row, column in itertools.permutations(overview.DIMENSIONS, 2)
]


@pytest.mark.parametrize("query", STATEMENTS)
def test_every_statement_fits_the_schema(query: str, app: psycopg.Connection[Any]) -> None:
    """EXPLAIN with every value unknown: names, types and columns must all be right."""
    cursor = psycopg.ClientCursor(app)
    names = {part.split(")s")[0] for part in query.split("%(")[1:]}
    cursor.execute("explain (costs off) " + query, dict.fromkeys(names))  # type: ignore[arg-type]
    assert cursor.fetchall()


@pytest.mark.anyio
async def test_hot_queries_use_their_index(world: World) -> None:
    """First and deep page by the (workspace, move, due) index without a sort, even for the planner of a small table."""
    values = {
        "workspace_id": world.workspace_id,
        "member_id": 1,
        "limit": 50,
        "due": world.now,
        "rank": 0,
        "id": 1,
        "last_at": world.now,
        "standing": 0,
    }
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("set local enable_seqscan = off")
        await tx.execute("set local enable_bitmapscan = off")
        for order, deep, backwards in itertools.product(desk.ORDERS, (False, True), (False, True)):
            query = desk.make_list(order, ["move_unsorted"], deep=deep, backwards=backwards)
            plan = "\n".join(r[0] for r in await (await tx.execute("explain (costs off) " + query, values)).fetchall())
            index = {"oldest": "newest", "priority": "rank"}.get(order, order)
            index = f"conversation_by_{index}"
            assert f"using {index}" in plan.lower() or f"scan backward using {index}" in plan.lower(), plan
            assert plan.count("Sort Key") == 0, plan


async def find_quokka(conn: Any, workspace_id: int) -> list[dict[str, Any]]:
    """As if the transaction took itself for one of this workspace, whichever was chosen."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(conn, "_workspace_id", workspace_id)
        return await finding.find_messages(conn, query="'quokka'", words=["quokka"], limit=5)


@pytest.mark.anyio
async def test_search_runs_past_the_policies_but_not_past_the_workspace(world: World) -> None:
    await world.hear("a rare word: quokka")
    async with world.house.db.transact(world.workspace_id) as tx:
        assert len(await find_quokka(tx, world.workspace_id)) == 1
        assert await find_quokka(tx, world.other_workspace_id) == []
    async with world.house.db.transact(world.other_workspace_id) as tx:
        assert await find_quokka(tx, world.workspace_id) == []
        assert await find_quokka(tx, world.other_workspace_id) == []
    async with world.house.db.connect() as conn:
        assert await find_quokka(conn, world.workspace_id) == []


@pytest.mark.anyio
async def test_a_forgotten_condition_shows_nothing_of_another_workspace(world: World) -> None:
    await world.hear("ours")
    tables = ["conversation", "message", "trail", "person", "identity", "post", "account", "membership"]
    async with world.house.db.transact(world.workspace_id) as tx:
        for table in tables:
            row = await (await tx.execute(f"select count(*) from {table}")).fetchone()
            assert row[0] > 0, table
    async with world.house.db.transact(world.other_workspace_id) as tx:
        for table in [t for t in tables if t != "membership"]:
            row = await (await tx.execute(f"select count(*) from {table}")).fetchone()
            assert row[0] == 0, table
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            await tx.execute(
                "insert into person (workspace_id, name, first_at) values (%s, 'x', now())", [world.workspace_id]
            )
    async with world.house.db.connect() as conn:
        row = await (await conn.execute("select count(*) from conversation")).fetchone()
        assert row[0] == 0


def test_a_name_used_twice_fails_at_import(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from sorta.store import db

    (tmp_path / "sql").mkdir()
    (tmp_path / "sql" / "twice.sql").write_text("-- get_a: one\nselect 1;\n\n-- get_a: two\nselect 2;\n")
    monkeypatch.setattr(db, "__file__", str(tmp_path / "db.py"))
    with pytest.raises(ValueError, match="names get_a twice"):
        db.Statements("twice")


def test_what_a_row_can_read_as_is_what_the_core_says() -> None:
    assert (*(label.value for label in ReadsAs), NOT_SURE) == desk.READINGS


def test_the_band_of_a_sentiment_is_the_tone_that_the_core_says(app: psycopg.Connection) -> None:
    """The column is computed; its bounds are core.reading.BAND."""
    said = app.execute(
        "select pg_get_expr(d.adbin, d.adrelid) from pg_attrdef d join pg_attribute a on a.attrelid = d.adrelid and a.attnum = d.adnum"
        " where a.attrelid = 'conversation'::regclass and a.attname = 'sentiment_band'"
    ).fetchone()
    bands = {None: None, Tone.NEGATIVE: -1, Tone.NEUTRAL: 0, Tone.POSITIVE: 1}
    for value in (None, -1.0, -BAND, -BAND + 0.01, 0.0, BAND - 0.01, BAND, 1.0):
        found = app.execute(f"select {said[0]} from (select %s::real as sentiment) s", (value,)).fetchone()
        assert found[0] == bands[get_tone(value)], value


def test_a_database_that_a_newer_version_made_is_left_alone(pg: Cluster) -> None:
    pg.create_database("newer", "template_sorta")
    owner = pg.conninfo("sorta_owner", "newer")
    try:
        with psycopg.connect(owner) as conn:
            conn.execute(
                "insert into _yoyo_migration (migration_hash, migration_id, applied_at_utc) values ('x', '9999_later', now())"
            )
        with pytest.raises(migrate.SchemaNewer, match="9999_later"):
            migrate.apply_migrations(owner, KEYS)
        with psycopg.connect(owner) as conn:
            conn.execute("delete from _yoyo_migration where migration_id = '9999_later'")
        assert migrate.apply_migrations(owner, KEYS) == 0
    finally:
        pg.drop_database("newer")


@pytest.mark.anyio
async def test_every_list_of_a_conversations_columns_has_them_all(world: World) -> None:
    """A row is read, locked, written and checked whole: whoever adds a column and forgets a list is told here."""
    columns = await world.columns("conversation")
    write = trail.SQL.write_trail
    made = write.partition("insert into conversation (")[2].partition(")")[0]
    changed = write.partition("update conversation old set")[2].partition("from jsonb")[0]
    # Of one's own, and given once: no statement but that of erasing, or of joining people, writes these again.
    once = {"id", "workspace_id", "account_id", "person_id", "post_id", "thread_key", "public", "network", "created_at", "first_contact", "standing"}  # fmt: skip
    for name, text, without in (
        ("get_conversation", trail.SQL.get_conversation, {"workspace_id"}),
        ("lock_conversations", trail.SQL.lock_conversations, {"workspace_id"}),
        ("checking.list_rows", checking.SQL.list_rows, set()),
        ("write_trail, new", made, {"erased_at"}),
        ("write_trail, changed", changed, once | {"erased_at"}),
    ):
        assert columns - set(re.findall(r"\w+", re.split(r"\sfrom conversation", text)[0])) == without, name


@pytest.mark.anyio
async def test_a_transaction_knows_its_workspace_and_a_connection_that_has_gone_back_knows_none(world: World) -> None:
    db, ours, others = world.house.db, world.workspace_id, world.other_workspace_id
    lent = set()
    for ways in ({}, {"pipelined": True}, {"steady": True}):
        async with db.transact(ours, **ways) as tx:
            assert tx.workspace_id == ours
            lent.add(tx)

    async def break_off() -> None:
        async with db.transact(others) as tx:
            lent.add(tx)
            raise ZeroDivisionError(f"in {tx.workspace_id}")

    with pytest.raises(ZeroDivisionError, match=f"in {others}"):
        await break_off()
    async with db.connect() as conn:
        assert conn in lent
        with pytest.raises(RuntimeError, match="No workspace"):
            await people.get_workspace(conn)
        async with conn.transaction():
            assert (await db.enter(conn, others)).workspace_id == others
    async with db.connect() as conn:
        with pytest.raises(RuntimeError, match="No workspace"):
            await people.get_workspace(conn)
