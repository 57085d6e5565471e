"""Saved replies and the placeholders of texts that go out. Used by services.texts and services.ruling.

Placeholders are `{first name}`, `{account}` and `{link:name}`, where the name is one of the workspace's kept links. What is
said instead when one is not known can stand behind a bar: `{first name|there}`; without it the sentence closes over it.
"""

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace

from sorta.core.errors import Invalid
from sorta.core.exact import Exact

_PLACEHOLDER = re.compile(r"\{([^{}\n|]{0,80})(?:\|([^{}\n|]{0,80}))?\}")
_FILL = re.compile(r"(,?[ \u00a0]?)" + _PLACEHOLDER.pattern + r"([,!:]?[ \u00a0]?)")
#: Marks that the next letter begins a sentence; no text holds it.
_BEGIN = "\x00"
_SHORTCUT = re.compile(r"[^\W_]+(?:-[^\W_]+)*")
_NAME_OF_LINK = re.compile(r"[a-z0-9]+(?:-[a-z0-9]+)*")
LONGEST_NAME = 80
LONGEST_TEXT = 2000
LONGEST_SHORTCUT = 24


@dataclass(frozen=True, kw_only=True)
class SavedReplyBody(Exact):
    """A saved reply as somebody writes it. No accounts and no groups: for all of them; no language: for any."""

    name: str
    text: str
    accounts: tuple[int, ...] = ()
    groups: tuple[int, ...] = ()
    language: str | None = None
    #: What is typed after '/' to have it; empty for none.
    shortcut: str = ""


@dataclass(frozen=True, kw_only=True)
class Placeholders:
    """What can be filled into a text that goes out; `links` are addresses by the names they are kept under."""

    first_name: str
    account: str
    links: Mapping[str, str] = field(default_factory=dict)


def list_links(text: str) -> tuple[str, ...]:
    """The names of kept links that a text asks for, each once."""
    found = (m[1].strip() for m in _PLACEHOLDER.finditer(text))
    return tuple(dict.fromkeys(f[5:].strip() for f in found if f.startswith("link:")))


def check_placeholders(text: str, links: Collection[str] | None, field: str) -> None:
    """Raise Invalid for a placeholder that nothing will ever fill; `links` None leaves their names unchecked."""
    for found in _PLACEHOLDER.finditer(text):
        what = found[1].strip()
        if what in ("first name", "account"):
            continue
        if not what.startswith("link:"):
            raise Invalid(
                f"‘{found[0]}’ is filled by nothing. There are {{first name}}, {{account}} and {{link:name}}.", field
            )
        if links is not None and what[5:].strip() not in links:
            raise Invalid(f"No link is kept under the name ‘{what[5:].strip()}’. Add it under Links first.", field)


def check_link_name(name: str) -> str:
    """The name a link is kept under, tidied. Raises Invalid."""
    plain = name.strip().lower()
    if not (_NAME_OF_LINK.fullmatch(plain) and len(plain) <= 40):
        raise Invalid("A link's name has up to 40 small letters, digits and dashes.", "name")
    return plain


def check_saved_reply(body: SavedReplyBody, links: Collection[str]) -> SavedReplyBody:
    """The saved reply as it is kept. Raises Invalid with the field that is wrong."""
    name = " ".join(body.name.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        raise Invalid(f"A saved reply has a name of 1 to {LONGEST_NAME} characters.", "name")
    text = body.text.strip()
    if not 1 <= len(text) <= LONGEST_TEXT:
        raise Invalid(f"A saved reply has 1 to {LONGEST_TEXT} characters.", "text")
    check_placeholders(text, links, "text")
    shortcut = body.shortcut.strip().lstrip("/").lower()
    if shortcut and not (_SHORTCUT.fullmatch(shortcut) and len(shortcut) <= LONGEST_SHORTCUT):
        raise Invalid(f"A shortcut has up to {LONGEST_SHORTCUT} letters, digits and dashes, and no spaces.", "shortcut")
    return replace(body, name=name, text=text, shortcut=shortcut)


def fits(body: SavedReplyBody, *, account: int, groups: Collection[int], language: str | None) -> bool:
    """Whether a saved reply is for an account and for somebody who writes in a language (None: not known)."""
    for_account = (
        (not body.accounts and not body.groups) or account in body.accounts or bool(set(body.groups) & set(groups))
    )
    return for_account and (body.language is None or language is None or body.language == language)


def fill_in(text: str, values: Placeholders) -> str:
    """A text with its placeholders filled. What is not known is said by what stands behind its bar, or else the sentence closes
    over it: 'Thank you, {first name}.' is 'Thank you.', '{first name}, look:' is 'Look:'."""

    def fill(found: re.Match[str]) -> str:
        before, what, neutral, after = found[1], found[2].strip(), found[3], found[4]
        known = _get_value(what, values)
        if known is None:
            return found[0]
        if known or neutral:
            return f"{before}{known or (neutral or '').strip()}{after}"
        if not before and (found.start() == 0 or text[found.start() - 1] == "\n"):
            return _BEGIN
        if before.startswith(","):
            is_closed = bool(after.strip()) or text[found.end() : found.end() + 1] in ("", *".!?;:)…\n")
            return after if is_closed else before
        return after

    parts = _FILL.sub(fill, text).split(_BEGIN)
    return parts[0] + "".join(part[:1].upper() + part[1:] for part in parts[1:])


def _get_value(what: str, values: Placeholders) -> str | None:
    """What a placeholder stands for: nothing where it is not known, None where there is no such placeholder."""
    if what.startswith("link:"):
        return values.links.get(what[5:].strip(), "")
    return {"first name": values.first_name, "account": values.account}.get(what)


def without_placeholders(text: str) -> str:
    """The words of a text that are its own."""
    return _PLACEHOLDER.sub(" ", text)


def list_unfilled(text: str) -> tuple[str, ...]:
    """What stands in braces as if something would be filled in there, each once."""
    return tuple(dict.fromkeys(found[0] for found in _PLACEHOLDER.finditer(text) if found[1].strip()))


def fill_typed(text: str, values: Placeholders) -> str:
    """A text that somebody typed, its placeholders filled. Raises Invalid for what nothing fills: it never goes out so."""
    wrong = [
        one for one in list_unfilled(text) if not (_get_value(one[1:-1].split("|")[0].strip(), values) or "|" in one)
    ]
    if wrong:
        raise Invalid(
            f"Nothing can be filled in for {', '.join(wrong)}. Write it out, or take the braces away.", "text"
        )
    return fill_in(text, values)


def is_use(saved: str, said: str) -> bool:
    """Whether what went out is still the saved reply: at least half of its words are in it."""
    wanted = set(re.findall(r"\w+", _PLACEHOLDER.sub(" ", saved).casefold()))
    return bool(wanted) and 2 * len(wanted & set(re.findall(r"\w+", said.casefold()))) >= len(wanted)
