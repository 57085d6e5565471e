"""What one writes to find something, and how messages are made ready to be found by it. Used by services.filters, services.desk and services.trail.

A small language: words (all of them), "a phrase", -not, prefix*. Folding is that of core.words, which rules and listening use too: case, accents and width do not matter, and what stands
between letters does not either, so that B-2207, 48-1930 and @marek.rask are found as they are written, and 2207 by itself. Where a script has no spaces, each sign is a word and what one writes a phrase of
them, so that parts of words are found.

The store keeps what is made of a message as PostgreSQL's tsvector, and searches it by a tsquery; both are written here, so that no other parser has a say.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from difflib import SequenceMatcher, get_close_matches
from functools import lru_cache

import regex

from sorta.core.words import Folded, fold_text, is_unspaced

#: Characters of what one writes, and terms in it.
LONGEST, MOST = 300, 20
#: Of a tsvector (PostgreSQL's manual, 12.11): characters of a word, the last position, and bytes of all of it, with room to spare.
_LONGEST_WORD, _LAST, _LARGEST = 300, 16_383, 700_000
#: A minus before a word or phrase, a phrase in quotes (also one whose end is still to come), or what stands between spaces.
_TERM = regex.compile(
    r'(?P<not>(?<!\S)[-−](?=[\p{L}\p{N}@#"“„«]))?(?:["“„«](?P<phrase>[^"“”„«»]*)["“”»]?|(?P<word>[^\s"“”„«»]+))'
)
#: Around what was found, so many characters are shown.
_BEFORE, _AROUND = 40, 160


@dataclass(frozen=True, kw_only=True)
class Term:
    """One thing that has to stand in a message, or must not: its words one after the other, the last of which may go on."""

    words: tuple[str, ...]
    is_prefix: bool = False
    is_not: bool = False


def part(text: str) -> Iterator[str]:
    """The folded words of a text; of a script without spaces its signs."""
    for word in fold_text(text).words:
        if is_unspaced(word):
            yield from regex.findall(r"\X", word)
        else:
            yield word[:_LONGEST_WORD]


@lru_cache(maxsize=2048)
def read_search(said: str, *, typing: bool = True) -> tuple[Term, ...]:
    """The terms of what one writes; with `typing` its last word may go on. What has neither letters nor digits says nothing."""
    terms = []
    text = said[:LONGEST]
    for found in _TERM.finditer(text):
        phrase, word = found["phrase"], found["word"]
        words = tuple(part(phrase if phrase is not None else word))
        if not words:
            continue
        is_last = typing and found.end() == len(text) and word is not None
        terms.append(
            Term(
                words=words,
                is_prefix=word is not None and (word.endswith("*") or is_last),
                is_not=found["not"] is not None,
            )
        )
    return tuple(terms[:MOST])


def finds_something(terms: tuple[Term, ...]) -> bool:
    """Whether anything is asked for: what only must not stand somewhere is everything else."""
    return any(not term.is_not for term in terms)


def matches(terms: tuple[Term, ...], text: str) -> bool:
    """Whether all the terms hold of a text, as they do of what the store finds by `write_query`."""
    folded = fold_text(text)
    return all((next(_find(term, folded), None) is None) == term.is_not for term in terms)


def can_match(terms: tuple[Term, ...]) -> bool:
    """Whether any text at all can have what is asked for: none has what must be there and must not."""
    forbidden = [replace(term, is_not=False) for term in terms if term.is_not]
    asked = [" ".join(term.words) for term in terms if not term.is_not]
    return bool(asked) and not any(matches((no,), text) for no in forbidden for text in asked)


def list_whole_words(said: str, *, beginnings: bool) -> list[str]:
    """The words, as they are written, that have to stand in what is found: what a network is asked for that knows no more than words. A
    word that may go on is left out unless the network finds words by their beginning."""
    words: list[str] = []
    for found in _TERM.finditer(said[:LONGEST]):
        written = found["phrase"] if found["phrase"] is not None else found["word"]
        if found["not"] is not None:
            continue
        goes_on = found["word"] is not None and written.endswith("*")
        parts = [word for word in written.rstrip("*").split() if any(part(word))]
        words += parts if beginnings or not goes_on else parts[:-1]
    return list(dict.fromkeys(word.lower() for word in words))


def _quote(word: str) -> str:
    return "'" + word.replace("\\", "\\\\").replace("'", "''") + "'"


def write_query(terms: tuple[Term, ...]) -> str:
    """The terms as a tsquery."""
    parts = []
    for term in terms:
        phrase = " <-> ".join(_quote(word) for word in term.words) + (":*" if term.is_prefix else "")
        parts.append(("!" if term.is_not else "") + (f"({phrase})" if len(term.words) > 1 else phrase))
    return " & ".join(parts)


def list_asked(terms: tuple[Term, ...]) -> list[str]:
    """The words that have to stand in a message, with a star at the end of one that may go on: by which it is seen whether they are common."""
    return [
        word + ("*" if term.is_prefix and at == len(term.words) - 1 else "")
        for term in terms
        if not term.is_not
        for at, word in enumerate(term.words)
    ]


def write_vector(text: str) -> str:
    """What a message is found by, as a tsvector: its words with where they stand."""
    places: dict[str, list[int]] = {}
    size = 0
    for at, word in enumerate(part(text), 1):
        if word not in places:
            size += len(word.encode()) + 8
        # What is longer than any message people write is found by its beginning.
        if size > _LARGEST:
            break
        found = places.setdefault(word, [])
        if len(found) < 250:
            found.append(min(at, _LAST))
            size += 2
    return " ".join(f"{_quote(word)}:{','.join(map(str, at))}" for word, at in places.items())


@dataclass(frozen=True, kw_only=True)
class Excerpt:
    """A piece of a message around what was found, and from where to where each find stands in it."""

    text: str
    marks: tuple[tuple[int, int], ...]


def excerpt(text: str, terms: tuple[Term, ...]) -> Excerpt:
    """The piece of a message that shows why it was found."""
    folded = fold_text(text)
    spans = sorted({span for term in terms if not term.is_not for span in _find(term, folded)})
    first = spans[0][0] if spans else 0
    begins = max(0, first - _BEFORE) if first > _BEFORE else 0
    if begins:
        # At a word's beginning, where one is near.
        near = text.find(" ", begins, first)
        begins = begins if near < 0 else near + 1
    ends = min(len(text), begins + _AROUND)
    lead, tail = ("… " if begins else ""), (" …" if ends < len(text) else "")
    shift = len(lead) - begins
    marks = tuple((a + shift, b + shift) for a, b in spans if begins <= a and b <= ends)
    return Excerpt(text=f"{lead}{text[begins:ends]}{tail}", marks=marks)


def _find(term: Term, text: Folded) -> Iterator[tuple[int, int]]:
    """Where a term stands in a text, from which character to which."""
    words, spans = [], []
    for word, (begins, ends) in zip(text.words, text.spans, strict=True):
        if is_unspaced(word):
            # Signs as they are written: folding changes their width at most.
            for sign in regex.finditer(r"\X", text.text[begins:ends]):
                words.append(word[sign.start() : sign.end()])
                spans.append((begins + sign.start(), begins + sign.end()))
        else:
            words.append(word)
            spans.append((begins, ends))
    wanted = len(term.words)
    for at in range(len(words) - wanted + 1):
        last = at + wanted - 1
        if words[at:last] != list(term.words[:-1]):
            continue
        is_found = words[last].startswith(term.words[-1]) if term.is_prefix else words[last] == term.words[-1]
        if is_found:
            yield spans[at][0], spans[last][1]


#: Of a word as long as this a letter may be wrong; of shorter ones too many others are near. Common practice, no source.
_SHORTEST_MEANT = 4
#: Who writes more than this has copied it from somewhere.
_MOST_MEANT = 6
#: How alike two words have to be, as difflib counts it: twice the letters they share, by all they have. 0.75 is one wrong letter of four.
_ALIKE = 0.75


def suggest(terms: tuple[Term, ...], known: Mapping[str, int]) -> str | None:
    """What somebody who found nothing may have meant, written as one would search for it: each word that stands nowhere, by the likest of
    those that do, the most used of several that are as like. `known` is how often each folded word stands somewhere. None where there is
    nothing like it, or nothing to better."""
    meant: dict[str, str] = {}
    if len(terms) > _MOST_MEANT:
        return None
    for term in terms:
        for at, word in enumerate(term.words):
            may_go_on = term.is_prefix and at == len(term.words) - 1
            if term.is_not or word in known or len(word) < _SHORTEST_MEANT or word in meant:
                continue
            if may_go_on and any(one.startswith(word) for one in known):
                continue
            near = [one for one in known if abs(len(one) - len(word)) <= 2]
            found = get_close_matches(word, near, n=5, cutoff=_ALIKE)
            if not found:
                return None
            likest = SequenceMatcher(None, word, found[0]).ratio()
            as_like = [one for one in found if SequenceMatcher(None, word, one).ratio() == likest]
            meant[word] = max(as_like, key=lambda one: (known[one], one))
    if not meant:
        return None
    # The last word may go on by itself, as it does while one writes.
    return " ".join(_write_term(term, meant, is_last=at == len(terms)) for at, term in enumerate(terms, 1))


def _write_term(term: Term, meant: Mapping[str, str], *, is_last: bool) -> str:
    words = " ".join(meant.get(word, word) for word in term.words)
    front = "-" if term.is_not else ""
    if len(term.words) > 1:
        return f'{front}"{words}"'
    return front + words + ("*" if term.is_prefix and words == term.words[0] and not is_last else "")
