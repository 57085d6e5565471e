"""Whether any message can meet some conditions and not others: decided exactly, on conditions made abstract (docs/trade.md 6).

What conditions ask of a message is a handful of facts: its kind, the words in it, how its sentiment lies, ... For any set
of conditions each fact has finitely many values that make a difference: the kinds; for sentiment the bounds that are named
and what lies between them; a word there or not. Over these a formula is true, false or open, and an open one is split in two
on one fact, until it is decided (the procedure of Davis, Logemann and Loveland, 1962; from memory). A budget bounds the work:
what is not decided within it is said to be possible, so that nobody is warned of what is not so. Used by core.conflicts.

Facts are taken as independent of each other, but for words: 'cut on' is not there without 'cut'.
"""

import itertools
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any, TypeAlias

from sorta.core.deciding import is_in_window
from sorta.core.ports import Kind
from sorta.core.reading import LEVELS, Sureness
from sorta.core.rules import (
    AccountIs,
    Anything,
    BareMention,
    Carries,
    Condition,
    Conditions,
    FirstContact,
    FirstMessage,
    HasWords,
    HoursAre,
    KindIs,
    LanguageIs,
    NetworkIs,
    NobodyAnswered,
    OnAd,
    PersonHasTag,
    PostIs,
    RatingIs,
    ReachIs,
    ReadsAsOneOf,
    SentimentIs,
    StandingIs,
    WindowIs,
)  # fmt: skip
from sorta.core.words import find_first, fold, fold_text

Fact: TypeAlias = tuple[str, Any]
#: A fact and the values, as bits, for which it holds.
_Atom: TypeAlias = tuple[Fact, int]


@dataclass(frozen=True)
class Formula:
    """What is asked of a message. `kind`: atom, all, any, not, yes, no."""

    kind: str
    atom: _Atom | None = None
    parts: "tuple[Formula, ...]" = ()


YES, NO = Formula("yes"), Formula("no")
#: A Monday, so that minutes of a week can be looked at as times.
_MONDAY = datetime(2024, 1, 1, tzinfo=UTC)
_YES_NO = (False, True)
#: So many splits for one question, and for all questions that are put to one table.
BUDGET = 4_000
WHOLE_BUDGET = 400_000


def all_of(parts: Iterable[Formula]) -> Formula:
    """All of these hold."""
    return Formula("all", parts=tuple(parts))


def any_of(parts: Iterable[Formula]) -> Formula:
    """Any of these holds."""
    return Formula("any", parts=tuple(parts))


def none_of(parts: Iterable[Formula]) -> Formula:
    """None of these holds."""
    return Formula("not", parts=(any_of(parts),))


