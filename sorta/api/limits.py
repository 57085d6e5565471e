"""How much anybody may send, how deeply nested, how slowly, and how many requests at once. One middleware before all routes.

What is not named in `OWN` has the limits of every route, so that a new one is bounded before anybody has thought of it.
A body is read here, whole and within its time, before the application sees the request.
"""

import asyncio
import re
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from fastapi import Request
from fastapi.routing import APIRoute
from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sorta.api.errors import make_problem
from sorta.core.attachments import LARGEST as LARGEST_FILE
from sorta.core.calendars import LARGEST as LARGEST_CALENDAR
from sorta.core.colours import LARGEST_PICTURE


@dataclass(frozen=True, kw_only=True)
class Limit:
    """What one request may be: its body in bytes, within how many seconds it must have come, and how many of its kind one
    caller may have under way. `nests` says that the body is JSON that may nest no deeper than `DEEPEST`."""

    largest: int
    seconds: float = 10
    at_once: int = 32
    nests: bool = True


#: Before anybody has signed in, and after.
NOBODY = Limit(largest=64 * 1024)
SOMEBODY = Limit(largest=256 * 1024)
#: The routes that take more, by name. A text of a million characters may be written in JSON with six bytes each.
OWN: Mapping[str, Limit] = {
    "add_delivery": Limit(largest=1_000_000, at_once=256),
    "add_case_news": Limit(largest=1_000_000, at_once=64),
    "add_letter": Limit(largest=10 * 2**20, seconds=30, at_once=16, nests=False),
    "add_attachment": Limit(largest=LARGEST_FILE, seconds=120, at_once=8, nests=False),
    "add_library_file": Limit(largest=LARGEST_FILE, seconds=120, at_once=4, nests=False),
    "set_picture": Limit(largest=LARGEST_PICTURE, seconds=60, at_once=4, nests=False),
    "read_calendar": Limit(largest=2 * LARGEST_CALENDAR, seconds=30, at_once=4),
    "import_conversations": Limit(largest=4 * 2**20, seconds=60, at_once=4),
    "import_rules": Limit(largest=1_000_000, seconds=30, at_once=4),
}
#: So much of what is too large is taken and thrown away before it is refused: a proxy that is still sending when the connection ends
#: does not hear the answer.
MOST_DISCARDED = 32 * 2**20
#: Lists and objects within one another. A rule's conditions nest twelve deep at most.
DEEPEST = 48
#: Bytes of the address and all header lines together. A browser's take one or two thousand.
LARGEST_HEAD = 16 * 1024
#: Requests under way from one address, whoever they are: an office sits behind one.
FROM_ONE_ADDRESS = 512
_SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
#: A string, to the end where it has none (or each of its quotes would be tried for a beginning), or a bracket.
_TOKENS = re.compile(rb'"(?:[^"\\]|\\.)*+\\?(?:"|\Z)|[\[{]|[\]}]', re.DOTALL)


def nests_too_deeply(body: bytes | bytearray) -> bool:
    """Whether lists and objects stand more than `DEEPEST` within one another; one pass, whatever the body is."""
    if body.count(b"[") + body.count(b"{") <= DEEPEST:
        return False
    depth = 0
    for token in _TOKENS.finditer(body):
        sign = token[0]
        if sign in (b"[", b"{"):
            depth += 1
            if depth > DEEPEST:
                return True
        elif sign in (b"]", b"}"):
            depth -= 1
    return False


def say_size(size: int) -> str:
    """Bytes for a person."""
    return f"{size // 2**20} MB" if size >= 2**20 else f"{size:,} bytes"


