"""Trying rules on the past: what would have come out, with the rules as they are and with a change (PRODUCT.md 6).

Nothing is done; the same `decide` and the same limits of automatic answers run over messages in their order of
arrival. What members did by hand in those days is left aside: both columns say what rules alone would have done.
Used by services.trials.
"""

from collections import Counter, deque
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

from sorta.core.deciding import (
    ANSWERS_MINUTES,
    PERSON_HOURS,
    AnswersSoFar,
    Evidence,
    Heard,
    Match,
    decide,
    get_answer_obstacle,
)
from sorta.core.rules import (
    Action,
    AddTags,
    AnswerWith,
    GiveTo,
    HandItOver,
    HideIt,
    LikeIt,
    Rule,
    SetPriority,
    SettleIt,
)

MOST_EXAMPLES = 40


@dataclass
class Outcome:
    """How often each thing would have come out, by its name: 'priority:3', 'team:4', 'hidden', 'answered', ..."""

    counts: Counter[str] = field(default_factory=Counter)
    switched_off: set[int] = field(default_factory=set)


@dataclass(frozen=True, kw_only=True)
class Example:
    """One message that the rule in question meets; `won` are the effects it would have, `lost` those it would not."""

    message: int
    evidence: tuple[Evidence, ...]
    won: tuple[str, ...]
    lost: tuple[tuple[str, int | None], ...]
    differs: bool


@dataclass
class Answers:
    """The limits of automatic answers, kept as the messages pass by."""

    conversations: set[tuple[int, int]] = field(default_factory=set)
    people: dict[int, datetime] = field(default_factory=dict)
    lately: dict[int, deque[datetime]] = field(default_factory=dict)

    def ask(self, rule: int, heard: Heard) -> str | None:
        """Why no answer may go out now, or None: then it is counted."""
        times = self.lately.setdefault(rule, deque())
        while times and heard.at - times[0] > timedelta(minutes=ANSWERS_MINUTES):
            times.popleft()
        last = self.people.get(heard.person)
        so_far = AnswersSoFar(
            in_conversation=int((rule, heard.conversation) in self.conversations),
            to_person=int(last is not None and heard.at - last < timedelta(hours=PERSON_HOURS)),
            by_rule=len(times),
        )
        obstacle = get_answer_obstacle(heard, so_far)
        if obstacle is None:
            self.conversations.add((rule, heard.conversation))
            self.people[heard.person] = heard.at
            times.append(heard.at)
        return obstacle


def name_effect(action: Action) -> str | None:
    """The name an effect is counted under; None for what is not counted."""
    match action:
        case SetPriority():
            return f"priority:{int(action.priority)}"
        case GiveTo():
            return f"team:{action.team}" if action.team is not None else f"member:{action.member}"
        case HideIt():
            return "hidden"
        case LikeIt():
            return "liked"
        case AnswerWith():
            return "answered"
        case SettleIt():
            return "settled"
        case HandItOver():
            return "handed_over"
        case AddTags(person=False):
            return "tagged"
        case _:
            return None


class Trial:
    """Takes messages in order of arrival; holds what came of them so far."""

    def __init__(self, before: Sequence[Rule], after: Sequence[Rule], rule: int) -> None:
        self._before, self._after, self._rule = list(before), list(after), rule
        self._limits_before, self._limits_after = Answers(), Answers()
        self.before, self.after = Outcome(), Outcome()
        self.messages = 0
        self.matched = 0
        self.by_day: Counter[date] = Counter()
        self.matched_by_day: Counter[date] = Counter()
        self.lost_to: Counter[tuple[str, int]] = Counter()
        self.answers = 0
        self.examples: list[Example] = []

    def take(self, heards: Iterable[Heard]) -> None:
        """Some more messages."""
        for heard in heards:
            self.messages += 1
            self.by_day[heard.at.date()] += 1
            was = self._run(self._before, heard, self._limits_before, self.before)
            now = self._run(self._after, heard, self._limits_after, self.after)
            mine = next((m for m in now[1] if m.rule.id == self._rule), None)
            if mine is not None:
                self._keep(heard, mine, differs=was[0] != now[0])

    def _run(
        self, rules: list[Rule], heard: Heard, limits: Answers, outcome: Outcome
    ) -> tuple[frozenset[str], tuple[Match, ...]]:
        active = [rule for rule in rules if rule.id not in outcome.switched_off]
        matches = decide(active, heard)
        came: set[str] = set()
        for match in matches:
            for action in match.effects:
                name = name_effect(action)
                if name is None:
                    continue
                if isinstance(action, AnswerWith):
                    obstacle = limits.ask(match.rule.id, heard)
                    if obstacle == "storm":
                        outcome.switched_off.add(match.rule.id)
                    if obstacle is not None:
                        continue
                    if outcome is self.after and match.rule.id == self._rule:
                        self.answers += 1
                came.add(name)
        outcome.counts.update(came)
        return frozenset(came), matches

    def _keep(self, heard: Heard, mine: Match, *, differs: bool) -> None:
        self.matched += 1
        self.matched_by_day[heard.at.date()] += 1
        for lost in mine.lost:
            if lost.to is not None:
                self.lost_to[lost.action.type, lost.to.id] += 1
        if len(self.examples) < MOST_EXAMPLES:
            won = tuple(n for n in map(name_effect, mine.effects) if n is not None)
            lost_names = tuple((e.action.type, e.to.id if e.to else None) for e in mine.lost)
            self.examples.append(
                Example(message=heard.message, evidence=mine.evidence, won=won, lost=lost_names, differs=differs)
            )
