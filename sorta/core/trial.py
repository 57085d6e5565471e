"""Trying rules on the past: what would have come out, with the rules as they are and with a change (docs/trade.md 6).

Nothing is done; the same `decide` and the same limits of automatic answers run over messages in their order of
arrival. What members did by hand in those days is left aside: both columns say what rules alone would have done.
Used by services.trials.
"""

from collections import Counter, deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta

from sorta.core.deciding import (
    ANSWERS_MINUTES,
    PERSON_HOURS,
    AnswersSoFar,
    Heard,
    Match,
    decide,
    get_answer_obstacle,
    meets,
)
from sorta.core.events import Evidence
from sorta.core.not_done import NotDone
from sorta.core.reading import Sureness
from sorta.core.rules import (
    Action,
    AddTags,
    AnswerWith,
    AskConsent,
    BringBack,
    GiveTo,
    HandItOver,
    HideIt,
    LetWatch,
    LikeIt,
    ParkIt,
    Rule,
    SetPriority,
    SettleIt,
    TellMembers,
    put_sureness,
)

#: So many messages are listed that a rule meets or that come out differently; what is beyond them is counted.
MOST_LISTED = 5000


@dataclass
class Outcome:
    """How often each thing would have come out, by its name (`list_names`), and which rules would have stopped answering."""

    counts: Counter[str] = field(default_factory=Counter)
    stopped: set[int] = field(default_factory=set)


@dataclass(frozen=True, kw_only=True)
class TrialExample:
    """One message that the rule in question meets, or for which something else comes out: what comes that did not
    (`comes`), and what does not come any more (`goes`). `evidence` is empty when the rule does not meet it."""

    message: int
    matched: bool
    evidence: tuple[Evidence, ...] = ()
    comes: tuple[str, ...] = ()
    goes: tuple[str, ...] = ()

    @property
    def differs(self) -> bool:
        """Whether anything comes out differently."""
        return bool(self.comes or self.goes)


@dataclass
class Answers:
    """The limits of automatic answers, kept as the messages pass by."""

    conversations: set[int] = field(default_factory=set)
    people: dict[int, datetime] = field(default_factory=dict)
    lately: dict[int, deque[datetime]] = field(default_factory=dict)

    def ask(self, rule: int, heard: Heard) -> str | None:
        """Why no answer may go out now, or None: then it is counted."""
        # An instant: between two wall times of one zone an hour can be missing, or be there twice.
        at = heard.at.astimezone(UTC)
        times = self.lately.setdefault(rule, deque())
        while times and at - times[0] > timedelta(minutes=ANSWERS_MINUTES):
            times.popleft()
        last = self.people.get(heard.person)
        so_far = AnswersSoFar(
            in_conversation=int(heard.conversation in self.conversations),
            to_person=int(last is not None and at - last < timedelta(hours=PERSON_HOURS)),
            by_rule=len(times),
            is_blocked=heard.blocked,
        )
        obstacle = get_answer_obstacle(heard, so_far)
        if obstacle is None:
            self.conversations.add(heard.conversation)
            self.people[heard.person] = at
            times.append(at)
        return obstacle


def list_names(action: Action) -> Iterator[str]:
    """The names of what an effect brings about, with all that tells one from another."""
    match action:
        case SetPriority():
            yield f"priority:{int(action.priority)}"
        case GiveTo():
            yield f"team:{action.team}" if action.team is not None else f"member:{action.member}"
        case HideIt():
            yield "hidden"
        case LikeIt():
            yield "liked"
        case AnswerWith():
            how = "offered" if action.offer else "answered" if action.answers else "acknowledged"
            yield f"{how}:text:{action.text}" if action.saved is None else f"{how}:saved:{action.saved}"
        case SettleIt():
            yield f"settled:{action.how}"
        case ParkIt():
            yield f"parked:{action.choice.value}"
        case HandItOver():
            yield f"handed_over:{action.desk}"
        case AddTags():
            yield from (f"{'person_tag' if action.person else 'tag'}:{tag}" for tag in action.tags)
        case LetWatch():
            yield from (f"watch:{member}" for member in action.members)
        case TellMembers():
            yield from (f"alert:{member}" for member in action.members)
        case AskConsent():
            yield "consent"
        case BringBack():
            yield "brought_back"


class Trial:
    """Takes messages in order of arrival; holds what came of them so far."""

    def __init__(
        self, before: Sequence[Rule], after: Sequence[Rule], rule: int, *, most_listed: int = MOST_LISTED
    ) -> None:
        """`rule` is the one in question, 0 where there is none of them."""
        self._before, self._after, self._rule, self._most_listed = list(before), list(after), rule, most_listed
        self._limits_before, self._limits_after = Answers(), Answers()
        self.before, self.after = Outcome(), Outcome()
        self.messages = 0
        self.matched = 0
        self.differing = 0
        self.unlisted = 0
        self.by_day: Counter[date] = Counter()
        self.matched_by_day: Counter[date] = Counter()
        self.lost_to: Counter[tuple[str, int]] = Counter()
        self.answers = 0
        self.examples: list[TrialExample] = []
        #: How many messages would meet the rule's conditions at each level of sureness; none when it asks for no reading.
        whens = {
            level: put_sureness(r.body.when, level, over=True) for r in after if r.id == rule for level in Sureness
        }
        self._whens = whens if len(set(whens.values())) > 1 else {}
        self.by_level = dict.fromkeys(self._whens, 0)

    def take(self, heards: Iterable[Heard]) -> None:
        """Some more messages."""
        for heard in heards:
            self.messages += 1
            self.by_day[heard.at.date()] += 1
            was, _ = self._run(self._before, heard, self._limits_before, self.before)
            now, matches = self._run(self._after, heard, self._limits_after, self.after)
            mine = next((m for m in matches if m.rule.id == self._rule), None)
            for level, when in self._whens.items():
                self.by_level[level] += meets(when, heard) is not None
            if mine is not None or was != now:
                self._keep(heard, mine, comes=tuple(sorted(now - was)), goes=tuple(sorted(was - now)))

    def _run(
        self, rules: list[Rule], heard: Heard, limits: Answers, outcome: Outcome
    ) -> tuple[frozenset[str], tuple[Match, ...]]:
        matches = decide(rules, heard)
        came: set[str] = set()
        for match in matches:
            for action in match.effects:
                if (
                    isinstance(action, AnswerWith)
                    and not action.offer
                    and not self._may_answer(match, heard, limits, outcome)
                ):
                    continue
                came.update(list_names(action))
        outcome.counts.update(came)
        return frozenset(came), matches

    def _may_answer(self, match: Match, heard: Heard, limits: Answers, outcome: Outcome) -> bool:
        rule = match.rule.id
        if rule in outcome.stopped:
            return False
        obstacle = limits.ask(rule, heard)
        if obstacle is NotDone.STORM:
            outcome.stopped.add(rule)
        if obstacle is None and outcome is self.after and rule == self._rule:
            self.answers += 1
        return obstacle is None

    def _keep(self, heard: Heard, mine: Match | None, *, comes: tuple[str, ...], goes: tuple[str, ...]) -> None:
        if mine is not None:
            self.matched += 1
            self.matched_by_day[heard.at.date()] += 1
            for lost in mine.lost:
                if lost.to is not None:
                    self.lost_to[lost.action.type, lost.to.id] += 1
        self.differing += bool(comes or goes)
        if len(self.examples) == self._most_listed:
            self.unlisted += 1
            return
        evidence = () if mine is None else mine.evidence
        self.examples.append(
            TrialExample(message=heard.message, matched=mine is not None, evidence=evidence, comes=comes, goes=goes)
        )