@dataclass
class Table:
    """The facts that some conditions ask for, each with the values that make a difference between them."""

    _values: dict[Fact, list[Any]] = field(default_factory=dict)
    _sure: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = field(default_factory=dict)
    _left: int = WHOLE_BUDGET
    _spare: int = 0

    @classmethod
    def of(cls, conditions: Iterable[Condition]) -> "Table":
        """The table of these conditions; formulas of others cannot be read by it."""
        table = cls()
        asked: dict[Fact, set[Any]] = {}
        for condition in conditions:
            for fact, points in _list_asked(condition):
                asked.setdefault(fact, set()).update(points)
        table._values = {fact: _list_values(fact, points) for fact, points in asked.items()}
        words = sorted(what for kind, what in table._values if kind == "word")
        follows = {a: [b for b in words if b != a and _holds_too(a, b)] for a in words}
        table._sure = {a: (tuple(follows[a]), tuple(b for b in words if a in follows[b])) for a in words}
        return table

    def read(self, condition: Condition) -> Formula:
        """A condition as a formula over this table."""
        match condition:
            case Conditions():
                parts = tuple(self.read(part) for part in condition.parts)
                if not parts:
                    return NO
                return {"all": all_of, "any": any_of, "none": none_of}[condition.of](parts)
            case Anything():
                return YES
            case HasWords():
                found = [self._is(("word", word)) for word in _fold_all(condition.words)]
                return {"all": all_of, "any": any_of, "none": none_of}[condition.mode](found)
            case BareMention():
                few = self._atom(("characters", None), lambda v: v <= condition.at_most)
                bad = none_of(self._is(("word", word)) for word in _fold_all(condition.none_of))
                return all_of((self._is(("mention", None)), few, bad))
            case AccountIs():
                accounts = self._atom(("account", None), lambda v: v in condition.accounts)
                return any_of((accounts, *(self._is(("group", g)) for g in condition.groups)))
            case PersonHasTag():
                return any_of(self._is(("person_tag", tag)) for tag in condition.tags)
            case HoursAre():
                return self._atom(("open", None), lambda v: v is condition.inside)
            case WindowIs():
                return self._atom(("minute", None), lambda v: is_in_window(condition, _MONDAY + timedelta(minutes=v)))
            case NobodyAnswered():
                return self._atom(("answered", None), lambda v: not v)
            case SentimentIs():
                low = -1.0 if condition.at_least is None else condition.at_least
                high = 1.0 if condition.at_most is None else condition.at_most
                lies = self._atom(("sentiment", None), lambda v: v is not None and low <= v <= high)
                level = _get_level(condition)
                return all_of((lies, self._atom(("sentiment_chance", None), lambda v: v >= level)))
            case ReadsAsOneOf():
                level = _get_level(condition)
                return any_of(self._atom(("reads_as", label), lambda v: v >= level) for label in condition.reads_as)
            case RatingIs():
                return self._atom(("rating", None), lambda v: v is not None and v <= condition.at_most)
            case ReachIs() | StandingIs():
                return self._atom((condition.type, None), lambda v: v is not None and v >= condition.at_least)
        fact, wanted = _get_plain(condition)
        return self._atom(fact, lambda v: v in wanted)

    def _atom(self, fact: Fact, holds: Callable[[Any], bool]) -> Formula:
        bits = sum(1 << n for n, value in enumerate(self._values[fact]) if holds(value))
        return Formula("atom", atom=(fact, bits))

    def _is(self, fact: Fact) -> Formula:
        return self._atom(fact, bool)

    def is_possible(self, formula: Formula) -> bool:
        """Whether some message meets it; also when that cannot be decided within the budget."""
        self._spare = min(BUDGET, self._left)
        given = self._spare
        found = self._search(formula, {})
        self._left -= given - self._spare
        return found

    def _search(self, formula: Formula, known: dict[Fact, int]) -> bool:
        formula = self._simplify(formula, known)
        if formula.kind in ("yes", "no"):
            return formula.kind == "yes"
        if self._spare <= 0:
            return True
        self._spare -= 1
        fact, bits = _find_atom(formula)
        mine = known.get(fact, self._whole(fact))
        return any(self._search(formula, self._know(known, fact, part)) for part in (mine & bits, mine & ~bits))

    def _whole(self, fact: Fact) -> int:
        return (1 << len(self._values[fact])) - 1

    def _know(self, known: dict[Fact, int], fact: Fact, bits: int) -> dict[Fact, int]:
        """What is known besides: a word that is there brings those it holds along, one that is not keeps others away."""
        made = {**known, fact: bits}
        if fact[0] == "word":
            brings, needs = self._sure[fact[1]]
            is_there = bits == 0b10
            for other in brings if is_there else needs:
                made["word", other] = 0b10 if is_there else 0b01
        return made

    def _simplify(self, formula: Formula, known: dict[Fact, int]) -> Formula:
        match formula.kind:
            case "atom":
                assert formula.atom is not None
                fact, bits = formula.atom
                mine = known.get(fact, self._whole(fact))
                return YES if mine & ~bits == 0 else NO if mine & bits == 0 else formula
            case "all" | "any":
                ends, goes_on = (NO, YES) if formula.kind == "all" else (YES, NO)
                left = []
                for part in formula.parts:
                    simple = self._simplify(part, known)
                    if simple is ends:
                        return ends
                    if simple is not goes_on:
                        left.append(simple)
                return Formula(formula.kind, parts=tuple(left)) if left else goes_on
            case "not":
                simple = self._simplify(formula.parts[0], known)
                return NO if simple is YES else YES if simple is NO else Formula("not", parts=(simple,))
        return formula


