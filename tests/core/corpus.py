"""The prompts of chatterbot-corpus 1.3.3 (BSD licence), each with its topic: what suggestions are measured on."""

import random
from collections.abc import Sequence
from importlib.resources import files

import yaml


def read_topics() -> list[tuple[str, str]]:
    """Every English prompt once, with its topic, in a fixed order."""
    found: dict[str, str] = {}
    folder = files("chatterbot_corpus") / "data" / "english"
    for file in sorted(folder.iterdir(), key=lambda f: f.name):
        if file.name.endswith(".yml"):
            for conversation in yaml.safe_load(file.read_text())["conversations"]:
                if isinstance(conversation[0], str):
                    found.setdefault(conversation[0].strip(), file.name[:-4])
    return list(found.items())


def take_few(
    pairs: Sequence[tuple[str, str]], many: int, seed: int
) -> tuple[list[tuple[str, str]], list[tuple[str, str]]]:
    """At most so many of each topic, and what is left."""
    shuffled, known, held = list(pairs), list[tuple[str, str]](), list[tuple[str, str]]()
    random.Random(seed).shuffle(shuffled)
    for pair in shuffled:
        (known if sum(topic == pair[1] for _, topic in known) < many else held).append(pair)
    return known, held
