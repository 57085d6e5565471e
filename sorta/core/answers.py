"""Checks on a reply before it is committed (docs/trade.md 7). Used by services and the composer's API."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

import regex

from sorta.core.errors import Impossible, Invalid
from sorta.core.events import (
    AnsweredOutside,
    Arrived,
    Edited,
    Event,
    HandedOver,
    Removed,
    Replied,
    Settled,
    list_undone,
)
from sorta.core.facts import SettledAs
from sorta.core.ports import Abilities

LONGEST_SIGN_OFF = 80
_PLACEHOLDER = regex.compile(r"\{([^{}]*)\}")
#: What a sign-off can say of whoever writes.
_OF_MEMBER = frozenset({"initials", "first name"})
_CLUSTER = regex.compile(r"\X")

#: What a conversation may well be settled as answered for.
_ANSWERS = (Replied, AnsweredOutside, Settled)
#: Kinds of event that change what an answer has to say, each in words.
_WORDS: Mapping[type, str] = {
    Arrived: "they wrote again",
    Edited: "they changed what they wrote",
    Removed: "they took back what they wrote",
    Replied: "a colleague or a rule answered",
    AnsweredOutside: "it was answered on the network itself",
    Settled: "a colleague settled it",
    HandedOver: "a colleague handed it over",
}


@dataclass(frozen=True, kw_only=True)
class Extras:
    """What comes with a reply beside its words: what its author wrote before it was translated, as (text, language),
    the saved reply it was made from, the files that go along, and the account that answers when it is not the one that
    was spoken to."""

    written: tuple[str, str] | None = None
    saved_reply: int | None = None
    attachments: tuple[int, ...] = ()
    account: int | None = None


def count_graphemes(text: str) -> int:
    """Length in extended grapheme clusters (UAX #29), what a person counts as characters."""
    return len(_CLUSTER.findall(text))


def get_front(abilities: Abilities, handle: str, *, public: bool) -> str:
    """What stands before a reply's text: the handle and a space where the network wants it."""
    if not (public and abilities.handle_in_front):
        return ""
    return f"@{handle.lstrip('@')} "


def check_sign_off(said: str) -> str:
    """The line that closes an account's answers as it is kept; empty for none. Raises Invalid."""
    line = " ".join(said.split())
    if len(line) > LONGEST_SIGN_OFF or not line.isprintable():
        raise Invalid(f"A sign-off is one line of at most {LONGEST_SIGN_OFF} characters.", "sign_off")
    unknown = sorted(set(_PLACEHOLDER.findall(line)) - _OF_MEMBER)
    if unknown:
        known = " and ".join(f"{{{name}}}" for name in sorted(_OF_MEMBER))
        raise Invalid(f"Nothing fills in {{{unknown[0]}}} here; {known} can be used.", "sign_off")
    return line


def get_sign_off(abilities: Abilities, line: str, *, name: str | None, initials: str | None) -> str:
    """What follows an answer's last word: the line with whoever writes it, placed as the network's custom is. Nothing where the line
    speaks of a member and a rule writes."""
    named = {"initials": initials, "first name": name and name.split()[0]}
    if any(named[part] is None for part in _PLACEHOLDER.findall(line)):
        return ""
    said = _PLACEHOLDER.sub(lambda found: str(named[found[1]]), line).strip()
    return f"{chr(10) if abilities.sign_off_apart else ' '}{said}" if said else ""


def get_obstacle(
    abilities: Abilities,
    *,
    public: bool,
    conversation_public: bool,
    last_inbound_at: datetime,
    now: datetime,
    has_public_reply: bool = False,
) -> str | None:
    """Why this mode cannot be used on this conversation, as a sentence; None when it can."""
    if public:
        if not conversation_public:
            return "This conversation is private; a public reply would have nothing to stand under."
        if not abilities.public_reply:
            return f"{abilities.name} has no public replies."
        if abilities.one_public_reply and has_public_reply:
            return f"{abilities.name} takes one public reply; this one has been answered."
        return None
    if not abilities.private_reply:
        return f"{abilities.name} has no private messages."
    if conversation_public and not abilities.private_reply_to_public:
        return f"{abilities.name} does not let a page start a private conversation; they have to write first."
    hours = abilities.private_reply_to_public_hours if conversation_public else abilities.reply_window_hours
    if hours is not None and now - last_inbound_at > timedelta(hours=hours):
        return f"{abilities.name} takes replies for {hours} hours after their last message; that time has passed."
    return None


def get_sender_obstacle(*, public: bool, same_network: bool) -> str | None:
    """Why another account cannot answer here, as a sentence; None when it can."""
    if not same_network:
        return "Only an account on the same network can answer there."
    if not public:
        return "A private message goes out from the account that they wrote to."
    return None


def say_disconnected(name: str, network: str) -> str:
    """Why an account that was disconnected says nothing any more."""
    return f"{name} on {network} is disconnected: nothing goes out by it until it is connected again."


def prepare_reply(
    abilities: Abilities, text: str, handle: str, *, public: bool, sign_off: str = "", has_files: bool = False
) -> str:
    """The text as it goes out, handle in front where wanted, closed by `sign_off` unless it ends so already.

    Files may go without a word. Raises Invalid when nothing is said otherwise or it is too long, Impossible never: see
    `get_obstacle`.
    """
    said = text.strip()
    front = get_front(abilities, handle, public=public)
    mark = front.strip()
    if front and f"{said} ".casefold().startswith(f"{mark} ".casefold()):
        said = said[len(mark) :].lstrip()
    if sign_off and f"\n{said}".endswith((sign_off, f"\n{sign_off.strip()}")):
        said = said[: -len(sign_off.strip())].rstrip()
    if not (said or has_files):
        raise Invalid("Write something first.", "text")
    body = front + said + sign_off if said else (mark + sign_off).strip()
    length = count_graphemes(body)
    if length > abilities.length_limit:
        raise Invalid(f"Too long for {abilities.name}: {length} of {abilities.length_limit} characters.", "text")
    return body


def check_mode(obstacle: str | None) -> None:
    """Raise Impossible with the reason."""
    if obstacle is not None:
        raise Impossible(obstacle)


def list_unseen(events: Iterable[Event], seen_seq: int, member_id: int) -> tuple[int, ...]:
    """Numbers of the events after `seen_seq` that an author must see before answering.

    What the author did is known to the author, and an undone act did not happen. Raises Invalid for a number that there is
    not yet: whoever names it would be held back by nothing that comes.
    """
    trail = list(events)
    if trail and seen_seq > trail[-1].seq:
        raise Invalid("Nobody can have seen that much of this conversation yet. Look at it again.", "seen_seq")
    later = [e for e in trail if e.seq > seen_seq]
    undone = list_undone(later)
    return tuple(e.seq for e in later if type(e.what) in _WORDS and e.seq not in undone and e.member_id != member_id)


def list_against_ending(
    events: Iterable[Event], seen_seq: int, member_id: int, how: SettledAs | None
) -> tuple[Event, ...]:
    """What happened after `seen_seq` that speaks against ending it so without another look.

    `how` it is to be settled, None to park it. Settling as answered over a fresh answer is what one means; parking is
    only held up by what they wrote, for it would hide that.
    """
    trail = list(events)
    unseen = set(list_unseen(trail, seen_seq, member_id))
    news = tuple(e for e in trail if e.seq in unseen)
    if how is None:
        return tuple(e for e in news if isinstance(e.what, Arrived | Edited))
    if how is SettledAs.ANSWERED:
        return tuple(e for e in news if not isinstance(e.what, _ANSWERS))
    return news


def say_news(events: Iterable[Event]) -> str:
    """What happened meanwhile, each kind once, as the middle of a sentence."""
    return ", ".join(dict.fromkeys(_WORDS[type(e.what)] for e in events))
