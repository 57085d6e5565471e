"""Verdica: an ActivityStreams network; see abilities.py for what it can do."""

from sorta.networks.abilities import VERDICA
from sorta.networks.streams_api import StreamsNetwork


class Verdica(StreamsNetwork):
    """Nothing beyond the shared ways."""

    abilities = VERDICA
