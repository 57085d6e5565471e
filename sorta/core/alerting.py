"""What members are told of, by which ways and when: occasions, what applies for who has chosen nothing, quiet hours and digests; and who is
named in a note. Used by services.alerts and services.trail."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

from sorta.core.errors import Invalid
from sorta.core.words import Folded, find_all


@dataclass(frozen=True, kw_only=True)
class Wants:
    """By which ways somebody is told: here in Sorta, on the device while Sorta is open on it elsewhere, by mail, by text message."""

    here: bool = True
    device: bool = True
    mail: bool = False
    text: bool = False
    #: Of what is due soon: how long before.
    minutes: int = 15


_MAIL = Wants(mail=True)
_HERE = Wants()
#: What members are told of: what it is called in the choices, and by which ways unless somebody chooses otherwise.
OCCASIONS: Mapping[str, tuple[str, Wants]] = {
    "given": ("Something is given to me", _HERE),
    "given_team": ("Something is given to a team of mine", Wants(here=False, device=False)),
    "named": ("A note names me", _MAIL),
    "came_in": ("Something comes in that I want to hear of", _HERE),
    "rule": ("A rule tells me", _MAIL),
    "approval": ("An answer waits for my approval", _MAIL),
    "decided": ("My answer was approved or came back", _HERE),
    "due_soon": ("Something of mine is due soon", _HERE),
    "late": ("Something of mine is late", _MAIL),
    "back": ("Something of mine is back from being parked", _HERE),
    "follow_up": ("A follow-up of mine is due", _HERE),
    "not_out": ("An answer of mine is not out yet, or was refused", _MAIL),
    "account": ("Answers from an account do not go out", _MAIL),
    "stopped": ("An answer of mine could not be sent at its time", _MAIL),
    "case": ("A desk gave back what I handed over", _HERE),
    "advice": ("Outside advice came, or did not come in time", _MAIL),
    "standing_still": ("Something that runs by itself stands still", _MAIL),
    "unusual": ("Far more comes in than usual", _MAIL),
    "rule_off": ("A rule was switched off by itself", _MAIL),
}


class Digest(StrEnum):
    """How mails are gathered."""

    AT_ONCE = "at_once"
    HOURLY = "hourly"
    DAILY = "daily"


#: When a day's mails leave, by the workspace's clock; common practice, no source.
DAILY_AT = time(8)


@dataclass(frozen=True, kw_only=True)
class Habits:
    """When somebody is not to be disturbed, and how their mails are gathered. Quiet hours may go over midnight; the same time twice is
    none."""

    quiet_from: time | None = None
    quiet_until: time | None = None
    digest: Digest = Digest.AT_ONCE


def is_quiet(habits: Habits, at: datetime, zone: ZoneInfo) -> bool:
    """Whether somebody is not to be disturbed at an instant: by what clocks show then."""
    begins, ends = habits.quiet_from, habits.quiet_until
    if begins is None or ends is None or begins == ends:
        return False
    shown = at.astimezone(zone).time()
    return begins <= shown < ends if begins < ends else shown >= begins or shown < ends


def _find_next(shown: time, after: datetime, zone: ZoneInfo) -> datetime:
    """The first instant after another at which clocks show a time. In a night in which they leave it out, when they have gone past it; in
    one in which they show it twice, the first of those that is still to come."""
    day = after.astimezone(zone).date()
    for ahead in range(3):
        for fold in (0, 1):
            found = datetime.combine(day + timedelta(days=ahead), shown, zone).replace(fold=fold).astimezone(UTC)
            if found > after:
                return found
    raise AssertionError("within three days clocks show every time")


def get_leaving(habits: Habits, now: datetime, zone: ZoneInfo, *, gathered: bool) -> datetime:
    """When something leaves by a way that disturbs: at once, or with the next digest where it is `gathered`, and never in quiet hours."""
    at = now
    if gathered and habits.digest is Digest.HOURLY:
        local = now.astimezone(zone)
        # A whole hour of what clocks show: zones are a half or a quarter of an hour off.
        passed = timedelta(minutes=local.minute, seconds=local.second, microseconds=local.microsecond)
        at = now - passed + timedelta(hours=1)
    elif gathered and habits.digest is Digest.DAILY:
        at = _find_next(DAILY_AT, now, zone)
    if is_quiet(habits, at, zone) and habits.quiet_until is not None:
        at = _find_next(habits.quiet_until, at, zone)
    return at


@dataclass(frozen=True, kw_only=True)
class Watch:
    """What a member wants to hear of when it comes in: by these accounts, of these kinds, with one of these words; nothing chosen of one is
    all of it."""

    member: int
    accounts: frozenset[int] = frozenset()
    kinds: frozenset[str] = frozenset()
    words: tuple[str, ...] = ()


def list_told(watches: Iterable[Watch], *, account: int, kind: str, text: Folded) -> list[int]:
    """The members who want to hear of a message, each once."""
    found = []
    for one in watches:
        is_there = (not one.accounts or account in one.accounts) and (not one.kinds or kind in one.kinds)
        if is_there and (not one.words or find_all(one.words, text)):
            found.append(one.member)
    return list(dict.fromkeys(found))


_PHONE = re.compile(r"\+[1-9]\d{6,14}")


def check_phone(said: str) -> str:
    """A number as ITU-T E.164 has it: a plus sign, the country, at most 15 digits in all; written with spaces, dashes, dots or brackets.
    Raises Invalid."""
    number = re.sub(r"[\s().\-/\u2010-\u2013]", "", said)
    number = re.sub(r"^00", "+", number)
    if not _PHONE.fullmatch(number) or not number.isascii():
        raise Invalid("Write the whole number with its country, like +45 12 34 56 78.", "phone")
    return number


def find_named(text: str, members: Iterable[tuple[int, str]]) -> list[int]:
    """Who of the members (number, name) is named in a note: an at sign and their name, or their first name where nobody else has it."""
    if "@" not in text:
        return []
    known = [(id, " ".join(name.split())) for id, name in members]
    firsts = [name.split(" ")[0].casefold() for _, name in known if name]
    calls: dict[str, int] = {}
    for id, name in known:
        if not name:
            continue
        calls[name.casefold()] = id
        first = name.split(" ")[0].casefold()
        if firsts.count(first) == 1:
            calls.setdefault(first, id)
    if not calls:
        return []
    # Longest first: a whole name is not somebody else's first name.
    said = "|".join(re.escape(call).replace(r"\ ", r"\s+") for call in sorted(calls, key=len, reverse=True))
    found = re.findall(rf"(?<![\w.])@({said})(?!\w)", text.casefold())
    return list(dict.fromkeys(calls[" ".join(one.split())] for one in found))
