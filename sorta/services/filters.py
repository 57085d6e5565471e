"""What the queue can be filtered by, from words of the desk to values of the store. Used by services.desk."""

import re
from collections.abc import Mapping
from datetime import date, datetime, timedelta
from typing import Any

from sorta.core.errors import Invalid
from sorta.core.finding import finds_something, read_search, write_query
from sorta.core.targets import Band
from sorta.core.working_time import get_local_midnight
from sorta.services.house import Scope

#: What stands for all moves.
ANY_MOVE = "any"


def make_query(words: str) -> str:
    """What the store looks for, of what one wrote (core.finding). Raises Invalid for what looks for nothing."""
    terms = read_search(words)
    if not terms:
        raise Invalid(f"‘{words[:40]}’ has no letters or digits to look for.", "words")
    if not finds_something(terms):
        raise Invalid("Say also what is to be found, not only what is not.", "words")
    return write_query(terms)


def make_pattern(words: str) -> str:
    """A pattern for `ilike` that holds wherever the words stand, whatever signs are in them."""
    return "%" + re.sub(r"([\\%_])", r"\\\1", words.strip()) + "%"


def read_filters(given: Mapping[str, Any], scope: Scope, edges: Mapping[str, datetime]) -> dict[str, Any]:
    """Values of the store's filters by name; what is None or empty filters nothing.

    `owner` holds member numbers, 'me' and 'nobody'; `band` becomes a span of dues by the edges of this moment.
    """
    values = {name: value for name, value in given.items() if value not in (None, [], "", ())}
    if values.get("move") == ANY_MOVE:
        del values["move"]
    if "owner" in values:
        named = values["owner"]
        values["nobody"] = "nobody" in named
        values["owner"] = [scope.member_id if o == "me" else int(o) for o in named if o != "nobody"]
    band = values.pop("band", None)
    if band is not None:
        values.update(_read_band(Band(band), edges))
    # Days are the workspace's, and the last one counts too.
    if "since" in values:
        values["since"] = get_local_midnight(date.fromisoformat(values["since"]), scope.zone)
    if "until" in values:
        day = date.fromisoformat(values["until"]) + timedelta(days=1)
        values["until"] = get_local_midnight(day, scope.zone)
    if "words" in values:
        values["words"] = make_query(values["words"])
    for flag in ("unread", "watched", "attachment"):
        if values.get(flag) is False:
            del values[flag]
    return values


def _read_band(band: Band, edges: Mapping[str, datetime]) -> dict[str, Any]:
    now, hour, today = edges["now"], edges["hour"], edges["today"]
    match band:
        case Band.LATE:
            return {"due_until": now}
        case Band.WITHIN_HOUR:
            return {"due_from": now, "due_until": hour}
        case Band.LATER_TODAY:
            return {"due_from": hour, "due_until": max(hour, today)}
        case Band.AFTER_TODAY:
            return {"due_from": max(hour, today), "due_until": "infinity"}
        case Band.NOT_DUE:
            return {"due_from": "infinity"}
