"""Who knows our members: OpenID Connect Core 1.0 by authorization code with PKCE, found by OpenID Connect Discovery 1.0. Made by main, for
core.ports.IdentityProvider.
"""

import json
import time
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any, TypeGuard
from urllib.parse import urlsplit

from authlib.oauth2.rfc6749.parameters import prepare_grant_uri, prepare_token_request
from authlib.oauth2.rfc7636 import create_s256_code_challenge
from joserfc import jws
from joserfc.errors import JoseError
from joserfc.jwk import KeySet
from pydantic import TypeAdapter, ValidationError

from sorta.core.ports import GrantRefused, SaidToBe, Unreachable
from sorta.networks.oauth import BELIEVED, OAuth, Party, read_code
from sorta.networks.outgoing import Outgoing, read_object

#: What its word is signed with: never a shared secret, and never nothing.
ALGORITHMS = ("RS256", "RS384", "RS512", "PS256", "PS384", "PS512", "ES256", "ES384", "Ed25519", "EdDSA")
#: Seconds by which its clock may differ, and after which keys that do not fit are asked for again.
APART, KEYS_AGAIN = 60, 30
#: Characters of a word about somebody, how many groups are read, and the longest word as a whole.
LONGEST, MOST_GROUPS, LONGEST_WORD = 255, 500, 65_536


@dataclass(frozen=True, kw_only=True)
class ProviderSettings:
    """Of the file of settings: what members see it called, how it calls itself, and what this installation is to it."""

    name: str
    issuer: str
    client_id: str
    client_secret: str
    scope: str = "openid email profile"
    #: The claim in which somebody's groups stand, where the provider tells them.
    groups: str = "groups"


def read_provider(text: str) -> ProviderSettings:
    """The provider of a file of settings, in JSON. Raises ValueError with what is wrong in it."""
    try:
        found = TypeAdapter(ProviderSettings).validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        raise ValueError(f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}") from None
    if not found.issuer.startswith(("https://", "http://")) or urlsplit(found.issuer).query:
        raise ValueError(f"{found.issuer!r} has to begin with https:// and to have no query.")
    if "openid" not in found.scope.split():
        raise ValueError("The scope has to have openid in it.")
    return found


