"""The one way out over HTTP: what it refuses, and where it ends. A real server on loopback, and answers without end."""

import asyncio
import gzip
from collections.abc import AsyncIterator
from datetime import UTC, datetime, timedelta
from email.utils import format_datetime
from typing import Any

import httpx
import pytest

from sorta.core.ports import AccountRef, Silent, Unreachable
from sorta.networks import outgoing
from sorta.networks.outgoing import AnswerTooLarge, Forbidden, Outgoing
from sorta.networks.quillet import Quillet
from sorta.networks.streams_api import LONGEST_PAUSE, _get_retry_after

pytestmark = pytest.mark.anyio
BASE = "https://quillet.example/api"
ACCOUNT = AccountRef(external_id="q:1", handle="brinewick", api_url=BASE, token="secret")


def make(handle: Any, **more: Any) -> Outgoing:
    return Outgoing(httpx.AsyncClient(transport=httpx.MockTransport(handle)), **more)


@pytest.mark.parametrize(
    "url",
    [
        "https://elsewhere.example/api/activities",
        "http://quillet.example/api/activities",
        "https://quillet.example:8443/api",
        "https://quillet.example@elsewhere.example/",
        "//elsewhere.example/",
        "file:///etc/passwd",
        "/activities",
        "javascript:alert(1)",
        "http://[::1/",
        "",
    ],
)
async def test_a_token_goes_to_its_own_host_alone(url: str) -> None:
    reached: list[str] = []

    def handle(request: httpx.Request) -> httpx.Response:
        reached.append(str(request.url))
        return httpx.Response(200)

    with pytest.raises(Forbidden):
        await make(handle).send("GET", url, base=BASE)
    assert reached == []


async def test_nothing_is_followed(anyio_backend: str) -> None:
    answer = await make(lambda _: httpx.Response(302, headers={"Location": "https://elsewhere.example/"})).send(
        "GET", f"{BASE}/x", base=BASE
    )
    assert answer.status_code == 302


@pytest.mark.parametrize(
    "host",
    [
        "127.0.0.1",
        "10.0.0.1",
        "192.168.1.1",
        "169.254.169.254",
        "[::1]",
        "[fe80::1]",
        "[fd00::1]",
        "0.0.0.0",
        "localhost",
    ],
)
async def test_our_own_network_is_refused_unless_it_is_allowed(host: str) -> None:
    """RFC 6890's special-purpose addresses, by the standard library's `is_global`."""
    url = f"http://{host}/api"
    with pytest.raises(Forbidden, match="our own network"):
        await make(lambda _: httpx.Response(200), allow_private=False).send("GET", url, base=url)
    assert (await make(lambda _: httpx.Response(200), allow_private=True).send("GET", url, base=url)).status_code == 200


async def test_the_address_that_was_looked_at_is_the_one_that_is_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    """A name that leads elsewhere the second time leads nowhere."""
    asked: list[httpx.Request] = []

    def handle(request: httpx.Request) -> httpx.Response:
        asked.append(request)
        return httpx.Response(200)

    async def getaddrinfo(*_: object, **__: object) -> list[Any]:
        return [(2, 1, 6, "", ("93.184.215.14", 443))]

    monkeypatch.setattr(asyncio.get_running_loop(), "getaddrinfo", getaddrinfo, raising=False)
    await make(handle, allow_private=False).send("GET", f"{BASE}/x", base=BASE)
    (request,) = asked
    assert (request.url.host, request.headers["Host"]) == ("93.184.215.14", "quillet.example")
    assert request.extensions["sni_hostname"] == "quillet.example"


