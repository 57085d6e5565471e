"""Hushline: an ActivityStreams network; see abilities.py for what it can do."""

from sorta.networks.abilities import HUSHLINE
from sorta.networks.streams_api import StreamsNetwork


class Hushline(StreamsNetwork):
    """Nothing beyond the shared ways."""

    abilities = HUSHLINE
