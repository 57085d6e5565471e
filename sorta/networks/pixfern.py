"""Pixfern: an ActivityStreams network; see abilities.py for what it can do."""

from sorta.networks.abilities import PIXFERN
from sorta.networks.streams_api import StreamsNetwork


class Pixfern(StreamsNetwork):
    """Nothing beyond the shared ways."""

    abilities = PIXFERN
