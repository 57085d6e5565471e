"""A report as a page of its own, for those who have no account and for mail: nothing but what was chosen stands in it."""

import base64
import hashlib
from collections.abc import Mapping, Sequence
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import Any

import jinja2
from markupsafe import Markup

from sorta.core.sharing import NAMED
from sorta.core.waits import Counting
from sorta.services.looks import Looks
from sorta.services.report_export import Names
from sorta.services.reports import Ask

_FOLDER = Path(__file__).parent.parent / "pages"
STYLE = (_FOLDER / "report.css").read_text()
_HASH = base64.b64encode(hashlib.sha256(STYLE.encode()).digest()).decode()
#: What a browser may do on it: show it, in the one style it came with.
POLICY = f"default-src 'none'; style-src 'sha256-{_HASH}'; img-src data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
HEADERS = {
    "Content-Security-Policy": POLICY,
    "Referrer-Policy": "no-referrer",
    "X-Robots-Tag": "noindex, nofollow",
    "Cache-Control": "no-store",
}
_ROW_HEAD = ("Came in", "Answers", "Settled without a reply", "First answer, half within", "Within target")


@cache
def _get_template() -> jinja2.Template:
    loader = jinja2.FileSystemLoader(_FOLDER)
    return jinja2.Environment(loader=loader, autoescape=True, undefined=jinja2.StrictUndefined).get_template(
        "report.html"
    )


def say_span(seconds: float) -> str:
    """A length of time as one says it: 45 s, 12 min, 3 h 05, 2 days 4 h."""
    if seconds < 60:
        return f"{round(seconds)} s"
    minutes = round(seconds / 60)
    if minutes < 60:
        return f"{minutes} min"
    hours, minutes = divmod(minutes, 60)
    if hours < 48:
        return f"{hours} h {minutes:02}" if minutes else f"{hours} h"
    days, hours = divmod(hours, 24)
    return f"{days} days {hours} h" if hours else f"{days} days"


def _say(unit: str, value: float | None) -> str:
    if value is None:
        return "nothing to say"
    if unit == "seconds":
        return say_span(value)
    return f"{value * 100:.1f} %" if unit == "share" else f"{value:,.0f}"


def render(
    *,
    name: str,
    workspace: str,
    looks: Looks,
    report: Mapping[str, Any],
    ask: Ask,
    parts: Sequence[str],
    names: Names,
    now: datetime,
    link: str | None = None,
    expires: datetime | None = None,
) -> str:
    """The page, of a report as `services.reports` tells it."""
    zone = report["zone"]
    return _get_template().render(
        name=name,
        workspace=workspace,
        looks=looks,
        style=Markup(STYLE),
        **{key: report[key] for key in ("first", "last", "compared_first", "compared_last", "time_zone", "are_told")},
        counted="working time" if ask.clock is Counting.WORKING else "time on the clock",
        narrowed=list(_list_narrowed(ask, parts, names)),
        figures=[_show(figure) for figure in report["figures"]],
        charts=[_chart(part, report, names) for part in parts],
        link=link,
        computed_at=f"{now.astimezone(zone):%-d %B %Y, %H:%M}",
        expires=None if expires is None else f"{expires.astimezone(zone):%-d %B %Y}",
    )


def _show(figure: Mapping[str, Any]) -> dict[str, Any]:
    unit, low, high = figure["unit"], figure["low"], figure["high"]
    return {
        "title": figure["title"],
        "says": figure["says"],
        "value": _say(unit, figure["value"]),
        "interval": "" if low is None or high is None else f"{_say(unit, low)} to {_say(unit, high)}",
        "before": _say(unit, figure["before"]["value"]),
        "cases": f"{figure['cases']:,}",
        "too_few": figure["too_few"] and unit != "cases",
    }


def _list_narrowed(ask: Ask, parts: Sequence[str], names: Names) -> Any:
    """What it is narrowed to, in words; names only where the part with them was chosen."""
    for by, asked in ask.filters.items():
        values = asked if isinstance(asked, list) else [asked]
        what = by.replace("_", " ")
        if by == "public":
            yield "Only what was said in public." if values[0] else "Only what was said in private."
        elif by in NAMED and NAMED[by] not in parts:
            yield f"Only some, by {what}."
        elif by in ("account", "member", "team", "tag", "network", "priority", "kind", "sentiment"):
            yield f"Only {what}: {', '.join(names.say(by, str(value)).replace('_', ' ') for value in values)}."
        else:
            yield f"Only some, by {what}."


def _chart(part: str, report: Mapping[str, Any], names: Names) -> dict[str, Any]:
    if part == "days":
        days = report["days"]
        most = max(days["came_in"], default=0)
        rows = [
            (
                day.isoformat(),
                *(
                    "" if (v := days[c][n]) is None else v
                    for c in ("came_in", "answers", "without_reply", "open_at_end")
                ),
            )
            for n, day in enumerate(days["days"])
        ]
        at = days["came_in"].index(most) if most else None
        says = "Nothing came in." if at is None else f"Most came in on {days['days'][at]}: {most}. Each bar is a day."
        return {
            "title": "What came in and was answered",
            "head": ("Day", "Came in", "Answers", "Settled without a reply", "Waiting at the day's end"),
            "rows": rows,
            "bars": _scale(days["came_in"]),
            "says": says,
        }
    if part == "spread":
        spread = report["spread"]
        edges = [say_span(edge) for edge in spread["edges"]]
        rows = [
            (f"up to {edges[n + 1]}" if n + 1 < len(edges) else f"over {edges[n]}", count, spread["kept"][n])
            for n, count in enumerate(spread["counts"])
            if count
        ]
        return {
            "title": "How long first answers took",
            "head": ("Took", "First answers", "Within target"),
            "rows": rows,
            "bars": _scale(spread["counts"]),
            "says": f"{sum(spread['counts'])} first answers; two bars further to the right is twice as long a wait.",
        }
    rows = [
        (
            names.say(part, row["key"]).replace("_", " ") or "none",
            row["came_in"],
            row["answers"],
            row["without_reply"],
            _say("seconds", row["first_half"]["value"]),
            _say("share", row["kept"]["value"]),
        )
        for row in next(b["rows"] for b in report["breakdowns"] if b["by"] == part)
    ]
    return {"title": f"By {part}", "head": (part.capitalize(), *_ROW_HEAD), "rows": rows, "bars": [], "says": ""}


def _scale(counts: Sequence[int]) -> list[float]:
    most = max(counts, default=0)
    return [round(100 * count / most, 1) if most else 0 for count in counts]
