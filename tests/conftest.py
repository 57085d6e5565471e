"""A PostgreSQL of the tests' own, a migrated template, a fresh copy of it for each test; and a small world."""

import functools
import itertools
from collections.abc import AsyncIterator, Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
import structlog
from blockbuster import BlockBuster
from hypothesis import settings

from dev import cluster
from dev.cluster import Cluster
from sorta.services import organisation
from sorta.store.migrate import apply_migrations
from tests.world import World, make_world

NOW = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)
# The same cases every time, so that a run's verdict is the change's doing; `--hypothesis-profile=default` looks for new ones.
settings.register_profile("same", derandomize=True, deadline=None)
settings.load_profile("same")
_numbers = itertools.count(1)


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
        apply_migrations(made.conninfo("sorta_owner", "template_sorta"))
        yield made


@pytest.fixture(scope="session", autouse=True)
def _hash_once() -> Iterator[None]:
    """Argon2 is slow on purpose; the one password of the tests is hashed once."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(organisation, "hash_password", functools.cache(organisation.hash_password))
        yield


@pytest.fixture
def database(pg: Cluster) -> Iterator[str]:
    """The name of an empty, migrated database that is gone afterwards."""
    name = f"test_{next(_numbers)}"
    pg.create_database(name, "template_sorta")
    yield name
    pg.drop_database(name)


@pytest.fixture
async def world(pg: Cluster, database: str, tmp_path: Path) -> AsyncIterator[World]:
    """Two workspaces with members and accounts, and the Outside in the same process."""
    async with make_world(pg.conninfo("sorta_app", database), NOW, tmp_path / "files") as made:
        yield made


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
