"""What an answer of a network means for a delivery."""

import json

import httpx
import pytest

from sorta.core.ports import AccountRef, Delivered, OutgoingReply, Postponed, Refused, TokenExpired, Unreachable
from sorta.networks.abilities import TABLE
from sorta.networks.outgoing import Outgoing
from sorta.networks.quillet import Quillet
from sorta.networks.registry import make_networks

pytestmark = pytest.mark.anyio
ACCOUNT = AccountRef(external_id="a:us", handle="us", api_url="http://net.test/api", token="tok")
REPLY = OutgoingReply(public=True, body="Hello", target="a:1", to="a:sally")


async def send(answer: httpx.Response | Exception) -> object:
    asked: list[httpx.Request] = []

    def handle(request: httpx.Request) -> httpx.Response:
        asked.append(request)
        if isinstance(answer, Exception):
            raise answer
        return answer

    async with httpx.AsyncClient(transport=httpx.MockTransport(handle)) as client:
        outcome = await Quillet(Outgoing(client)).send(ACCOUNT, REPLY, "key-1")
    assert asked[0].headers["Idempotency-Key"] == "key-1"
    assert asked[0].headers["Authorization"] == "Bearer tok"
    assert json.loads(asked[0].content)["inReplyTo"] == "a:1"
    return outcome


@pytest.mark.parametrize(
    ("answer", "outcome"),
    [
        (httpx.Response(201, json={"id": "a:2"}), Delivered(external_id="a:2")),
        (httpx.Response(200, json={"id": "a:2"}), Delivered(external_id="a:2")),
        (
            httpx.Response(201, text="ok"),
            Postponed(reason="Quillet answered 201 without saying what it made.", maybe_out=True),
        ),
        (
            httpx.Response(429, json={"detail": "Slow down."}, headers={"Retry-After": "7"}),
            Postponed(reason="Quillet: Slow down.", retry_after=7),
        ),
        (httpx.Response(503, text="<html>"), Postponed(reason="Quillet: answered 503", maybe_out=True)),
        (httpx.Response(403, json={"detail": "Closed."}), Refused(reason="Quillet: Closed.")),
        (
            httpx.Response(401, json={"detail": "Old."}),
            TokenExpired(reason="Quillet no longer accepts the access token: Old."),
        ),
        (
            httpx.ReadTimeout("x"),
            Postponed(reason="Quillet did not answer (ReadTimeout).", maybe_out=True, silent=True),
        ),
        (httpx.ConnectError("x"), Postponed(reason="Quillet did not answer (ConnectError).", silent=True)),
    ],
)
async def test_outcomes(answer: httpx.Response | Exception, outcome: object) -> None:
    assert await send(answer) == outcome


async def test_retry_after_as_a_date_in_the_past_means_now() -> None:
    """RFC 9110, 10.2.3: Retry-After is seconds or an HTTP date."""
    answer = httpx.Response(429, headers={"Retry-After": "Fri, 31 Dec 1999 23:59:59 GMT"})
    assert await send(answer) == Postponed(reason="Quillet: answered 429", retry_after=0)
    assert await send(httpx.Response(429, headers={"Retry-After": "soon"})) == Postponed(reason="Quillet: answered 429")


async def test_a_network_that_cannot_be_read_says_so() -> None:
    async with httpx.AsyncClient(transport=httpx.MockTransport(lambda _: httpx.Response(500))) as client:
        with pytest.raises(Unreachable, match="Quillet"):
            await Quillet(Outgoing(client)).list_since(ACCOUNT, None)


async def test_every_adapter_has_its_line_in_the_table() -> None:
    async with httpx.AsyncClient() as client:
        adapters = make_networks(Outgoing(client))
    assert {key: a.abilities for key, a in adapters.items()} == TABLE
