"""Trails as core events. Used by services."""

from collections.abc import Sequence

from sorta.core.events import Event, read_event
from sorta.store import trail as store
from sorta.store.db import Tx


async def list_events(tx: Tx, conversation_id: int) -> list[Event]:
    """The trail as core events."""
    return read_events(await store.list_trail(tx, conversation_id))


def read_events(rows: Sequence[store.TrailRow]) -> list[Event]:
    """Rows of a trail as core events."""
    return [read_event(seq=r.seq, kind=r.kind, at=r.at, member_id=r.member_id, data=r.data) for r in rows]
