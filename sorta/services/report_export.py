"""Reports out of the house: their figures, and the conversations behind one, as CSV and workbooks. Used by the API."""

import tempfile
from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.core.permissions import Permission
from sorta.core.reports import BY_NAME, Chosen
from sorta.core.security import Happening
from sorta.core.tables import Cell, Workbook, write_csv, write_rows
from sorta.core.targets import Priority
from sorta.core.waits import Counting
from sorta.networks.abilities import TABLE
from sorta.services import reports
from sorta.services.desk import get_band_edges
from sorta.services.filters import read_filters
from sorta.services.house import House, Scope
from sorta.services.reports import Ask
from sorta.services.security_log import note
from sorta.store import accounts, desk, people, sorting
from sorta.store import reports as store
from sorta.store.db import Tx

#: How many conversations are read at once.
AT_ONCE = 1000
#: How many conversations of the desk are written out at most: as many rows as a sheet of a workbook holds, but for its head.
MOST_EXPORTED = 1_048_575
_BLOCK = 64 * 1024
#: A sentiment's band in words.
_SENTIMENTS = {-1: "negative", 0: "neutral", 1: "positive"}
_WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """A table of an export."""

    title: str
    head: Sequence[str]
    rows: Sequence[Sequence[Cell]]


@dataclass(frozen=True, kw_only=True)
class Names:
    """What numbers in a report stand for."""

    accounts: Mapping[int, str]
    members: Mapping[int, str]
    teams: Mapping[int, str]
    tags: Mapping[int, str]

    def say(self, by: str, key: str) -> str:
        """A value of a breakdown in words."""
        if by == "kind":
            return key
        if by == "sentiment":
            return _SENTIMENTS.get(int(key), "not read")
        if by == "network":
            return TABLE[key].name if key in TABLE else key
        if by == "priority":
            return Priority(int(key)).name.capitalize()
        names = {"account": self.accounts, "member": self.members, "team": self.teams, "tag": self.tags}[by]
        return names.get(int(key), "" if key == "0" else f"no longer here ({key})")


async def read_names(tx: Tx) -> Names:
    """What numbers in a workspace's reports stand for."""
    rows = await accounts.list_accounts(tx)
    return Names(
        accounts={row.id: f"{row.name}, {TABLE[row.network].name}" for row in rows},
        members=await people.list_names(tx),
        teams={t["id"]: t["name"] for t in await sorting.list_teams(tx)},
        tags={t["id"]: t["name"] for t in await sorting.list_tags(tx)},
    )


