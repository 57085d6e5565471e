"""All adapters by network; the line to add for a new one. Called by main."""

from sorta.core.ports import Network
from sorta.networks.commonfold import Commonfold
from sorta.networks.hushline import Hushline
from sorta.networks.loopreel import Loopreel
from sorta.networks.outgoing import Outgoing
from sorta.networks.pixfern import Pixfern
from sorta.networks.quillet import Quillet
from sorta.networks.streams_api import StreamsNetwork
from sorta.networks.verdica import Verdica
from sorta.networks.workbarn import Workbarn

ADAPTERS: tuple[type[StreamsNetwork], ...] = (Commonfold, Pixfern, Quillet, Loopreel, Workbarn, Verdica, Hushline)


def make_networks(client: Outgoing) -> dict[str, Network]:
    """One adapter per network, sharing one HTTP client."""
    return {adapter.abilities.network: adapter(client) for adapter in ADAPTERS}