async def test_an_answer_without_end_is_ended(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(outgoing, "LARGEST_ANSWER", 100_000)

    async def endless() -> AsyncIterator[bytes]:
        while True:
            yield b"x" * 10_000

    with pytest.raises(AnswerTooLarge):
        await make(lambda _: httpx.Response(200, content=endless())).send("GET", BASE, base=BASE)
    bomb = gzip.compress(b"\0" * 10_000_000)
    assert len(bomb) < 20_000
    with pytest.raises(AnswerTooLarge):
        await make(lambda _: httpx.Response(200, content=bomb, headers={"Content-Encoding": "gzip"})).send(
            "GET", BASE, base=BASE
        )


async def test_an_answer_that_trickles_is_not_waited_for() -> None:
    """Each piece comes in time; the whole does not."""

    async def serve(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        writer.write(b"HTTP/1.1 200 OK\r\nContent-Length: 100000\r\n\r\n")
        try:
            for _ in range(200):
                writer.write(b"x")
                await writer.drain()
                await asyncio.sleep(0.02)
        except ConnectionError:
            pass
        finally:
            writer.close()

    server = await asyncio.start_server(serve, "127.0.0.1", 0)
    url = f"http://127.0.0.1:{server.sockets[0].getsockname()[1]}/"
    async with server, httpx.AsyncClient() as client:
        begun = asyncio.get_running_loop().time()
        with pytest.raises(httpx.ReadTimeout, match="no whole answer"):
            await Outgoing(client).send("GET", url, base=url, patience=0.2)
        assert asyncio.get_running_loop().time() - begun < 2
        ref = AccountRef(external_id="q:1", handle="b", api_url=url.rstrip("/"), token="t", patience=0.2)
        with pytest.raises(Silent):
            await Quillet(Outgoing(client)).list_since(ref, None)
    assert issubclass(Silent, Unreachable)


async def test_an_answer_comes_whole_and_decoded() -> None:
    packed = gzip.compress(b'{"id": "a:1"}')
    answer = await make(lambda _: httpx.Response(201, content=packed, headers={"Content-Encoding": "gzip"})).send(
        "POST", BASE, base=BASE, json={"x": 1}
    )
    assert (answer.status_code, answer.json()) == (201, {"id": "a:1"})


async def test_pages_end_where_they_lead_on_to_themselves_or_elsewhere() -> None:
    def page(following: str) -> Outgoing:
        return make(lambda _: httpx.Response(200, json={"orderedItems": [{}], "next": following}))

    url = f"{BASE}/activities"
    assert not (await Quillet(page(url)).list_since(ACCOUNT, url)).more
    assert (await Quillet(page(f"{url}?p=2")).list_since(ACCOUNT, url)).more
    elsewhere = "https://elsewhere.example/activities"
    assert (await Quillet(page(elsewhere)).list_since(ACCOUNT, url)).cursor == elsewhere
    with pytest.raises(Unreachable, match="not the host"):
        await Quillet(page(url)).list_since(ACCOUNT, elsewhere)


@pytest.mark.parametrize(
    ("said", "seconds"),
    [
        ("7", 7),
        ("0", 0),
        ("999999999999999999999", LONGEST_PAUSE),
        ("9" * 5000, LONGEST_PAUSE),
        ("-1", None),
        ("soon", None),
        ("", None),
        ("٣", None),
        ("Fri, 31 Dec 9999 23:59:59 GMT", LONGEST_PAUSE),
        ("Fri, 20 Nov 2026 12:00:00 -0000", 0),
        ("Mon, 99 Foo 2026 99:99:99 GMT", None),
    ],
)
def test_a_pause_of_any_length_is_a_day_at_most(said: str, seconds: float | None) -> None:
    """RFC 9110, 10.2.3: seconds or a date; the zone -0000 (RFC 5322, 3.3) once left a row 'sending' for ever."""
    assert _get_retry_after(httpx.Response(429, headers={"Retry-After": said.encode()})) == seconds


def test_a_pause_until_a_date() -> None:
    at = format_datetime(datetime.now(UTC) + timedelta(seconds=60), usegmt=True)
    assert _get_retry_after(httpx.Response(429, headers={"Retry-After": at})) == pytest.approx(60, abs=2)
