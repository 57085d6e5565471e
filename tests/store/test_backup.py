"""A copy made while people work, and brought back: every row, nothing of what came after, and nothing out twice."""

import base64
import contextlib
import io
import json
import os
import shutil
import tarfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import psycopg
import pytest
from psycopg.sql import SQL, Identifier

from dev import cluster
from dev.cluster import Cluster
from sorta.services import outgoing, sign_in
from sorta.services.checking import find_differences
from sorta.store import backup, migrate
from sorta.store.backup import NoCopy
from sorta.store.db import Database
from sorta.store.keyring import Keyring, make_key
from sorta.store.migrate import SchemaNewer
from sorta.store.queue import Queue
from tests.conftest import NOW
from tests.services.test_acts import reply
from tests.services.test_delivery import go, outside
from tests.world import KEYS, PASSWORD, World, furnish, get_outside, make_house, make_world, name_database

pytestmark = pytest.mark.anyio
#: What is not as it was, on purpose: see `backup.settle_in`.
OTHERWISE = {"session", "password_link", "workspace", "record"}


@pytest.fixture
def empty(pg: Cluster) -> Iterator[str]:
    pg.create_database("brought_back")
    yield "brought_back"
    pg.drop_database("brought_back")


def copy_of(pg: Cluster, world: World, folder: Path) -> Path:
    return backup.back_up(pg.conninfo("sorta_backup", name_database(world)), world.files, KEYS, folder, world.now)


def read_rows(pg: Cluster, database: str) -> dict[str, tuple[int, str]]:
    """How many rows each table has, and the sum of what is in them."""
    found = {}
    with pg.admin(database) as conn:
        tables = conn.execute("select tablename from pg_tables where schemaname = 'public' order by 1").fetchall()
        for (name,) in tables:
            query = SQL("select count(*), md5(coalesce(string_agg(t::text, '|' order by t::text), '')) from {} t")
            found[str(name)] = conn.execute(query.format(Identifier(str(name)))).fetchone()
    return found  # type: ignore[return-value]


async def test_all_comes_back_but_what_came_after_and_nothing_goes_out_twice(
    world: World, pg: Cluster, empty: str, tmp_path: Path
) -> None:
    id = await world.hear("When do you open?")
    await reply(world, id, "At nine.")
    assert world.house.files is not None
    world.house.files.add(world.workspace_id, b"a picture")
    await sign_in.sign_in(
        world.house, email="mara@brinewick.example", password=PASSWORD, came_from="127.0.0.1", now=world.now
    )
    copy = copy_of(pg, world, tmp_path / "copies")
    assert copy.stat().st_mode & 0o777 == 0o600
    before = read_rows(pg, name_database(world))
    # After the copy the answer goes out, and somebody else writes.
    await go(world, seconds=11)
    assert await outside(world) == ["At nine."]
    await world.hear("And on Sundays?", handle="late")

    manifest = backup.restore(copy, pg.conninfo("sorta_owner", empty), tmp_path / "files_again", KEYS)
    assert (manifest.at, manifest.files) == (world.now, 1)
    migrate.apply_migrations(pg.conninfo("sorta_owner", empty), KEYS)
    after = read_rows(pg, empty)
    assert after == before
    backup.settle_in(pg.conninfo("sorta_owner", empty), manifest.at, world.after(hours=1))
    settled = read_rows(pg, empty)
    assert {name for name in settled if settled[name] != before[name]} == OTHERWISE - {"password_link"}
    assert settled["session"][0] == 0 != before["session"][0]
    # The roles have what they had.
    conninfo = pg.conninfo("sorta_web", empty)
    house = replace(world.house, db=Database(conninfo, keys=KEYS, min_size=1, max_size=4), queue=Queue(conninfo))
    await house.db.open()
    again = replace(world, house=house)
    try:
        assert await find_differences(house, world.workspace_id, world.after(hours=1)) == {}
        assert len(await again.kinds(id)) >= 2
        stored = next(path for path in (tmp_path / "files_again").rglob("*") if path.is_file())
        assert stored.read_bytes() == b"a picture"
        # Nothing goes out until somebody has looked; then what had gone already is there once all the same.
        await go(again, hours=1)
        told = await outgoing.get_outgoing(house, world.scopes["mara"], world.after(hours=1))
        assert "brought back from a copy of 20 Nov 2026 12:00 UTC" in told["held_reason"]
        assert [one["body"] for one in told["waiting"]] == ["At nine."]
        await outgoing.release(house, world.scopes["mara"], world.after(hours=2))
        await go(again, hours=2)
        assert await outside(again) == ["At nine."]
        assert (await outgoing.get_outgoing(house, world.scopes["mara"], world.after(hours=2)))["waiting"] == []
    finally:
        await house.db.close()


