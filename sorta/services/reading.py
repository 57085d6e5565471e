"""How right the reading has been here: a small sample of each week that members look at, and what they corrected besides."""

from collections.abc import Mapping, Sequence
from datetime import date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sorta.core.errors import NotFound, TooLate
from sorta.core.intervals import get_share
from sorta.core.permissions import Permission
from sorta.core.reading import NOT_SURE, ReadsAs, check_correction
from sorta.services import acts, own_reading
from sorta.services.house import House, Scope
from sorta.store import reading
from sorta.store.db import Tx

#: So many messages of a week are looked at, and so long what was found of them counts.
SAMPLE = 20
COUNTED_FOR = timedelta(days=84)


def _get_monday(now: datetime, zone: ZoneInfo) -> date:
    """The Monday of the last whole week."""
    today = now.astimezone(zone).date()
    return today - timedelta(days=today.weekday() + 7)


async def _list_sample(tx: Tx, scope: Scope, monday: date) -> list[dict[str, Any]]:
    """The messages of the week that are looked at."""
    begun, ended = (datetime.combine(day, time(), scope.zone) for day in (monday, monday + timedelta(days=7)))
    return await reading.list_sample(tx, week=monday, since=begun, until=ended, limit=SAMPLE)


async def get_accuracy(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """How right the reading has been on messages that somebody looked at for that, by label; what members corrected besides; and
    what of the last week's sample is still to be looked at."""
    monday = _get_monday(now, scope.zone)
    async with house.db.transact(scope.workspace_id) as tx:
        checks = await reading.list_checks(tx, now - COUNTED_FOR)
        corrected = await reading.count_corrections(tx, now - COUNTED_FOR)
        latest = await reading.list_corrections(tx, 20)
        sample = await _list_sample(tx, scope, monday)
        own = await own_reading.describe(tx)
    return {
        "own": own,
        "looked_at": len(checks),
        "labels": [_count_label(label.value, checks) for label in ReadsAs],
        "corrected": [{"field": field, "times": times} for field, times in sorted(corrected.items())],
        "latest": latest,
        "week": monday,
        "sample": len(sample),
        "to_check": [row for row in sample if not row["is_checked"]],
    }


def _count_label(label: str, checks: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """Of what read as this, how much was; and of what was this, how much read so."""
    told = [c for c in checks if label in c["was"]]
    held = [c for c in checks if label in c["labels"]]
    hits = sum(label in c["labels"] for c in told)
    return {"label": label, "right": get_share(hits, len(told)), "found": get_share(hits, len(held))}


async def check_reading(
    house: House, scope: Scope, message_id: int, labels: Sequence[str], now: datetime
) -> int | None:
    """Say what a message of the sample is; where that is not what it read as, it is corrected: the number of that act.

    Raises Invalid for no labels of ours, NotFound for a message that is not in the sample, TooLate when it was said already.
    """
    scope.check(Permission.SORT)
    said = check_correction("reads_as", list(labels))
    assert isinstance(said, list)
    monday = _get_monday(now, scope.zone)
    async with house.db.transact(scope.workspace_id) as tx:
        sample = await _list_sample(tx, scope, monday)
        row = next((r for r in sample if r["id"] == message_id), None)
        if row is None:
            raise NotFound("This message is not among those of the last week that are looked at.")
        was = [label for label in row["reads_as"] if label in set(ReadsAs)]
        is_new = await reading.add_check(
            tx, message_id, week=monday, was=was, labels=said, member_id=scope.member_id, at=now
        )
        if not is_new:
            raise TooLate("Somebody has looked at this message already.")
    if said == was and NOT_SURE not in row["reads_as"]:
        return None
    return await acts.correct(
        house, scope, row["conversation_id"], message_id=message_id, field="reads_as", value=said, now=now
    )
