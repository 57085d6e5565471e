"""The guided start of a workspace: its steps, which are done when what they are about is there, and rules to begin with. Used by the API."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.permissions import Permission, Role
from sorta.core.ready_rules import READY
from sorta.services import rules
from sorta.services.house import House, Scope
from sorta.store import starting as store

#: In the order in which they help each other: what has hours gets dues, and what is connected brings something to sort.
STEPS: Sequence[tuple[str, str]] = (
    ("about", "What this workspace is about"),
    ("hours", "Working hours and targets"),
    ("rules", "First rules"),
    ("account", "First account"),
    ("colleagues", "Colleagues"),
)


async def get_start(house: House, scope: Scope) -> list[dict[str, Any]]:
    """The steps in their order, each done, passed over, or neither."""
    async with house.db.transact(scope.workspace_id) as tx:
        row = await store.get_start(tx)
    return [
        {"key": key, "words": words, "done": getattr(row, key), "skipped": key in row.skipped} for key, words in STEPS
    ]


async def skip(house: House, scope: Scope, key: str, *, on: bool) -> None:
    """Pass a step over, or take it up again. For Owners. Raises NotAllowed, NotFound."""
    if scope.role.key != Role.OWNER:
        raise NotAllowed(f"That is for Owners; your role here is {scope.role.name}.")
    if key not in dict(STEPS):
        raise NotFound("There is no such step.")
    async with house.db.transact(scope.workspace_id) as tx:
        row = await store.get_start(tx)
        others = [one for one in row.skipped if one != key]
        await store.set_skipped(tx, [*others, key] if on else others)


async def list_ready(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """Rules to begin with, and whether each is among the workspace's."""
    told = await rules.list_rules(house, scope, now)
    here = {row["body"]["name"] for row in told["rules"]}
    return [
        {"key": ready.key, "name": ready.body.name, "says": ready.says, "is_here": ready.body.name in here}
        for ready in READY
    ]


async def add_ready(house: House, scope: Scope, keys: Sequence[str], now: datetime) -> int:
    """Add these at the bottom, in their order, switched on; how many. One whose name is there already is left out. Raises Invalid,
    NotAllowed."""
    scope.check(Permission.MANAGE_RULES)
    known = {ready.key: ready for ready in READY}
    if unknown := sorted(set(keys) - set(known)):
        raise Invalid(f"There is no rule {unknown[0]!r} to begin with.", "keys")
    here = {one["key"] for one in await list_ready(house, scope, now) if one["is_here"]}
    added = [ready for ready in READY if ready.key in keys and ready.key not in here]
    for ready in added:
        await rules.add_rule(house, scope, ready.body, on=True, now=now)
    return len(added)
