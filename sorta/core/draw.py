"""Prize draws that nobody can bend and anybody can check again (docs/trade.md 11). Used by services.draws and by `check-draw`.

A seed is made when a draw is announced, and its SHA-256 published; nobody can read the seed before the list of entries is
fixed, at the deadline, and the list's SHA-256 published. Then every entry is ranked by HMAC-SHA-256 (RFC 2104) of its own
name under the seed, the lowest first: what one entry's rank is depends on no other entry, so that leaving one out, or in,
moves nobody else. Where a public value was named beforehand it is mixed in, and not even who runs the machine knows the key.
"""

import hashlib
import hmac
import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid
from sorta.core.exact import Exact
from sorta.core.words import check_pattern, find_first, fold_text

FORMAT = "sorta-draw/2"
PROCEDURE = "HMAC-SHA-256 (RFC 2104) of each entry's id, in UTF-8, under the key, in UTF-8; the lowest is first"
LONGEST_NAME = 120
LONGEST_SOURCE = 200
MOST_PLACES = 200
MOST_ENTRIES = 100_000


# -- the procedure -------------------------------------------------------------------------------------------------


def commit(seed: str) -> str:
    """What is published of a seed when a draw is announced: its SHA-256, in hexadecimal."""
    return hashlib.sha256(seed.encode()).hexdigest()


def make_key(seed: str, public_value: str | None) -> str:
    """What entries are ranked under: the seed, and the public value that was named beforehand."""
    return seed if public_value is None else f"{seed}|{public_value}"


def rank(key: str, entry_id: str) -> str:
    """An entry's rank, in hexadecimal: its own, whoever else takes part."""
    return hmac.new(key.encode(), entry_id.encode(), hashlib.sha256).hexdigest()


# -- who takes part ------------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class DrawRules(Exact):
    """What is fixed when a draw is announced: who takes part, until when, and how many win.

    `words`: an entry has one of them, or any where there are none. `staff` are tags of people who are left out.
    `first_only`: replies to other comments are no entries. `public_source` names a value that nobody knows yet, and where it
    will be published after the deadline, such as the numbers of a lottery: it is mixed into the key.
    """

    name: str
    deadline: datetime
    words: tuple[str, ...] = ()
    staff: tuple[int, ...] = ()
    first_only: bool = True
    winners: int = 1
    reserves: int = 0
    public_source: str = ""


@dataclass(frozen=True, kw_only=True)
class SaidUnder:
    """What one person said under the post. `id` is the network's name for it, `person` the same for all identities that
    were joined."""

    message: int
    id: str
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
class DrawEntry:
    """Somebody who takes part, numbered from 1 by the time of what they said."""

    number: int
    message: int
    id: str
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
        raise Invalid(f"There can be 0 to {MOST_PLACES} reserves.", "reserves")
    source = " ".join(rules.public_source.split())
    if len(source) > LONGEST_SOURCE:
        raise Invalid(f"The public value is named in at most {LONGEST_SOURCE} characters.", "public_source")
    words = tuple(dict.fromkeys(check_pattern(word) for word in rules.words))
    return DrawRules(**{**rules.__dict__, "name": name, "words": words, "public_source": source})


def list_entries(said: Iterable[SaidUnder], rules: DrawRules) -> tuple[tuple[DrawEntry, ...], tuple[Excluded, ...]]:
    """Who takes part, in the order in which they spoke, and what is left out with its reason. The first thing a person
    said that can be an entry is theirs. Raises Invalid for more entries than the procedure can number."""
    entries: list[DrawEntry] = []
    excluded: list[Excluded] = []
    known: dict[int, int] = {}
    for one in sorted(said, key=lambda s: (s.at, s.message)):
        reason = _why_not(one, rules) or (f"entered already, as {known[one.person]}" if one.person in known else None)
        if reason is not None:
            excluded.append(Excluded(message=one.message, name=one.name, handle=one.handle, reason=reason))
            continue
        number = known[one.person] = len(entries) + 1
        entries.append(
            DrawEntry(
                number=number,
                message=one.message,
                id=one.id,
                person=one.person,
                name=one.name,
                handle=one.handle,
                at=one.at,
            )
        )
    if len(entries) > MOST_ENTRIES:
        raise Invalid(f"A draw has at most {MOST_ENTRIES:,} entries.", "entries")
    return tuple(entries), tuple(excluded)


def _why_not(one: SaidUnder, rules: DrawRules) -> str | None:
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


def list_shown(entries: Iterable[DrawEntry]) -> list[dict[str, Any]]:
    """The entries as they are published: people go by what they are called in public."""
    return [
        {"number": e.number, "id": e.id, "name": e.name, "handle": e.handle, "at": e.at.isoformat()} for e in entries
    ]


