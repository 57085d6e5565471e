"""Learning a workspace's own reading in a process of its own: it takes half a minute of a core, and none of it may be the worker's.

The process is given one JSON object, {told, present}, and answers with one, {weights, compared, based_on}; weights in base64.
"""

import base64
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from sorta.core.own_reading import CannotLearn, Comparison, Taught, Told
from sorta.services.apart import ApartFailed, ask_apart
from sorta.services.lessons import relearn
from sorta.store import weights

_TOLD: TypeAdapter[list[Told]] = TypeAdapter(list[Told])
_COMPARISON: TypeAdapter[Comparison] = TypeAdapter(Comparison)


@dataclass(frozen=True)
class ApartTeacher:
    """Implements core.ports.Teacher: `command` is what begins the process."""

    command: Sequence[str]

    async def learn(self, told: Sequence[Told], present: bytes | None) -> Taught:
        """See core.ports.Teacher. Whoever waits no longer ends the process."""
        given = {
            "told": _TOLD.dump_python(list(told), mode="json"),
            "present": None if present is None else base64.b64encode(present).decode(),
        }
        try:
            answer = [said async for said in ask_apart(self.command, given)][-1]
        except ApartFailed as error:
            raise CannotLearn(f"Learning from what was corrected failed: {error}") from error
        return Taught(
            weights=base64.b64decode(answer["weights"]),
            compared=_COMPARISON.validate_python(answer["compared"]),
            based_on=answer["based_on"],
        )


def make_teacher(everybodys: Path) -> ApartTeacher:
    """One that runs `relearn` of this very program; `everybodys` is the file of weights that all read by who have none of their
    own."""
    return ApartTeacher((sys.executable, "-m", "sorta.main", "relearn", str(everybodys)))


def answer_once(texts: Path, everybodys: Path, asked: Any) -> Any:
    """The other end: learn what is asked for. Raises what `relearn` raises."""
    taught = relearn(
        texts,
        _TOLD.validate_python(asked["told"]),
        weights.load(everybodys) if asked["present"] is None else weights.unpack(base64.b64decode(asked["present"])),
    )
    return {
        "weights": base64.b64encode(taught.weights).decode(),
        "compared": _COMPARISON.dump_python(taught.compared, mode="json"),
        "based_on": taught.based_on,
    }
