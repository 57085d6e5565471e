"""Text messages by a gateway: POST <url>/messages with {to, text} and an Idempotency-Key, let in by a bearer token."""

import httpx

from sorta.core.ports import LetterRefused, Unreachable
from sorta.networks.outgoing import Outgoing

#: What it says of a message that it will never take: of all others the connection, the token or the gateway is to blame.
_NEVER = (400, 404, 422)
_LONGEST_REASON = 300


class HttpTexting:
    """Implements core.ports.TextPost over HTTP and JSON; `client` is shared with the networks."""

    def __init__(self, client: Outgoing, url: str, token: str) -> None:
        self._client, self._url, self._token = client, url.rstrip("/"), token

    async def send(self, *, key: str, to: str, text: str) -> None:
        """See core.ports.TextPost."""
        headers = {"Authorization": f"Bearer {self._token}", "Idempotency-Key": key}
        body = {"to": to, "text": text}
        try:
            answer = await self._client.send(
                "POST", f"{self._url}/messages", base=self._url, json=body, headers=headers
            )
        except httpx.HTTPError as error:
            raise Unreachable(f"The gateway for text messages did not answer ({type(error).__name__}).") from error
        if answer.status_code in _NEVER:
            raise LetterRefused(_read_reason(answer))
        if not answer.is_success:
            raise Unreachable(f"The gateway for text messages answered {answer.status_code}.")


def _read_reason(answer: httpx.Response) -> str:
    """What it says is wrong; its number where it says nothing."""
    try:
        said = str(answer.json()["detail"])
    except (ValueError, KeyError, TypeError):
        said = f"The gateway for text messages answered {answer.status_code}."
    return said[:_LONGEST_REASON]
