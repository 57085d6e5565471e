"""Outside advice: a question to somebody without a login, its letter, and the address that answers come back to. Used by
services.advice."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import regex

from sorta.core.errors import Invalid

LONGEST_QUESTION = 4000
LONGEST_NAME = 120
#: An answer is waited for at least and at most so long.
SHORTEST_WAIT = timedelta(minutes=30)
LONGEST_WAIT = timedelta(days=30)
#: Of a conversation, the latest so many messages go along.
MOST_MESSAGES = 40

# One address by RFC 5322, 3.4.1 (dot-atom) and the lengths of RFC 5321, 4.5.3.1: no quoted local part, no domain literal.
_ATOM = r"[A-Za-z0-9!#$%&'*+/=?^_`{|}~-]+"
_ADDRESS = regex.compile(rf"(?=.{{3,254}}$){_ATOM}(?:\.{_ATOM})*@(?:[A-Za-z0-9](?:[A-Za-z0-9-]{{0,61}}[A-Za-z0-9])?\.)+[A-Za-z]{{2,63}}")  # fmt: skip
#: Of lower-case letters and digits: mail programs may change the case of an address.
TOKEN_LENGTH = 20
_TOKEN = rf"a(\d{{1,18}})-([a-z0-9]{{{TOKEN_LENGTH}}})"


def check_address(address: str) -> str:
    """One mail address, tidied. Raises Invalid, also for several, or for one that would break a header."""
    said = address.strip()
    if not _ADDRESS.fullmatch(said) or len(said.partition("@")[0]) > 64:
        raise Invalid("That is not one mail address, such as name@example.org.", "to_address")
    return said


_DOMAIN = regex.compile(r"(?=.{3,253}$)(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z]{2,63}")
MOST_DOMAINS = 50


def check_domains(domains: Iterable[str]) -> tuple[str, ...]:
    """Mail domains as they are kept: lower case, each once, in order. Raises Invalid."""
    said = tuple(sorted({one.strip().lower().removeprefix("@") for one in domains if one.strip()}))
    for one in said:
        if not _DOMAIN.fullmatch(one):
            raise Invalid(f"‘{one[:60]}’ is no mail domain, such as example.org.", "domains")
    if len(said) > MOST_DOMAINS:
        raise Invalid(f"At most {MOST_DOMAINS} domains can be listed.", "domains")
    return said


def check_allowed(address: str, domains: Iterable[str]) -> None:
    """Raise Invalid unless the address is at one of the domains itself: what stands under one is another's."""
    if address.rpartition("@")[2].lower() in (listed := tuple(domains)):
        return
    where = f"Only at {', '.join(listed)}." if listed else "None is listed yet."
    raise Invalid(
        f"Nobody at {address.rpartition('@')[2]} can be asked from here. {where} Setup has the list.", "to_address"
    )


def check_question(question: str) -> str:
    """The question, tidied. Raises Invalid."""
    said = question.strip()
    if not 1 <= len(said) <= LONGEST_QUESTION:
        raise Invalid(f"Ask something, in up to {LONGEST_QUESTION} characters.", "question")
    return said


def check_wait(wait_until: datetime, now: datetime) -> datetime:
    """Until when an answer is waited for. Raises Invalid."""
    if wait_until.tzinfo is None or not now + SHORTEST_WAIT <= wait_until <= now + LONGEST_WAIT:
        raise Invalid("Wait at least half an hour and at most 30 days.", "wait_until")
    return wait_until


def make_reply_address(base: str, workspace_id: int, token: str) -> str:
    """Where answers to a question go: a detail of the base address (RFC 5233), so that one mailbox gets them all."""
    local, _, domain = base.rpartition("@")
    return f"{local}+a{workspace_id}-{token}@{domain}"


def make_key(workspace_id: int, token: str) -> str:
    """What the question's Message-ID begins with."""
    return f"a{workspace_id}-{token}"


def find_question(recipients: Iterable[str], answers: Iterable[str]) -> tuple[int, str] | None:
    """The workspace and the token of the question that a letter answers: by the address it went to, else by the
    Message-ID it names."""
    for address in recipients:
        found = regex.search(rf"\+{_TOKEN}@", address.lower())
        if found:
            return int(found[1]), found[2]
    for id in answers:
        found = regex.fullmatch(rf"<{_TOKEN}@[^>]*>", id.lower())
        if found:
            return int(found[1]), found[2]
    return None


@dataclass(frozen=True, kw_only=True)
class Said:
    """One message of the conversation, as the letter shows it."""

    by: str
    ours: bool
    at: datetime
    text: str


def write_request(
    *,
    workspace: str,
    asker: str,
    person: str,
    network: str,
    public: bool,
    question: str,
    said: Sequence[Said],
    wait_until: datetime,
    zone: ZoneInfo,
) -> tuple[str, str]:
    """Subject and text of the letter: the question first, then what it is about."""

    def clock(at: datetime) -> str:
        return at.astimezone(zone).strftime("%-d %B %Y, %H:%M")

    first = " ".join(question.split())
    subject = f"{workspace} asks: {first if len(first) <= 70 else first[:69].rstrip() + '…'}"
    shown = said[-MOST_MESSAGES:]
    parts = [
        question,
        f"{asker}, {workspace}",
        f"Please answer this mail by {clock(wait_until)}. Your answer goes to our team only; it is never published, and "
        f"{person} does not see it.",
        f"What it is about: {'public' if public else 'private'} words of {person} on {network}"
        + (f", the latest {len(shown)} of {len(said)} messages" if len(shown) < len(said) else "")
        + ":",
        *[f"{one.by}{' (us)' if one.ours else ''}, {clock(one.at)}:\n{one.text}" for one in shown],
    ]
    return subject, "\n\n".join(parts) + "\n"
