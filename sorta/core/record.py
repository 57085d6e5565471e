"""The record of changes: what its entries say in words, and whether its chain of hashes holds. Used by services.record.

An entry's hash is SHA-256 (FIPS 180-4) of the hash before it and of its words: whoever changes or takes away one changes all that follow.
"""

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

#: What changes are about, by table: what one of it is called, and what has no name is called by.
THINGS: Mapping[str, str] = {
    "account": "account",
    "account_group": "account group",
    "account_group_member": "account group’s member",
    "alert_default": "how members are told",
    "api_token": "token of a program",
    "earlier_run": "reading of earlier messages",
    "erasure": "erasure of a person",
    "invitation": "invitation",
    "kept_link": "link that is kept",
    "library_file": "file of the library",
    "listening": "words listened for",
    "membership": "member",
    "policy": "approval policy",
    "provider_group": "provider’s group",
    "retention_choice": "how long things are kept",
    "role": "role",
    "rule": "rule",
    "saved_reply": "saved reply",
    "shared_report": "shared report",
    "support_desk": "support desk",
    "tag": "tag",
    "team": "team",
    "team_member": "team’s member",
    "web_hook": "place where a program is told",
    "workspace": "workspace",
    "workspace_hours": "working hours and targets",
}
#: What stands for a change that ends or brings back something without its row going.
_ENDINGS = {
    "removed_at": "removed",
    "archived_at": "archived",
    "retired_at": "retired",
    "revoked_at": "taken back",
    "cancelled_at": "taken back",
}
#: What columns are called whose names do not say it.
_COLUMNS: Mapping[str, str] = {
    "api_url": "address for programs",
    "archived_at": "archived since",
    "ask": "what it is about",
    "ask_next_after": "after which share of the time left the next approver is asked",
    "cancelled_at": "taken back at",
    "expires_at": "until",
    "external_id": "id there",
    "false_alarms": "false alarms a month",
    "follow_hours": "hours in which further messages join a case",
    "held_at": "outgoing held since",
    "held_reason": "why outgoing is held",
    "hook_secret": "signing secret",
    "mail_domains": "whom outside can be asked",
    "merged_into": "merged into",
    "needs_second": "asks for a second step",
    "off_reason": "why it switched itself off",
    "removed_at": "removed at",
    "retired_at": "retired since",
    "revoked_at": "taken back at",
    "special": "special days",
    "switched_on": "switched on",
    "taken_at": "taken at",
    "token": "access token",
    "way": "way of choosing",
}
#: Lines of a change that are told at most; beyond them it says how many more.
MOST_LINES = 200


@dataclass(frozen=True, kw_only=True)
class Line:
    """One thing that is otherwise: where in it, and how it was and is; None for what was or is not there."""

    where: str
    before: str | None
    after: str | None


@dataclass(frozen=True, kw_only=True)
class Entry:
    """An entry as it is read."""

    n: int
    at: datetime
    member_id: int | None
    came_from: str | None
    thing: str
    name: str | None
    did: str
    key: Mapping[str, Any]
    lines: tuple[Line, ...]
    more: int = 0


def read(said: str) -> Entry:
    """An entry from its words. Raises ValueError, KeyError or TypeError for words that are none."""
    told = json.loads(said)
    before, after = told["before"], told["after"]
    was, becomes = dict(_flatten("", before)), dict(_flatten("", after))
    places = list(dict.fromkeys([*was, *becomes]))
    lines = [
        Line(where=_say_place(place), before=was.get(place), after=becomes.get(place))
        for place in places
        if was.get(place) != becomes.get(place)
    ]
    return Entry(
        n=told["n"],
        at=datetime.fromisoformat(told["at"]),
        member_id=told["member"],
        came_from=told["from"],
        thing=THINGS.get(told["what"], told["what"].replace("_", " ")),
        name=told["name"],
        did=_say_did(told["did"], before, after),
        key=told["key"],
        lines=tuple(lines[:MOST_LINES]),
        more=max(0, len(lines) - MOST_LINES),
    )


def _say_did(did: str, before: Mapping[str, Any], after: Mapping[str, Any]) -> str:
    if did == "insert":
        return "made"
    if did == "delete":
        return "removed"
    for column, words in _ENDINGS.items():
        if column in after:
            return words if after[column] is not None else "brought back"
    if "held_at" in after:
        return "held everything outgoing" if after["held_at"] is not None else "let go what was held"
    if "switched_on" in after:
        return "switched on" if after["switched_on"] else "switched off"
    return "changed"


def _say_place(place: str) -> str:
    """Where in it, in words as far as there are any: `body.when.words` stays as the rule's own file has it."""
    first, dot, rest = place.partition(".")
    return f"{_COLUMNS.get(first, first.replace('_', ' '))}{dot}{rest}"


def _flatten(place: str, value: Any) -> Iterable[tuple[str, str | None]]:
    """Each single value in a tree with where it stands, in words: `body.when.words.1`."""
    if isinstance(value, dict) and value:
        for name, inner in value.items():
            yield from _flatten(f"{place}.{name}" if place else str(name), inner)
    elif isinstance(value, list) and any(isinstance(inner, dict | list) for inner in value):
        for number, inner in enumerate(value, 1):
            yield from _flatten(f"{place}.{number}", inner)
    else:
        yield place, _say(value)


def _say(value: Any) -> str | None:
    if value is None or value in ([], {}, ""):
        return None
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ", ".join(str(inner) for inner in value)
    return str(value)


class Chain:
    """Follows entries from the first on, and says where the chain breaks."""

    def __init__(self) -> None:
        self._n, self._hash = 0, b""
        self.broken: str | None = None

    @property
    def count(self) -> int:
        """How many entries were followed."""
        return self._n

    @property
    def end(self) -> str:
        """The last hash, in hex: kept elsewhere, it shows later whether the end was cut off."""
        return self._hash.hex()

    def follow(self, n: int, said: str, chained: bytes) -> None:
        """The next entry; what is wrong first stays said."""
        if self.broken is not None:
            return
        if n != self._n + 1:
            self.broken = f"entry {self._n + 1} is missing"
        elif hashlib.sha256(self._hash + said.encode()).digest() != chained:
            self.broken = f"entry {n} is not what was written"
        else:
            self._n, self._hash = n, chained
