"""What is kept for how long: one table of periods, swept in small batches. Used by the clock and shown in Setup."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.services import attachments, erasing
from sorta.services.house import House, Scope
from sorta.store import retention as store


@dataclass(frozen=True, kw_only=True)
class Kept:
    """A kind of row and how long it is kept; `name` is its statement's. `above` rows belong to no workspace."""

    name: str
    says: str
    #: None: for good.
    period: timedelta | None
    above: bool = False
    #: A workspace may choose another period.
    may_choose: bool = False


#: People nobody has heard of for so long are erased, as at their wish.
PEOPLE = "people"
#: What is not named here is kept for good: cases, draws, answers and trails without words.
PERIODS: Sequence[Kept] = (
    Kept(
        name=PEOPLE,
        says="People, and all that was said by and to them, since the last of it",
        period=None,
        may_choose=True,
    ),
    Kept(name="alerts", says="What members were told", period=timedelta(days=90), may_choose=True),
    Kept(
        name="aside_taken",
        says="What was kept aside and taken in after all",
        period=timedelta(days=30),
        may_choose=True,
    ),
    Kept(name="aside", says="What was kept aside and nobody took in", period=timedelta(days=365), may_choose=True),
    Kept(name="early_changes", says="Edits and removals of messages that never came", period=timedelta(days=30)),
    Kept(name="clicks", says="Clicks on short links", period=timedelta(days=800), may_choose=True),
    Kept(
        name="clicks_apart",
        says="Clicks of programs and members, which are not counted",
        period=timedelta(days=90),
        may_choose=True,
    ),
    Kept(
        name="translations", says="Translations, made again when asked for", period=timedelta(days=180), may_choose=True
    ),
    Kept(
        name="rule_hits",
        says="What rules did, once it needs no look any more",
        period=timedelta(days=400),
        may_choose=True,
    ),
    Kept(name="read_marks", says="How far members had read what was settled", period=timedelta(days=180)),
    Kept(name="hook_events", says="What programs were told", period=timedelta(days=30), may_choose=True),
    Kept(name="grant_tries", says="Tries at a network’s page", period=timedelta(days=1)),
    Kept(name="invitations", says="Invitations nobody took, once they have run out", period=timedelta(days=30)),
    Kept(
        name="acts_done", says="Likes, removals and the like, once the network has done them", period=timedelta(days=90)
    ),
    Kept(name="tally_zeros", says="Counts that have come to nothing", period=timedelta(0)),
    Kept(name="security_events", says="The security log", period=timedelta(days=400), above=True),
    Kept(name="sessions", says="Sessions that have run out", period=timedelta(days=1), above=True),
    Kept(name="devices", says="Devices nobody signs in on any more", period=timedelta(days=180), above=True),
    Kept(name="sign_in_failures", says="Failed tries to sign in", period=timedelta(days=1), above=True),
    Kept(name="password_links", says="Links for a forgotten password", period=timedelta(days=1), above=True),
    Kept(name="phone_tries", says="Codes for a phone’s number", period=timedelta(days=1), above=True),
    Kept(name="jobs", says="Jobs that failed or were left behind", period=timedelta(hours=1), above=True),
)
#: Rows deleted in one transaction, and batches of a kind in one sweep: what is left waits for the next.
BATCH, MOST_BATCHES = 1000, 50


#: People erased in one sweep.
MOST_PEOPLE = 200
#: A preview counts so far, and says that there is more.
MOST_COUNTED = 10_000
#: The shortest and the longest that can be chosen, in days.
SHORTEST, LONGEST = 1, 36_500


def _get_period(kept: Kept, chosen: Mapping[str, int | None]) -> timedelta | None:
    if not kept.may_choose or kept.name not in chosen:
        return kept.period
    days = chosen[kept.name]
    return None if days is None else timedelta(days=days)


async def sweep(house: House, workspace_id: int, now: datetime) -> int:
    """Delete what is older than its period, and files that were never sent; how many rows. Run by the worker's clock."""
    async with house.db.transact(workspace_id) as tx:
        chosen = await store.list_choices(tx)
    count = 0
    for kept in PERIODS:
        period = _get_period(kept, chosen)
        if period is None:
            continue
        if kept.name == PEOPLE:
            count += await _erase_people(house, workspace_id, now - period, now)
            continue
        for _ in range(MOST_BATCHES):
            async with house.db.connect() if kept.above else house.db.transact(workspace_id) as conn:
                gone = await store.delete_batch(conn, workspace_id, kept.name, now - period, BATCH)
            count += gone
            if gone < BATCH:
                break
    return count + await attachments.sweep(house, workspace_id, now)


async def _erase_people(house: House, workspace_id: int, before: datetime, now: datetime) -> int:
    """Each by themselves: one who writes meanwhile is left."""
    async with house.db.transact(workspace_id) as tx:
        ids = await store.list_people(tx, before, MOST_PEOPLE)
    return sum([await erasing.erase_forgotten(house, workspace_id, id, before, now) for id in ids])


async def list_periods(house: House, workspace_id: int) -> list[dict[str, Any]]:
    """Each kind with how long it is kept: {name, says, days (None: for good), usual, may_choose}."""
    async with house.db.transact(workspace_id) as tx:
        chosen = await store.list_choices(tx)
    return [
        {
            "name": kept.name,
            "says": kept.says,
            "days": _count_days(_get_period(kept, chosen)),
            "usual": _count_days(kept.period),
            "may_choose": kept.may_choose,
        }
        for kept in PERIODS
    ]


def _count_days(period: timedelta | None) -> float | None:
    return None if period is None else period.total_seconds() / 86400


def _find(name: str, days: int | None) -> Kept:
    """The kind, where such a period can be chosen for it. Raises NotFound, Invalid."""
    kept = next((k for k in PERIODS if k.name == name and k.may_choose), None)
    if kept is None:
        raise NotFound("There is no such kind of things whose time can be chosen.")
    if days is not None and not SHORTEST <= days <= LONGEST:
        raise Invalid(f"Choose from {SHORTEST} to {LONGEST:,} days, or for good.", "days")
    return kept


async def preview(house: House, scope: Scope, name: str, days: int | None, now: datetime) -> dict[str, Any]:
    """What would go with the next sweep if a kind were kept so long: {count, more}, counted by deleting it and taking that back.

    Raises NotAllowed, NotFound, Invalid.
    """
    scope.check(Permission.MANAGE_ACCOUNTS)
    kept = _find(name, days)
    if days is None:
        return {"count": 0, "more": False}
    before = now - timedelta(days=days)
    async with house.db.transact(scope.workspace_id) as tx:
        if kept.name == PEOPLE:
            count = len(await store.list_people(tx, before, MOST_COUNTED + 1))
        else:
            async with tx.transaction(force_rollback=True):
                count = await store.delete_batch(tx, scope.workspace_id, name, before, MOST_COUNTED + 1)
    return {"count": min(count, MOST_COUNTED), "more": count > MOST_COUNTED}


async def set_period(house: House, scope: Scope, name: str, days: int | None) -> None:
    """Keep a kind of things so long from now on; None: for good. What is over goes with the next sweep. Raises NotAllowed, NotFound, Invalid."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    _find(name, days)
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_choice(tx, name, days)
