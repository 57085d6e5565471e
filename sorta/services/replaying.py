"""Playing days again in a process of its own (services.apart): some minutes of a core. Used by main and services.replays."""

import sys
from collections.abc import Awaitable, Callable, Sequence
from contextlib import aclosing
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

from sorta.core.replay import AskedReplay, CannotReplay, Found, compare
from sorta.services.apart import ApartFailed, ask_apart

_ASKED: TypeAdapter[AskedReplay] = TypeAdapter(AskedReplay)
#: What came out, as it is kept; a figure that no run has is null.
FOUND: TypeAdapter[Found] = TypeAdapter(Found)
#: How often the process says how far it has come: with every so many steps.
_EVERY = 4


@dataclass(frozen=True)
class ApartReplayer:
    """Implements core.replay.Replayer: `command` is what begins the process."""

    command: Sequence[str]

    async def compare(self, asked: AskedReplay, tell: Callable[[int, int], Awaitable[bool]]) -> Found | None:
        """See core.replay.Replayer."""
        try:
            async with aclosing(ask_apart(self.command, _ASKED.dump_python(asked, mode="json"))) as sayings:
                async for said in sayings:
                    if "found" in said:
                        return FOUND.validate_python(said["found"])
                    if not await tell(said["done"], said["total"]):
                        return None
        except ApartFailed as error:
            raise CannotReplay(f"Playing the days again failed: {error}") from error
        raise CannotReplay("Playing the days again ended without a result.")


def make_replayer() -> ApartReplayer:
    """One that runs `replay` of this very program."""
    return ApartReplayer((sys.executable, "-m", "sorta.main", "replay"))


def replay_once(asked: Any, say: Callable[[Any], None]) -> Any:
    """The other end: play what is asked for, and say how far it has come. Raises ValueError."""

    def tell(done: int, total: int) -> None:
        if done % _EVERY == 0:
            say({"done": done, "total": total})

    return {"found": FOUND.dump_python(compare(_ASKED.validate_python(asked), tell), mode="json")}
