"""Prize draws that anybody can check again (PRODUCT.md 11). Used by services.draws and by `check-draw`.

The winners are picked as RFC 3797 says (section 4): MD5 over a key framed by a counter gives a number for each place,
which picks among those not picked yet. The key holds a seed whose SHA-256 was published before the deadline, so nobody
can choose the seed after they have seen who takes part, and the number of entries.
"""

import hashlib
import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid
from sorta.core.words import check_pattern, find_first, fold_text

FORMAT = "sorta-draw/1"
LONGEST_NAME = 120
MOST_PLACES = 200
#: The counter of RFC 3797 has two bytes.
MOST_ENTRIES = 65_535


# -- the procedure of RFC 3797 -----------------------------------------------------------------------------------


def make_key(*sources: Sequence[int]) -> bytes:
    """The key: each source's numbers in rising order, each followed by a stop, each source by a slash (section 4.3)."""
    return "".join("".join(f"{n}." for n in sorted(source)) + "/" for source in sources).encode()


def pick(key: bytes, pool: int, count: int) -> list[int]:
    """Numbers from 1 to `pool` in the order in which they are picked, `count` of them or all (sections 4.1, 4.4)."""
    left = list(range(1, pool + 1))
    picked = []
    for n in range(min(count, pool)):
        frame = n.to_bytes(2, "big")
        digest = hashlib.md5(frame + key + frame, usedforsecurity=False).digest()
        picked.append(left.pop(int.from_bytes(digest, "big") % len(left)))
    return picked


def commit(seed: int) -> str:
    """What is published of a seed before the draw: SHA-256 of its decimal digits, in hexadecimal."""
    return hashlib.sha256(str(seed).encode()).hexdigest()


# -- who takes part ------------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class DrawRules:
    """What is fixed when a draw is announced: who takes part, until when, and how many win.

    `words`: an entry has one of them, or any where there are none. `staff` are tags of people who are left out.
    `first_only`: replies to other comments are no entries.
    """

    name: str
    deadline: datetime
    words: tuple[str, ...] = ()
    staff: tuple[int, ...] = ()
    first_only: bool = True
    winners: int = 1
    reserves: int = 0


