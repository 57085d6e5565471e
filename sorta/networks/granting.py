"""Asking networks for leave, by OAuth 2.0 (networks.oauth).

A network sends people back to an address of its own, and says who it is (RFC 9207), so that no network's answer is taken for another's. Made by main, for
core.ports.Grantor.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from authlib.oauth2.rfc6749.parameters import prepare_grant_uri, prepare_token_request
from authlib.oauth2.rfc7636 import create_s256_code_challenge
from pydantic import TypeAdapter, ValidationError

from sorta.core.ports import Grant, GrantRefused, Lacking, PageSeen, Unreachable
from sorta.networks.abilities import TABLE
from sorta.networks.oauth import LONGEST_TOKEN, OAuth, Party, read_code, say
from sorta.networks.outgoing import Outgoing, read_object

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
        self._oauth, self._clients, self._address = OAuth(outgoing), clients, address

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
        return await self._ask(
            network,
            prepare_token_request(
                "authorization_code",
                redirect_uri=self.get_redirect(network),
                code=read_code(self._get_party(network), response, state=state, says_issuer=True),
                code_verifier=verifier,
            ),
        )

    async def renew(self, network: str, refresh_token: str) -> Grant:
        """See core.ports.Grantor."""
        return await self._ask(network, prepare_token_request("refresh_token", refresh_token=refresh_token))

    async def look(self, network: str, token: str) -> PageSeen:
        """See core.ports.Grantor. GET <api>/me."""
        client, party = self._clients[network], self._get_party(network)
        headers = {"Authorization": f"Bearer {token}"}
        answer = await self._oauth.send(party, "GET", f"{client.api_url}/me", base=client.api_url, headers=headers)
        if answer.status_code in (401, 403):
            raise GrantRefused(f"{party.name} does not say which account this is for: {say(read_object(answer))}")
        page = read_object(answer)
        said = {key: page.get(key) for key in ("id", "preferredUsername", "name")}
        if not answer.is_success or not all(isinstance(v, str) and 0 < len(v) <= LONGEST for v in said.values()):
            raise Unreachable(f"{party.name} answered {answer.status_code} without saying which account this is for.")
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
        where = (await self._describe(network)).get("revocation_endpoint")
        if isinstance(where, str):
            party = self._get_party(network)
            await self._oauth.post(party, where, prepare_token_request("", token=token), base=party.issuer)

    async def _ask(self, network: str, body: str) -> Grant:
        party, described = self._get_party(network), await self._describe(network)
        said = await self._oauth.ask_for_token(party, described["token_endpoint"], body, base=party.issuer)
        refresh, lasts = said.get("refresh_token"), said.get("expires_in")
        return Grant(
            token=said["access_token"],
            refresh_token=refresh if isinstance(refresh, str) and 0 < len(refresh) <= LONGEST_TOKEN else None,
            lasts=float(lasts) if isinstance(lasts, int | float) and 0 < lasts < 10**10 else None,
        )

    def _get_party(self, network: str) -> Party:
        client = self._clients[network]
        return Party(
            name=TABLE[network].name,
            issuer=client.issuer,
            client_id=client.client_id,
            client_secret=client.client_secret,
        )

    async def _describe(self, network: str) -> dict[str, Any]:
        """The network's description of itself (RFC 8414, 3)."""
        parts = urlsplit(self._clients[network].issuer)
        url = f"{parts.scheme}://{parts.netloc}/.well-known/oauth-authorization-server{parts.path.rstrip('/')}"
        return await self._oauth.describe(self._get_party(network), url, ("authorization_endpoint", "token_endpoint"))
