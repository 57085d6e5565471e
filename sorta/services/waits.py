"""Answer spells for reports: read through filters, and the days that are over packed for it. Used by services.reports and duties."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

import numpy as np
import numpy.typing as npt

from sorta.core.ports import Kind
from sorta.core.stands import PHASES, STRETCHES, Stands
from sorta.core.waits import COLUMNS, ENDINGS, HOWS, LENGTHS, Counting, Waits, narrow
from sorta.networks.abilities import TABLE
from sorta.services.house import House
from sorta.store import accounts, sorting
from sorta.store import waits as store
from sorta.store.db import Tx
from sorta.store.waits import Opened

KINDS: tuple[str, ...] = tuple(kind.value for kind in Kind)
NETWORKS: tuple[str, ...] = tuple(TABLE)
#: What spells can be narrowed by.
FILTERS: tuple[str, ...] = (
    "account",
    "group",
    "network",
    "member",
    "team",
    "tag",
    "person_tag",
    "kind",
    "public",
    "priority",
    "language",
    "sentiment",
)
#: Those of them that, while a spell is open, are asked of its conversation.
_OF_CONVERSATIONS = {"member", "team", "tag", "priority", "language", "sentiment"}
_SHAPE = store.Shape(
    columns=COLUMNS,
    codes={"endings": [e.value for e in ENDINGS], "hows": [h.value for h in HOWS], "kinds": KINDS},
)
#: How many days are looked for at once.
_DAYS_AT_ONCE = 100


@dataclass(frozen=True, kw_only=True)
class Loaded:
    """Spells as they came from the database."""

    copied: store.Copied
    #: The place of each account's network in NETWORKS, from 1.
    networks: Mapping[int, int]
    filters: Mapping[str, list[Any]]
    counting: Counting
    #: By tag the one it was merged into.
    merged: Mapping[int, int]
    #: Where they stood at these instants, where that was asked for.
    instants: Sequence[datetime] = ()
    stretches: store.CopiedStretches | None = None

    def read(self) -> Waits:
        """The same to be counted, with `network` as its place in NETWORKS and `length` as the report counts it. Takes time, and is
        for a thread."""
        columns, tags = self.copied.read()
        if self.merged:
            tags = _merge(tags, self.merged)
        known = np.array(sorted(self.networks) or [0])
        codes = np.array([self.networks.get(int(id), 0) for id in known], dtype=np.int16)
        columns["network"] = codes[np.searchsorted(known, columns["account"]).clip(max=len(known) - 1)]
        columns["length"] = columns[LENGTHS[self.counting]]
        return narrow(Waits(columns, tags), self.filters)

    def read_stands(self) -> Stands:
        """Where they stood at the instants that were asked for. Takes time, too."""
        if self.stretches is None:
            raise ValueError("where they stood was not loaded")
        return Stands.read(self.read(), self.stretches.read(), [at.timestamp() for at in self.instants])


async def load(
    house: House,
    workspace_id: int,
    begins: datetime,
    ends: datetime,
    filters: Mapping[str, Any],
    counting: Counting,
    opened: Opened = Opened.ALL,
    instants: Sequence[datetime] = (),
) -> Loaded:
    """The spells in which somebody waited at some time between two instants, through filters; as they are at one moment, and where
    they stood at `instants`. Of those that are open and began before, all that reports ask is that they were."""
    if opened in (Opened.ALL, Opened.ALL_BARE) and _OF_CONVERSATIONS & set(filters):
        opened = Opened.ALL_WHOLE
    async with house.db.transact(workspace_id, steady=True) as tx:
        rows = await accounts.list_accounts(tx)
        merged = await sorting.list_merged(tx)
        narrowing = await _read_filters(tx, resolve_in(filters, merged))
        copied = await store.load(tx, begins, ends, _SHAPE, opened)
        stretches = None
        if instants:
            stretches = await store.load_stretches(tx, instants, STRETCHES, PHASES)
    networks = {row.id: NETWORKS.index(row.network) + 1 for row in rows}
    return Loaded(
        copied=copied,
        networks=networks,
        filters=narrowing,
        counting=counting,
        merged=merged,
        instants=instants,
        stretches=stretches,
    )


def _merge(tags: npt.NDArray[Any], merged: Mapping[int, int]) -> npt.NDArray[Any]:
    """Pairs of a spell's place and a tag, with what a tag has become since; no spell has the same one twice."""
    known = np.array(sorted(merged))
    becomes = np.array([merged[int(tag)] for tag in known])
    at = np.searchsorted(known, tags[:, 1]).clip(max=len(known) - 1)
    now = np.where(known[at] == tags[:, 1], becomes[at], tags[:, 1])
    found: npt.NDArray[Any] = np.unique(np.column_stack([tags[:, 0], now]), axis=0).astype(tags.dtype)
    return found


