"""Work in a process of its own: it takes long, and none of it may be the worker's. Used by services.teaching and services.replaying.

The process is given one JSON value, and says one on each line: the last is its answer, those before how far it has come.
"""

import asyncio
import json
import os
from collections.abc import AsyncGenerator, Callable, Sequence
from typing import IO, Any

#: Nothing that is said on one line is longer, in bytes.
_LONGEST = 1 << 27


class ApartFailed(Exception):
    """The process ended otherwise than with an answer; the message is the last it said of why."""


async def ask_apart(command: Sequence[str], given: Any) -> AsyncGenerator[Any, None]:
    """What the process says, one after the other. Whoever asks no further ends the process. Raises ApartFailed."""
    process = await asyncio.create_subprocess_exec(
        *command,
        stdin=asyncio.subprocess.PIPE,
        stdout=asyncio.subprocess.PIPE,
        stderr=asyncio.subprocess.PIPE,
        limit=_LONGEST,
    )
    assert process.stdin is not None
    assert process.stdout is not None
    assert process.stderr is not None
    wrong = asyncio.create_task(process.stderr.read())
    try:
        try:
            process.stdin.write(json.dumps(given).encode())
            await process.stdin.drain()
            process.stdin.close()
        except (BrokenPipeError, ConnectionResetError):
            pass  # It ended before it had read all: what it said of why comes below.
        async for line in process.stdout:
            yield json.loads(line)
        if await process.wait():
            last = (await wrong).decode(errors="replace").strip().splitlines()[-1:] or ["it ended without a word"]
            raise ApartFailed(last[0][:300])
    finally:
        if process.returncode is None:
            process.kill()
            await process.wait()
        wrong.cancel()


def answer_apart(work: Callable[[Any, Callable[[Any], None]], Any], given: IO[str], out: IO[str]) -> None:
    """The other end: do the work that is asked for, and say what came out; the work may say how far it has come. Raises what it
    raises."""
    # Whatever is read and answered meanwhile goes first.
    os.nice(10)

    def say(value: Any) -> None:
        json.dump(value, out)
        out.write("\n")
        out.flush()

    say(work(json.load(given), say))
