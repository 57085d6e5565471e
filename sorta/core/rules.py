"""Rules: what they ask of a message, what they do, and which of them wins (docs/trade.md 6).

A rule is data: a group of conditions and a list of actions, each a frozen dataclass whose `type` names it. The API's
shapes, the export's schema and the editor's types are all made from these. core.deciding reads them on a message.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Literal, TypeAlias

import regex
from pydantic import Discriminator

from sorta.core.errors import Invalid
from sorta.core.exact import Exact
from sorta.core.parking import ParkFor
from sorta.core.ports import Kind
from sorta.core.reading import BARE_AT_MOST, ReadsAs, Sureness
from sorta.core.targets import Priority
from sorta.core.texts import check_placeholders
from sorta.core.words import check_pattern

# -- what is asked ---------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Anything(Exact):
    """Every message."""

    type: Literal["anything"] = "anything"


@dataclass(frozen=True, kw_only=True)
class KindIs(Exact):
    """The message is of one of these kinds."""

    type: Literal["kind"] = "kind"
    kinds: tuple[Kind, ...]


@dataclass(frozen=True, kw_only=True)
class NetworkIs(Exact):
    """It came from one of these networks."""

    type: Literal["network"] = "network"
    networks: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class AccountIs(Exact):
    """It came to one of these accounts, or to an account of one of these groups."""

    type: Literal["account"] = "account"
    accounts: tuple[int, ...] = ()
    groups: tuple[int, ...] = ()


@dataclass(frozen=True, kw_only=True)
class HasWords(Exact):
    """It has any, all or none of these words; a phrase is several words, a prefix ends with *."""

    type: Literal["words"] = "words"
    mode: Literal["any", "all", "none"] = "any"
    words: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class BareMention(Exact):
    """It names somebody else and says at most so many letters and digits more, none of these words among them."""

    type: Literal["bare_mention"] = "bare_mention"
    at_most: int = BARE_AT_MOST
    none_of: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class LanguageIs(Exact):
    """It is in one of these languages (ISO 639)."""

    type: Literal["language"] = "language"
    languages: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class SentimentIs(Exact):
    """Its sentiment, from -1 to 1, lies within these bounds, and is so sure; None is as sure as what the rule does takes."""

    type: Literal["sentiment"] = "sentiment"
    sureness: Sureness | None = None
    at_least: float | None = None
    at_most: float | None = None


@dataclass(frozen=True, kw_only=True)
class ReadsAsOneOf(Exact):
    """It reads as one of these, so surely; None is as sure as what the rule does takes."""

    type: Literal["reads_as"] = "reads_as"
    sureness: Sureness | None = None
    reads_as: tuple[ReadsAs, ...]


@dataclass(frozen=True, kw_only=True)
class RatingIs(Exact):
    """It is a review with at most so many stars."""

    type: Literal["rating"] = "rating"
    at_most: int


@dataclass(frozen=True, kw_only=True)
class Carries(Exact):
    """It has a link, or an attachment."""

    type: Literal["carries"] = "carries"
    what: Literal["link", "attachment"]


@dataclass(frozen=True, kw_only=True)
class PersonHasTag(Exact):
    """Its author has one of these tags."""

    type: Literal["person_tag"] = "person_tag"
    tags: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class ReachIs(Exact):
    """Its author's reach, 0 to 100, is at least this."""

    type: Literal["reach"] = "reach"
    at_least: int


@dataclass(frozen=True, kw_only=True)
class StandingIs(Exact):
    """Its author's standing, 0 to 100, is at least this."""

    type: Literal["standing"] = "standing"
    at_least: int


@dataclass(frozen=True, kw_only=True)
class FirstContact(Exact):
    """Its author has never written to us before."""

    type: Literal["first_contact"] = "first_contact"


@dataclass(frozen=True, kw_only=True)
class FirstMessage(Exact):
    """It is the first thing they say in its conversation."""

    type: Literal["first_message"] = "first_message"


@dataclass(frozen=True, kw_only=True)
class NobodyAnswered(Exact):
    """Nobody of us has answered in its conversation, here or on the network itself; what rules sent does not count."""

    type: Literal["nobody_answered"] = "nobody_answered"


