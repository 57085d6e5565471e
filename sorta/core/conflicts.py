"""What can be said of rules without any message: one that never acts, two that contradict each other (PRODUCT.md 6).

`implies` is sound and not complete: where it says yes, every message that meets the one meets the other; it may miss
some. Used by services.rules, when rules are listed and tried.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

from sorta.core.rules import (
    ONE_VALUED,
    AccountIs,
    BareMention,
    Condition,
    Conditions,
    HasWords,
    HoursAre,
    KindIs,
    LanguageIs,
    NetworkIs,
    PersonTagged,
    RatingIs,
    ReachIs,
    ReadsAsOneOf,
    Rule,
    SentimentIs,
    StandingIs,
    StopHere,
    WindowIs,
)  # fmt: skip
from sorta.core.words import fold


@dataclass(frozen=True, kw_only=True)
class Warning:
    """One thing to know about a rule. `kind`: never, stopped, shadowed, disagrees; `other` is the rule it is about."""

    rule: int
    kind: str
    other: int | None = None
    what: str | None = None


def implies(a: Condition, b: Condition) -> bool:
    """Whether every message that meets `a` surely meets `b`."""
    if a == b:
        return True
    if isinstance(b, Conditions):
        return _implies_group(a, b)
    if isinstance(a, Conditions):
        if a.of == "all":
            return any(implies(part, b) for part in a.parts)
        return a.of == "any" and bool(a.parts) and all(implies(part, b) for part in a.parts)
    return _implies_plain(a, b)


def _implies_group(a: Condition, b: Conditions) -> bool:
    match b.of:
        case "all":
            return all(implies(a, part) for part in b.parts)
        case "any":
            if isinstance(a, Conditions) and a.of == "any" and a.parts:
                return all(implies(part, b) for part in a.parts)
            return any(implies(a, part) for part in b.parts)
        case "none":
            if isinstance(a, Conditions) and a.of == "none":
                return all(any(implies(mine, hers) for hers in a.parts) for mine in b.parts)
            return isinstance(a, Conditions) and a.of == "all" and any(_implies_group(part, b) for part in a.parts)


def _words(words: Sequence[str]) -> set[str]:
    return {fold(w) for w in words}


def _implies_plain(a: Condition, b: Condition) -> bool:
    match a, b:
        case KindIs(), KindIs():
            return set(a.kinds) <= set(b.kinds)
        case NetworkIs(), NetworkIs():
            return set(a.networks) <= set(b.networks)
        case AccountIs(), AccountIs():
            return set(a.accounts) <= set(b.accounts) and set(a.groups) <= set(b.groups)
        case LanguageIs(), LanguageIs():
            return set(a.languages) <= set(b.languages)
        case ReadsAsOneOf(), ReadsAsOneOf():
            return set(a.reads_as) <= set(b.reads_as)
        case PersonTagged(), PersonTagged():
            return set(a.tags) <= set(b.tags)
        case HasWords(), HasWords():
            return _implies_words(a, b)
        case BareMention(), BareMention():
            return a.at_most <= b.at_most and _words(b.none_of) <= _words(a.none_of)
        case SentimentIs(), SentimentIs():
            low = b.at_least is None or (a.at_least is not None and a.at_least >= b.at_least)
            return low and (b.at_most is None or (a.at_most is not None and a.at_most <= b.at_most))
        case RatingIs(), RatingIs():
            return a.at_most <= b.at_most
        case ReachIs(), ReachIs():
            return a.at_least >= b.at_least
        case StandingIs(), StandingIs():
            return a.at_least >= b.at_least
        case WindowIs(), WindowIs():
            plain = a.starts < a.ends and b.starts < b.ends
            return plain and set(a.days) <= set(b.days) and b.starts <= a.starts and a.ends <= b.ends
    return False


def _implies_words(a: HasWords, b: HasWords) -> bool:
    mine, hers = _words(a.words), _words(b.words)
    match a.mode, b.mode:
        case "any", "any":
            return mine <= hers
        case "all", "all":
            return hers <= mine
        case "all", "any":
            return bool(mine & hers)
        case "none", "none":
            return hers <= mine
    return len(mine) == 1 and a.mode == "any" and b.mode == "all" and mine == hers


def excludes(a: Condition, b: Condition) -> bool:
    """Whether no message can meet both, as far as can be seen."""
    match a, b:
        case KindIs(), KindIs():
            return set(a.kinds).isdisjoint(b.kinds)
        case NetworkIs(), NetworkIs():
            return set(a.networks).isdisjoint(b.networks)
        case AccountIs(), AccountIs():
            return not (a.groups or b.groups) and set(a.accounts).isdisjoint(b.accounts)
        case LanguageIs(), LanguageIs():
            return set(a.languages).isdisjoint(b.languages)
        case ReadsAsOneOf(), ReadsAsOneOf():
            return set(a.reads_as).isdisjoint(b.reads_as)
        case HoursAre(), HoursAre():
            return a.inside != b.inside
        case SentimentIs(), SentimentIs():
            return _lower(a) > _upper(b) or _lower(b) > _upper(a)
        case HasWords(), HasWords():
            return _words_exclude(a, b) or _words_exclude(b, a)
    return False


def _words_exclude(a: HasWords, b: HasWords) -> bool:
    if b.mode != "none":
        return False
    mine, hers = _words(a.words), _words(b.words)
    return (a.mode == "any" and mine <= hers) or (a.mode == "all" and bool(mine & hers))


def _lower(when: SentimentIs) -> float:
    return -1 if when.at_least is None else when.at_least


def _upper(when: SentimentIs) -> float:
    return 1 if when.at_most is None else when.at_most


def is_impossible(when: Conditions) -> bool:
    """Whether a group can never hold: two of its parts exclude each other."""
    if when.of == "none":
        return False
    inner = [p for p in when.parts if isinstance(p, Conditions) and is_impossible(p)]
    if when.of == "any":
        return bool(when.parts) and len(inner) == len(when.parts)
    return bool(inner) or any(excludes(a, b) for a, b in combinations(_flatten(when), 2))


def _flatten(when: Conditions) -> list[Condition]:
    """The conditions that all must hold, those of inner groups of all among them."""
    flat: list[Condition] = []
    for part in when.parts:
        flat += _flatten(part) if isinstance(part, Conditions) and part.of == "all" else [part]
    return flat


def list_warnings(rules: Sequence[Rule]) -> list[Warning]:
    """What to know about a set of rules, those that are switched on, top to bottom."""
    found: list[Warning] = []
    on = [rule for rule in rules if rule.on]
    for at, rule in enumerate(on):
        if is_impossible(rule.body.when):
            found.append(Warning(rule=rule.id, kind="never"))
            continue
        above = [other for other in on[:at] if implies(rule.body.when, other.body.when)]
        stopping = next((o for o in above if any(isinstance(a, StopHere) for a in o.body.then)), None)
        if stopping is not None:
            found.append(Warning(rule=rule.id, kind="stopped", other=stopping.id))
            continue
        won = {
            action.type: other.id
            for other in reversed(above)
            for action in other.body.then
            if action.type in ONE_VALUED
        }
        lost = [a for a in rule.body.then if a.type in won]
        if lost and len(lost) == len([a for a in rule.body.then if not isinstance(a, StopHere)]):
            found.append(Warning(rule=rule.id, kind="shadowed", other=won[lost[0].type]))
            continue
        found += _list_disagreements(rule, on[:at])
    return found


def _list_disagreements(rule: Rule, above: Sequence[Rule]) -> list[Warning]:
    """Where a rule above decides the same thing otherwise for messages that meet both."""
    found = []
    for other in above:
        if not (implies(rule.body.when, other.body.when) or implies(other.body.when, rule.body.when)):
            continue
        theirs = {a.type: a for a in other.body.then if a.type in ONE_VALUED}
        for action in rule.body.then:
            if action.type in theirs and theirs[action.type] != action:
                found.append(Warning(rule=rule.id, kind="disagrees", other=other.id, what=action.type))
    return found
