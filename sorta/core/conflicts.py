"""What can be said of rules without any message: one that never acts, two that contradict each other (docs/trade.md 6).

Decided by core.meeting: what is said here is so, up to what facts have to do with each other in life. Used by
services.rules, when rules are listed and written.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from sorta.core.meeting import Formula, Table, all_of, none_of
from sorta.core.rules import (
    ANY_LANGUAGE,
    NEVER_WITH,
    ONE_VALUED,
    PLACING,
    Action,
    AnswerWith,
    Condition,
    LanguageIs,
    Rule,
    StopHere,
    get_name,
)


@dataclass(frozen=True, kw_only=True)
class RuleWarning:
    """One thing to know about a rule. `kind`: never, stopped, shadowed, disagrees; `other` is the rule it is about, none when
    all it does is to answer in a language that its messages are not in."""

    rule: int
    kind: str
    other: int | None = None
    what: str | None = None


def implies(a: Condition, b: Condition) -> bool:
    """Whether every message that meets `a` surely meets `b`."""
    table = Table.of((a, b))
    return not table.is_possible(all_of((table.read(a), none_of((table.read(b),)))))


def is_impossible(when: Condition) -> bool:
    """Whether surely no message meets it."""
    table = Table.of((when,))
    return not table.is_possible(table.read(when))


def list_warnings(rules: Sequence[Rule], only: int | None = None) -> list[RuleWarning]:
    """What to know about a set of rules, those that are switched on, top to bottom; `only` about one of them."""
    on = [rule for rule in rules if rule.on]
    looking = _Looking(on)
    found: list[RuleWarning] = []
    for at in range(len(on)):
        if only in (None, on[at].id):
            found += looking.look(at)
    return found


def _stops(rule: Rule) -> bool:
    return any(isinstance(action, StopHere) for action in rule.body.then)


def _takes(mine: Action, theirs: Action) -> bool:
    """Whether one action, when it comes first, leaves nothing to the other."""
    return (mine.type in ONE_VALUED and mine.type == theirs.type) or {mine.type, theirs.type} <= PLACING


def _get_spoken(action: Action) -> LanguageIs | None:
    """The language in which alone an action is up for doing; none when any will do."""
    if not isinstance(action, AnswerWith) or action.language is None or action.language == ANY_LANGUAGE:
        return None
    return LanguageIs(languages=(action.language,))


@dataclass(frozen=True, kw_only=True)
class _Taker:
    """What of another rule leaves nothing to an action, and for which messages."""

    rule: int
    action: Action
    when: Formula


class _Looking:
    """Looks at the rules of one table, each among those above it."""

    def __init__(self, rules: Sequence[Rule]) -> None:
        self._rules = rules
        spoken = (_get_spoken(action) for rule in rules for action in rule.body.then)
        self._table = Table.of([*(rule.body.when for rule in rules), *(one for one in spoken if one is not None)])
        self._when = [self._table.read(rule.body.when) for rule in rules]

    def _may(self, *formulas: Formula) -> bool:
        return self._table.is_possible(all_of(formulas))

    def _reads(self, at: int, action: Action) -> Formula:
        """When a rule's action is up for doing: an answer only where its language is spoken."""
        spoken = _get_spoken(action)
        return self._when[at] if spoken is None else all_of((self._when[at], self._table.read(spoken)))

    def look(self, at: int) -> list[RuleWarning]:
        """What to know about one rule."""
        rule = self._rules[at]
        if not self._may(self._when[at]):
            return [RuleWarning(rule=rule.id, kind="never")]
        stopping = [n for n in range(at) if _stops(self._rules[n])]
        reached = all_of((self._when[at], none_of(self._when[n] for n in stopping)))
        if not self._may(reached):
            return [RuleWarning(rule=rule.id, kind="stopped", other=self._rules[self._name_one(at, stopping)].id)]
        return self._find_lost(at, reached) or self._list_disagreements(at, reached)

    def _name_one(self, at: int, above: Sequence[int]) -> int:
        """Of the rules above that do it together, the one to name: one that does it alone, else the first that takes part."""
        for n in above:
            if not self._may(self._when[at], none_of((self._when[n],))):
                return n
        return next((n for n in above if self._may(self._when[at], self._when[n])), above[0])

    def _find_lost(self, at: int, reached: Formula) -> list[RuleWarning]:
        """Whether all that a rule does has surely been decided above it."""
        rule = self._rules[at]
        mine = [a for a in rule.body.then if not isinstance(a, StopHere)]
        takers = {id(a): [*self._list_takers(at, a), *self._list_barring(at, a)] for a in mine}
        if not mine or any(not (takers[id(a)] or isinstance(a, AnswerWith)) for a in mine):
            return []
        others: dict[int, None] = {}
        for action in mine:
            asked = all_of((reached, self._reads(at, action)))
            if self._may(asked, none_of(one.when for one in takers[id(action)])):
                return []
            others |= {one.rule: None for one in takers[id(action)] if self._may(asked, one.when)}
        other = self._rules[self._name_one(at, list(others))].id if others else None
        return [RuleWarning(rule=rule.id, kind="shadowed", other=other)]

    def _list_takers(self, at: int, action: Action) -> list[_Taker]:
        """The actions above that leave nothing to this one."""
        return [
            _Taker(rule=n, action=a, when=self._reads(n, a))
            for n in range(at)
            for a in self._rules[n].body.then
            if _takes(a, action)
        ]

    def _list_barring(self, at: int, action: Action) -> list[_Taker]:
        """What keeps this one from happening wherever it stands, when it comes to pass: hiding and settling as junk."""
        found = []
        for n, rule in enumerate(self._rules):
            for theirs in rule.body.then:
                if action.type not in NEVER_WITH.get(get_name(theirs), frozenset()):
                    continue
                between = (self._when[m] for m in range(at, n) if _stops(self._rules[m]))
                before = (one.when for one in self._list_takers(n, theirs))
                when = all_of((self._when[n], none_of(between), none_of(before)))
                found.append(_Taker(rule=n, action=theirs, when=when))
        return found

    def _list_disagreements(self, at: int, reached: Formula) -> list[RuleWarning]:
        """Where a rule above surely decides the same thing otherwise for some message that meets both."""
        rule = self._rules[at]
        found = []
        for action in rule.body.then:
            takers = self._list_takers(at, action)
            for place, one in enumerate(takers):
                if one.action == action:
                    continue
                before = none_of(other.when for other in takers[:place] if other.rule < one.rule)
                if self._may(reached, self._reads(at, action), one.when, before):
                    other_id = self._rules[one.rule].id
                    found.append(RuleWarning(rule=rule.id, kind="disagrees", other=other_id, what=action.type))
        return found