@dataclass(frozen=True, kw_only=True)
class Said:
    """What one person said under the post. `person` is the same for all identities that were joined."""

    message: int
    person: int
    name: str
    handle: str
    text: str
    at: datetime
    edited_at: datetime | None = None
    is_reply: bool = False
    removed: bool = False
    hidden: bool = False
    blocked: bool = False
    tags: tuple[int, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Entry:
    """Somebody who takes part, numbered from 1 by the time of what they said."""

    number: int
    message: int
    person: int
    name: str
    handle: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Excluded:
    """What was said and is no entry, and why."""

    message: int
    name: str
    handle: str
    reason: str


def check_rules(rules: DrawRules, now: datetime) -> DrawRules:
    """The rules as they are kept. Raises Invalid with what is wrong."""
    name = " ".join(rules.name.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        raise Invalid(f"A draw has a name of 1 to {LONGEST_NAME} characters.", "name")
    if rules.deadline.tzinfo is None or rules.deadline <= now:
        raise Invalid("The deadline has to lie ahead: the seed is fixed before it.", "deadline")
    if not 1 <= rules.winners <= MOST_PLACES:
        raise Invalid(f"1 to {MOST_PLACES} can win.", "winners")
    if not 0 <= rules.reserves <= MOST_PLACES:
        raise Invalid(f"0 to {MOST_PLACES} can stand in.", "reserves")
    words = tuple(dict.fromkeys(check_pattern(word) for word in rules.words))
    return DrawRules(**{**rules.__dict__, "name": name, "words": words})


def list_entries(said: Iterable[Said], rules: DrawRules) -> tuple[tuple[Entry, ...], tuple[Excluded, ...]]:
    """Who takes part, in the order in which they spoke, and what is left out with its reason. The first thing a person
    said that can be an entry is theirs. Raises Invalid for more entries than the procedure can number."""
    entries: list[Entry] = []
    excluded: list[Excluded] = []
    known: dict[int, int] = {}
    for one in sorted(said, key=lambda s: (s.at, s.message)):
        reason = _why_not(one, rules) or (f"entered already, as {known[one.person]}" if one.person in known else None)
        if reason is not None:
            excluded.append(Excluded(message=one.message, name=one.name, handle=one.handle, reason=reason))
            continue
        number = known[one.person] = len(entries) + 1
        entries.append(
            Entry(number=number, message=one.message, person=one.person, name=one.name, handle=one.handle, at=one.at)
        )
    if len(entries) > MOST_ENTRIES:
        raise Invalid(f"A draw has at most {MOST_ENTRIES:,} entries.", "entries")
    return tuple(entries), tuple(excluded)


def _why_not(one: Said, rules: DrawRules) -> str | None:
    if one.at > rules.deadline:
        return "after the deadline"
    if one.removed:
        return "removed"
    if one.hidden:
        return "hidden"
    if one.edited_at is not None and one.edited_at > rules.deadline:
        return "edited after the deadline"
    if one.is_reply and rules.first_only:
        return "a reply to another comment"
    if one.blocked:
        return "blocked"
    if not set(rules.staff).isdisjoint(one.tags):
        return "staff"
    if rules.words:
        text = fold_text(one.text)
        if not any(find_first(word, text) for word in rules.words):
            return "none of the words"
    return None


# -- the certificate -----------------------------------------------------------------------------------------------


def draw(entries: Sequence[Entry], rules: DrawRules, seed: int) -> tuple[list[int], list[int]]:
    """The numbers of the winners and of those who stand in, each in their order."""
    picked = pick(make_key([seed], [len(entries)]), len(entries), rules.winners + rules.reserves)
    return picked[: rules.winners], picked[rules.winners :]


def make_certificate(
    rules: DrawRules,
    *,
    post: Mapping[str, Any],
    seed: int,
    announced_at: datetime,
    drawn_at: datetime,
    entries: Sequence[Entry],
    excluded: Sequence[Excluded],
) -> dict[str, Any]:
    """All that somebody needs to check a draw again, as JSON values. People go by what they are called in public."""
    winners, reserves = draw(entries, rules, seed)
    listed = [{"number": e.number, "name": e.name, "handle": e.handle, "at": e.at.isoformat()} for e in entries]
    return {
        "format": FORMAT,
        "name": rules.name,
        "post": dict(post),
        "announced_at": announced_at.isoformat(),
        "deadline": rules.deadline.isoformat(),
        "drawn_at": drawn_at.isoformat(),
        "commitment": commit(seed),
        "seed": str(seed),
        "key": make_key([seed], [len(entries)]).decode(),
        "procedure": "RFC 3797, section 4: MD5 over counter, key, counter; modulo those left",
        "places": {"winners": rules.winners, "reserves": rules.reserves},
        "entries": listed,
        "entries_sha256": _digest(listed),
        "excluded": [{k: v for k, v in asdict(one).items() if k != "message"} for one in excluded],
        "winners": winners,
        "reserves": reserves,
    }


def _digest(listed: Sequence[Mapping[str, Any]]) -> str:
    text = json.dumps(list(listed), ensure_ascii=False, separators=(",", ":"), sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def check_certificate(told: Mapping[str, Any]) -> list[str]:
    """What is wrong with a certificate, in words; nothing when it holds. Raises Invalid when it is none."""
    try:
        if told["format"] != FORMAT:
            raise Invalid(f"It says it is a {str(told['format'])[:40]}; this checks {FORMAT}.", "format")
        seed, listed = int(told["seed"]), list(told["entries"])
        places = int(told["places"]["winners"]), int(told["places"]["reserves"])
        numbers = [int(e["number"]) for e in listed]
        times = [datetime.fromisoformat(e["at"]) for e in listed]
        announced, deadline, drawn = (datetime.fromisoformat(told[k]) for k in ("announced_at", "deadline", "drawn_at"))
        said = {k: told[k] for k in ("commitment", "key", "entries_sha256", "winners", "reserves")}
    except (KeyError, TypeError, ValueError) as error:
        raise Invalid(f"It is not shaped as a certificate: {error!r}.", "certificate") from error
    wrong = []
    if commit(seed) != said["commitment"]:
        wrong.append("The seed is not the one that was committed to.")
    if not announced < deadline <= drawn:
        wrong.append("It was not announced before the deadline and drawn after it.")
    if numbers != list(range(1, len(listed) + 1)):
        wrong.append("The entries are not numbered from 1 without a gap.")
    if times != sorted(times) or any(at > deadline for at in times):
        wrong.append("The entries are not in the order of time, or some are later than the deadline.")
    if _digest(listed) != said["entries_sha256"]:
        wrong.append("The list of entries has been changed.")
    key = make_key([seed], [len(listed)])
    if key.decode() != said["key"]:
        wrong.append("The key does not belong to the seed and the number of entries.")
    picked = pick(key, len(listed), sum(places))
    if [said["winners"], said["reserves"]] != [picked[: places[0]], picked[places[0] :]]:
        wrong.append("The winners, or those who stand in, are not those that the seed picks.")
    return wrong