class OpenIdProvider:
    """`address` is where this installation is reached by browsers."""

    def __init__(self, outgoing: Outgoing, settings: ProviderSettings, address: str) -> None:
        self._oauth, self._settings = OAuth(outgoing), settings
        self._redirect = f"{address}/sign-in/back"
        self._party = Party(
            name=settings.name,
            issuer=settings.issuer,
            client_id=settings.client_id,
            client_secret=settings.client_secret,
        )
        self._keys: tuple[float, KeySet] | None = None

    @property
    def name(self) -> str:
        """See core.ports.IdentityProvider."""
        return self._settings.name

    @property
    def issuer(self) -> str:
        """See core.ports.IdentityProvider."""
        return self._settings.issuer

    async def make_address(self, *, state: str, nonce: str, verifier: str) -> str:
        """See core.ports.IdentityProvider."""
        described = await self._describe()
        return str(
            prepare_grant_uri(
                described["authorization_endpoint"],
                self._settings.client_id,
                "code",
                redirect_uri=self._redirect,
                scope=self._settings.scope,
                state=state,
                nonce=nonce,
                code_challenge=create_s256_code_challenge(verifier),
                code_challenge_method="S256",
            )
        )

    async def take_code(self, response: str, *, state: str, nonce: str, verifier: str, now: datetime) -> SaidToBe:
        """See core.ports.IdentityProvider."""
        described = await self._describe()
        says_issuer = described.get("authorization_response_iss_parameter_supported") is True
        code = read_code(self._party, response, state=state, says_issuer=says_issuer)
        asked = prepare_token_request(
            "authorization_code", redirect_uri=self._redirect, code=code, code_verifier=verifier
        )
        place = described["token_endpoint"]
        said = await self._oauth.ask_for_token(self._party, place, asked, base=place)
        word = said.get("id_token")
        if not isinstance(word, str) or not 0 < len(word) <= LONGEST_WORD:
            raise GrantRefused(f"{self.name} does not say who it is.")
        claims = check_claims(self._settings, await self._open(word), nonce=nonce, now=now)
        about = described.get("userinfo_endpoint")
        if "email" not in claims and isinstance(about, str):
            claims = {**await self._ask_about(about, said["access_token"], claims["sub"]), **claims}
        return _read_claims(self._settings, claims)

    async def _describe(self) -> dict[str, Any]:
        """Discovery 1.0, 4: what stands at its issuer."""
        url = f"{self._settings.issuer.rstrip('/')}/.well-known/openid-configuration"
        return await self._oauth.describe(self._party, url, ("authorization_endpoint", "token_endpoint", "jwks_uri"))

    async def _open(self, word: str) -> dict[str, Any]:
        """The claims of a signed word. Keys that do not fit may have been changed: they are asked for again. Raises GrantRefused, Unreachable."""
        for believed in (BELIEVED, KEYS_AGAIN):
            keys = await self._get_keys(believed)
            try:
                return self._read_signed(word, keys)
            except JoseError:
                continue
        raise GrantRefused(f"What {self.name} says is not signed by it.")

    def _read_signed(self, word: str, keys: KeySet) -> dict[str, Any]:
        opened = jws.deserialize_compact(word, keys, algorithms=list(ALGORITHMS))
        try:
            claims = json.loads(opened.payload or b"")
        except (ValueError, RecursionError):
            claims = None
        if not isinstance(claims, dict):
            raise GrantRefused(f"What {self.name} says cannot be read.")
        return claims

    async def _get_keys(self, believed: float) -> KeySet:
        if self._keys is not None and time.monotonic() - self._keys[0] < believed:
            return self._keys[1]
        place = (await self._describe())["jwks_uri"]
        answer = await self._oauth.send(self._party, "GET", place, base=place)
        listed = read_object(answer).get("keys")
        usable = [
            one
            for one in (listed if isinstance(listed, list) else [])
            if isinstance(one, dict) and one.get("kty") in ("RSA", "EC", "OKP") and one.get("use", "sig") == "sig"
        ]
        try:
            found = KeySet.import_key_set({"keys": usable[:50]})
        except (JoseError, ValueError, KeyError, TypeError) as error:
            raise Unreachable(f"{self.name} shows no keys that can be read.") from error
        if not usable:
            raise Unreachable(f"{self.name} shows no keys.")
        self._keys = (time.monotonic(), found)
        return found

    async def _ask_about(self, place: str, token: str, subject: str) -> dict[str, Any]:
        """What the provider says of somebody besides (Core 1.0, 5.3), when it is of the same one."""
        answer = await self._oauth.send(
            self._party, "GET", place, base=place, headers={"Authorization": f"Bearer {token}"}
        )
        said = read_object(answer)
        # Core 1.0, 5.3.4: of somebody else it is not to be used.
        if not answer.is_success or said.get("sub") != subject:
            raise GrantRefused(f"{self.name} does not say who it is.")
        return said


def check_claims(settings: ProviderSettings, claims: Mapping[str, Any], *, nonce: str, now: datetime) -> dict[str, Any]:
    """The claims, when they hold by Core 1.0, 3.1.3.7: of this issuer, for us, now, and for what was asked. Raises GrantRefused."""
    at = now.timestamp()
    audience = claims.get("aud")
    readers = audience if isinstance(audience, list) else [audience]
    until, since, subject = claims.get("exp"), claims.get("iat"), claims.get("sub")
    fits = (
        claims.get("iss") == settings.issuer
        and settings.client_id in readers
        and (len(readers) == 1 or claims.get("azp") == settings.client_id)
        and claims.get("azp", settings.client_id) == settings.client_id
        and _is_time(until)
        and until > at - APART
        and _is_time(since)
        and since <= at + APART
        and isinstance(subject, str)
        and 0 < len(subject) <= LONGEST
        and claims.get("nonce") == nonce
    )
    if not fits:
        raise GrantRefused(f"What {settings.name} says is not for this, or not for now. Begin again.")
    return dict(claims)


def _is_time(said: Any) -> TypeGuard[float]:
    return isinstance(said, int | float) and not isinstance(said, bool)


def _read_claims(settings: ProviderSettings, claims: Mapping[str, Any]) -> SaidToBe:
    email, name, groups = claims.get("email"), claims.get("name"), claims.get(settings.groups)
    listed = [groups] if isinstance(groups, str) else groups if isinstance(groups, list) else []
    return SaidToBe(
        subject=claims["sub"],
        email=email.strip().lower()[:LONGEST] if isinstance(email, str) else None,
        # Core 1.0, 5.1: a boolean. What is not said to be verified is not.
        is_verified=claims.get("email_verified") is True,
        name=" ".join(name.split())[:LONGEST] if isinstance(name, str) else "",
        groups=tuple(one[:LONGEST] for one in listed[:MOST_GROUPS] if isinstance(one, str)),
    )