def resolve_in(filters: Mapping[str, Any], merged: Mapping[int, int]) -> dict[str, Any]:
    """Filters with what their tags have become."""
    return {
        name: list(dict.fromkeys(merged.get(tag, tag) for tag in (asked if isinstance(asked, list) else [asked])))
        if name in ("tag", "person_tag")
        else asked
        for name, asked in filters.items()
    }


async def _read_filters(tx: Tx, filters: Mapping[str, Any]) -> dict[str, list[Any]]:
    """Filters of a report as the columns have them."""
    found: dict[str, list[Any]] = {}
    for name, asked in filters.items():
        values = asked if isinstance(asked, list) else [asked]
        if name == "group":
            values = await store.list_group_accounts(tx, values)
            found["account"] = [id for id in found["account"] if id in values] if "account" in found else values
        elif name == "account":
            found["account"] = [id for id in values if id in found.get("account", values)]
        elif name == "person_tag":
            found["conversation"] = await store.list_tagged(tx, values)
        elif name == "network":
            found["network"] = [NETWORKS.index(value) + 1 for value in values if value in NETWORKS]
        elif name == "kind":
            found["kind"] = [KINDS.index(value) + 1 for value in values]
        elif name in ("member", "team"):
            # In the columns 0 is nobody, and nobody asks for that.
            found[name] = [id for id in values if id > 0]
        elif name in FILTERS:
            found[name] = values
        else:
            raise ValueError(f"no filter of reports is called {name}")
    return found


async def _pack(house: House, tx: Tx, day: date) -> tuple[bytes, bytes]:
    """A day as it is kept; none of its spells changes until the transaction ends."""
    await store.lock_days(tx)
    copied = await store.copy_day(tx, day, _SHAPE)
    return await house.reporting.do(copied.pack)


async def pack_days(house: House, workspace_id: int, now: datetime) -> int:
    """Pack the days that are over and are not packed; how many. Each in a transaction of its own, in which none of its spells can
    change: who would waits for as long as one day takes. The database's clock says which days are over."""
    done = 0
    while True:
        async with house.db.transact(workspace_id) as tx:
            days = await store.list_days_to_pack(tx, _SHAPE, _DAYS_AT_ONCE)
        for day in days:
            async with house.db.transact(workspace_id) as tx:
                waits, tags = await _pack(house, tx, day)
                await store.keep_day(tx, day, _SHAPE, waits, tags)
        done += len(days)
        if len(days) < _DAYS_AT_ONCE:
            return done


async def find_other_days(house: House, workspace_id: int) -> list[str]:
    """Packed days that do not hold what the rows say; empty is right. Part of the check command."""
    wrong = []
    async with house.db.transact(workspace_id) as tx:
        days = await store.list_kept_days(tx, _SHAPE)
    for day in days:
        async with house.db.transact(workspace_id) as tx:
            waits, tags = await _pack(house, tx, day)
            if not await store.is_kept_so(tx, day, waits, tags):
                wrong.append(day.isoformat())
    return wrong
