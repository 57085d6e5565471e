"""Each workspace's own reading: learned from what its members say of messages, used once it is better here and no worse elsewhere,
and taken back by a word. Used by ingest, the clock and the API."""

import time
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import structlog
from pydantic import TypeAdapter

from sorta.core.errors import TooLate
from sorta.core.own_reading import FEWEST, FEWEST_NEW, MOST, Comparison, Told, is_due
from sorta.core.permissions import Permission
from sorta.core.ports import Reader
from sorta.core.reading import NOT_SURE, get_tone
from sorta.services.house import House, Scope
from sorta.services.reader import LearnedReader
from sorta.store import own_reading as store
from sorta.store.db import Tx

log = structlog.get_logger()
#: Seconds that a workspace's reading is taken for what it was when it was looked up.
_FRESH = 20.0
#: Workspaces whose own reading is held in memory: some 15 MB each. The one looked up longest ago goes first.
_MOST_HELD = 8
COMPARISON: TypeAdapter[Comparison] = TypeAdapter(Comparison)


@dataclass(frozen=True)
class Held:
    """A workspace's own reading, when it was last looked up; `id` and `reader` are None where it reads as everybody does."""

    at: float
    id: int | None
    reader: Reader | None


async def get_reader(house: House, workspace_id: int) -> Reader:
    """What messages of a workspace are read by: its own, or everybody's."""
    held = house.readers.get(workspace_id)
    if not isinstance(held, Held) or time.monotonic() - held.at > _FRESH:
        held = await _look_up(house, workspace_id, held if isinstance(held, Held) else None)
        house.readers.pop(workspace_id, None)
        house.readers[workspace_id] = held
        owners = [id for id, one in house.readers.items() if isinstance(one, Held) and one.reader is not None]
        for id in owners[:-_MOST_HELD]:
            del house.readers[id]
    return held.reader or house.reader


async def _look_up(house: House, workspace_id: int, held: Held | None) -> Held:
    async with house.db.transact(workspace_id) as tx:
        found = await store.get_in_use(tx)
        # Other texts make other weights: what was learned beside those of before waits to be learned anew.
        if found is None or found[1] != house.reader.learned_from:
            return Held(time.monotonic(), None, None)
        if held is not None and held.id == found[0]:
            return Held(time.monotonic(), held.id, held.reader)
        packed = await store.get_weights(tx, found[0])
    if packed is None:
        return Held(time.monotonic(), None, None)
    return Held(time.monotonic(), found[0], await house.workshop.do(LearnedReader.unpack, packed))


async def learn_due(house: House, workspace_id: int, now: datetime) -> bool:
    """Learn anew when enough was said since the last time; whether what was learned is used from now on. Run by the clock."""
    if house.teacher is None:
        return False
    async with house.db.transact(workspace_id) as tx:
        told = await _list_told(tx)
        latest = await store.get_latest(tx)
        in_use = await store.get_in_use(tx)
        base = house.reader.learned_from
        is_other_base = latest is not None and latest["based_on"] != base
        last = None if latest is None else latest["said"]
        if not is_due(len(told), last, is_other_base=is_other_base):
            return False
        present = None
        if in_use is not None and in_use[1] == base:
            present = await store.get_weights(tx, in_use[0])
    taught = await house.teacher.learn(told, present)
    async with house.db.transact(workspace_id) as tx:
        if await store.get_in_use(tx) != in_use:
            return False  # Taken back meanwhile: it was compared to what is used no more.
        takes_over = taught.compared.takes_over
        if takes_over or is_other_base:
            await store.end_in_use(tx, state="followed", member_id=None, now=now)
        await store.add_learned(
            tx,
            based_on=taught.based_on,
            said=len(told),
            compared=COMPARISON.dump_python(taught.compared, mode="json"),
            weights=taught.weights if takes_over else None,
            now=now,
        )
    house.readers.pop(workspace_id, None)
    log.info("own reading learned", workspace=workspace_id, said=len(told), takes_over=takes_over)
    return takes_over


async def _list_told(tx: Tx) -> list[Told]:
    """What members say messages here are. Where only one of labels and tone was said, the other is what was read."""
    return [_read_told(row) for row in await store.list_told(tx, MOST)]


def _read_told(row: Mapping[str, Any]) -> Told:
    corrected = (row["evidence"] or {}).get("corrected", ())
    # A correction is later than, or the same as, what was said when it was looked at.
    labels = row["reads_as"] if "reads_as" in corrected or row["looked_at"] is None else row["looked_at"]
    return Told(
        message=row["id"],
        text=row["body"],
        labels=frozenset(labels or ()) - {NOT_SURE},
        tone=get_tone(row["sentiment"]) or "neutral",
    )


async def take_back(house: House, scope: Scope, now: datetime) -> None:
    """Read as everybody does again. Raises TooLate when it does so already."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        ended = await store.end_in_use(tx, state="taken_back", member_id=scope.member_id, now=now)
    if not ended:
        raise TooLate("Messages are read as everybody's here already.")
    house.readers.pop(scope.workspace_id, None)


async def describe(tx: Tx) -> dict[str, Any]:
    """What was said here that can be learned from, and what became of it the last time."""
    said = len(await _list_told(tx))
    latest = await store.get_latest(tx)
    if latest is None:
        return {"said": said, "still_needed": max(0, FEWEST - said), "latest": None}
    compared = COMPARISON.validate_python(latest["compared"])
    bodies = {row["id"]: row for row in await store.list_bodies(tx, [*compared.better, *compared.worse])}
    return {
        "said": said,
        "still_needed": max(0, FEWEST - said, latest["said"] + FEWEST_NEW - said),
        "latest": {
            "learned_at": latest["learned_at"],
            "state": latest["state"],
            "ended_at": latest["ended_at"],
            "ended_by": latest["ended_by"],
            "learned": compared.learned,
            "kept": compared.kept,
            "right_before": len(compared.before.right),
            "right_after": len(compared.after.right),
            "f1_before": compared.before.f1,
            "f1_after": compared.after.f1,
            "better": [bodies[id] for id in compared.better if id in bodies],
            "worse": [bodies[id] for id in compared.worse if id in bodies],
        },
    }