def _find_atom(formula: Formula) -> _Atom:
    while formula.atom is None:
        formula = formula.parts[0]
    return formula.atom


def _get_plain(condition: Condition) -> tuple[Fact, Sequence[Any]]:
    """The fact a plain condition asks for, and the values it wants."""
    match condition:
        case KindIs():
            return ("kind", None), condition.kinds
        case NetworkIs():
            return ("network", None), condition.networks
        case LanguageIs():
            return ("language", None), condition.languages
        case Carries():
            return (condition.what, None), (True,)
        case FirstContact():
            return ("first_contact", None), (True,)
        case FirstMessage():
            return ("first_message", None), (True,)
        case PostIs():
            return ("post", None), (condition.post,)
        case OnAd():
            return ("ad", None), (True,)
    raise AssertionError(f"{condition!r} asks for nothing known")


def _get_level(condition: ReadsAsOneOf | SentimentIs) -> float:
    return LEVELS[condition.sureness or Sureness.LIKELY]


def _fold_all(words: Iterable[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(fold(word) for word in words))


def _list_asked(condition: Condition) -> Iterable[tuple[Fact, Iterable[Any]]]:
    """The facts a condition asks for, each with the values, or bounds, that it names."""
    match condition:
        case Conditions():
            for part in condition.parts:
                yield from _list_asked(part)
        case Anything():
            return
        case HasWords():
            yield from ((("word", word), _YES_NO) for word in _fold_all(condition.words))
        case BareMention():
            yield from ((("word", word), _YES_NO) for word in _fold_all(condition.none_of))
            yield ("mention", None), _YES_NO
            yield ("characters", None), (condition.at_most,)
        case AccountIs():
            yield ("account", None), condition.accounts
            yield from ((("group", group), _YES_NO) for group in condition.groups)
        case PersonHasTag():
            yield from ((("person_tag", tag), _YES_NO) for tag in condition.tags)
        case HoursAre():
            yield ("open", None), _YES_NO
        case NobodyAnswered():
            yield ("answered", None), _YES_NO
        case WindowIs():
            days = {0, *(day * 1440 for day in range(7))}
            ends = {day * 1440 + at for day in range(7) for at in (condition.starts, condition.ends)}
            yield ("minute", None), {at % (7 * 1440) for at in days | ends}
        case SentimentIs():
            yield ("sentiment", None), [b for b in (condition.at_least, condition.at_most) if b is not None]
            yield ("sentiment_chance", None), (_get_level(condition),)
        case ReadsAsOneOf():
            yield from ((("reads_as", label), (_get_level(condition),)) for label in condition.reads_as)
        case RatingIs():
            yield ("rating", None), range(1, 6)
        case ReachIs() | StandingIs():
            yield (condition.type, None), (condition.at_least,)
        case _:
            fact, wanted = _get_plain(condition)
            yield fact, wanted


def _list_values(fact: Fact, points: set[Any]) -> list[Any]:
    """The values of a fact that make a difference, where these are named."""
    match fact[0]:
        case "kind":
            return list(Kind)
        case "reads_as" | "sentiment_chance":
            return [0.0, *sorted(points)]
        case "network" | "language" | "account" | "post":
            return [None, *sorted(points)]
        case "sentiment":
            ordered = sorted({-1.0, 1.0, *(float(p) for p in points)})
            between = [(a + b) / 2 for a, b in itertools.pairwise(ordered)]
            return [None, *ordered, *between]
        case "reach" | "standing":
            return [None, *sorted({0, *points})]
        case "rating":
            return [None, *sorted(points)]
        case "characters":
            return sorted({0, *points, *(p + 1 for p in points)})
        case "minute":
            return sorted(points)
    return list(_YES_NO)


#: Letters that no word of a rule goes on with: what a prefix finds, whatever it is.
_ANY_END = "qzxvq"


def _holds_too(a: str, b: str) -> bool:
    """Whether every text in which one word, phrase or prefix is found holds the other too."""
    return find_first(b, fold_text(f"{a[:-1]}{_ANY_END}" if a.endswith("*") else a)) is not None
