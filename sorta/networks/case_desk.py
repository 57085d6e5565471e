"""A support desk over HTTP and JSON: POST <url>/cases and <url>/cases/<id>/messages, each with an Idempotency-Key."""

from typing import Any

import httpx

from sorta.core.ports import CaseMessage, CaseOpened, DeskRef, DeskRefused, NewCase, Unreachable
from sorta.networks.outgoing import Outgoing


class HttpCaseDesk:
    """Implements core.ports.CaseDesk; `client` is shared with the networks."""

    def __init__(self, client: Outgoing) -> None:
        self._client = client

    async def open(self, desk: DeskRef, case: NewCase, key: str) -> CaseOpened:
        """See core.ports.CaseDesk."""
        body = {
            "subject": case.subject,
            "customer": {"name": case.person, "handle": case.handle, "network": case.network},
            "address": case.address,
            "note": case.note,
            "by": case.by,
        }
        told = await self._post(desk, "/cases", body, key)
        try:
            url = str(told["url"])
            # It becomes a link on our pages: nothing but an address of the web.
            safe = url if url.startswith(("https://", "http://")) else ""
            return CaseOpened(external_id=str(told["id"]), reference=str(told["reference"]), url=safe)
        except KeyError as error:
            raise Unreachable(f"The desk's answer lacks {error}.") from error

    async def add(self, desk: DeskRef, external_id: str, message: CaseMessage, key: str) -> None:
        """See core.ports.CaseDesk."""
        body = {
            "id": message.id,
            "by": message.by,
            "ours": message.ours,
            "text": message.text,
            "at": message.at.isoformat(),
        }
        await self._post(desk, f"/cases/{external_id}/messages", body, key)

    async def _post(self, desk: DeskRef, path: str, body: dict[str, Any], key: str) -> dict[str, Any]:
        headers = {"Authorization": f"Bearer {desk.token}", "Idempotency-Key": key}
        try:
            answer = await self._client.send(
                "POST", f"{desk.api_url}{path}", base=desk.api_url, json=body, headers=headers
            )
            told = answer.json()
        except (httpx.HTTPError, ValueError) as error:
            raise Unreachable(f"The desk did not answer as it should ({type(error).__name__}).") from error
        if not isinstance(told, dict):
            raise Unreachable("The desk's answer is no object.")
        if answer.status_code in (408, 425, 429) or answer.status_code >= 500 or answer.status_code == 401:
            raise Unreachable(str(told.get("detail", f"The desk answered {answer.status_code}.")))
        if answer.is_error:
            raise DeskRefused(str(told.get("detail", f"The desk answered {answer.status_code}.")))
        return told
