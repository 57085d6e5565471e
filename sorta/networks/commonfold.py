"""Commonfold: an ActivityStreams network; see abilities.py for what it can do."""

from sorta.networks.abilities import COMMONFOLD
from sorta.networks.streams_api import StreamsNetwork


class Commonfold(StreamsNetwork):
    """Nothing beyond the shared ways."""

    abilities = COMMONFOLD
