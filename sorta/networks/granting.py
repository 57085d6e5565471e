"""Asking networks for leave: OAuth 2.0 by authorization code (RFC 6749) with PKCE (RFC 7636), as RFC 9700 advises.

Where a network is asked stands in its own description (RFC 8414), which has to be of the very issuer that was asked for; it sends people back to an
address of its own, and says who it is (RFC 9207), so that no network's answer is taken for another's. Made by main, for core.ports.Grantor.
"""

import time
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import parse_qsl, quote, urlsplit

import httpx
from authlib.oauth2.rfc6749.parameters import prepare_grant_uri, prepare_token_request
from authlib.oauth2.rfc7636 import create_s256_code_challenge
from pydantic import TypeAdapter, ValidationError

from sorta.core.ports import Grant, GrantRefused, Lacking, PageSeen, Unreachable
from sorta.networks.abilities import TABLE
from sorta.networks.outgoing import Outgoing, read_object

#: Seconds for which a network's description of itself is believed.
BELIEVED = 3600
#: Characters of what a network says of itself that are kept.
LONGEST = 500


@dataclass(frozen=True, kw_only=True)
class Client:
    """What an installation is to a network: who issues its grants, the client's id and secret there, and where its interface for programs is."""

    issuer: str
    client_id: str
    client_secret: str
    api_url: str
    scope: str = ""


_CLIENTS = TypeAdapter(dict[str, Client])


def read_clients(text: str) -> dict[str, Client]:
    """The clients of a file of settings, in JSON by network. Raises ValueError with what is wrong in it."""
    try:
        found = _CLIENTS.validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        raise ValueError(f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}") from None
    if unknown := sorted(found.keys() - TABLE.keys()):
        raise ValueError(f"There is no network {unknown[0]!r}.")
    for network, client in found.items():
        for address in (client.issuer, client.api_url):
            if not address.startswith(("https://", "http://")) or address.endswith("/"):
                raise ValueError(f"{network}: {address!r} has to begin with https:// and to end without a slash.")
    return found