@dataclass(frozen=True, kw_only=True)
class HoursAre(Exact):
    """It arrived within, or outside, the workspace's working hours."""

    type: Literal["hours"] = "hours"
    inside: bool


@dataclass(frozen=True, kw_only=True)
class WindowIs(Exact):
    """It arrived on one of these weekdays (0 is Monday) between two times of the local day, in minutes after midnight.

    An end at or before the beginning lies on the next day, which still counts as the weekday it began on.
    """

    type: Literal["window"] = "window"
    days: tuple[int, ...]
    starts: int
    ends: int


@dataclass(frozen=True, kw_only=True)
class PostIs(Exact):
    """It stands under this post."""

    type: Literal["post"] = "post"
    post: int


@dataclass(frozen=True, kw_only=True)
class OnAd(Exact):
    """It stands under an ad."""

    type: Literal["ad"] = "ad"


@dataclass(frozen=True, kw_only=True)
class Conditions(Exact):
    """Conditions of which all, any or none must hold. A group of nothing never holds."""

    type: Literal["group"] = "group"
    of: Literal["all", "any", "none"] = "all"
    parts: "tuple[Condition, ...]" = ()


#: Told apart by `type`: one that is not here is refused in one sentence, not once for each kind there is.
Condition: TypeAlias = Annotated[
    Anything | KindIs | NetworkIs | AccountIs | HasWords | BareMention | LanguageIs | SentimentIs | ReadsAsOneOf | RatingIs | Carries
    | PersonHasTag | ReachIs | StandingIs | FirstContact | FirstMessage | NobodyAnswered | HoursAre | WindowIs | PostIs | OnAd | Conditions,
    Discriminator("type"),
]  # fmt: skip

# -- what is done ----------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class SetPriority(Exact):
    """Make it as pressing as this."""

    type: Literal["priority"] = "priority"
    priority: Priority


@dataclass(frozen=True, kw_only=True)
class AddTags(Exact):
    """Tag the conversation, or the person."""

    type: Literal["tag"] = "tag"
    tags: tuple[int, ...]
    person: bool = False


@dataclass(frozen=True, kw_only=True)
class GiveTo(Exact):
    """Give it to a member, or to a team, which chooses by its way."""

    type: Literal["assign"] = "assign"
    member: int | None = None
    team: int | None = None


@dataclass(frozen=True, kw_only=True)
class LikeIt(Exact):
    """Like it on the network."""

    type: Literal["like"] = "like"


@dataclass(frozen=True, kw_only=True)
class HideIt(Exact):
    """Hide it on the network, and list it for review."""

    type: Literal["hide"] = "hide"


@dataclass(frozen=True, kw_only=True)
class AnswerWith(Exact):
    """Answer with this text or this saved reply, placeholders filled. `answers` False only acknowledges: it stays our move.
    With `offer` nothing goes out: whoever has the conversation is offered the answer, and sends it or not.

    `language` (ISO 639, or 'any') is the one it is written for: others are not answered with it. None for what its words
    are read as; a saved reply has a language of its own.
    """

    type: Literal["reply"] = "reply"
    text: str = ""
    saved: int | None = None
    answers: bool = False
    language: str | None = None
    offer: bool = False


@dataclass(frozen=True, kw_only=True)
class SettleIt(Exact):
    """Settle it."""

    type: Literal["settle"] = "settle"
    how: Literal["answered", "no_reply_needed", "junk"] = "no_reply_needed"


@dataclass(frozen=True, kw_only=True)
class ParkIt(Exact):
    """Hide it from the desk until its time."""

    type: Literal["park"] = "park"
    choice: ParkFor


@dataclass(frozen=True, kw_only=True)
class LetWatch(Exact):
    """Let members watch it."""

    type: Literal["watch"] = "watch"
    members: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class TellMembers(Exact):
    """Tell members at once."""

    type: Literal["alert"] = "alert"
    members: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class AskConsent(Exact):
    """Nobody's answer goes out before somebody who may approve has consented."""

    type: Literal["consent"] = "consent"


@dataclass(frozen=True, kw_only=True)
class HandItOver(Exact):
    """Hand it over to a support desk: it joins the case there is, or opens one, and is settled here."""

    type: Literal["hand_over"] = "hand_over"
    desk: int


