"""Names and handles that somebody chose to deceive (UAX #9, UTS #39). Used by the adapters, the sheet and the clock.

A name is shown on one line among others' words: what turns the direction of writing, or cannot be seen, is taken out of it. A handle that
looks like one we know, and is not, is named for what it is; so is a word in it whose letters are borrowed from several scripts to look
like one. What looks like what is Unicode's table (UTS #39, section 4), as package confusable_homoglyphs carries it.
"""

import json
import unicodedata
from collections import defaultdict
from collections.abc import Iterable, Mapping
from functools import cache
from importlib.resources import files

import regex

#: Controls, and what is not seen (Default_Ignorable_Code_Point), but where it joins: in emoji, and between the letters of scripts that are
#: written with joiners (UAX #31, section 2.3).
_JOINED = r"\p{Arabic}\p{Syriac}\p{Mongolian}\p{Devanagari}\p{Bengali}\p{Gurmukhi}\p{Gujarati}\p{Oriya}\p{Tamil}\p{Telugu}\p{Kannada}\p{Malayalam}\p{Sinhala}\p{Khmer}"
_UNSEEN = regex.compile(
    r"(?<=\p{Extended_Pictographic}|\p{Emoji_Modifier}|\ufe0f)\u200d(?=\p{Extended_Pictographic})(*SKIP)(*FAIL)"
    r"|(?<=\p{Emoji})\ufe0f(*SKIP)(*FAIL)"
    r"|(?<=\U0001F3F4[\U000E0020-\U000E007F]*)[\U000E0020-\U000E007F](*SKIP)(*FAIL)"
    rf"|(?<=[{_JOINED}]\p{{M}}*)[\u200c\u200d](?=[{_JOINED}])(*SKIP)(*FAIL)"
    r"|[\p{Cc}\p{Default_Ignorable_Code_Point}\u2028\u2029\ufff9-\ufffb]+"
)
_INVISIBLE = regex.compile(r"[\p{Default_Ignorable_Code_Point}\p{Cc}]")
LONGEST_NAME = 200

_SCRIPTS = ("Latin", "Cyrillic", "Greek", "Armenian", "Cherokee", "Georgian", "Hebrew", "Arabic", "Thai", "Devanagari", "Han", "Hiragana", "Katakana", "Hangul", "Bopomofo")  # fmt: skip
_SCRIPT_OF = {name: regex.compile(rf"\p{{Script={name}}}") for name in _SCRIPTS}
#: Scripts that are written together (UTS #39, section 5.1): Japanese, Korean, Chinese, each also with Latin.
_TOGETHER = (
    frozenset({"Latin", "Han", "Hiragana", "Katakana"}),
    frozenset({"Latin", "Han", "Hangul"}),
    frozenset({"Latin", "Han", "Bopomofo"}),
)
_LETTERS = regex.compile(r"[\p{L}\p{M}]+")
_PARTING = regex.compile(r"[\s._\-·@]+")
#: Of so few characters too much looks like something else.
_SHORTEST = 4
#: The prototypes of a few are made of characters that have one themselves.
_STEPS = 3
#: Two letters that run together into one; common practice, no source.
_RUN_TOGETHER = (("vv", "w"), ("cl", "d"))


def clean_name(name: str) -> str:
    """A name or handle as it can stand among others: on one line, nothing unseen in it, at most 200 characters."""
    return " ".join(_UNSEEN.sub(" ", name[: LONGEST_NAME * 5]).split())[:LONGEST_NAME]


@cache
def _get_prototypes() -> Mapping[str, str]:
    """What each confusable character looks like: the prototype of its class."""
    table = json.loads(files("confusable_homoglyphs").joinpath("confusables.json").read_text(encoding="utf-8"))
    pairs: dict[str, list[str]] = defaultdict(list)
    for source, targets in table.items():
        pairs[_without_marks(source)] += (_without_marks(one["c"]) for one in targets)
    # The table names the pairs in both directions; a class is a star, and what most are paired with is its prototype.
    found: dict[str, str] = {}
    for source, (target, *more) in pairs.items():
        # What falls apart is looked up in its parts.
        if more or len(source) != 1 or unicodedata.normalize("NFD", source) != source:
            continue
        parts = unicodedata.normalize("NFD", target)
        if len(pairs.get(target, ())) > 1 or len(parts) > 1 or source > target:
            found[source] = parts
    return found


