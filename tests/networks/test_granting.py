"""OAuth 2.0 against the stand-in networks, which are strict; and what a hostile or broken network might answer."""

import json
from collections.abc import AsyncIterator
from typing import Any
from urllib.parse import parse_qs, parse_qsl, urlencode, urlsplit

import httpx
import pytest
from authlib.oauth2.rfc7636 import create_s256_code_challenge

from outside.app import make_app
from outside.state import State
from sorta.core.ports import GrantRefused, Unreachable
from sorta.networks.granting import Client, OAuthGrantor, read_clients
from sorta.networks.outgoing import Outgoing
from tests.world import make_client

pytestmark = pytest.mark.anyio

HERE = "http://desk.test/connect"
VERIFIER = "dBjftJeZ4CVP-mB92K27uhbUJU1p1r_wW1gFWFOEjXk"


@pytest.fixture
async def outside() -> AsyncIterator[httpx.AsyncClient]:
    app = make_app(State(":memory:"), "http://outside.test")
    async with httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url="http://outside.test") as client:
        redirects = [f"{HERE}/quillet", f"{HERE}/commonfold"]
        program = {"id": "desk", "secret": "s:cr%t", "name": "The desk", "redirects": redirects}
        await client.post("/control/client", json=program)
        for network in ("quillet", "commonfold"):
            page = {"network": network, "handle": "brinewick", "name": "Brinewick Aquarium", "page": True}
            await client.post("/control/actors", json=page)
        yield client


@pytest.fixture
def grantor(outside: httpx.AsyncClient) -> OAuthGrantor:
    clients = {network: make_client(network) for network in ("quillet", "commonfold")}
    return OAuthGrantor(Outgoing(outside), clients, "http://desk.test")


async def allow(outside: httpx.AsyncClient, address: str, **said: str) -> str:
    """The query that a network sends its account's owner back with."""
    network = address.split("/networks/")[1].split("/")[0]
    page = f"http://outside.test/{network}/actors/brinewick"
    form = urlencode({"page": page, "allow": "yes", **said})
    headers = {"Content-Type": "application/x-www-form-urlencoded"}
    answer = await outside.post(address, content=form, headers=headers)
    assert answer.status_code == 303, answer.text
    assert answer.headers["Location"].startswith(f"{HERE}/{network}?")
    return str(urlsplit(answer.headers["Location"]).query)


def test_the_challenge_is_that_of_the_standard() -> None:
    """RFC 7636, appendix B."""
    assert create_s256_code_challenge(VERIFIER) == "E9Melhoa2OwvFrEMTJguCHaoeK1t8URWbuGJSstw-cM"


async def test_what_is_asked_is_what_the_standards_ask_for(grantor: OAuthGrantor, outside: httpx.AsyncClient) -> None:
    address = await grantor.make_address("quillet", state="1.abc", verifier=VERIFIER)
    assert parse_qs(urlsplit(address).query) == {
        "response_type": ["code"],
        "client_id": ["desk"],
        "redirect_uri": [f"{HERE}/quillet"],
        "state": ["1.abc"],
        "code_challenge": ["E9Melhoa2OwvFrEMTJguCHaoeK1t8URWbuGJSstw-cM"],
        "code_challenge_method": ["S256"],
    }
    assert "The desk" in (await outside.get(address)).text


async def test_allowed_taken_renewed_and_given_back(grantor: OAuthGrantor, outside: httpx.AsyncClient) -> None:
    address = await grantor.make_address("quillet", state="1.abc", verifier=VERIFIER)
    given = await grantor.take_code("quillet", await allow(outside, address), state="1.abc", verifier=VERIFIER)
    assert given.lasts == 3600
    page = await grantor.look("quillet", given.token)
    assert (page.handle, page.name, page.lacking) == ("brinewick", "Brinewick Aquarium", ())
    assert page.api_url == "http://outside.test/api/quillet"
    assert given.refresh_token is not None
    fresh = await grantor.renew("quillet", given.refresh_token)
    assert fresh.token != given.token
    with pytest.raises(GrantRefused, match="taken its leave back"):
        await grantor.renew("quillet", given.refresh_token)
    assert fresh.refresh_token is not None
    await grantor.revoke("quillet", fresh.refresh_token)
    with pytest.raises(GrantRefused):
        await grantor.renew("quillet", fresh.refresh_token)