def digest(listed: Sequence[Mapping[str, Any]]) -> str:
    """SHA-256, in hexadecimal, of a list of entries: JSON without spaces, keys in their order, in UTF-8."""
    text = json.dumps(list(listed), ensure_ascii=False, separators=(",", ":"), sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def draw(ids: Mapping[int, str], rules: DrawRules, key: str) -> tuple[list[int], list[int]]:
    """The numbers of the winners and of those who stand in, each in their order; `ids` by the number of the entry."""
    ranked = sorted(ids, key=lambda number: rank(key, ids[number]))
    return ranked[: rules.winners], ranked[rules.winners : rules.winners + rules.reserves]


def check_public_value(rules: DrawRules, value: str) -> str | None:
    """The public value as it is mixed in, none where none was named. Raises Invalid when it is missing, or not wanted."""
    said = " ".join(value.split())
    if not rules.public_source:
        if said:
            raise Invalid("No public value was named when it was announced: none can be mixed in now.", "public_value")
        return None
    if not 1 <= len(said) <= LONGEST_SOURCE:
        raise Invalid(f"Say the public value that was named: {rules.public_source}.", "public_value")
    return said


def make_certificate(
    rules: DrawRules,
    *,
    post: Mapping[str, Any],
    seed: str,
    public_value: str | None,
    announced_at: datetime,
    closed_at: datetime,
    drawn_at: datetime,
    listed: Sequence[Mapping[str, Any]],
    excluded: Sequence[Mapping[str, Any]],
    earlier: Sequence[Mapping[str, Any]],
) -> dict[str, Any]:
    """All that somebody needs to check a draw again, as JSON values. `listed` are the entries as they were published when
    the list was closed, `earlier` the draws that were announced under the same post before."""
    key = make_key(seed, public_value)
    ids = {int(e["number"]): str(e["id"]) for e in listed}
    winners, reserves = draw(ids, rules, key)
    return {
        "format": FORMAT,
        "name": rules.name,
        "post": dict(post),
        "announced_at": announced_at.isoformat(),
        "deadline": rules.deadline.isoformat(),
        "closed_at": closed_at.isoformat(),
        "drawn_at": drawn_at.isoformat(),
        "commitment": commit(seed),
        "seed": seed,
        "public": None if public_value is None else {"source": rules.public_source, "value": public_value},
        "key": key,
        "procedure": PROCEDURE,
        "places": {"winners": rules.winners, "reserves": rules.reserves},
        "entries": [dict(e) for e in listed],
        "entries_sha256": digest(listed),
        "excluded": [dict(x) for x in excluded],
        "winners": winners,
        "reserves": reserves,
        "earlier": [dict(e) for e in earlier],
    }


def check_certificate(told: Mapping[str, Any]) -> list[str]:
    """What is wrong with a certificate, in words; nothing when it holds. Raises Invalid when it is none."""
    try:
        if told["format"] != FORMAT:
            raise Invalid(f"It says it is a {str(told['format'])[:40]}; this checks {FORMAT}.", "format")
        seed, listed = str(told["seed"]), list(told["entries"])
        places = int(told["places"]["winners"]), int(told["places"]["reserves"])
        numbers = [int(e["number"]) for e in listed]
        ids = [str(e["id"]) for e in listed]
        times = [datetime.fromisoformat(e["at"]) for e in listed]
        announced, deadline, closed, drawn = (
            datetime.fromisoformat(told[k]) for k in ("announced_at", "deadline", "closed_at", "drawn_at")
        )
        public = None if told["public"] is None else str(told["public"]["value"])
        said = {k: told[k] for k in ("commitment", "key", "entries_sha256", "winners", "reserves")}
    except (KeyError, TypeError, ValueError) as error:
        raise Invalid(f"It is not shaped as a certificate: {error!r}.", "certificate") from error
    wrong = []
    if commit(seed) != said["commitment"]:
        wrong.append("The seed is not the one that was committed to.")
    if not announced < deadline <= closed < drawn:
        wrong.append("It was not announced before the deadline, closed after it, and drawn after that.")
    if numbers != list(range(1, len(listed) + 1)) or len(set(ids)) != len(ids):
        wrong.append("The entries are not numbered from 1 without a gap, or two have one id.")
    if times != sorted(times) or any(at > deadline for at in times):
        wrong.append("The entries are not in the order of time, or some are later than the deadline.")
    if digest(listed) != said["entries_sha256"]:
        wrong.append("The list of entries has been changed.")
    key = make_key(seed, public)
    if key != said["key"]:
        wrong.append("The key does not belong to the seed and the public value.")
    ranked = [number for _, number in sorted(zip((rank(key, id) for id in ids), numbers, strict=True))]
    if [said["winners"], said["reserves"]] != [ranked[: places[0]], ranked[places[0] : sum(places)]]:
        wrong.append("The winners, or the reserves, are not those that rank first.")
    return wrong
