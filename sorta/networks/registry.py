"""All adapters by network; the line to add for a new one. Called by main."""

import httpx

from sorta.core.ports import Network
from sorta.networks.commonfold import Commonfold
from sorta.networks.hushline import Hushline
from sorta.networks.quillet import Quillet


def make_networks(client: httpx.AsyncClient) -> dict[str, Network]:
    """One adapter per network, sharing one HTTP client."""
    adapters: list[Network] = [Commonfold(client), Quillet(client), Hushline(client)]
    return {adapter.abilities.network: adapter for adapter in adapters}