async def test_a_network_of_two_steps_says_what_is_missing_and_where(
    grantor: OAuthGrantor, outside: httpx.AsyncClient
) -> None:
    for said, lacking in (({}, 1), ({"messages": "yes"}, 0)):
        address = await grantor.make_address("commonfold", state="1.abc", verifier=VERIFIER)
        response = await allow(outside, address, **said)
        given = await grantor.take_code("commonfold", response, state="1.abc", verifier=VERIFIER)
        page = await grantor.look("commonfold", given.token)
        assert len(page.lacking) == lacking
        assert all(one.address.startswith("http://outside.test/networks/commonfold") for one in page.lacking)


async def test_a_code_is_for_one_try_with_the_verifier_it_was_asked_with(
    grantor: OAuthGrantor, outside: httpx.AsyncClient
) -> None:
    address = await grantor.make_address("quillet", state="1.abc", verifier=VERIFIER)
    response = await allow(outside, address)
    with pytest.raises(GrantRefused, match="not for this, or is used up"):
        await grantor.take_code("quillet", response, state="1.abc", verifier="A" * 43)
    with pytest.raises(GrantRefused, match="used up"):
        await grantor.take_code("quillet", response, state="1.abc", verifier=VERIFIER)


async def test_an_answer_of_another_network_another_try_or_said_twice_is_none(
    grantor: OAuthGrantor, outside: httpx.AsyncClient
) -> None:
    address = await grantor.make_address("quillet", state="1.abc", verifier=VERIFIER)
    good = dict(parse_qsl(await allow(outside, address)))
    other = "http://outside.test/networks/commonfold"
    for bad, words in (
        ({**good, "iss": other}, "does not come from Quillet"),
        ({k: v for k, v in good.items() if k != "iss"}, "does not come from Quillet"),
        ({**good, "state": "1.abd"}, "not what Quillet was asked"),
        ({k: v for k, v in good.items() if k != "state"}, "not what Quillet was asked"),
        ({k: v for k, v in good.items() if k != "code"}, "does not allow it: it gives no reason"),
    ):
        with pytest.raises(GrantRefused, match=words):
            await grantor.take_code("quillet", urlencode(bad), state="1.abc", verifier=VERIFIER)
    with pytest.raises(GrantRefused, match="not what Quillet was asked"):
        await grantor.take_code("quillet", f"{urlencode(good)}&code=x", state="1.abc", verifier=VERIFIER)
    # None of these has used the code up.
    assert (await grantor.take_code("quillet", urlencode(good), state="1.abc", verifier=VERIFIER)).token


async def test_who_does_not_allow_it_is_said_in_the_networks_words(
    grantor: OAuthGrantor, outside: httpx.AsyncClient
) -> None:
    address = await grantor.make_address("quillet", state="1.abc", verifier=VERIFIER)
    response = await allow(outside, address, allow="no")
    with pytest.raises(GrantRefused, match="Quillet does not allow it: The account's owner does not allow it"):
        await grantor.take_code("quillet", response, state="1.abc", verifier=VERIFIER)


DESCRIBED = {
    "issuer": "http://outside.test/networks/quillet",
    "authorization_endpoint": "http://outside.test/networks/quillet/authorise",
    "token_endpoint": "http://outside.test/networks/quillet/token",
    "code_challenge_methods_supported": ["S256"],
}
TOKENS = {"access_token": "t", "token_type": "bearer", "expires_in": 60}


