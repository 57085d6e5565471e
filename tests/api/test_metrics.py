"""Figures for an operator: for who has the token, in Prometheus's own format, and told also while the database is away."""

import asyncio
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import pytest
from prometheus_client.parser import text_string_to_metric_families

from sorta.api.app import make_app
from sorta.api.metrics import Meter
from sorta.jobs.clock import run_all_once
from sorta.services import metrics
from sorta.services.duties import DUTIES
from sorta.services.house import Unavailable
from tests.services.test_acts import reply
from tests.world import World

pytestmark = pytest.mark.anyio
OPERATING = Path(__file__).parents[2] / "docs" / "operating.md"


async def ask(world: World, said: str | None = "Bearer figures", token: str | None = "figures") -> httpx.Response:
    transport = httpx.ASGITransport(app=make_app(world.house, metrics_token=token))
    async with httpx.AsyncClient(transport=transport, base_url="http://sorta.test") as client:
        await client.get("/healthz")
        return await client.get("/metrics", headers={"Authorization": said} if said else {})


async def read(world: World) -> dict[str, dict[tuple[tuple[str, str], ...], float]]:
    """Every figure by name and labels, read by the format's own parser."""
    found: dict[str, dict[tuple[tuple[str, str], ...], float]] = {}
    for family in text_string_to_metric_families((await ask(world)).text):
        for sample in family.samples:
            found.setdefault(sample.name, {})[tuple(sorted(sample.labels.items()))] = sample.value
    return found


async def test_they_are_for_who_has_the_token(world: World) -> None:
    assert (await ask(world)).status_code == 200
    assert [(await ask(world, said)).status_code for said in (None, "Bearer x", "figures")] == [403] * 3
    assert (await ask(world, token=None)).status_code == 404


async def test_what_is_told(world: World) -> None:
    await run_all_once(world.house, world.now)
    await reply(world, await world.hear("hi"))
    account = str(world.accounts["commonfold"].id)
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update account set silent_since = now() - interval '1 hour' where id = %s", [account])
    found = await read(world)
    of = (("account", account), ("network", "commonfold"), ("workspace", str(world.workspace_id)))
    assert found["sorta_account_silent_seconds"][of] == pytest.approx(3600, abs=30)
    queued = (("account", account), ("state", "queued"), ("workspace", str(world.workspace_id)))
    assert found["sorta_outbox"][queued] == 1
    assert found["sorta_database_up"][()] == 1
    here = {dict(labels)["duty"] for labels in found["sorta_duty_age_seconds"]}
    assert here == {duty.name for duty in DUTIES}
    assert any(dict(k)["route"] == "/healthz" and v >= 1 for k, v in found["sorta_request_seconds_count"].items())


async def test_an_absent_database_is_a_figure_too(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    async def away(*_: object) -> None:
        raise Unavailable("away")

    monkeypatch.setattr("sorta.services.metrics.list_working_ids", away)
    found = await read(world)
    assert found["sorta_database_up"][()] == 0
    assert () in found["sorta_workshop_busy"]


def test_every_figure_is_explained_to_the_operator() -> None:
    said = OPERATING.read_text()
    assert [name for name in metrics.HELP if f"`{name}`" not in said] == []


async def test_who_holds_the_loop_and_who_merely_waits_for_a_processor_are_told_apart() -> None:
    """A step that works holds the loop by as much as it is late; one that sleeps has it late and held by nothing."""

    async def measure(step: Callable[[], object]) -> tuple[float, float]:
        meter = Meter()
        watching = asyncio.create_task(meter.watch_loop())
        await asyncio.sleep(0.01)
        step()
        await asyncio.sleep(0.2)
        watching.cancel()
        sums = {
            f: sample.value
            for f in ("lag", "held")
            for sample in _list_samples(meter, f)
            if sample.name.endswith("_sum")
        }
        return sums["lag"], sums["held"]

    def work() -> None:
        until = time.process_time() + 0.3
        while time.process_time() < until:
            pass

    lag, held = await measure(work)
    assert held > 0.15
    assert held <= lag + 0.001
    lag, held = await measure(lambda: time.sleep(0.3))
    assert lag > 0.2
    assert held < 0.15


def _list_samples(meter: Meter, what: str) -> list[Any]:
    return [
        s
        for family in meter.registry.collect()
        if family.name == f"sorta_event_loop_{what}_seconds"
        for s in family.samples
    ]
