"""A PostgreSQL of the tests' own, a migrated template, a fresh copy of it for each test; and a small world."""

import asyncio
import gc
import itertools
from collections.abc import AsyncIterator, Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
import structlog
from blockbuster import BlockBuster
from hypothesis import settings
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher

from dev import cluster
from dev.cluster import Cluster
from sorta.services import sign_in
from sorta.store.migrate import apply_migrations
from tests.world import KEYS, Furnished, World, furnish, make_world

NOW = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)
# The same cases every time, so that a run's verdict is the change's doing; `--hypothesis-profile=default` looks for new ones.
settings.register_profile("same", derandomize=True, deadline=None)
settings.load_profile("same")
_numbers = itertools.count(1)


def pytest_collection() -> None:
    """Thousands of tests are made, and none of what is loaded goes before the end: looking for rubbish in it takes a fifth of that time."""
    gc.disable()


def pytest_collection_finish() -> None:
    gc.freeze()
    gc.enable()


@pytest.fixture(scope="session")
def anyio_backend() -> str:
    return "asyncio"


@pytest.fixture(scope="session", autouse=True)
def _no_log() -> None:
    """Nothing is written down: formatting a traceback reads source files, which would count as blocking."""
    structlog.configure(processors=[lambda *_: "said"], logger_factory=structlog.ReturnLoggerFactory())


@pytest.fixture(scope="session")
def pg() -> Iterator[Cluster]:
    with cluster.temporary() as made:
        made.create_database("template_sorta")
        apply_migrations(made.conninfo("sorta_owner", "template_sorta"), KEYS)
        yield made


@pytest.fixture(scope="session", autouse=True)
def _hash_quickly() -> Iterator[None]:
    """Argon2 is slow on purpose; here it takes no longer than anything else. How slow it is in life is its own test's."""
    weak = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=64, parallelism=1),))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(sign_in, "_hasher", weak)
        patch.setattr(sign_in, "NOBODYS", weak.hash("nobody"))
        yield


@pytest.fixture(scope="session")
def furnished(pg: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Furnished:
    """A database with what every world begins with, to be copied."""
    pg.create_database("template_world", "template_sorta")
    return asyncio.run(furnish(pg.conninfo("sorta_web", "template_world"), NOW, tmp_path_factory.mktemp("files")))


@pytest.fixture
async def world(pg: Cluster, furnished: Furnished, tmp_path: Path) -> AsyncIterator[World]:
    """Two workspaces with members and accounts, and the Outside in the same process; gone afterwards."""
    name = f"test_{next(_numbers)}"
    pg.create_database(name, "template_world")
    async with make_world(pg.conninfo("sorta_web", name), NOW, tmp_path / "files", furnished) as made:
        yield made
    pg.drop_database(name)


@pytest.fixture
def no_blocking() -> Iterator[None]:
    """Anything in sorta that blocks the event loop fails the test; the stand-in's SQLite may."""
    buster = BlockBuster(scanned_modules=["sorta"])
    buster.activate()
    for name, function in buster.functions.items():
        if name.startswith("sqlite3"):
            function.deactivate()
    yield
    buster.deactivate()
