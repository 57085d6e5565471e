"""When two records are one person, and what of a message says so. Used by ingest and services.profiles.

A suggestion is only that: a member decides. It rests on the same name, the same mail address or the same
customer number, written by them or saved by the team (docs/trade.md 9).
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import regex

from sorta.core.errors import Invalid
from sorta.core.words import fold

#: An address as people type it: RFC 5322's dot-atom, with the domain's labels as RFC 1035 has them.
_MAIL = re.compile(
    r"(?<![\w.+-])([A-Za-z0-9!#$%&'*+/=?^_`{|}~-]+(?:\.[A-Za-z0-9!#$%&'*+/=?^_`{|}~-]+)*)"
    r"@((?:[A-Za-z0-9](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?\.)+[A-Za-z]{2,63})(?![\w-])"
)
#: One to three letters, a dash, three to ten digits: common practice for customer numbers, no source. Standards are numbered so too.
_NUMBER = re.compile(r"(?<![\w-])(?!(?i:ISO|IEC|DIN|EN|BS|RFC|ITU|UTC|GMT)-)([A-Za-z]{1,3})-(\d{3,10})(?![\w-])")
LONGEST_FACT = 2000


#: Facts of which one person can well have several that have nothing to do with each other.
_SEVERAL = frozenset({"note"})


def list_conflicting(facts: Iterable[tuple[str, str]]) -> frozenset[str]:
    """The names of facts, as they are written, that stand there with two values: mostly of two records that were joined. Written
    alike but for case, accents, width and space they are the same."""
    values: dict[str, set[str]] = {}
    names: dict[str, set[str]] = {}
    for name, value in facts:
        key = " ".join(fold(name).split())
        values.setdefault(key, set()).add(" ".join(fold(value).split()))
        names.setdefault(key, set()).add(name)
    return frozenset(
        name for key, written in names.items() if len(values[key]) > 1 and key not in _SEVERAL for name in written
    )


@dataclass(frozen=True, kw_only=True)
class Mark:
    """Something that belongs to one person only: a mail address (lower case) or a customer number (upper case)."""

    kind: Literal["mail", "number"]
    value: str


@dataclass(frozen=True, kw_only=True)
class JoinCandidate:
    """Another record, and what it shares with the one looked at."""

    person_id: int
    name: str
    shared: tuple[Mark, ...] = ()


@dataclass(frozen=True, kw_only=True)
class JoinSuggestion:
    """Somebody who may be the same person, with the reasons, strongest first."""

    person_id: int
    name: str
    reasons: tuple[str, ...]


def find_marks(text: str) -> tuple[Mark, ...]:
    """The marks in a text, each once, in the order they stand there."""
    found = [(m.start(), Mark(kind="mail", value=m[0].lower())) for m in _MAIL.finditer(text)]
    bare = _MAIL.sub(lambda m: " " * len(m[0]), text)
    found += [(m.start(), Mark(kind="number", value=m[0].upper())) for m in _NUMBER.finditer(bare)]
    return tuple(dict.fromkeys(mark for _, mark in sorted(found, key=lambda f: f[0])))


def fold_name(name: str) -> str:
    """A name folded as words are, without spare spaces, for telling whether two are the same."""
    return " ".join(fold(name).split())


def suggest(name: str, candidates: Iterable[JoinCandidate]) -> Sequence[JoinSuggestion]:
    """Who of the candidates may be the person of this name, strongest first; without a reason nobody is named."""
    found = []
    for one in candidates:
        reasons = [f"same mail {m.value}" for m in one.shared if m.kind == "mail"]
        reasons += [f"same customer number {m.value}" for m in one.shared if m.kind == "number"]
        if fold_name(one.name) == fold_name(name):
            reasons.append("same name")
        if reasons:
            found.append(JoinSuggestion(person_id=one.person_id, name=one.name, reasons=tuple(reasons)))
    return sorted(found, key=lambda s: (-len(s.reasons), s.reasons[-1:] == ("same name",), s.person_id))


def check_fact(name: str, value: str) -> tuple[str, str]:
    """A fact's name and value without spare spaces. Raises Invalid."""
    said, text = " ".join(name.split()), value.strip()
    if not 1 <= len(said) <= 40:
        raise Invalid("Say in 1 to 40 characters what it is, such as 'Customer number'.", "name")
    if not 1 <= len(text) <= LONGEST_FACT:
        raise Invalid(f"A fact has 1 to {LONGEST_FACT} characters.", "value")
    return said, text


#: Letters with their marks, joined within as people join them.
_FIRST_NAME = regex.compile(r"\p{L}[\p{L}\p{M}\u200c\u200d]*(?:[-'’‑·][\p{L}][\p{L}\p{M}\u200c\u200d]*)*")
#: Where the family's name comes first, and nobody is greeted by half of theirs.
_FAMILY_FIRST = regex.compile(r"[\p{Han}\p{Hiragana}\p{Katakana}\p{Hangul}ー々\s·]{2,20}")


def get_first_name(name: str) -> str:
    """The name to greet somebody with; nothing where what a network calls a name is a handle or an initial."""
    whole = " ".join(name.split())
    if _FAMILY_FIRST.fullmatch(whole):
        return whole
    first = whole.split(" ")[0].rstrip(",")
    letters = regex.sub(r"[^\p{L}]", "", first)
    if len(letters) < 2 or not _FIRST_NAME.fullmatch(first) or first[0] != first[0].title():
        return ""
    return first


#: What somebody is called whose things were erased.
ERASED = "Erased person"


def make_pattern(handles: Iterable[str]) -> str | None:
    """A regular expression, as PostgreSQL has them (its handbook, 9.7.3), that finds what addresses somebody by one of their handles:
    behind an at sign, or a mail address as it is. Not part of a longer handle. None where there is nothing to find by."""
    parts = []
    for handle in sorted({h.lstrip("@") for h in handles}):
        said = re.sub(r"(\W)", r"\\\1", handle)
        if "@" in handle:
            parts.append(rf"(?<![\w.+-]){said}(?![\w-]|\.\w)")
        elif len(handle) > 1:
            parts.append(rf"@{said}(?!\w|[.-]\w)")
    return "|".join(parts) or None
