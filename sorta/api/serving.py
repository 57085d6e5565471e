"""How the web process hears: a connection that says nothing, or never ends saying who it is, is not kept. Used by main."""

import asyncio
from typing import Any

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

#: Seconds within which a connection must have sent the whole head of a request, and bytes that it may have. What an answer
#: says of a head that is too long is said by api.limits; beyond four times as much nothing is said.
HEAD_WITHIN, LARGEST_HEAD = 10.0, 64 * 1024


class BoundedProtocol(HttpToolsProtocol):
    """uvicorn's protocol, which by itself waits for ever and for any amount."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self._head: asyncio.TimerHandle | None = None
        self._heard = 0

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._head = self.loop.call_later(HEAD_WITHIN, transport.close)

    def connection_lost(self, exc: Exception | None) -> None:
        self._forget()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        if self._head is not None:
            self._heard += len(data)
        super().data_received(data)
        if self._head is not None and self._heard > LARGEST_HEAD:
            self.transport.close()

    def on_message_begin(self) -> None:
        super().on_message_begin()
        if self._head is None:
            self._heard = 0
            self._head = self.loop.call_later(HEAD_WITHIN, self.transport.close)

    def on_headers_complete(self) -> None:
        self._forget()
        super().on_headers_complete()

    def _forget(self) -> None:
        if self._head is not None:
            self._head.cancel()
            self._head = None
