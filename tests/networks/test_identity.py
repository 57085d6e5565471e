"""OpenID Connect against the stand-in provider, which is strict; and what a hostile, broken or other provider might say.

What a word has to say of itself is OpenID Connect Core 1.0, 3.1.3.7; each bent one leaves out one of its steps.
"""

import base64
import hashlib
import hmac
import json
from collections.abc import AsyncIterator, Callable
from datetime import UTC, datetime
from typing import Any
from urllib.parse import parse_qs, parse_qsl, urlencode, urlsplit

import httpx
import pytest
from cryptography.hazmat.primitives import serialization
from joserfc import jws
from joserfc.jwk import ECKey, OctKey, RSAKey

from outside.app import make_app
from outside.state import State
from sorta.core.ports import GrantRefused, SaidToBe, Unreachable
from sorta.networks.identity import OpenIdProvider, ProviderSettings, read_provider
from sorta.networks.outgoing import Outgoing

pytestmark = pytest.mark.anyio
VERIFIER = "dBjftJeZ4CVP-mB92K27uhbUJU1p1r_wW1gFWFOEjXk"
ISSUER = "https://who.example"
NOW = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)
AT = int(NOW.timestamp())
SETTINGS = ProviderSettings(name="Harbour House", issuer=ISSUER, client_id="desk", client_secret="s:cr%t")
KEY, OTHER = (RSAKey.generate_key(2048, parameters={"kid": kid}) for kid in ("one", "two"))
CLAIMS = {
    "iss": ISSUER,
    "sub": "24400320",
    "aud": "desk",
    "exp": AT + 300,
    "iat": AT,
    "nonce": "n-0S6_WzA2Mj",
    "email": "Ilse@Brinewick.example",
    "email_verified": True,
    "name": "Ilse Brandt",
    "groups": ["aquarium", "night-desk"],
}


def sign(claims: Any, key: Any = KEY, alg: str = "RS256", **header: Any) -> str:
    body = claims if isinstance(claims, bytes) else json.dumps(claims).encode()
    return jws.serialize_compact({"alg": alg, "kid": key.kid, **header}, body, key, algorithms=[alg])


class Fake:
    """A provider that says whatever it is told to."""

    def __init__(self) -> None:
        self.word: Any = sign(CLAIMS)
        self.keys: list[Any] = [KEY]
        self.described: dict[str, Any] = {}
        self.about: dict[str, Any] = {}
        self.asked: list[str] = []

    def answer(self, request: httpx.Request) -> httpx.Response:
        path = request.url.path
        self.asked.append(path)
        if path == "/.well-known/openid-configuration":
            said = {
                "issuer": ISSUER,
                "authorization_endpoint": f"{ISSUER}/authorise",
                "token_endpoint": f"{ISSUER}/token",
                "userinfo_endpoint": f"{ISSUER}/about",
                "jwks_uri": "https://keys.example/keys",
                "code_challenge_methods_supported": ["S256"],
            }
            return httpx.Response(200, json={**said, **self.described})
        if path == "/keys":
            listed = [one.as_dict(private=False) if hasattr(one, "as_dict") else one for one in self.keys]
            return httpx.Response(200, json={"keys": listed})
        if path == "/about":
            assert request.headers["Authorization"] == "Bearer tok"
            return httpx.Response(200, json=self.about)
        assert path == "/token"
        sent = dict(parse_qsl(request.content.decode()))
        assert (sent["code"], sent["code_verifier"]) == ("abc", VERIFIER)
        return httpx.Response(200, json={"access_token": "tok", "token_type": "Bearer", "id_token": self.word})


@pytest.fixture
def fake() -> Fake:
    return Fake()


async def take(fake: Fake, response: str = "code=abc&state=st", settings: ProviderSettings = SETTINGS) -> SaidToBe:
    async with httpx.AsyncClient(transport=httpx.MockTransport(fake.answer)) as client:
        provider = OpenIdProvider(Outgoing(client), settings, "http://desk.test")
        return await provider.take_code(response, state="st", nonce="n-0S6_WzA2Mj", verifier=VERIFIER, now=NOW)


async def test_who_somebody_is_comes_from_a_word_that_holds(fake: Fake) -> None:
    assert await take(fake) == SaidToBe(
        subject="24400320",
        email="ilse@brinewick.example",
        is_verified=True,
        name="Ilse Brandt",
        groups=("aquarium", "night-desk"),
    )


@pytest.mark.parametrize(
    "bent",
    [
        {"iss": "https://other.example"},
        {"aud": "another program"},
        {"aud": ["desk", "another program"]},
        {"aud": ["desk", "another program"], "azp": "another program"},
        {"azp": "another program"},
        {"aud": None},
        {"exp": AT - 61},
        {"exp": "tomorrow"},
        {"exp": True},
        {"iat": AT + 61},
        {"iat": None},
        {"nonce": "another"},
        {"nonce": None},
        {"sub": ""},
        {"sub": 7},
        {"sub": "x" * 256},
    ],
    ids=str,
)
async def test_a_word_that_is_not_for_this_is_none(fake: Fake, bent: dict[str, Any]) -> None:
    fake.word = sign({**CLAIMS, **bent})
    with pytest.raises(GrantRefused, match="not for this, or not for now"):
        await take(fake)