async def list_sheets(house: House, scope: Scope, ask: Ask, now: datetime) -> list[Sheet]:
    """All tables of a report, the first of them what it is about. Waits are in hours. Raises NotAllowed."""
    scope.check(Permission.EXPORT)
    report = await reports.get_report(house, scope, ask, now)
    standing = await reports.list_standing(house, scope, ask, now)
    async with house.db.transact(scope.workspace_id) as tx:
        names = await read_names(tx)
        await note(tx, scope, Happening.EXPORTED, f"a report of {report['first']} to {report['last']}")
    return [
        _list_about(ask, report, names),
        Sheet(
            title="Figures",
            head=("Figure", "Value", "In", "Low", "High", "Mean", "Before", "Cases", "Conversations", "What it says"),
            rows=[
                (
                    f["title"],
                    _scale(f["unit"], f["value"]),
                    "hours" if f["unit"] == "seconds" else f["unit"],
                    _scale(f["unit"], f["low"]),
                    _scale(f["unit"], f["high"]),
                    _scale(f["unit"], f["mean"]),
                    _scale(f["unit"], f["before"]["value"]),
                    f["cases"],
                    f["conversations"],
                    f["says"],
                )
                for f in report["figures"]
            ],
        ),
        Sheet(
            title="Days",
            head=("Day", "Came in", "Answers", "Settled without a reply", "Waiting at the day's end"),
            rows=[
                (
                    day.isoformat(),
                    *(report["days"][c][n] for c in ("came_in", "answers", "without_reply", "open_at_end")),
                )
                for n, day in enumerate(report["days"]["days"])
            ],
        ),
        Sheet(
            title="Where it stood",
            head=("Day", *(row["phase"].replace("_", " ") for row in standing["rows"])),
            rows=[
                (day.isoformat(), *(row["open_at_end"][n] for row in standing["rows"]))
                for n, day in enumerate(standing["days"])
            ],
        ),
        Sheet(
            title="Hours of the week",
            head=("Weekday", "Hour", "Hours in the period", "Came in", "Answers", "Median wait, hours"),
            rows=[
                (
                    _WEEKDAYS[cell // 24],
                    cell % 24,
                    report["week"]["hours"][cell],
                    report["week"]["came_in"][cell],
                    report["week"]["answers"][cell],
                    _scale("seconds", report["week"]["median"][cell]),
                )
                for cell in range(168)
            ],
        ),
        *(_make_breakdown(b, names) for b in report["breakdowns"]),
    ]


def _scale(unit: str, value: float | None) -> float | None:
    """Waits in hours, all else as it is."""
    if value is None or unit != "seconds":
        return int(value) if value is not None and unit == "cases" else value
    return round(value / 3600, 4)


def _list_about(ask: Ask, report: Mapping[str, Any], names: Names) -> Sheet:
    counted = "working time" if ask.clock is Counting.WORKING else "time on the clock"
    rows: list[Sequence[Cell]] = [
        ("Period", f"{report['first']} to {report['last']}"),
        ("Compared with", f"{report['compared_first']} to {report['compared_last']}"),
        ("Time zone of days and times", report["time_zone"]),
        ("Waits are in", f"hours of {counted}"),
    ]
    for by, values in ask.filters.items():
        listed = values if isinstance(values, list) else [values]
        known = by in ("account", "member", "team", "tag", "network", "priority", "kind", "sentiment")
        words = [names.say(by, str(v)) if known else str(v) for v in listed]
        rows.append((f"Only {by.replace('_', ' ')}", ", ".join(words)))
    return Sheet(title="About", head=("What", "Which"), rows=rows)


def _make_breakdown(breakdown: Mapping[str, Any], names: Names) -> Sheet:
    by = breakdown["by"]
    return Sheet(
        title=f"By {by}",
        head=(
            by.capitalize(),
            "Came in",
            "Answers",
            "Settled without a reply",
            "First answer, median, hours",
            "First answer, 90th percentile, hours",
            "Within target, share",
        ),
        rows=[
            (
                names.say(by, row["key"]),
                row["came_in"],
                row["answers"],
                row["without_reply"],
                _scale("seconds", row["first_half"]["value"]),
                _scale("seconds", row["first_nine"]["value"]),
                row["kept"]["value"],
            )
            for row in breakdown["rows"]
        ],
    )


def write_sheets_csv(sheets: Sequence[Sheet]) -> str:
    """One after the other, an empty line and the title between them."""
    return "\r\n".join(f"{sheet.title}\r\n{write_csv(sheet.head, sheet.rows)}" for sheet in sheets)


async def stream_workbook(house: House, scope: Scope, sheets: Sequence[Sheet]) -> AsyncIterator[bytes]:
    """The same as a workbook."""
    book = Workbook(scope.zone)

    def write() -> None:
        for sheet in sheets:
            book.add_sheet(sheet.title, sheet.head, (34, 18))
            book.add_rows(sheet.rows)

    await house.reporting.do(write)
    async for block in _stream(house, book):
        yield block


async def _stream(house: House, book: Workbook) -> AsyncIterator[bytes]:
    """A workbook that is written, block by block."""
    with tempfile.TemporaryFile() as file:

        def save() -> None:
            book.save(file)
            file.seek(0)

        await house.reporting.do(save)
        while block := await house.reporting.do(file.read, _BLOCK):
            yield block


_HEAD = (
    "Number", "Account", "Network", "Kind", "Public", "Person", "Handle", "Began", "Last", "Move", "Settled as", "Priority", "Owner",
    "Team", "Tags", "Language", "Sentiment", "Reads as", "Messages", "Waited since", "Waited until", "Ended by", "Hours on the clock",
    "Working hours", "Within target",
)  # fmt: skip


async def list_conversations(
    house: House, scope: Scope, ask: Ask, chosen: Chosen, now: datetime
) -> AsyncIterator[list[Sequence[Cell]]]:
    """The conversations behind a figure, some at a time, each with its first wait; the head comes first. Raises NotAllowed."""
    ids = await find_behind(house, scope, ask, chosen, now)
    async with house.db.transact(scope.workspace_id) as tx:
        names = await read_names(tx)
    return _list_parts(house, scope, ids, names)


async def list_filtered(
    house: House, scope: Scope, filters: Mapping[str, Any], now: datetime
) -> AsyncIterator[list[Sequence[Cell]]]:
    """The conversations that the desk's filters let through, as above, the oldest first. Raises NotAllowed, Invalid."""
    scope.check(Permission.EXPORT)
    wanted = read_filters(filters, scope, get_band_edges(scope, now))
    async with house.db.transact(scope.workspace_id) as tx:
        found = await desk.list_ids(tx, scope.member_id, filters=wanted, limit=MOST_EXPORTED)
        names = await read_names(tx)
        await note(tx, scope, Happening.EXPORTED, f"{len(found)} conversations of the desk")
    return _list_parts(house, scope, sorted(id for id, _ in found), names)


async def find_behind(house: House, scope: Scope, ask: Ask, chosen: Chosen, now: datetime) -> list[int]:
    """The conversations behind a figure, for an export, which is written down. Raises NotAllowed."""
    scope.check(Permission.EXPORT)
    ids = await reports.list_behind(house, scope, ask, chosen, now)
    async with house.db.transact(scope.workspace_id) as tx:
        title = BY_NAME[chosen.figure].title if chosen.figure in BY_NAME else "Waiting at the day's end"
        await note(tx, scope, Happening.EXPORTED, f"{len(ids)} conversations of a report: {title}")
    return ids


async def _list_parts(
    house: House, scope: Scope, ids: Sequence[int], names: Names
) -> AsyncIterator[list[Sequence[Cell]]]:
    yield [_HEAD]
    for at in range(0, len(ids), AT_ONCE):
        async with house.db.transact(scope.workspace_id) as tx:
            rows = await store.list_exported(tx, ids[at : at + AT_ONCE])
        yield [_make_row(row, names) for row in rows]


def _make_row(row: Mapping[str, Any], names: Names) -> Sequence[Cell]:
    return (
        row["id"],
        names.accounts.get(row["account_id"], ""),
        TABLE[row["network"]].name,
        row["kind"],
        row["public"],
        row["person_name"],
        row["handle"],
        row["created_at"],
        row["last_at"],
        row["move"],
        row["settled_as"],
        Priority(row["priority"]).name.capitalize(),
        names.members.get(row["owner_id"] or 0, ""),
        names.teams.get(row["team_id"] or 0, ""),
        [names.tags.get(t, "") for t in row["tags"]],
        row["language"],
        _SENTIMENTS.get(row["sentiment_band"], ""),
        row["reads_as"] or [],
        row["messages"],
        row["since"],
        row["ended_at"],
        row["ended_by"],
        _scale("seconds", row["clock_s"]),
        _scale("seconds", row["work_s"]),
        row["kept"],
    )


async def stream_csv(parts: AsyncIterator[list[Sequence[Cell]]]) -> AsyncIterator[bytes]:
    """As CSV; the mark in front tells spreadsheets that the text is UTF-8."""
    yield b"\xef\xbb\xbf"
    async for rows in parts:
        yield write_rows(rows).encode()


async def stream_rows(house: House, scope: Scope, parts: AsyncIterator[list[Sequence[Cell]]]) -> AsyncIterator[bytes]:
    """As a workbook of one sheet."""
    book = Workbook(scope.zone)
    (head,) = await anext(parts)
    book.add_sheet(f"Times of {scope.zone.key}", [str(cell) for cell in head])
    async for rows in parts:
        await house.reporting.do(book.add_rows, rows)
    async for block in _stream(house, book):
        yield block
