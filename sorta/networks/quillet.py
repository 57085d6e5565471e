"""Quillet: an ActivityStreams network; see abilities.py for what it can do."""

from sorta.networks.abilities import QUILLET
from sorta.networks.streams_api import StreamsNetwork


class Quillet(StreamsNetwork):
    """Nothing beyond the shared ways."""

    abilities = QUILLET
