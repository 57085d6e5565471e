"""Programs that work with a workspace: what their tokens may hold, what they are told of, and when they are told again. Used by services."""

from collections.abc import Collection, Mapping
from datetime import datetime, timedelta
from urllib.parse import urlsplit

from sorta.core.errors import Invalid
from sorta.core.permissions import Permission
from sorta.core.titles import check_title

LONGEST_NAME = 60
LONGEST_URL = 500
MOST_TOKENS, MOST_HOOKS = 50, 20
#: How long a token may last, in days.
LASTS = (7, 30, 90, 365)
#: What no program may: whoever holds it could make programs, members and rules.
NEVER = frozenset({Permission.MANAGE_MEMBERS, Permission.MANAGE_ACCOUNTS})

#: What programs can be told of, each with the events of trails that are that ('moved' is a conversation's move being another).
TOLD: Mapping[str, frozenset[str]] = {
    "arrivals": frozenset({"arrived", "edited", "removed"}),
    "moves": frozenset({"moved"}),
    "decisions": frozenset(
        {"proposed", "consented", "changed", "sent_back", "withdrawn", "assigned", "prioritised", "settled", "reopened"}
    ),
    "answers": frozenset({"replied", "delivered", "refused", "answered_outside", "scheduled", "unscheduled"}),
}

#: Pauses in seconds before the 2nd, 3rd ... try (Standard Webhooks, "Retry schedule"), from 5 seconds to a day.
PAUSES = (5, 300, 1800, 7200, 18000, 36000, 50400, 72000, 86400)
#: A program that takes nothing for so long is told nothing more until somebody switches it on again.
OFF_AFTER = timedelta(days=5)


def check_name(said: str, others: Collection[str]) -> str:
    """A name as it is kept; `others` are those there are. Raises Invalid."""
    return check_title(said, "A name", LONGEST_NAME, others=others)


def check_token(permissions: Collection[Permission], held: Collection[Permission], days: int) -> frozenset[Permission]:
    """What a token holds, of what its maker holds; whoever asks sees the workspace. Raises Invalid."""
    wanted = frozenset(permissions) | {Permission.SEE}
    if days not in LASTS:
        raise Invalid(f"A token lasts {', '.join(map(str, LASTS[:-1]))} or {LASTS[-1]} days.", "days")
    if wanted & NEVER:
        raise Invalid("No program manages members or accounts.", "permissions")
    if not wanted <= frozenset(held):
        raise Invalid("A token holds no more than who makes it.", "permissions")
    return wanted


def check_url(url: str) -> str:
    """Where a program is told. Raises Invalid."""
    said = url.strip()
    try:
        parts = urlsplit(said)
        fits = parts.scheme in ("https", "http") and bool(parts.hostname) and parts.username is None
    except ValueError:
        fits = False
    if not fits or len(said) > LONGEST_URL or not said.isprintable() or " " in said:
        raise Invalid("The address begins with https:// and has a host.", "url")
    return said


def list_events(kinds: Collection[str]) -> frozenset[str]:
    """The events of what is told of. Raises Invalid."""
    if not kinds or not set(kinds) <= TOLD.keys():
        raise Invalid(f"Choose among {', '.join(TOLD)}.", "kinds")
    return frozenset().union(*(TOLD[kind] for kind in kinds))


def get_next_try(attempts: int, now: datetime) -> datetime | None:
    """When to tell once more after try number `attempts` (from 1); None when that was the last."""
    return None if attempts > len(PAUSES) else now + timedelta(seconds=PAUSES[attempts - 1])