class Limits:
    """The middleware; `routes` are those of the application, of which the named ones have limits of their own."""

    def __init__(self, app: ASGIApp, routes: Iterable[APIRoute], cookie: str) -> None:
        self._app = app
        self._cookie = f"{cookie}=".encode()
        self._own = [
            (method, route.path_regex, OWN[route.name])
            for route in routes
            if route.name in OWN
            for method in route.methods or ()
        ]
        self._under_way: Counter[str] = Counter()

    def get_limit(self, method: str, path: str, *, has_cookie: bool) -> Limit:
        """The limit of a request to this path."""
        for own, pattern, limit in self._own:
            if own == method and pattern.match(path):
                return limit
        return SOMEBODY if has_cookie and path != "/api/session" else NOBODY

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        # Health must be told whatever else is under way; a stream of notices is counted where it is opened.
        if scope["type"] != "http" or scope["path"] in ("/healthz", "/readyz") or scope["path"].endswith("/live"):
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        head = len(scope["query_string"]) + sum(len(name) + len(value) for name, value in scope["headers"])
        if head + len(scope["path"]) > LARGEST_HEAD:
            await self._refuse(
                scope, receive, send, 431, "too-large", "The request's address and header lines are too long."
            )
            return
        word = next((c for c in headers.get("cookie", "").split("; ") if c.encode().startswith(self._cookie)), None)
        limit = self.get_limit(scope["method"], scope["path"], has_cookie=word is not None)
        address = scope["client"][0] if scope.get("client") else "unknown"
        # A network calls for one account; everybody else is known by their session, or by where they come from.
        caller = scope["path"] if scope["path"].startswith("/hooks/") else word or address
        counted = (f"one {limit.at_once} {caller}", f"all {address}")
        if self._under_way[counted[0]] >= limit.at_once or self._under_way[counted[1]] >= FROM_ONE_ADDRESS:
            detail = "Too many requests are under way at once. Nothing was changed; try again in a moment."
            await self._refuse(scope, receive, send, 429, "busy", detail, retry_after=1)
            return
        for one in counted:
            self._under_way[one] += 1
        try:
            if scope["method"] in _SAFE and "content-length" not in headers and "transfer-encoding" not in headers:
                await self._app(scope, receive, send)
            else:
                await self._take(limit, scope, receive, send)
        finally:
            for one in counted:
                self._under_way[one] -= 1
                if not self._under_way[one]:
                    del self._under_way[one]

    async def _take(self, limit: Limit, scope: Scope, receive: Receive, send: Send) -> None:
        said = Headers(scope=scope).get("content-length", "")
        is_too_large = said.isdecimal() and (len(said) > 15 or int(said) > limit.largest)
        is_on_its_way = not is_too_large or (len(said) <= 15 and int(said) <= MOST_DISCARDED)
        body, size = bytearray(), 0
        try:
            async with asyncio.timeout(limit.seconds):
                while is_on_its_way:
                    message = await receive()
                    if message["type"] == "http.disconnect":
                        return
                    size += len(message.get("body", b""))
                    is_too_large = is_too_large or size > limit.largest
                    if is_too_large:
                        body.clear()
                    else:
                        body += message.get("body", b"")
                    is_on_its_way = message.get("more_body", False) and size <= MOST_DISCARDED
        except TimeoutError:
            if not is_too_large:
                detail = f"What was sent did not arrive within {limit.seconds:.0f} seconds. Nothing was changed."
                await self._refuse(scope, receive, send, 408, "too-slow", detail)
                return
        if is_too_large:
            detail = f"What was sent can be {say_size(limit.largest)} large, not more. Nothing was changed."
            await self._refuse(scope, receive, send, 413, "too-large", detail)
            return
        if limit.nests and nests_too_deeply(body):
            detail = (
                f"What was sent has lists and objects more than {DEEPEST} deep within one another. Nothing was changed."
            )
            await self._refuse(scope, receive, send, 422, "invalid", detail)
            return
        waiting: list[Message] = [{"type": "http.request", "body": bytes(body), "more_body": False}]
        del body

        async def receive_again() -> Message:
            return waiting.pop() if waiting else await receive()

        await self._app(scope, receive_again, send)

    async def _refuse(
        self,
        scope: Scope,
        receive: Receive,
        send: Send,
        status: int,
        kind: str,
        detail: str,
        *,
        retry_after: int | None = None,
    ) -> None:
        # What is still on its way is not waited for: the connection ends with the answer.
        headers = {"Connection": "close"} if retry_after is None else {"Retry-After": str(retry_after)}
        titles = {408: "Too slow", 413: "Too large", 422: "That cannot be used", 429: "Too much at once"}
        title = titles.get(status, "Too large")
        answer: Response = make_problem(Request(scope), status, kind, title, detail, headers, retry_after=retry_after)
        await answer(scope, receive, send)
