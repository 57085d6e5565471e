"""The web application in the same process, asked over its real routes."""

import asyncio
from collections.abc import AsyncIterator
from typing import Any

import httpx
import pytest
from fastapi import FastAPI

from sorta.api.app import give_house, make_app
from tests.world import PASSWORD, World


class Client(httpx.AsyncClient):
    """A signed-in browser: keeps the cookie, sends the session's word."""

    async def send(self, request: httpx.Request, **more: Any) -> httpx.Response:
        """In a task of its own, as a server answers: who acts there is nobody here."""
        return await asyncio.create_task(super().send(request, **more))

    async def enter(self, name: str) -> None:
        answer = await self.post("/api/session", json={"email": f"{name}@brinewick.example", "password": PASSWORD})
        assert answer.status_code == 204, answer.text
        self.headers["X-CSRF-Token"] = (await self.get("/api/session")).json()["csrf"]


@pytest.fixture(scope="session")
def made() -> list[FastAPI]:
    """The one application of this process, once there is a house for it."""
    return []


@pytest.fixture
def app(made: list[FastAPI], world: World) -> FastAPI:
    if not made:
        made.append(make_app(world.house))
    give_house(made[0], world.house)
    return made[0]


@pytest.fixture
async def anyone(app: FastAPI) -> AsyncIterator[Client]:
    """Nobody yet; call `enter`."""
    transport = httpx.ASGITransport(app=app, raise_app_exceptions=False)
    async with Client(transport=transport, base_url="http://sorta.test") as client:
        yield client


@pytest.fixture
async def mara(app: FastAPI) -> AsyncIterator[Client]:
    transport = httpx.ASGITransport(app=app, raise_app_exceptions=False)
    async with Client(transport=transport, base_url="http://sorta.test") as client:
        await client.enter("mara")
        yield client


@pytest.fixture
def here(world: World) -> str:
    """The address of the workspace that Mara works in."""
    return f"/api/workspaces/{world.workspace_id}"
