"""The translator service: POST <url>/translate with {text, source, target} gives {text, source, rough}."""

import httpx

from sorta.core.ports import Translated, Unreachable
from sorta.networks.outgoing import Outgoing


class HttpTranslator:
    """Implements core.ports.Translator over HTTP and JSON; `client` is shared with the networks."""

    def __init__(self, client: Outgoing, url: str, name: str = "translator") -> None:
        self._client, self._url, self._name = client, url.rstrip("/"), name

    async def translate(self, text: str, *, source: str | None, target: str) -> Translated:
        """See core.ports.Translator."""
        body = {"text": text, "source": source, "target": target}
        try:
            answer = await self._client.send("POST", f"{self._url}/translate", base=self._url, json=body)
            answer.raise_for_status()
            told = answer.json()
            return Translated(
                text=str(told["text"]), source=told.get("source"), rough=bool(told["rough"]), engine=self._name
            )
        except (httpx.HTTPError, ValueError, KeyError, TypeError) as error:
            raise Unreachable(f"The translator did not answer as it should ({type(error).__name__}).") from error