@dataclass(frozen=True, kw_only=True)
class BringBack(Exact):
    """It needs an answer also when it only thanks for what is settled: the conversation comes back."""

    type: Literal["bring_back"] = "bring_back"


@dataclass(frozen=True, kw_only=True)
class StopHere(Exact):
    """No rule further down is read."""

    type: Literal["stop"] = "stop"


Action: TypeAlias = Annotated[
    SetPriority | AddTags | GiveTo | LikeIt | HideIt | AnswerWith | SettleIt | ParkIt | LetWatch | TellMembers | AskConsent | HandItOver | BringBack | StopHere,
    Discriminator("type"),
]  # fmt: skip

#: Of these effects the first rule that sets one wins; all others add up.
ONE_VALUED = ("priority", "assign", "settle", "reply", "park", "hand_over")
#: Each of these says where the conversation goes: of several the first wins.
PLACING = frozenset({"settle", "park", "hand_over", "bring_back"})
ANY_LANGUAGE = "any"
#: What reaches the one who wrote, or what others see of them.
REACHES_OUT = frozenset({"reply", "like", "hide"})


def get_name(action: Action) -> str:
    """What an effect is called where it matters what it excludes: its type, 'junk' for settling as junk."""
    return "junk" if isinstance(action, SettleIt) and action.how == "junk" else action.type


#: What never happens to a message that is hidden, or to a conversation that is settled as junk, whichever rule says it.
NEVER_WITH: Mapping[str, frozenset[str]] = {"hide": frozenset({"like"}), "junk": frozenset({"like", "reply"})}


@dataclass(frozen=True, kw_only=True)
class RuleBody(Exact):
    """A rule as somebody writes it."""

    name: str
    when: Conditions
    then: tuple[Action, ...]


def make_sure(body: RuleBody) -> RuleBody:
    """The rule with how sure a reading must be where that is not said: sure for what reaches its writer, else likely."""
    outside = any(a.type in REACHES_OUT and not (isinstance(a, AnswerWith) and a.offer) for a in body.then)
    return replace(body, when=put_sureness(body.when, Sureness.SURE if outside else Sureness.LIKELY))


def put_sureness(group: Conditions, sureness: Sureness, *, over: bool = False) -> Conditions:
    """The conditions with how sure a reading must be: where that is not said, or with `over` everywhere."""

    def put(part: Condition) -> Condition:
        match part:
            case Conditions():
                return put_sureness(part, sureness, over=over)
            case ReadsAsOneOf() | SentimentIs() if over or part.sureness is None:
                return replace(part, sureness=sureness)
        return part

    return replace(group, parts=tuple(put(part) for part in group.parts))


@dataclass(frozen=True, kw_only=True)
class Rule:
    """A rule in its place; `version` counts its changes."""

    id: int
    version: int
    body: RuleBody
    on: bool = True
    #: Off while its answering is stopped: it answered too often.
    answers: bool = True

    @property
    def ref(self) -> "RuleRef":
        """What the trail keeps of it."""
        return RuleRef(id=self.id, version=self.version, name=self.body.name)


@dataclass(frozen=True, kw_only=True)
class RuleRef:
    """Which rule, in which version, by which name then."""

    id: int
    version: int
    name: str


_SAID = {
    "settle": "settle it", "park": "park it", "hand_over": "hand it over", "bring_back": "bring it back", "like": "like it",
    "hide": "hide it", "junk": "settle it as junk", "reply": "answer it",
}  # fmt: skip
LONGEST_NAME = 80
LONGEST_REPLY = 2000
MOST_PARTS = 60
DEEPEST = 4


