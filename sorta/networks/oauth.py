"""OAuth 2.0 by authorization code (RFC 6749) with PKCE (RFC 7636), as RFC 9700 advises: what is the same whoever is asked.

Where somebody is asked stands in their own description (RFC 8414, OpenID Connect Discovery), which has to be of the very issuer in the settings. Used by
networks.granting and networks.identity.
"""

import time
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import parse_qsl, quote

import httpx

from sorta.core.ports import GrantRefused, Unreachable
from sorta.networks.outgoing import Outgoing, read_object

#: Seconds for which a description is believed.
BELIEVED = 3600
#: Characters of a token that are taken.
LONGEST_TOKEN = 8192


@dataclass(frozen=True, kw_only=True)
class Party:
    """Who is asked: what they are called here, how they call themselves, and what this installation is to them."""

    name: str
    issuer: str
    client_id: str
    client_secret: str


class OAuth:
    """Asks parties, and keeps what they say of themselves for a while."""

    def __init__(self, outgoing: Outgoing) -> None:
        self._outgoing = outgoing
        self._described: dict[str, tuple[float, dict[str, Any]]] = {}

    async def describe(self, party: Party, url: str, needed: Collection[str]) -> dict[str, Any]:
        """A party's description of itself, from `url`; it has to name the `needed` places. Raises Unreachable."""
        kept = self._described.get(url)
        if kept is not None and time.monotonic() - kept[0] < BELIEVED:
            return kept[1]
        answer = await self.send(party, "GET", url, base=party.issuer)
        said = read_object(answer)
        if not answer.is_success or said.get("issuer") != party.issuer:
            raise Unreachable(f"{party.name} does not describe how it is asked for leave ({answer.status_code}).")
        if not all(isinstance(said.get(place), str) for place in needed):
            raise Unreachable(f"{party.name} does not say where it is asked for leave.")
        if "S256" not in (said.get("code_challenge_methods_supported") or ()):
            raise Unreachable(f"{party.name} knows no PKCE, without which it is not asked.")
        self._described[url] = (time.monotonic(), said)
        return said

    async def post(self, party: Party, url: str, body: str, *, base: str) -> httpx.Response:
        """A form sent as this installation. Raises Unreachable."""
        # RFC 6749, 2.3.1: both are encoded as in a form before they are put together.
        auth = httpx.BasicAuth(quote(party.client_id, safe=""), quote(party.client_secret, safe=""))
        header = next(auth.sync_auth_flow(httpx.Request("POST", url))).headers["Authorization"]
        headers = {"Authorization": header, "Content-Type": "application/x-www-form-urlencoded"}
        return await self.send(party, "POST", url, base=base, headers=headers, content=body)

    async def ask_for_token(self, party: Party, url: str, body: str, *, base: str) -> dict[str, Any]:
        """What a grant is worth: an answer with an access token. Raises GrantRefused, Unreachable."""
        answer = await self.post(party, url, body, base=base)
        said = read_object(answer)
        # RFC 6749, 5.2: what is wrong with a grant is 400, and with a client 401.
        if answer.status_code in (400, 401, 403):
            raise GrantRefused(f"{party.name} grants nothing: {say(said)}")
        token = said.get("access_token")
        if not answer.is_success or not isinstance(token, str) or not 0 < len(token) <= LONGEST_TOKEN:
            raise Unreachable(f"{party.name} answered {answer.status_code} without a token.")
        if str(said.get("token_type")).lower() != "bearer":
            raise GrantRefused(f"{party.name} gives a kind of token that nobody here knows.")
        return said

    async def send(self, party: Party, method: str, url: str, *, base: str, **more: Any) -> httpx.Response:
        """A request. Raises Unreachable."""
        try:
            answer = await self._outgoing.send(method, url, base=base, **more)
        except httpx.HTTPError as error:
            raise Unreachable(f"{party.name} did not answer ({type(error).__name__}).") from error
        if answer.status_code == 429 or answer.status_code >= 500:
            raise Unreachable(f"{party.name} answered {answer.status_code}.")
        return answer


def read_code(party: Party, response: str, *, state: str, says_issuer: bool) -> str:
    """The code of the query that a party sends somebody back with; with `says_issuer` it has to say who it is (RFC 9207). Raises GrantRefused."""
    try:
        said = parse_qsl(response, keep_blank_values=True, max_num_fields=30)
    except ValueError as error:
        raise GrantRefused(f"This is not what {party.name} was asked. Begin again.") from error
    answer = dict(said)
    # RFC 6749, 3.1: nothing is said twice.
    if len(answer) != len(said) or answer.get("state") != state:
        raise GrantRefused(f"This is not what {party.name} was asked. Begin again.")
    if answer.get("iss") != party.issuer and (says_issuer or "iss" in answer):
        raise GrantRefused(f"This answer does not come from {party.name}. Begin again.")
    if "error" in answer or not answer.get("code"):
        raise GrantRefused(f"{party.name} does not allow it: {say(answer)}")
    return answer["code"]


def say(answer: Mapping[str, Any]) -> str:
    """What a party gives as its reason (RFC 6749, 4.1.2.1 and 5.2), in a line."""
    said = answer.get("error_description") or answer.get("error") or answer.get("detail") or "it gives no reason"
    return " ".join(str(said).split())[:200]
