"""Shapes of rules, trials and the review. What a rule is comes from `core.rules` itself."""

from datetime import date, datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from sorta.api.schemas.base import Asked, Shown
from sorta.core.facts import Move
from sorta.core.ports import Kind
from sorta.core.reading import Sureness
from sorta.core.rules import RuleBody


class StoredRule(BaseModel):
    id: int
    position: int
    switched_on: bool
    version: int
    body: RuleBody
    owner_id: int
    changed_by: int
    changed_at: datetime
    off_reason: str | None = Field(description="Why it answers no more by itself")
    answers_off_at: datetime | None
    hits: int
    last_at: datetime | None


class RuleWarning(BaseModel):
    """`kind`: never, stopped, shadowed, disagrees; `other` is the rule it is about, `what` the effect."""

    rule: int
    kind: Literal["never", "stopped", "shadowed", "disagrees"]
    other: int | None
    what: str | None


class Rules(BaseModel):
    """`hits` are those of the last `days`; `to_review` is what rules did that nobody has looked at."""

    rules: list[StoredRule]
    warnings: list[RuleWarning]
    days: int
    to_review: int


class NewRule(Asked):
    body: RuleBody
    on: bool = False


class Suggested(BaseModel):
    """A rule to be looked over before it is kept; `body` may do nothing yet."""

    body: RuleBody


class ChangedRule(Asked):
    """What is left out stays; `version` is the one that was looked at."""

    version: int
    body: RuleBody | None = None
    on: bool | None = None
    answers: bool | None = Field(None, description="Let it answer again, counted from now")


class CheckedRule(Asked):
    id: int = 0
    body: RuleBody


class Order(Asked):
    """`was` is the order that it was made from."""

    ids: list[int] = Field(max_length=1000)
    was: list[int] = Field(max_length=1000)


class RuleVersion(BaseModel):
    version: int
    body: RuleBody
    switched_on: bool
    member_id: int | None
    at: datetime


class RuleFile(Asked):
    """Rules as a file; `names` says what the numbers in them mean. The schema of a rule is at `/api/rules.schema.json`."""

    format: str
    names: dict[str, dict[str, str]]
    rules: list[dict[str, Any]] = Field(max_length=1000)


class Imported(BaseModel):
    count: int
    known: int = Field(description="How many of the file were here already")


class NewTrial(Asked):
    """`rule_id` 0 tries a new rule at the bottom."""

    rule_id: int = 0
    body: RuleBody
    days: int = 14


class TrialDay(BaseModel):
    day: date
    messages: int
    matched: int


class TrialOutcome(BaseModel):
    """How often something would have come out: 'priority:3', 'team:4', 'member:2', 'tag:7', 'person_tag:7', 'hidden',
    'liked', 'answered:saved:5', 'acknowledged:text:…', 'settled:junk', 'parked:tomorrow', 'handed_over:1', 'watch:2',
    'alert:2', 'consent', 'brought_back'."""

    name: str
    before: int
    after: int


class LostCount(BaseModel):
    effect: str
    to: int
    n: int


class ShownEvidence(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    type: str
    words: list[str]
    value: str | None


class TrialExample(BaseModel):
    id: int
    conversation_id: int
    body: str
    sentiment: float | None
    reads_as: list[Shown] | None
    kind: Kind
    person_name: str
    network: str
    matched: bool = Field(description="Whether the rule in question meets it")
    evidence: list[ShownEvidence]
    comes: list[str] = Field(description="What comes out that did not, named as outcomes are")
    goes: list[str] = Field(description="What does not come out any more")


class TrialResult(BaseModel):
    messages: int
    matched: int
    differing: int = Field(description="For how many messages something else comes out")
    answers: int
    days: list[TrialDay]
    levels: dict[Sureness, int] = Field(
        {}, description="How many messages would meet it at each level of sureness; none when it asks for no reading"
    )
    outcomes: list[TrialOutcome]
    lost: list[LostCount]
    stopped: list[int] = Field(description="Rules that would have stopped answering by themselves")
    examples: list[TrialExample]
    more: int = Field(description="How many more there are")


class Trial(BaseModel):
    id: int
    rule_id: int
    days: int
    state: Literal["waiting", "running", "done", "cancelled", "failed"]
    done: int
    total: int
    result: TrialResult | None


class ReviewItem(BaseModel):
    id: int
    rule_id: int
    version: int
    rule_name: str
    conversation_id: int
    message_id: int
    at: datetime
    evidence: list[ShownEvidence]
    effects: list[str]
    person_name: str
    network: str
    kind: Kind
    public: bool
    move: Move
    body: str
    hidden: bool
    removed: bool
    answer: str | None


class Review(BaseModel):
    total: int
    items: list[ReviewItem]


class Verdict(Asked):
    ids: list[int] = Field(min_length=1, max_length=300)
    verdict: Literal["kept", "shown", "again"]
