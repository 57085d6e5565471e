"""What happens to a conversation: one class for each kind of event, the closed union of them, and how the trail keeps them.

The trail is the truth (docs/moves.md). Whoever makes something of every kind matches the classes and ends in `assert_never`, so that
a new kind is said everywhere or nothing passes. To add one: its class here, in `What`; mypy and the web's compiler then name every
place that has to know it (CONTRIBUTING.md).
"""

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import MISSING, dataclass, fields
from datetime import datetime
from enum import Enum
from types import NoneType, UnionType
from typing import Any, TypeAlias, get_args, get_origin, get_type_hints

from sorta.core.cases import CaseState
from sorta.core.facts import SettledAs, Unanswered
from sorta.core.ports import Moderation
from sorta.core.targets import Priority

#: Where events hold words that people wrote, or that were written of them; beside these, the rule of an event holds the words it was met by.
WORDS = ("text", "before", "note", "reason", "remark")


@dataclass(frozen=True, kw_only=True, slots=True)
class Arrived:
    """They wrote; `thanks` when it says nothing but that."""

    message: int
    thanks: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class Edited:
    """They changed what they wrote; what it said before."""

    message: int
    before: str


@dataclass(frozen=True, kw_only=True, slots=True)
class Removed:
    """A message is gone on its network; `by` the member who deleted it from here."""

    message: int
    by: int | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class AnsweredOutside:
    """We answered on the network itself."""

    message: int


@dataclass(frozen=True, kw_only=True, slots=True)
class Linked:
    """It is one matter with another conversation; into what goes on in private come who has it and its tags."""

    other: int
    message: int
    owner: int | None = None
    team: int | None = None
    tags: tuple[int, ...] = ()


@dataclass(frozen=True, kw_only=True, slots=True)
class ChosenMember:
    """Why somebody of a team was chosen, and who was passed over for what."""

    reason: str
    passed: tuple[tuple[int, str], ...] = ()


@dataclass(frozen=True, kw_only=True, slots=True)
class Assigned:
    """Given to a member, a team, both or nobody; `choice` when a team's way of giving out chose the member."""

    owner: int | None
    team: int | None = None
    note: str | None = None
    choice: ChosenMember | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class Prioritised:
    priority: Priority


@dataclass(frozen=True, kw_only=True, slots=True)
class Noted:
    text: str


@dataclass(frozen=True, kw_only=True, slots=True)
class Kept:
    """It stays with us."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Tagged:
    tag: int


@dataclass(frozen=True, kw_only=True, slots=True)
class Untagged:
    tag: int


@dataclass(frozen=True, kw_only=True, slots=True)
class TagMerged:
    """A tag became another (decision 0058)."""

    tag: int
    into: int


@dataclass(frozen=True, kw_only=True, slots=True)
class PersonTagged:
    tag: int


@dataclass(frozen=True, kw_only=True, slots=True)
class PersonUntagged:
    tag: int


@dataclass(frozen=True, kw_only=True, slots=True)
class Watched:
    member: int


@dataclass(frozen=True, kw_only=True, slots=True)
class Unwatched:
    member: int


@dataclass(frozen=True, kw_only=True, slots=True)
class Corrected:
    """What a message reads as, said by a member; `again` when somebody had said so before."""

    message: int
    field: str
    was: str | float | tuple[str, ...] | None
    now: str | float | tuple[str, ...] | None
    again: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class Parked:
    until: datetime


@dataclass(frozen=True, kw_only=True, slots=True)
class Returned:
    """Back from being parked."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Settled:
    how: SettledAs


@dataclass(frozen=True, kw_only=True, slots=True)
class Reopened:
    """Our move again: this message waits since then, or all of `waiting`, each since its own arrival."""

    message: int
    since: datetime
    waiting: tuple[Unanswered, ...] = ()


@dataclass(frozen=True, kw_only=True, slots=True)
class Replied:
    """An answer of ours is on its way. `answers` is false for a mere acknowledgement; `account` is named where another than the
    conversation's own answers; `took` is the estimated handling time in seconds."""

    message: int
    public: bool
    settle: bool
    answers: bool = True
    account: int | None = None
    took: float | None = None
    proposal: int | None = None
    approved_by: int | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class ReplyDelivered:
    message: int


@dataclass(frozen=True, kw_only=True, slots=True)
class ReplyStuck:
    """An answer is not out although its time is over."""

    message: int
    reason: str


