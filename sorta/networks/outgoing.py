"""The one way out over HTTP: bounded in time and bytes, follows nothing elsewhere, and tells a token to its own host alone.
Used by every adapter, the support desks and the translator."""

import asyncio
import ipaddress
import socket
from typing import Any

import httpx

from sorta.core.hosts import leads_inside

#: Bytes of an answer that are read; a page of activities takes some tens of thousands.
LARGEST_ANSWER = 5 * 2**20


class Forbidden(httpx.HTTPError):
    """An address that nothing is sent to: of another host than the account's own, of no web, or of our own network."""


class AnswerTooLarge(httpx.HTTPError):
    """An answer that does not end where answers end."""


class Outgoing:
    """Sends requests through `client`. `timeout` is how long one may take, its whole answer included, in seconds;
    `allow_private` lets it reach loopback, private and link-local addresses, which a network's address never is."""

    def __init__(self, client: httpx.AsyncClient, *, timeout: float = 10, allow_private: bool = True) -> None:
        self._client, self._timeout, self._allow_private = client, timeout, allow_private

    async def send(
        self,
        method: str,
        url: str,
        *,
        base: str,
        headers: dict[str, str] | None = None,
        patience: float | None = None,
        **content: Any,
    ) -> httpx.Response:
        """The answer, read to its end. `base` is the address that the token among the headers is for: another scheme, host or
        port is refused.

        Raises httpx.HTTPError: Forbidden, AnswerTooLarge, ReadTimeout when `patience` is over, or what went wrong on the way.
        """
        headers = dict(headers or {})
        try:
            target, own = httpx.URL(url), httpx.URL(base)
        except (httpx.InvalidURL, ValueError) as error:
            raise Forbidden(f"{url[:100]!r} is no address") from error
        if _get_origin(target) != _get_origin(own) or target.scheme not in ("http", "https"):
            raise Forbidden(f"{target.host} is not the host that the account is at")
        within = self._timeout if patience is None else patience
        extensions: dict[str, Any] = {}
        try:
            async with asyncio.timeout(within):
                if not self._allow_private:
                    address = await self._find_public(target)
                    # To the very address that was looked at: asked again, a name may lead elsewhere.
                    headers["Host"] = target.netloc.decode("ascii")
                    extensions["sni_hostname"] = target.host
                    target = target.copy_with(host=address)
                request = self._client.build_request(
                    method, target, headers=headers, timeout=within, extensions=extensions, **content
                )
                answer = await self._client.send(request, stream=True, follow_redirects=False)
                try:
                    return await _read(answer)
                finally:
                    await answer.aclose()
        except TimeoutError as error:
            raise httpx.ReadTimeout(f"no whole answer within {within:g} seconds") from error

    async def _find_public(self, target: httpx.URL) -> str:
        """An address of the host, none of whose addresses is of our own network."""
        port = target.port or (443 if target.scheme == "https" else 80)
        try:
            found = await asyncio.get_running_loop().getaddrinfo(target.host, port, type=socket.SOCK_STREAM)
        except (OSError, UnicodeError) as error:
            raise httpx.ConnectError(f"{target.host} cannot be found") from error
        addresses = [str(where[0]) for *_, where in found]
        if not addresses or any(leads_inside(ipaddress.ip_address(one.partition("%")[0])) for one in addresses):
            raise Forbidden(f"{target.host} is an address of our own network")
        return addresses[0]


def _get_origin(url: httpx.URL) -> tuple[str, str, int | None]:
    return url.scheme, url.host.lower(), url.port


async def _read(answer: httpx.Response) -> httpx.Response:
    """The whole answer, in memory."""
    content = bytearray()
    # Decoded piece by piece: what is small on the line may unfold to any size.
    async for piece in answer.aiter_bytes(2**16):
        content += piece
        if len(content) > LARGEST_ANSWER:
            raise AnswerTooLarge(f"the answer is larger than {LARGEST_ANSWER // 2**20} MB")
    kept = httpx.Headers([(k, v) for k, v in answer.headers.multi_items() if k.lower() not in _SPENT])
    return httpx.Response(answer.status_code, headers=kept, content=bytes(content), request=answer.request)


#: Said of the body as it came over the line.
_SPENT = frozenset({"content-encoding", "content-length", "transfer-encoding"})


def read_object(answer: httpx.Response) -> dict[str, Any]:
    """The JSON object of an answer; empty where there is none."""
    try:
        body = answer.json()
    except ValueError:
        return {}
    return body if isinstance(body, dict) else {}
