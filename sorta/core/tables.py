"""Tables as CSV that other programs can open safely. Used by exports.

RFC 4180: CRLF, quotes doubled inside quotes. Cells that a spreadsheet would run as a formula get an
apostrophe in front (OWASP, CSV injection; from memory).
"""

import csv
import io
from collections.abc import Iterable, Sequence
from datetime import datetime

Cell = str | int | float | bool | datetime | None | Sequence[str]
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
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(head)
    for row in rows:
        writer.writerow([_say(cell) for cell in row])
    return out.getvalue()
