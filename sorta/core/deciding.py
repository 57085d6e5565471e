"""Reading the rules on a message: which it meets, why, and what comes out (docs/trade.md 6).

`decide` runs the rules top to bottom on one message and says so as values; services.rules does it. Used by services
and core.trial.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import TypeAlias

from sorta.core.events import Evidence
from sorta.core.not_done import NotDone
from sorta.core.ports import Kind
from sorta.core.reading import LEVELS, ReadsAs, Sureness
from sorta.core.rules import (
    ANY_LANGUAGE,
    NEVER_WITH,
    ONE_VALUED,
    PLACING,
    AccountIs,
    Action,
    AddTags,
    AnswerWith,
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
    Rule,
    RuleRef,
    SentimentIs,
    StandingIs,
    StopHere,
    WindowIs,
    get_name,
)  # fmt: skip
from sorta.core.words import Folded, find_all, find_first


@dataclass(frozen=True, kw_only=True)
class Heard:
    """One inbound message with what is known about it when the rules are read.

    `chances` are those of what it reads as, `sentiment_chance` that of its tone. `other_characters` are its letters and digits beside handles. `at` is the arrival on the wall clock of the workspace;
    `automatic` says that a program wrote it; `answered` that one of us has answered in its conversation, here or outside.
    """

    message: int
    conversation: int
    person: int
    kind: Kind
    network: str
    account: int
    text: Folded
    at: datetime
    is_open: bool
    groups: frozenset[int] = frozenset()
    mentions_other: bool = False
    other_characters: int = 0
    language: str | None = None
    sentiment: float | None = None
    sentiment_chance: float = 0.0
    chances: Mapping[ReadsAs, float] = field(default_factory=dict)
    reading_words: Mapping[ReadsAs, tuple[str, ...]] = field(default_factory=dict)
    sentiment_words: tuple[str, ...] = ()
    rating: int | None = None
    has_link: bool = False
    has_attachment: bool = False
    person_tags: frozenset[int] = frozenset()
    reach: int | None = None
    standing: int | None = None
    first_contact: bool = False
    first_message: bool = False
    answered: bool = False
    blocked: bool = False
    post: int | None = None
    on_ad: bool = False
    automatic: bool = False


_Found: TypeAlias = tuple[Evidence, ...] | None


def meets(when: Condition, heard: Heard) -> tuple[Evidence, ...] | None:
    """The evidence that a condition holds for a message; None when it does not."""
    check: Callable[[Condition, Heard], _Found] = _CHECKS[type(when)]
    return check(when, heard)


def _yes(holds: bool, kind: str, value: object = None, words: tuple[str, ...] = ()) -> _Found:
    if not holds:
        return None
    return (Evidence(type=kind, words=words, value=None if value is None else str(value)),)


def _check_words(when: HasWords, heard: Heard) -> _Found:
    if when.mode == "all":
        found = tuple(find_first(w, heard.text) for w in when.words)
        return None if None in found else _yes(True, "words", words=tuple(f for f in found if f))
    matched = find_all(when.words, heard.text)
    if when.mode == "none":
        return _yes(not matched, "words", value="none of them")
    return _yes(bool(matched), "words", words=matched)


def _check_bare(when: BareMention, heard: Heard) -> _Found:
    bare = heard.mentions_other and heard.other_characters <= when.at_most and not find_all(when.none_of, heard.text)
    return _yes(bare, "bare_mention", value=heard.other_characters)


def _check_sentiment(when: SentimentIs, heard: Heard) -> _Found:
    if heard.sentiment is None or heard.sentiment_chance < LEVELS[when.sureness or Sureness.LIKELY]:
        return None
    low = when.at_least is None or heard.sentiment >= when.at_least
    high = when.at_most is None or heard.sentiment <= when.at_most
    return _yes(low and high, "sentiment", f"{heard.sentiment:.2f}", heard.sentiment_words)


def _check_reading(when: ReadsAsOneOf, heard: Heard) -> _Found:
    level = LEVELS[when.sureness or Sureness.LIKELY]
    held = [label for label in when.reads_as if heard.chances.get(label, 0.0) >= level]
    found = (Evidence(type="reads_as", words=heard.reading_words.get(label, ()), value=label.value) for label in held)
    return tuple(found) or None


def is_in_window(when: WindowIs, at: datetime) -> bool:
    """Whether an instant, on the wall clock of its zone, lies in a weekly window."""
    minute, day = at.hour * 60 + at.minute, at.weekday()
    if when.starts < when.ends:
        return day in when.days and when.starts <= minute < when.ends
    return (day in when.days and minute >= when.starts) or ((day - 1) % 7 in when.days and minute < when.ends)


def _check_group_parts(when: Conditions, heard: Heard) -> _Found:
    found: list[Evidence] = []
    if not when.parts:
        return None
    for part in when.parts:
        evidence = meets(part, heard)
        if evidence is None:
            if when.of == "all":
                return None
        elif when.of == "none":
            return None
        else:
            found += evidence
            if when.of == "any":
                return tuple(found)
    return None if when.of == "any" else tuple(found)


_CHECKS: Mapping[type, Callable[..., _Found]] = {
    Anything: lambda w, h: (),
    KindIs: lambda w, h: _yes(h.kind in w.kinds, "kind", h.kind.value),
    NetworkIs: lambda w, h: _yes(h.network in w.networks, "network", h.network),
    AccountIs: lambda w, h: _yes(h.account in w.accounts or not h.groups.isdisjoint(w.groups), "account", h.account),
    HasWords: _check_words,
    BareMention: _check_bare,
    LanguageIs: lambda w, h: _yes(h.language in w.languages, "language", h.language),
    SentimentIs: _check_sentiment,
    ReadsAsOneOf: _check_reading,
    RatingIs: lambda w, h: _yes(h.rating is not None and h.rating <= w.at_most, "rating", h.rating),
    Carries: lambda w, h: _yes(h.has_link if w.what == "link" else h.has_attachment, "carries", w.what),
    PersonHasTag: lambda w, h: _yes(not h.person_tags.isdisjoint(w.tags), "person_tag"),
    ReachIs: lambda w, h: _yes(h.reach is not None and h.reach >= w.at_least, "reach", h.reach),
    StandingIs: lambda w, h: _yes(h.standing is not None and h.standing >= w.at_least, "standing", h.standing),
    FirstContact: lambda w, h: _yes(h.first_contact, "first_contact"),
    FirstMessage: lambda w, h: _yes(h.first_message, "first_message"),
    NobodyAnswered: lambda w, h: _yes(not h.answered, "nobody_answered"),
    HoursAre: lambda w, h: _yes(h.is_open == w.inside, "hours", f"{h.at:%a %H:%M}"),
    WindowIs: lambda w, h: _yes(is_in_window(w, h.at), "window", f"{h.at:%a %H:%M}"),
    PostIs: lambda w, h: _yes(h.post == w.post, "post", h.post),
    OnAd: lambda w, h: _yes(h.on_ad, "ad"),
    Conditions: _check_group_parts,
}

# -- what comes out --------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Lost:
    """An action that did not come to pass: who had decided before, a rule or (None) a member by hand; or `why` not."""

    action: Action
    to: RuleRef | None
    why: NotDone | None = None


@dataclass(frozen=True, kw_only=True)
class Match:
    """One rule that a message met: why, what it does, and what it would have done."""

    rule: RuleRef
    evidence: tuple[Evidence, ...]
    effects: tuple[Action, ...]
    lost: tuple[Lost, ...] = ()
    stops: bool = False


def decide(rules: Iterable[Rule], heard: Heard, by_hand: frozenset[str] = frozenset()) -> tuple[Match, ...]:
    """Read the rules top to bottom on one message.

    `by_hand` names what a member has set on the conversation: 'priority', 'assign', or 'tag:7' for a tag that was
    taken off. The first rule that sets one of ONE_VALUED wins; what a member set is never overwritten.
    """
    taken: dict[str, RuleRef | None] = dict.fromkeys(by_hand)
    places: list[RuleRef] = []
    matches: list[Match] = []
    for rule in rules:
        if not rule.on:
            continue
        evidence = meets(rule.body.when, heard)
        if evidence is None:
            continue
        match = _do(rule, evidence, heard, taken, places)
        matches.append(match)
        if match.stops:
            break
    return _keep_apart(matches)


def _keep_apart(matches: Sequence[Match]) -> tuple[Match, ...]:
    """Nothing is liked that any rule hides, nor liked or answered what any settles as junk, whichever stands higher."""
    never = {
        name: match.rule
        for match in matches
        for a in match.effects
        for name in NEVER_WITH.get(get_name(a), frozenset())
    }
    if not never:
        return tuple(matches)
    return tuple(
        replace(
            match,
            effects=tuple(a for a in match.effects if a.type not in never),
            lost=(*match.lost, *(Lost(action=a, to=never[a.type]) for a in match.effects if a.type in never)),
        )
        for match in matches
    )


def speaks_to(action: AnswerWith, heard: Heard) -> bool:
    """Whether an answer is written for the language of a message; one that is not known is none it was written for."""
    return action.language == ANY_LANGUAGE or (heard.language is not None and action.language == heard.language)


def _do(
    rule: Rule,
    evidence: tuple[Evidence, ...],
    heard: Heard,
    taken: dict[str, RuleRef | None],
    places: list[RuleRef],
) -> Match:
    effects: list[Action] = []
    lost: list[Lost] = []
    stops = False
    for action in rule.body.then:
        match action:
            case StopHere():
                stops = True
            case AddTags() if not action.person:
                tags = tuple(t for t in action.tags if f"tag:{t}" not in taken)
                if tags:
                    effects.append(AddTags(tags=tags))
                if len(tags) < len(action.tags):
                    lost.append(Lost(action=action, to=None))
            case AnswerWith() if not speaks_to(action, heard):
                # It leaves the word to a rule further down that answers in their language.
                lost.append(Lost(action=action, to=None, why=NotDone.LANGUAGE))
            case _ if action.type in taken:
                lost.append(Lost(action=action, to=taken[action.type]))
            case _ if action.type in PLACING and places:
                lost.append(Lost(action=action, to=places[0]))
            case _:
                effects.append(action)
                if action.type in PLACING:
                    places.append(rule.ref)
                if action.type in ONE_VALUED:
                    taken[action.type] = rule.ref
    return Match(rule=rule.ref, evidence=evidence, effects=tuple(effects), lost=tuple(lost), stops=stops)


# -- automatic answers -----------------------------------------------------------------------------------------

#: More than this many automatic answers of one rule within these minutes stop its answering, and nothing else of it.
MOST_ANSWERS = 20
ANSWERS_MINUTES = 10
#: One automatic answer a person within this many hours.
PERSON_HOURS = 24


@dataclass(frozen=True, kw_only=True)
class AnswersSoFar:
    """What automatic answers have gone out, by whatever rule, in the conversation and to the person lately, and by this rule
    lately; and what else speaks against one more."""

    in_conversation: int = 0
    to_person: int = 0
    by_rule: int = 0
    is_held: bool = False
    is_blocked: bool = False
    is_answered: bool = False
    #: The conversation was settled as junk when this message came.
    was_junk: bool = False
    is_writing: bool = False


def get_answer_obstacle(heard: Heard, so_far: AnswersSoFar) -> NotDone | None:
    """Why no automatic answer may go out; None when one may. STORM means that the rule must stop answering."""
    if heard.automatic:
        return NotDone.AUTOMATIC
    if so_far.is_blocked:
        return NotDone.BLOCKED
    if so_far.was_junk:
        return NotDone.JUNK
    if so_far.is_held:
        return NotDone.HELD
    if so_far.is_answered or heard.answered:
        return NotDone.MEMBER_ANSWERED
    if so_far.is_writing:
        return NotDone.MEMBER_WRITING
    if so_far.in_conversation:
        return NotDone.ANSWERED_BEFORE
    if so_far.to_person:
        return NotDone.PERSON_TODAY
    if so_far.by_rule >= MOST_ANSWERS:
        return NotDone.STORM
    return None
