"""Telling programs what has happened, by POST. Made by main, for core.ports.ProgramPost."""

from collections.abc import Mapping

import httpx

from sorta.networks.outgoing import Outgoing


class HttpPrograms:
    """`outgoing` is shared with the networks: bounded, and inward only where that is allowed."""

    def __init__(self, outgoing: Outgoing) -> None:
        self._outgoing = outgoing

    async def tell(self, url: str, headers: Mapping[str, str], body: str) -> tuple[str | None, bool]:
        """See core.ports.ProgramPost."""
        try:
            answer = await self._outgoing.send("POST", url, base=url, headers=dict(headers), content=body.encode())
        except httpx.HTTPError as error:
            return f"It did not answer ({type(error).__name__}).", False
        if answer.is_success:
            return None, False
        return f"It answered {answer.status_code}.", answer.status_code == 410