async def test_one_of_several_readers_that_it_was_made_for_is_taken(fake: Fake) -> None:
    fake.word = sign({**CLAIMS, "aud": ["desk", "another"], "azp": "desk"})
    assert (await take(fake)).subject == "24400320"


def _unsigned() -> str:
    _, body, _ = sign(CLAIMS).split(".")
    none = base64.urlsafe_b64encode(b'{"alg":"none"}').rstrip(b"=").decode()
    return f"{none}.{body}."


def _with_its_public_key_as_a_secret() -> str:
    """RFC 8725, 2.1: the key that everybody knows, taken for a shared secret."""
    public = KEY.get_op_key("verify").public_bytes(
        serialization.Encoding.PEM, serialization.PublicFormat.SubjectPublicKeyInfo
    )
    head = base64.urlsafe_b64encode(b'{"alg":"HS256","kid":"one"}').rstrip(b"=").decode()
    body = sign(CLAIMS).split(".")[1]
    proof = hmac.new(public, f"{head}.{body}".encode(), hashlib.sha256).digest()
    return f"{head}.{body}.{base64.urlsafe_b64encode(proof).rstrip(b'=').decode()}"


def _with_a_key_of_its_own() -> str:
    return sign(CLAIMS, OTHER, kid="one", jwk=OTHER.as_dict(private=False))


def _changed() -> str:
    head, _, proof = sign(CLAIMS).split(".")
    body = base64.urlsafe_b64encode(json.dumps({**CLAIMS, "sub": "1"}).encode()).rstrip(b"=").decode()
    return f"{head}.{body}.{proof}"


FORGED: dict[str, Callable[[], Any]] = {
    "unsigned": _unsigned,
    "its public key as a secret": _with_its_public_key_as_a_secret,
    "a key of its own": _with_a_key_of_its_own,
    "changed": _changed,
    "a shared secret": lambda: sign(CLAIMS, OctKey.import_key("s" * 32, {"kid": "one"}), "HS256"),
    "no word": lambda: "x",
    "many points": lambda: "a.b.c.d.e",
    "enormous": lambda: "x" * 70_000,
    "none": lambda: None,
    "a list": lambda: sign(b"[1]"),
    "nested": lambda: sign(b"[" * 40_000),
}


@pytest.mark.parametrize("kind", FORGED)
async def test_a_forged_word_is_none(fake: Fake, kind: str) -> None:
    fake.word = FORGED[kind]()
    with pytest.raises(GrantRefused):
        await take(fake)


async def test_other_ways_of_signing_are_taken_and_keys_may_change(fake: Fake) -> None:
    curve = ECKey.generate_key("P-256", parameters={"kid": "curve"})
    fake.keys, fake.word = [OTHER, curve], sign(CLAIMS, curve, "ES256")
    assert (await take(fake)).subject == "24400320"
    async with httpx.AsyncClient(transport=httpx.MockTransport(fake.answer)) as client:
        provider = OpenIdProvider(Outgoing(client), SETTINGS, "http://desk.test")

        async def again() -> SaidToBe:
            return await provider.take_code(
                "code=abc&state=st", state="st", nonce="n-0S6_WzA2Mj", verifier=VERIFIER, now=NOW
            )

        await again()
        # Keys that were just asked for are not asked for again for every forged word …
        fake.word, before = sign(CLAIMS), fake.asked.count("/keys")
        with pytest.raises(GrantRefused):
            await again()
        assert fake.asked.count("/keys") == before
        # … and after a while those that took their place are found.
        provider._keys = (provider._keys[0] - 31, provider._keys[1]) if provider._keys else None
        fake.keys = [KEY]
        assert (await again()).subject == "24400320"


@pytest.mark.parametrize(
    "response",
    [
        "code=abc&state=other",
        "code=abc",
        "code=abc&state=st&state=st",
        "code=abc&code=def&state=st",
        "code=abc&state=st&iss=https%3A%2F%2Fother.example",
        "state=st&error=access_denied",
        "state=st",
        "&".join(f"a{n}=1" for n in range(40)),
    ],
)
async def test_an_answer_of_another_try_or_another_provider_is_none(fake: Fake, response: str) -> None:
    with pytest.raises(GrantRefused):
        await take(fake, response)
    assert "/token" not in fake.asked


async def test_one_that_says_who_it_is_has_to(fake: Fake) -> None:
    fake.described = {"authorization_response_iss_parameter_supported": True}
    with pytest.raises(GrantRefused, match="does not come from"):
        await take(fake)
    assert (await take(fake, f"code=abc&state=st&iss={ISSUER}")).subject == "24400320"


