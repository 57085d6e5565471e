"""Tables as CSV and workbooks that other programs can open safely. Used by exports.

RFC 4180: CRLF, quotes doubled inside quotes. Cells that a spreadsheet would run as a formula get an
apostrophe in front (OWASP, CSV injection; from memory).
"""

import csv
import io
import re
from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import IO, Any
from zoneinfo import ZoneInfo

import openpyxl
from openpyxl.cell import WriteOnlyCell
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

Cell = str | int | float | bool | datetime | None | Sequence[str]
_NOT_IN_TITLES = re.compile(r"[\[\]:*?/\\]")
#: What a cell of a workbook holds at most.
_LONGEST_CELL = 32_767
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def neutralise(text: str) -> str:
    """The text as a cell that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith(_FORMULA) else text


def _say(cell: Cell) -> str | int | float:
    match cell:
        case None:
            return ""
        case bool():
            return "yes" if cell else "no"
        case int() | float():
            return cell
        case datetime():
            return cell.isoformat(timespec="seconds")
        case str():
            return neutralise(cell)
        case _:
            return neutralise(", ".join(cell))


def write_csv(head: Sequence[str], rows: Iterable[Sequence[Cell]]) -> str:
    """A table with its head; times in ISO 8601, lists with commas between."""
    return write_rows([head]) + write_rows(rows)


def write_rows(rows: Iterable[Sequence[Cell]]) -> str:
    """Rows of such a table."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in rows:
        writer.writerow([_say(cell) for cell in row])
    return out.getvalue()


class Workbook:
    """A workbook of sheets, written row by row to a file on disk, so that memory does not grow with it (ISO/IEC 29500).

    Numbers and times are numbers and times; times are shown on the clock of `zone`, which the caller names in words. Text is never a
    formula. `save` ends it.
    """

    def __init__(self, zone: ZoneInfo) -> None:
        self._book = openpyxl.Workbook(write_only=True)
        self._zone = zone
        self._sheet: Any = None

    def add_sheet(self, title: str, head: Sequence[str], widths: Sequence[int] = ()) -> None:
        """Begin a sheet with its head; rows go into the last one begun."""
        self._sheet = self._book.create_sheet(_NOT_IN_TITLES.sub(" ", title)[:31])
        for n, width in enumerate(widths, 1):
            self._sheet.column_dimensions[get_column_letter(n)].width = width
        self._sheet.freeze_panes = "A2"
        self._sheet.append([self._make(name, bold=True) for name in head])

    def add_rows(self, rows: Iterable[Sequence[Cell]]) -> None:
        """More rows of the sheet."""
        for row in rows:
            self._sheet.append([self._make(cell) for cell in row])

    def save(self, file: IO[bytes]) -> None:
        """Write it."""
        self._book.save(file)

    def _make(self, cell: Cell, *, bold: bool = False) -> Any:
        match cell:
            case None | bool() | int() | float():
                return _say(cell) if isinstance(cell, bool) else cell
            case datetime():
                return cell.astimezone(self._zone).replace(tzinfo=None, microsecond=0)
            case str():
                text = cell
            case _:
                text = ", ".join(cell)
        made = WriteOnlyCell(self._sheet, value=ILLEGAL_CHARACTERS_RE.sub("", text)[:_LONGEST_CELL])
        # Whatever it begins with, it is text: no formula, number or address.
        made.data_type = "s"
        made.font = Font(bold=bold)
        return made