def check_body(body: RuleBody) -> RuleBody:
    """The rule as it is kept: names and words tidied. Raises Invalid with the field that is wrong."""
    name = " ".join(body.name.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        raise Invalid(f"A rule has a name of 1 to {LONGEST_NAME} characters.", "name")
    if not body.then:
        raise Invalid("The rule does nothing yet: add what it should do.", "then")
    for action in body.then:
        _check_action(action)
    kinds: list[str] = [a.type for a in body.then]
    for kind in ONE_VALUED:
        if kinds.count(kind) > 1:
            raise Invalid(f"A rule can do one thing of a kind: there are two of ‘{kind}’.", "then")
    if len(places := [k for k in kinds if k in PLACING]) > 1:
        raise Invalid(f"A rule cannot both {_SAID[places[0]]} and {_SAID[places[1]]}.", "then")
    for one, never in NEVER_WITH.items():
        if one in map(get_name, body.then) and (both := never & set(kinds)):
            raise Invalid(f"A rule cannot both {_SAID[one]} and {_SAID[min(both)]}.", "then")
    when = _check_group(body.when, 1)
    if _count(when) > MOST_PARTS:
        raise Invalid(f"A rule has at most {MOST_PARTS} conditions.", "when")
    return RuleBody(name=name, when=when, then=body.then)


def _count(group: Conditions) -> int:
    return sum(1 + (_count(p) if isinstance(p, Conditions) else 0) for p in group.parts)


def _check_group(group: Conditions, depth: int) -> Conditions:
    if depth > DEEPEST:
        raise Invalid(f"Groups can stand in groups {DEEPEST} deep.", "when")
    if not group.parts:
        what = "The rule has no condition: say when it acts, or that it acts on every message."
        raise Invalid(what if depth == 1 else "A group has no condition: add one, or take the group away.", "when")
    return Conditions(of=group.of, parts=tuple(_check_condition(p, depth) for p in group.parts))


def _need(holds: bool, words: str) -> None:
    if not holds:
        raise Invalid(words, "when")


def _check_condition(part: Condition, depth: int) -> Condition:
    match part:
        case Conditions():
            return _check_group(part, depth + 1)
        case HasWords():
            _need(bool(part.words), "Say which words.")
            return HasWords(mode=part.mode, words=tuple(dict.fromkeys(check_pattern(w) for w in part.words)))
        case BareMention():
            _need(0 <= part.at_most <= 500, "A bare mention has 0 to 500 other characters.")
            return BareMention(at_most=part.at_most, none_of=tuple(check_pattern(w) for w in part.none_of))
        case SentimentIs():
            low = -1 if part.at_least is None else part.at_least
            high = 1 if part.at_most is None else part.at_most
            _need(part.at_least is not None or part.at_most is not None, "Say how the sentiment should be.")
            _need(-1 <= low <= high <= 1, "Sentiment goes from -1 to 1, the lower bound first.")
        case KindIs():
            _need(bool(part.kinds), "Say which kinds.")
        case NetworkIs():
            _need(bool(part.networks), "Say which networks.")
        case AccountIs():
            _need(bool(part.accounts or part.groups), "Say which accounts or account groups.")
        case LanguageIs():
            _need(bool(part.languages), "Say which languages.")
        case ReadsAsOneOf():
            _need(bool(part.reads_as), "Say what it should read as.")
        case RatingIs():
            _need(1 <= part.at_most <= 5, "A rating has 1 to 5 stars.")
        case PersonHasTag():
            _need(bool(part.tags), "Say which tags.")
        case ReachIs() | StandingIs():
            _need(0 <= part.at_least <= 100, "Reach and standing go from 0 to 100.")
        case WindowIs():
            _need(bool(part.days) and all(0 <= d <= 6 for d in part.days), "Say on which weekdays.")
            _need(0 <= part.starts < 1440 and 0 <= part.ends <= 1440, "Times lie within the day.")
    return part


def _check_action(action: Action) -> None:
    match action:
        case AddTags() if not action.tags:
            raise Invalid("Say which tags.", "then")
        case GiveTo() if (action.member is None) == (action.team is None):
            raise Invalid("Say to whom: one member or one team.", "then")
        case AnswerWith() if not regex.fullmatch(rf"[a-z]{{2,3}}|{ANY_LANGUAGE}", action.language or ANY_LANGUAGE):
            raise Invalid("A language is named by its two or three letters.", "then")
        case AnswerWith(saved=None):
            if not 1 <= len(action.text.strip()) <= LONGEST_REPLY:
                raise Invalid(f"An answer has 1 to {LONGEST_REPLY} characters, or is a saved reply.", "then")
            check_placeholders(action.text, None, "then")
        case AnswerWith() if action.text.strip():
            raise Invalid("An answer is a text or a saved reply, not both.", "then")
        case LetWatch() | TellMembers() if not action.members:
            raise Invalid("Say which members.", "then")
