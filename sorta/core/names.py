"""Names and handles that somebody chose to deceive (UAX #9, UTS #39). Used by the adapters and the sheet.

A name is shown on one line among others' words: what turns the direction of writing, or cannot be seen, is taken out of it.
A handle that mixes scripts, as Latin with Cyrillic letters that look the same, is named for what it is.
"""

from collections.abc import Iterable

import regex

#: Controls; the marks, embeddings, overrides and isolates of UAX #9; what has no width and joins nothing. The joiner of
#: emoji and of some scripts stays.
_UNSEEN = regex.compile(r"[\p{Cc}\u061c\u200b\u200e\u200f\u202a-\u202e\u2060\u2066-\u2069\ufeff]+")
_SCRIPTS = {
    name: regex.compile(rf"\p{{Script={name}}}")
    for name in (
        "Latin", "Cyrillic", "Greek", "Armenian", "Hebrew", "Arabic", "Cherokee", "Georgian", "Han", "Hiragana", "Katakana",
        "Hangul", "Bopomofo", "Thai", "Devanagari",
    )
}  # fmt: skip
#: Scripts that are written together (UTS #39, section 5.1): Japanese, Korean, Chinese, each also with Latin.
_TOGETHER = (
    frozenset({"Latin", "Han", "Hiragana", "Katakana"}),
    frozenset({"Latin", "Han", "Hangul"}),
    frozenset({"Latin", "Han", "Bopomofo"}),
)
LONGEST_NAME = 200


def clean_name(name: str) -> str:
    """A name or handle as it can stand among others: on one line, nothing unseen in it, at most 200 characters."""
    return " ".join(_UNSEEN.sub(" ", name).split())[:LONGEST_NAME]


def list_scripts(text: str) -> tuple[str, ...]:
    """The scripts that letters of the text belong to, of those that are told apart here."""
    return tuple(name for name, pattern in _SCRIPTS.items() if pattern.search(text))


def find_caution(handle: str, ours: Iterable[str] = ()) -> str | None:
    """What to be careful of with a handle, as a sentence; None for most. `ours` are the handles of our own accounts."""
    scripts = list_scripts(handle)
    if len(scripts) > 1 and not any(set(scripts) <= allowed for allowed in _TOGETHER):
        return f"The handle mixes {' and '.join(scripts)} letters, which may look like another's."
    plain = handle.lstrip("@").casefold()
    if plain in {own.lstrip("@").casefold() for own in ours}:
        return "The handle is written like one of ours."
    return None
