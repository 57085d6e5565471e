"""Workbarn: an ActivityStreams network; see abilities.py for what it can do."""

from sorta.networks.abilities import WORKBARN
from sorta.networks.streams_api import StreamsNetwork


class Workbarn(StreamsNetwork):
    """Nothing beyond the shared ways."""

    abilities = WORKBARN