async def test_an_instant_is_brought_back_from_the_log(tmp_path: Path) -> None:
    """PostgreSQL's manual, 26.3 (Continuous Archiving and Point-in-Time Recovery): a base copy, and the log since. What came after the instant is lost, and nothing else."""
    folder = cluster.make_folder()
    archive, base = folder / "archive", folder / "base"
    pg = cluster.start(folder / "pg", cluster.get_free_port(), durable=False, archive=archive)
    try:
        if os.geteuid() == 0:
            shutil.chown(folder, "postgres")
        pg.create_database("sorta")
        migrate.apply_migrations(pg.conninfo("sorta_owner", "sorta"), KEYS)
        conninfo = pg.conninfo("sorta_web", "sorta")
        made = await furnish(conninfo, NOW, tmp_path / "furnished")
        async with make_world(conninfo, NOW, tmp_path / "files", made) as world:
            first = await world.hear("When do you open?")
            cluster.copy_base(pg, base)
            # Answered after the base copy: only the log knows of it.
            await reply(world, first, "At nine.")
            await sign_in.sign_in(
                world.house, email="mara@brinewick.example", password=PASSWORD, came_from="127.0.0.1", now=world.now
            )
            with pg.admin("sorta") as conn:
                ((until,),) = conn.execute("select clock_timestamp()").fetchall()
            await go(world, seconds=11)
            await world.hear("And on Sundays?", handle="late")
            assert await outside(world) == ["At nine."]
        with pg.admin() as conn:
            conn.execute("select pg_switch_wal()")
        pg.stop()
        cluster.bring_forward(pg, base, archive, until)
        backup.settle_in(pg.conninfo("sorta_owner", "sorta"), until, world.after(hours=1))
        async with make_house(conninfo, NOW, tmp_path / "files", get_outside()) as again:
            again = replace(again, **made.fields)
            assert await find_differences(again.house, again.workspace_id, world.after(hours=1)) == {}
            with pg.admin("sorta") as conn:
                said = [text for (text,) in conn.execute("select body from message order by id").fetchall()]
                assert said == ["When do you open?", "At nine."]
                assert conn.execute("select count(*) from session").fetchall() == [(0,)]
            # It had gone out, which is not known here: held, and then there once all the same.
            await go(again, hours=1)
            told = await outgoing.get_outgoing(again.house, again.scopes["mara"], world.after(hours=1))
            assert [one["body"] for one in told["waiting"]] == ["At nine."]
            await outgoing.release(again.house, again.scopes["mara"], world.after(hours=2))
            await go(again, hours=2)
            assert await outside(again) == ["At nine."]
    finally:
        with contextlib.suppress(RuntimeError):
            pg.stop()
        shutil.rmtree(folder, ignore_errors=True)


async def test_a_copy_is_refused_where_it_would_be_wrong_and_nothing_is_changed(
    world: World, pg: Cluster, empty: str, tmp_path: Path
) -> None:
    await world.hear("When do you open?")
    copy, owner = copy_of(pg, world, tmp_path), pg.conninfo("sorta_owner", empty)
    whole = copy.read_bytes()

    def refused(data: bytes, says: str, keys: Keyring = KEYS, into: str = owner) -> None:
        bent = tmp_path / "bent.tar"
        bent.write_bytes(data)
        with pytest.raises((NoCopy, SchemaNewer), match=says):
            backup.restore(bent, into, tmp_path / "files", keys)

    refused(b"not one", "cannot be read as a copy")
    refused(whole[: len(whole) // 2], "no copy of Sorta, or only part|damaged|cannot be read")
    at = whole.index(b"PGDMP") + 4000
    refused(whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :], "does not add up")
    refused(whole, "made with other keys", Keyring.read(make_key()))
    refused(whole, "not empty", into=pg.conninfo("sorta_owner", name_database(world)))
    refused(with_manifest(whole, form=2), "newer Sorta")
    refused(with_manifest(whole, migrations=["9999_later"]), "9999_later")
    refused(with_manifest(whole, at="then"), "manifest cannot be read")
    with psycopg.connect(owner) as conn:
        assert conn.execute("select count(*) from pg_tables where schemaname = 'public'").fetchone() == (0,)
    # The keys as they are now and those of then: one of them is enough.
    both = Keyring.read(f"{make_key()} {read_key()}")
    assert backup.restore(copy, owner, None, both).files == 0


def read_key() -> str:

    return base64.urlsafe_b64encode(KEYS._keys[0]).decode()


def with_manifest(whole: bytes, **other: object) -> bytes:
    """The same copy with something else in its manifest."""
    out = io.BytesIO()
    with tarfile.open(fileobj=io.BytesIO(whole)) as old, tarfile.open(fileobj=out, mode="w") as new:
        for member in old:
            file = old.extractfile(member)
            data = file.read() if file else b""
            if member.name == backup.MANIFEST:
                data = json.dumps({**json.loads(data), **other}).encode()
                member.size = len(data)
            new.addfile(member, io.BytesIO(data))
    return out.getvalue()


async def test_a_file_of_a_copy_goes_nowhere_but_into_its_folder(
    world: World, pg: Cluster, empty: str, tmp_path: Path
) -> None:
    copy = copy_of(pg, world, tmp_path / "copies")
    with tarfile.open(copy, "a") as tar:
        hostile = tarfile.TarInfo("files/../../escaped")
        hostile.size = 4
        tar.addfile(hostile, io.BytesIO(b"here"))
    with pytest.raises(NoCopy, match="damaged"):
        backup.restore(copy, pg.conninfo("sorta_owner", empty), tmp_path / "files" / "within", KEYS)
    assert not (tmp_path / "escaped").exists()
    assert not (tmp_path / "files" / "escaped").exists()


def test_the_oldest_copies_go_and_nothing_else(tmp_path: Path) -> None:
    names = [f"sorta-202611{day:02}T031700Z.tar" for day in range(1, 6)]
    for name in [*names, "sorta-notes.tar", "keys"]:
        (tmp_path / name).touch()
    assert backup.prune(tmp_path, 0) == []
    assert [path.name for path in backup.prune(tmp_path, 2)] == names[:3]
    assert {path.name for path in tmp_path.iterdir()} == {*names[3:], "sorta-notes.tar", "keys"}


async def test_who_reads_everything_changes_nothing(world: World, pg: Cluster) -> None:
    await world.hear("When do you open?")
    with psycopg.connect(pg.conninfo("sorta_backup", name_database(world)), autocommit=True) as conn:
        assert conn.execute("select count(*) from conversation").fetchone() == (1,)
        for query in ("delete from conversation", "update member set name = 'x'", "create table mine (a int)"):
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                conn.execute(query)  # type: ignore[arg-type]