def _without_marks(text: str) -> str:
    return text.replace("\u200e", "")


def get_skeleton(text: str) -> str:
    """What a text looks like: two texts of one skeleton can be taken for each other (UTS #39, section 4, without its bidirectional
    part)."""
    prototypes = _get_prototypes()
    plain = _INVISIBLE.sub("", unicodedata.normalize("NFD", text))
    for _ in range(_STEPS):
        plain = unicodedata.normalize("NFD", "".join(prototypes.get(c, c) for c in plain))
    return plain


def get_look(handle: str) -> str:
    """What a handle looks like to somebody who reads it quickly: by its skeleton in either case, without what parts its words, an i
    for an l, a zero for an o."""
    plain = unicodedata.normalize("NFKC", _PARTING.sub("", handle))
    look = get_skeleton(get_skeleton(plain).casefold())
    for two, one in _RUN_TOGETHER:
        look = look.replace(two, get_skeleton(one))
    return look.casefold().replace("i", "l").replace("0", "o")


def list_scripts(text: str) -> tuple[str, ...]:
    """The scripts that letters of the text belong to, of those that are told apart here."""
    return tuple(name for name, pattern in _SCRIPT_OF.items() if pattern.search(text))


@cache
def _get_looked_like() -> Mapping[str, frozenset[str]]:
    """By prototype: the scripts that have a letter which looks so."""
    found: dict[str, set[str]] = defaultdict(set)
    for source, prototype in _get_prototypes().items():
        found[prototype].update(list_scripts(source), list_scripts(prototype) if len(prototype) == 1 else ())
    return {prototype: frozenset(scripts) for prototype, scripts in found.items()}


def find_borrowed(handle: str) -> tuple[str, ...]:
    """The scripts that a word of the handle mixes though all of it could be read in one of them (UTS #39: a mixed-script
    confusable); none for most, also where words of different scripts stand side by side."""
    for word in _LETTERS.findall(unicodedata.normalize("NFC", handle)):
        scripts = list_scripts(word)
        if len(scripts) < 2 or any(set(scripts) <= allowed for allowed in _TOGETHER):
            continue
        readable = [_list_readable(c) for c in word if unicodedata.category(c)[0] == "L"]
        if frozenset.intersection(*readable):
            return scripts
    return ()


def _list_readable(letter: str) -> frozenset[str]:
    """The scripts that a letter can be read in, in either case."""
    found = set(list_scripts(letter))
    for one in {letter, letter.upper(), letter.lower()}:
        found |= _get_looked_like().get(get_skeleton(one), frozenset())
    return frozenset(found)


def find_caution(handle: str, ours: Iterable[str] = (), known: Iterable[tuple[str, str]] = ()) -> str | None:
    """What to be careful of with a handle, as a sentence; None for most.

    `ours` are the handles of our own accounts, `known` others with whose they are.
    """
    plain, look = handle.lstrip("@"), get_look(handle)
    own = [one.lstrip("@") for one in ours]
    if plain.casefold() in {one.casefold() for one in own}:
        return "The handle is written like one of ours."
    if len(look) >= _SHORTEST:
        # Somebody else's is often written with other dots on another network, and is still theirs; ours are all known.
        others = [*((one, "ours") for one in own), *(pair for pair in known if _plain(pair[0]) != _plain(plain))]
        for other, whose in others:
            if get_look(other) == look:
                return f"The handle looks like {other.lstrip('@')}, which is {whose}, and is another."
    if scripts := find_borrowed(handle):
        return f"The handle mixes {' and '.join(scripts)} letters, which may look like another's."
    return None


def _plain(handle: str) -> str:
    """A handle without what one network writes otherwise than another."""
    return _PARTING.sub("", handle).casefold()


def prepare() -> None:
    """Read the table of look-alikes, which takes a moment, so that the first handle need not."""
    _get_looked_like()
