"""A rule from an example: what a message is becomes conditions, what was done with its conversation becomes what is done. Used by services."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field

import regex

from sorta.core.facts import SettledAs
from sorta.core.ports import Kind
from sorta.core.reading import LEVELS, ReadsAs, Sureness
from sorta.core.rules import (
    LONGEST_NAME,
    Action,
    AddTags,
    Carries,
    Condition,
    Conditions,
    GiveTo,
    HasWords,
    KindIs,
    OnAd,
    PersonHasTag,
    RatingIs,
    ReadsAsOneOf,
    RuleBody,
    SetPriority,
    SettleIt,
)
from sorta.core.targets import Priority

#: A review with so many stars at most is one to look at.
FEW_STARS = 3
#: Where nothing is sure of how it reads, so many of its words stand for what it is about; no more of it is looked at than this.
MOST_WORDS, LONGEST_TEXT = 3, 2000
_WORD = regex.compile(r"\p{L}{5,40}")


@dataclass(frozen=True, kw_only=True)
class Example:
    """A message of theirs and its conversation. `chances` is what it reads as and how likely; `by_hand` what members set themselves
    ('priority', 'assign')."""

    kind: Kind
    chances: Mapping[ReadsAs, float] = field(default_factory=dict)
    text: str = ""
    rating: int | None = None
    has_link: bool = False
    has_attachment: bool = False
    is_on_ad: bool = False
    person_tags: tuple[int, ...] = ()
    by_hand: Collection[str] = ()
    priority: Priority = Priority.NORMAL
    owner: int | None = None
    team: int | None = None
    tags: tuple[int, ...] = ()
    settled_as: SettledAs | None = None


def make_rule_of(example: Example, kinds: Mapping[Kind, str]) -> RuleBody:
    """The rule that an example suggests, to be looked over and tried before it is kept; `kinds` are what kinds are called, several of
    them. It matches its example, and does what was done with it: nothing where nothing was."""
    likely = LEVELS[Sureness.LIKELY]
    labels = tuple(label for label in ReadsAs if example.chances.get(label, 0) >= likely)
    parts: list[Condition] = [KindIs(kinds=(example.kind,))]
    if labels:
        parts.append(ReadsAsOneOf(reads_as=labels))
    elif words := list_telling(example.text):
        # All of them: one that is too narrow is seen in its trial, one that is too wide does things.
        parts.append(HasWords(mode="all", words=words))
    if example.rating is not None and example.rating <= FEW_STARS:
        parts.append(RatingIs(at_most=example.rating))
    if example.has_link:
        parts.append(Carries(what="link"))
    if example.has_attachment:
        parts.append(Carries(what="attachment"))
    if example.is_on_ad:
        parts.append(OnAd())
    if example.person_tags:
        parts.append(PersonHasTag(tags=example.person_tags))
    told = " and ".join(f"{label.value}s" if label is not ReadsAs.PRAISE else "praise" for label in labels)
    name = f"{told} in {kinds[example.kind]}" if told else kinds[example.kind]
    return RuleBody(
        name=(name[:1].upper() + name[1:])[:LONGEST_NAME],
        when=Conditions(of="all", parts=tuple(parts)),
        then=_list_actions(example),
    )


def list_telling(text: str) -> tuple[str, ...]:
    """The longest words of a text, in their order: what it is about is seldom said in short ones (common practice, no source)."""
    words = list(dict.fromkeys(_WORD.findall(text[:LONGEST_TEXT].lower())))
    longest = sorted(words, key=len, reverse=True)[:MOST_WORDS]
    return tuple(word for word in words if word in longest)


def _list_actions(example: Example) -> tuple[Action, ...]:
    """What members did with it; what a rule did already is that rule's."""
    done: list[Action] = []
    if "priority" in example.by_hand:
        done.append(SetPriority(priority=example.priority))
    if example.tags:
        done.append(AddTags(tags=example.tags))
    if "assign" in example.by_hand and (example.team or example.owner):
        done.append(GiveTo(team=example.team) if example.team else GiveTo(member=example.owner))
    match example.settled_as:
        case SettledAs.NO_REPLY_NEEDED:
            done.append(SettleIt(how="no_reply_needed"))
        case SettledAs.JUNK:
            done.append(SettleIt(how="junk"))
    return tuple(done)