@dataclass(frozen=True, kw_only=True, slots=True)
class ReplyRefused:
    """The network did not take an answer; whose it was."""

    message: int
    reason: str
    author: int | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class Scheduled:
    """An answer was written to go out at a time; `again` when that was changed."""

    scheduled: int
    until: datetime
    public: bool
    again: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class Unscheduled:
    """It will not go out, or did not; why, where nobody decided so."""

    scheduled: int
    reason: str | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class Proposed:
    proposal: int
    public: bool


@dataclass(frozen=True, kw_only=True, slots=True)
class Consented:
    proposal: int
    edited: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class Changed:
    """A proposal was changed by its author."""

    proposal: int


@dataclass(frozen=True, kw_only=True, slots=True)
class SentBack:
    proposal: int
    reason: str


@dataclass(frozen=True, kw_only=True, slots=True)
class Withdrawn:
    """A proposal is void; why, where its author did not say so."""

    proposal: int
    reason: str | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class ConsentAsked:
    """A rule wants somebody's consent before an answer goes out."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Alerted:
    members: tuple[int, ...]


@dataclass(frozen=True, kw_only=True, slots=True)
class Offered:
    """A rule offers an answer; `saved` the saved reply it is made from."""

    public: bool
    text: str
    saved: int | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class AdviceAsked:
    advice: int
    to: str


@dataclass(frozen=True, kw_only=True, slots=True)
class AdviceGiven:
    advice: int
    to: str


@dataclass(frozen=True, kw_only=True, slots=True)
class AdviceOverdue:
    advice: int
    to: str


@dataclass(frozen=True, kw_only=True, slots=True)
class AdviceWithdrawn:
    advice: int
    to: str


@dataclass(frozen=True, kw_only=True, slots=True)
class AdviceRefused:
    """The letter with the question was not taken."""

    advice: int
    to: str


@dataclass(frozen=True, kw_only=True, slots=True)
class HandedOver:
    """Given to another desk by that name, as a case that was `joined` or is new; what they write until then follows it."""

    case: int
    desk: str
    joined: bool
    until: datetime


@dataclass(frozen=True, kw_only=True, slots=True)
class CaseTold:
    """The other desk says where its case stands."""

    case: int
    state: CaseState
    by: str
    remark: str | None = None
    until: datetime | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class Moderated:
    """Something is to happen on the network."""

    message: int
    what: Moderation


@dataclass(frozen=True, kw_only=True, slots=True)
class ModerationDone:
    message: int
    what: Moderation


@dataclass(frozen=True, kw_only=True, slots=True)
class ModerationRefused:
    message: int
    what: Moderation
    reason: str


@dataclass(frozen=True, kw_only=True, slots=True)
class Undone:
    """Another event is taken back, as if it had not been; why, where nobody decided so."""

    of: int
    reason: str | None = None


What: TypeAlias = (
    Arrived
    | Edited
    | Removed
    | AnsweredOutside
    | Linked
    | Assigned
    | Prioritised
    | Noted
    | Kept
    | Tagged
    | Untagged
    | TagMerged
    | PersonTagged
    | PersonUntagged
    | Watched
    | Unwatched
    | Corrected
    | Parked
    | Returned
    | Settled
    | Reopened
    | Replied
    | ReplyDelivered
    | ReplyStuck
    | ReplyRefused
    | Scheduled
    | Unscheduled
    | Proposed
    | Consented
    | Changed
    | SentBack
    | Withdrawn
    | ConsentAsked
    | Alerted
    | Offered
    | AdviceAsked
    | AdviceGiven
    | AdviceOverdue
    | AdviceWithdrawn
    | AdviceRefused
    | HandedOver
    | CaseTold
    | Moderated
    | ModerationDone
    | ModerationRefused
    | Undone
)


@dataclass(frozen=True, kw_only=True, slots=True)
class Evidence:
    """Why a condition holds: which one, the words of the message that decided it, or the value."""

    type: str
    words: tuple[str, ...] = ()
    value: str | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class ByRule:
    """Which rule did it, in which version, by which name then, and what it was met by."""

    id: int
    version: int
    name: str
    evidence: tuple[Evidence, ...] = ()


@dataclass(frozen=True, kw_only=True, slots=True)
class Event:
    """One entry of the trail, numbered from 1 within its conversation. What nobody did has no member; what a rule did says which."""

    seq: int
    at: datetime
    what: What
    member_id: int | None = None
    rule: ByRule | None = None

    @property
    def kind(self) -> str:
        return NAMES[type(self.what)]


def list_undone(events: Iterable[Event]) -> set[int]:
    """The numbers of what was taken back."""
    return {e.what.of for e in events if isinstance(e.what, Undone)}


# -- as the trail keeps them: a name and a JSON object ---------------------------------------------------

_Read: TypeAlias = Callable[[Any], Any]


def _snake(name: str) -> str:
    return re.sub(r"(?<!^)(?=[A-Z])", "_", name).lower()


#: The name of each kind in the trail, and the kind by its name. What becomes of a reply is named without it.
NAMES: Mapping[type, str] = {kind: _snake(kind.__name__.removeprefix("Reply")) for kind in get_args(What)}
KINDS: Mapping[str, type] = {name: kind for kind, name in NAMES.items()}


def _make_reader(hint: Any) -> _Read:
    """What reads a value of this type out of JSON; raises ValueError, TypeError or KeyError for another."""
    if isinstance(hint, UnionType):
        readers = [_make_reader(one) for one in get_args(hint) if one is not NoneType]
        is_optional = NoneType in get_args(hint)

        def read_union(value: Any) -> Any:
            if value is None and is_optional:
                return None
            for number, read in enumerate(readers, 1):
                try:
                    return read(value)
                except (TypeError, ValueError):
                    if number == len(readers):
                        raise
            raise TypeError(f"{value!r} is none of {hint}")

        return read_union
    if get_origin(hint) is tuple:
        inner = get_args(hint)
        if inner[-1] is Ellipsis:
            read_one = _make_reader(inner[0])
            return lambda value: tuple(read_one(v) for v in _check(value, list))
        each = [_make_reader(one) for one in inner]
        return lambda value: tuple(read(v) for read, v in zip(each, _check(value, list), strict=True))
    if hint is datetime:
        return datetime.fromisoformat
    if hint is float:
        return lambda value: float(_check(value, (int, float)))
    if isinstance(hint, type) and issubclass(hint, Enum):
        return hint
    if hasattr(hint, "__dataclass_fields__"):
        return lambda value: _read_object(hint, value)
    return lambda value: _check(value, hint)


def _check(value: Any, kind: Any) -> Any:
    if not isinstance(value, kind) or (isinstance(value, bool) and kind is not bool):
        raise TypeError(f"{value!r} is not {kind}")
    return value


def _list_readers(kind: type) -> dict[str, _Read]:
    hints = get_type_hints(kind)
    return {one.name: _make_reader(hints[one.name]) for one in fields(kind)}


_READERS: dict[type, dict[str, _Read]] = {}


def _read_object(kind: type, value: Mapping[str, Any]) -> Any:
    if (readers := _READERS.get(kind)) is None:
        readers = _READERS[kind] = _list_readers(kind)
    return kind(**{name: readers[name](one) for name, one in _check(value, dict).items()})


def read_event(*, seq: int, kind: str, at: datetime, data: Mapping[str, Any], member_id: int | None = None) -> Event:
    """An entry of the trail as it is kept. Raises ValueError, with its number and what is wrong, for what is none."""
    if (known := KINDS.get(kind)) is None:
        raise ValueError(f"unknown kind of event {kind!r}")
    try:
        rule = _read_object(ByRule, data["rule"]) if "rule" in data else None
        what = _read_object(known, {name: value for name, value in data.items() if name != "rule"})
    except KeyError as error:
        raise ValueError(f"event {seq}, {kind}, cannot be read: nothing is known of {error}") from error
    except (TypeError, ValueError) as error:
        raise ValueError(f"event {seq}, {kind}, cannot be read: {error}") from error
    return Event(seq=seq, at=at, what=what, member_id=member_id, rule=rule)


def _write(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, tuple):
        return [_write(one) for one in value]
    return _write_object(value) if hasattr(value, "__dataclass_fields__") else value


def _write_object(value: Any) -> dict[str, Any]:
    """What is as it would be without being said is left out."""
    given = ((one, getattr(value, one.name)) for one in fields(value))
    return {one.name: _write(said) for one, said in given if one.default is MISSING or said != one.default}


def write_data(what: What, rule: ByRule | None = None) -> dict[str, Any]:
    """What the trail keeps of an event beside its kind, number, time and member."""
    return _write_object(what) if rule is None else {**_write_object(what), "rule": _write_object(rule)}
