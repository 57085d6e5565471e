"""The real processes and a PostgreSQL that goes away under them: both stay, say so meanwhile, and go on when it is back."""

import asyncio
import contextlib
import os
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import psycopg
import pytest

from dev import cluster
from sorta.store import db
from sorta.store.keyring import Keyring, make_key
from sorta.store.migrate import apply_migrations

#: Seconds that anything is waited for before the test fails; what is asked of them is less, and measured in `make bench`.
LONG = 120


@pytest.fixture
def folder() -> Iterator[Path]:
    made = cluster.make_folder(durable=True)
    yield made
    subprocess.run(["rm", "-rf", str(made)], check=False)


@pytest.fixture
def http() -> Iterator[httpx.Client]:
    """One for all that is asked: making one takes longer than what is asked."""
    with httpx.Client() as client:
        yield client


def wait_until(what: str, is_so: object) -> float:
    begun = time.monotonic()
    while time.monotonic() - begun < LONG:
        with contextlib.suppress(httpx.HTTPError, psycopg.Error):
            if is_so():  # type: ignore[operator]
                print(f"{what} after {time.monotonic() - begun:.1f} s")
                return time.monotonic() - begun
        time.sleep(0.05)
    raise AssertionError(f"not within {LONG} s: {what}")


def test_web_and_worker_outlive_their_database(folder: Path, tmp_path: Path, http: httpx.Client) -> None:
    port = cluster.get_free_port()
    pg = cluster.start(folder, port)
    parts: list[subprocess.Popen[bytes]] = []
    try:
        pg.create_database("sorta")
        key = make_key()
        apply_migrations(pg.conninfo("sorta_owner", "sorta"), Keyring.read(key))
        with psycopg.connect(pg.conninfo("sorta_owner", "sorta"), autocommit=True) as conn:
            conn.execute("insert into organisation (name) values ('Trust')")
        web = cluster.get_free_port()
        environment = {**os.environ, "SORTA_KEYS": key, "SORTA_PORT": str(web)}
        address = f"http://127.0.0.1:{web}"
        # Begun while the database is away: that is no reason to end either.
        pg.stop()
        for name in ("web", "worker"):
            command = [sys.executable, "-m", "sorta.main", name]
            with (tmp_path / f"{name}.log").open("wb") as log:
                its_own = {**environment, "SORTA_DATABASE": pg.conninfo(f"sorta_{name}", "sorta")}
                parts.append(subprocess.Popen(command, env=its_own, stdout=log, stderr=log))
        wait_until("alive", lambda: http.get(f"{address}/healthz").status_code == 200)
        assert http.get(f"{address}/readyz", timeout=LONG).status_code == 503
        for n in range(2):
            pg = cluster.start(folder, port)
            wait_until("ready", lambda: http.get(f"{address}/readyz", timeout=LONG).status_code == 200)
            with psycopg.connect(pg.conninfo("sorta_worker", "sorta"), autocommit=True) as conn:
                since = conn.execute("select clock_timestamp()").fetchone()
                assert since is not None

                def has_come_by(conn: object = conn, since: object = since) -> bool:
                    found = conn.execute("select bool_and(came_by > %s) from clock where every_seconds <= 5", since)  # type: ignore[attr-defined]
                    return bool(found.fetchone()[0])

                wait_until("the clock", has_come_by)
                wait_until(
                    "the queue's worker",
                    lambda conn=conn: conn.execute(
                        "select exists (select from procrastinate_workers where last_heartbeat > now() - interval '10 s')"
                    ).fetchone()[0],
                )
            if n:
                break
            pg.stop()
            said = http.get(f"{address}/readyz", timeout=LONG)
            assert (said.status_code, said.json()["database"]) == (503, False)
            refused = http.post(f"{address}/api/session", json={"email": "a@b.example", "password": "x"}, timeout=LONG)
            assert refused.status_code == 503
            assert "Nothing was changed" in refused.json()["detail"]
            assert [part.poll() for part in parts] == [None, None]
    finally:
        ending = time.monotonic()
        for part in parts:
            part.terminate()
        ended = [part.wait(LONG) for part in parts]
        print(f"ended after {time.monotonic() - ending:.1f} s")
        with contextlib.suppress(Exception):
            pg.stop()
    assert ended[1] == 0, (tmp_path / "worker.log").read_text()[-2000:]


@pytest.mark.anyio
async def test_however_many_have_given_up_waiting_the_database_is_asked_again(
    folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(db, "WAIT", 0.02)
    port = cluster.get_free_port()
    pg = cluster.start(folder, port)
    try:
        pg.create_database("sorta")
        away = db.Database(pg.conninfo("sorta_web", "sorta"))
        pg.stop()
        await away.open()
        for _ in range(db.MOST_WAITING + 50):
            with pytest.raises(db.Unavailable):
                async with away.connect():
                    pass
        # Longer than a pool goes on trying by itself.
        await asyncio.sleep(3)
        pg = cluster.start(folder, port)
        monkeypatch.setattr(db, "WAIT", 5)
        begun = time.monotonic()
        while True:
            try:
                async with away.connect() as conn:
                    assert (await (await conn.execute("select 1")).fetchone()) == (1,)
                break
            except db.Unavailable:
                assert time.monotonic() - begun < LONG
        await away.close()
    finally:
        pg.stop()
