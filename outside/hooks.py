"""Telling listeners: one signed webhook an activity (Standard Webhooks), tried a few times, then given up."""

import asyncio
import json
import secrets
from datetime import UTC, datetime
from typing import Any

import httpx
from standardwebhooks import Webhook

from outside.mischief import Mischief

PAUSES = (0.5, 2, 8)


def sign(secret: str, id: str, body: str) -> dict[str, str]:
    """The headers that sign a delivery now, by the Standard Webhooks scheme."""
    now = datetime.now(UTC)
    return {
        "webhook-id": id,
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Webhook(secret).sign(id, now, body),
    }


class Hooks:
    """Sends in the order things happened, page by page, unless told to misbehave."""

    def __init__(self, mischief: Mischief) -> None:
        self._mischief = mischief
        self._client: httpx.AsyncClient | None = None
        self._queues: dict[str, asyncio.Queue[tuple[str, dict[str, Any], str]]] = {}
        self._tasks: dict[str, asyncio.Task[None]] = {}

    def forget(self) -> None:
        """Whatever waits to be sent is not."""
        self._client = None
        self._queues.clear()
        self._tasks.clear()

    def send(self, network: str, page: dict[str, Any], activity: dict[str, Any]) -> None:
        """Queue one activity for the page's listener."""
        self.send_raw(network, page, json.dumps(activity, ensure_ascii=False))

    def send_raw(self, network: str, page: dict[str, Any], body: str) -> None:
        """Queue any text, well-formed or not."""
        self._client = self._client or httpx.AsyncClient(timeout=10)
        if page["id"] not in self._queues:
            self._queues[page["id"]] = asyncio.Queue()
            self._tasks[page["id"]] = asyncio.create_task(self._work(self._queues[page["id"]]))
        self._queues[page["id"]].put_nowait((network, page, body))

    async def _work(self, queue: asyncio.Queue[tuple[str, dict[str, Any], str]]) -> None:
        while True:
            network, page, body = await queue.get()
            batch = [(page, body)]
            if self._mischief.get(network)["reorder"]:
                await asyncio.sleep(0.6)
                while not queue.empty():
                    _, page, body = queue.get_nowait()
                    batch.append((page, body))
                batch.reverse()
            for one, text in batch:
                if self._mischief.use(network, "drop"):
                    continue
                id = f"msg_{secrets.token_hex(10)}"
                for _ in range(2 if self._mischief.get(network)["duplicate"] else 1):
                    await self._deliver(one, text, id)
            for _ in batch:
                queue.task_done()

    async def wait(self, seconds: float) -> bool:
        """Until everything that was queued has been heard, dropped or given up, or so long; whether nothing is left."""
        heard = [asyncio.create_task(queue.join()) for queue in self._queues.values()]
        _, waiting = await asyncio.wait(heard, timeout=seconds) if heard else (set(), set())
        for one in waiting:
            one.cancel()
        return not waiting

    async def _deliver(self, page: dict[str, Any], body: str, id: str) -> None:
        assert self._client is not None
        for pause in (0, *PAUSES):
            await asyncio.sleep(pause)
            headers = {**sign(page["hook_secret"], id, body), "content-type": "application/activity+json"}
            try:
                answer = await self._client.post(page["hook_url"], content=body.encode(), headers=headers)
            except httpx.HTTPError:
                continue
            if answer.status_code < 500:
                return