@pytest.mark.parametrize(
    "described",
    [
        {"issuer": "https://other.example"},
        {"token_endpoint": None},
        {"jwks_uri": 7},
        {"code_challenge_methods_supported": ["plain"]},
    ],
    ids=str,
)
async def test_a_description_that_does_not_hold_is_none(fake: Fake, described: dict[str, Any]) -> None:
    fake.described = described
    with pytest.raises(Unreachable):
        await take(fake)


@pytest.mark.parametrize(
    "keys", [[], ["x"], [{"kty": "oct", "k": "c2VjcmV0", "kid": "one"}], [{"kty": "RSA"}]], ids=str
)
async def test_keys_that_are_none_are_said(fake: Fake, keys: list[Any]) -> None:
    fake.keys = keys
    with pytest.raises(Unreachable):
        await take(fake)


async def test_what_the_word_does_not_say_is_asked_for_of_the_same_one(fake: Fake) -> None:
    short = {key: value for key, value in CLAIMS.items() if key not in ("email", "email_verified")}
    fake.word = sign(short)
    fake.about = {"sub": "24400320", "email": "ilse@brinewick.example", "email_verified": True, "name": "Another"}
    said = await take(fake)
    # What is signed comes before what is not.
    assert (said.email, said.is_verified, said.name) == ("ilse@brinewick.example", True, "Ilse Brandt")
    fake.about = {**fake.about, "sub": "1"}
    with pytest.raises(GrantRefused):
        await take(fake)


@pytest.mark.parametrize("said", ["true", 1, None, False])
async def test_only_what_is_said_to_be_verified_is(fake: Fake, said: Any) -> None:
    fake.word = sign({**CLAIMS, "email_verified": said})
    assert not (await take(fake)).is_verified


@pytest.mark.parametrize(("groups", "read"), [("one", ("one",)), ([1, "a", None], ("a",)), ({"a": 1}, ()), (None, ())])
async def test_groups_are_read_as_they_may_be_said(fake: Fake, groups: Any, read: tuple[str, ...]) -> None:
    fake.word = sign({**CLAIMS, "groups": groups})
    assert (await take(fake)).groups == read


@pytest.fixture
async def outside() -> AsyncIterator[httpx.AsyncClient]:
    app = make_app(State(":memory:"), "http://outside.test")
    async with httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url="http://outside.test") as client:
        program = {"id": "desk", "secret": "s:cr%t", "name": "Desk", "redirects": ["http://desk.test/sign-in/back"]}
        await client.post("/control/identity-client", json=program)
        who = {"sub": "ilse", "name": "Ilse", "email": "ilse@brinewick.example", "email_verified": True, "groups": []}
        await client.post("/control/colleagues", json=who)
        yield client


async def test_by_the_stand_in_a_code_is_for_one_try(outside: httpx.AsyncClient) -> None:
    settings = ProviderSettings(
        name="Harbour House", issuer="http://outside.test/identity", client_id="desk", client_secret="s:cr%t"
    )
    provider = OpenIdProvider(Outgoing(outside), settings, "http://desk.test")
    address = await provider.make_address(state="st", nonce="no", verifier=VERIFIER)
    assert parse_qs(urlsplit(address).query) == {
        "response_type": ["code"],
        "client_id": ["desk"],
        "redirect_uri": ["http://desk.test/sign-in/back"],
        "scope": ["openid email profile"],
        "state": ["st"],
        "nonce": ["no"],
        "code_challenge": ["E9Melhoa2OwvFrEMTJguCHaoeK1t8URWbuGJSstw-cM"],
        "code_challenge_method": ["S256"],
    }
    headers = {"Content-Type": "application/x-www-form-urlencoded"}
    answer = await outside.post(address, content=urlencode({"sub": "ilse", "allow": "yes"}), headers=headers)
    response = urlsplit(answer.headers["Location"]).query
    said = await provider.take_code(response, state="st", nonce="no", verifier=VERIFIER, now=datetime.now(UTC))
    assert (said.subject, said.email, said.is_verified) == ("ilse", "ilse@brinewick.example", True)
    with pytest.raises(GrantRefused, match="used up"):
        await provider.take_code(response, state="st", nonce="no", verifier=VERIFIER, now=datetime.now(UTC))


@pytest.mark.parametrize(
    "text",
    [
        "",
        "[]",
        '{"name": "x"}',
        '{"name": "x", "issuer": "who.example", "client_id": "a", "client_secret": "b"}',
        '{"name": "x", "issuer": "https://who.example?a=1", "client_id": "a", "client_secret": "b"}',
        '{"name": "x", "issuer": "https://who.example", "client_id": "a", "client_secret": "b", "scope": "email"}',
    ],
)
def test_a_file_that_cannot_be_used_says_why(text: str) -> None:
    with pytest.raises(ValueError, match=r"."):
        read_provider(text)
