"""Loopreel: an ActivityStreams network; see abilities.py for what it can do."""

from sorta.networks.abilities import LOOPREEL
from sorta.networks.streams_api import StreamsNetwork


class Loopreel(StreamsNetwork):
    """Nothing beyond the shared ways."""

    abilities = LOOPREEL