def answer_with(described: Any = DESCRIBED, tokens: Any = TOKENS, me: Any = None, status: int = 200) -> OAuthGrantor:
    async def answer(request: httpx.Request) -> httpx.Response:
        if "well-known" in request.url.path:
            return httpx.Response(status, json=described)
        return httpx.Response(200, json=me if request.url.path.endswith("/me") else tokens)

    client = httpx.AsyncClient(transport=httpx.MockTransport(answer))
    return OAuthGrantor(Outgoing(client), {"quillet": make_client("quillet")}, "http://desk.test")


@pytest.mark.parametrize(
    ("described", "status", "words"),
    [
        ({**DESCRIBED, "issuer": "http://evil.test"}, 200, "does not describe"),
        ([], 200, "does not describe"),
        ({**DESCRIBED, "token_endpoint": 7}, 200, "does not say where"),
        ({**DESCRIBED, "code_challenge_methods_supported": ["plain"]}, 200, "knows no PKCE"),
        (DESCRIBED, 404, "does not describe"),
        (DESCRIBED, 500, "answered 500"),
    ],
)
async def test_a_network_that_describes_itself_badly_is_not_asked(described: Any, status: int, words: str) -> None:
    with pytest.raises(Unreachable, match=words):
        await answer_with(described, status=status).make_address("quillet", state="1.a", verifier=VERIFIER)


async def test_the_secret_is_told_to_the_issuers_host_alone() -> None:
    elsewhere = {**DESCRIBED, "token_endpoint": "http://evil.test/token"}
    with pytest.raises(Unreachable, match="did not answer"):
        await answer_with(elsewhere).renew("quillet", "r")


@pytest.mark.parametrize(
    ("tokens", "error"),
    [
        ({}, Unreachable),
        ({**TOKENS, "access_token": ""}, Unreachable),
        ({**TOKENS, "access_token": "x" * 9000}, Unreachable),
        ({**TOKENS, "token_type": "mac"}, GrantRefused),
        ([1], Unreachable),
    ],
)
async def test_an_answer_without_a_token_that_can_be_used_grants_nothing(tokens: Any, error: type[Exception]) -> None:
    with pytest.raises(error):
        await answer_with(tokens=tokens).renew("quillet", "r")


@pytest.mark.parametrize("lasts", [None, "soon", -1, 0, 10**12, True])
async def test_an_end_that_makes_no_sense_is_none(lasts: Any) -> None:
    given = await answer_with(tokens={**TOKENS, "expires_in": lasts}).renew("quillet", "r")
    assert given.lasts in (None, 1.0)


@pytest.mark.parametrize(
    "me",
    [
        None,
        {},
        {"id": "x", "preferredUsername": "", "name": "n"},
        {"id": "x" * 501, "preferredUsername": "p", "name": "n"},
    ],
)
async def test_a_network_that_does_not_say_whose_token_it_is_connects_nothing(me: Any) -> None:
    with pytest.raises(Unreachable, match="without saying which account"):
        await answer_with(me=me).look("quillet", "t")


async def test_what_is_missing_becomes_a_link_only_where_it_is_one() -> None:
    lacking = [{"words": "w", "address": "javascript:alert(1)"}, {"words": "w", "address": "https://there"}, "x"]
    page = await answer_with(me={"id": "x", "preferredUsername": "p", "name": "n", "lacking": lacking}).look(
        "quillet", "t"
    )
    assert [one.address for one in page.lacking] == ["https://there"]


def test_what_is_wrong_in_the_file_of_clients_is_said() -> None:
    good = {"issuer": "https://a", "client_id": "c", "client_secret": "s", "api_url": "https://a/api"}
    assert read_clients(json.dumps({"quillet": good})) == {"quillet": Client(**good)}
    for bad, words in (
        ("{", "JSON"),
        (json.dumps({"quillet": {"issuer": "https://a"}}), "client_id"),
        (json.dumps({"nowhere": good}), "no network 'nowhere'"),
        (json.dumps({"quillet": {**good, "issuer": "https://a/"}}), "without a slash"),
        (json.dumps({"quillet": {**good, "api_url": "ftp://a"}}), "https://"),
    ):
        with pytest.raises(ValueError, match=words):
            read_clients(bad)
