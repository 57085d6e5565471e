"""Learned weights as a file: plain arrays, nothing in it that is run when it is read. Used by services.lessons."""

import json
import os
from io import BytesIO
from pathlib import Path
from typing import Any
from zipfile import BadZipFile

import numpy as np

from sorta.core.learned import Weights

_ARRAYS = ("idf", "coef", "intercept", "turn", "shift")
_NAMES = ("words", "pieces", "meanings")
#: What reading a file raises that is missing, cut off, or something else.
_UNFIT = (OSError, EOFError, ValueError, KeyError, BadZipFile)


class NoWeights(Exception):
    """There is no such file, or it is none of weights."""


def save(path: Path, weights: Weights) -> None:
    """Write the file, whole or not at all."""
    path.parent.mkdir(parents=True, exist_ok=True)
    half = path.with_suffix(f".{os.getpid()}.npz")
    half.write_bytes(pack(weights))
    half.replace(path)


def pack(weights: Weights) -> bytes:
    """The weights as such a file holds them."""
    # Forms hold no line breaks, so that each list is one text; an array of texts would be as wide as its longest everywhere.
    named = {name: _to_bytes("\n".join(getattr(weights, name))) for name in _NAMES}
    packed = BytesIO()
    np.savez_compressed(
        packed,
        **{name: getattr(weights, name) for name in _ARRAYS},
        **named,
        feeling=_to_bytes(json.dumps(weights.feeling, ensure_ascii=False)),
        learned_from=_to_bytes(weights.learned_from),
    )
    return packed.getvalue()


def _to_bytes(text: str) -> Any:
    return np.frombuffer(text.encode(), dtype=np.uint8)


def load(path: Path) -> Weights:
    """The weights in a file. Raises NoWeights."""
    try:
        return unpack(path.read_bytes())
    except (OSError, NoWeights) as error:
        raise NoWeights(f"{path.name} holds no weights to read with: {error}") from error


def unpack(packed: bytes) -> Weights:
    """What `pack` made of weights. Raises NoWeights."""
    try:
        with np.load(BytesIO(packed), allow_pickle=False) as kept:
            return Weights(
                **{name: tuple(kept[name].tobytes().decode().split("\n")) for name in _NAMES},
                idf=kept["idf"],
                coef=kept["coef"],
                intercept=kept["intercept"],
                turn=kept["turn"],
                shift=kept["shift"],
                feeling={
                    language: {kind: tuple(words) for kind, words in kinds.items()}
                    for language, kinds in json.loads(kept["feeling"].tobytes()).items()
                },
                learned_from=kept["learned_from"].tobytes().decode(),
            )
    except _UNFIT as error:
        raise NoWeights(str(error)) from error


def get_learned_from(path: Path) -> str | None:
    """The hash of what the weights in a file were learned from; None without such a file."""
    try:
        with np.load(path, allow_pickle=False) as kept:
            return str(kept["learned_from"].tobytes().decode())
    except _UNFIT:
        return None