class OAuthGrantor:
    """`clients` by network; `address` is where this installation is reached by browsers."""

    def __init__(self, outgoing: Outgoing, clients: Mapping[str, Client], address: str) -> None:
        self._outgoing, self._clients, self._address = outgoing, clients, address
        self._described: dict[str, tuple[float, dict[str, str]]] = {}

    def list_networks(self) -> frozenset[str]:
        """See core.ports.Grantor."""
        return frozenset(self._clients)

    def get_redirect(self, network: str) -> str:
        """Where a network sends people back to: another address for each (RFC 9700, 4.4.2.2)."""
        return f"{self._address}/connect/{network}"

    async def make_address(self, network: str, *, state: str, verifier: str) -> str:
        """See core.ports.Grantor."""
        client, described = self._clients[network], await self._describe(network)
        return str(
            prepare_grant_uri(
                described["authorization_endpoint"],
                client.client_id,
                "code",
                redirect_uri=self.get_redirect(network),
                scope=client.scope or None,
                state=state,
                code_challenge=create_s256_code_challenge(verifier),
                code_challenge_method="S256",
            )
        )

    async def take_code(self, network: str, response: str, *, state: str, verifier: str) -> Grant:
        """See core.ports.Grantor."""
        name, client = TABLE[network].name, self._clients[network]
        said = parse_qsl(response, keep_blank_values=True, max_num_fields=30)
        answer = dict(said)
        # RFC 6749, 3.1: nothing is said twice.
        if len(answer) != len(said) or answer.get("state") != state:
            raise GrantRefused(f"This is not what {name} was asked. Begin again.")
        if answer.get("iss") != client.issuer:
            raise GrantRefused(f"This answer does not come from {name}. Begin again.")
        if "error" in answer or not answer.get("code"):
            raise GrantRefused(f"{name} does not allow it: {_say(answer)}")
        return await self._ask(
            network,
            prepare_token_request(
                "authorization_code",
                redirect_uri=self.get_redirect(network),
                code=answer["code"],
                code_verifier=verifier,
            ),
        )

    async def renew(self, network: str, refresh_token: str) -> Grant:
        """See core.ports.Grantor."""
        return await self._ask(network, prepare_token_request("refresh_token", refresh_token=refresh_token))

    async def look(self, network: str, token: str) -> PageSeen:
        """See core.ports.Grantor. GET <api>/me."""
        client, name = self._clients[network], TABLE[network].name
        answer = await self._send(
            network, "GET", f"{client.api_url}/me", base=client.api_url, headers={"Authorization": f"Bearer {token}"}
        )
        if answer.status_code in (401, 403):
            raise GrantRefused(f"{name} does not say which account this is for: {_say(read_object(answer))}")
        page = read_object(answer)
        said = {key: page.get(key) for key in ("id", "preferredUsername", "name")}
        if not answer.is_success or not all(isinstance(v, str) and 0 < len(v) <= LONGEST for v in said.values()):
            raise Unreachable(f"{name} answered {answer.status_code} without saying which account this is for.")
        lacking = [one for one in page.get("lacking") or () if isinstance(one, dict)]
        return PageSeen(
            external_id=str(said["id"]),
            handle=str(said["preferredUsername"]),
            name=str(said["name"]),
            api_url=client.api_url,
            lacking=tuple(
                Lacking(words=str(one.get("words"))[:LONGEST], address=str(one.get("address"))[:LONGEST])
                for one in lacking[:5]
                # It becomes a link on the page.
                if str(one.get("address")).startswith(("https://", "http://"))
            ),
        )

    async def revoke(self, network: str, token: str) -> None:
        """See core.ports.Grantor. A network without such a place keeps the token until it ends by itself."""
        described = await self._describe(network)
        if where := described.get("revocation_endpoint"):
            await self._post(network, where, prepare_token_request("", token=token))

    async def _ask(self, network: str, body: str) -> Grant:
        name, described = TABLE[network].name, await self._describe(network)
        answer = await self._post(network, described["token_endpoint"], body)
        said = read_object(answer)
        # RFC 6749, 5.2: what is wrong with a grant is 400, and with a client 401.
        if answer.status_code in (400, 401, 403):
            raise GrantRefused(f"{name} grants nothing: {_say(said)}")
        token, refresh = said.get("access_token"), said.get("refresh_token")
        if not answer.is_success or not isinstance(token, str) or not 0 < len(token) <= 8192:
            raise Unreachable(f"{name} answered {answer.status_code} without a token.")
        if str(said.get("token_type")).lower() != "bearer":
            raise GrantRefused(f"{name} gives a kind of token that nobody here knows.")
        lasts = said.get("expires_in")
        return Grant(
            token=token,
            refresh_token=refresh if isinstance(refresh, str) and 0 < len(refresh) <= 8192 else None,
            lasts=float(lasts) if isinstance(lasts, int | float) and 0 < lasts < 10**10 else None,
        )

    async def _describe(self, network: str) -> dict[str, str]:
        """The network's description of itself (RFC 8414, 3)."""
        kept = self._described.get(network)
        if kept is not None and time.monotonic() - kept[0] < BELIEVED:
            return kept[1]
        client, name = self._clients[network], TABLE[network].name
        parts = urlsplit(client.issuer)
        url = f"{parts.scheme}://{parts.netloc}/.well-known/oauth-authorization-server{parts.path.rstrip('/')}"
        answer = await self._send(network, "GET", url, base=client.issuer)
        said = read_object(answer)
        if not answer.is_success or said.get("issuer") != client.issuer:
            raise Unreachable(f"{name} does not describe how it is asked for leave ({answer.status_code}).")
        places = ("authorization_endpoint", "token_endpoint", "revocation_endpoint")
        found = {place: str(said[place]) for place in places if isinstance(said.get(place), str)}
        if not {"authorization_endpoint", "token_endpoint"} <= found.keys():
            raise Unreachable(f"{name} does not say where it is asked for leave.")
        if "S256" not in (said.get("code_challenge_methods_supported") or ()):
            raise Unreachable(f"{name} knows no PKCE, without which it is not asked.")
        self._described[network] = (time.monotonic(), found)
        return found

    async def _post(self, network: str, url: str, body: str) -> httpx.Response:
        client = self._clients[network]
        # RFC 6749, 2.3.1: both are encoded as in a form before they are put together.
        auth = httpx.BasicAuth(quote(client.client_id, safe=""), quote(client.client_secret, safe=""))
        header = next(auth.sync_auth_flow(httpx.Request("POST", url))).headers["Authorization"]
        headers = {"Authorization": header, "Content-Type": "application/x-www-form-urlencoded"}
        return await self._send(network, "POST", url, base=client.issuer, headers=headers, content=body)

    async def _send(self, network: str, method: str, url: str, *, base: str, **more: Any) -> httpx.Response:
        try:
            answer = await self._outgoing.send(method, url, base=base, **more)
        except httpx.HTTPError as error:
            raise Unreachable(f"{TABLE[network].name} did not answer ({type(error).__name__}).") from error
        if answer.status_code == 429 or answer.status_code >= 500:
            raise Unreachable(f"{TABLE[network].name} answered {answer.status_code}.")
        return answer


def _say(answer: Mapping[str, Any]) -> str:
    """What a network gives as its reason (RFC 6749, 4.1.2.1 and 5.2), in a line."""
    said = answer.get("error_description") or answer.get("error") or answer.get("detail") or "it gives no reason"
    return " ".join(str(said).split())[:200]
