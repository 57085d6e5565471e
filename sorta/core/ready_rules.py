"""Rules that a workspace can begin with: they name no account, member, team or tag, and put nothing outside. Used by services.starting.

What they watch for is common practice, no source.
"""

from dataclasses import dataclass

from sorta.core.ports import Kind
from sorta.core.reading import ReadsAs, Sureness
from sorta.core.rules import (
    Conditions,
    HasWords,
    KindIs,
    RatingIs,
    ReachIs,
    ReadsAsOneOf,
    RuleBody,
    SetPriority,
    SettleIt,
)
from sorta.core.targets import Priority


@dataclass(frozen=True, kw_only=True)
class Ready:
    """A rule with a key of its own, and a sentence about what one gets by it."""

    key: str
    says: str
    body: RuleBody


#: In the order in which rules should be read.
READY: tuple[Ready, ...] = (
    Ready(
        key="danger",
        says="Somebody may be hurt, or in danger: Urgent, so that it stands first. Add words of your trade, and of your languages.",
        body=RuleBody(
            name="Hurt or in danger",
            when=Conditions(
                parts=(HasWords(words=("injur*", "hurt", "bleed*", "ambulance", "emergency", "danger*", "poison*")),)
            ),
            then=(SetPriority(priority=Priority.URGENT),),
        ),
    ),
    Ready(
        key="complaints",
        says="What reads as a complaint is High: it stands before what was said at the same time.",
        body=RuleBody(
            name="Complaints first",
            when=Conditions(parts=(ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,), sureness=Sureness.LIKELY),)),
            then=(SetPriority(priority=Priority.HIGH),),
        ),
    ),
    Ready(
        key="bad_reviews",
        says="Reviews of one or two stars are High.",
        body=RuleBody(
            name="Bad reviews",
            when=Conditions(parts=(KindIs(kinds=(Kind.REVIEW,)), RatingIs(at_most=2))),
            then=(SetPriority(priority=Priority.HIGH),),
        ),
    ),
    Ready(
        key="heard_far",
        says="Whoever many people hear is High when they complain or ask.",
        body=RuleBody(
            name="Heard far",
            when=Conditions(
                parts=(
                    ReachIs(at_least=70),
                    ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT, ReadsAs.QUESTION), sureness=Sureness.LIKELY),
                )
            ),
            then=(SetPriority(priority=Priority.HIGH),),
        ),
    ),
    Ready(
        key="spam",
        says="What surely reads as spam is settled as junk; it is listed for review and comes back by one act.",
        body=RuleBody(
            name="Spam",
            when=Conditions(parts=(ReadsAsOneOf(reads_as=(ReadsAs.SPAM,), sureness=Sureness.SURE),)),
            then=(SettleIt(how="junk"),),
        ),
    ),
    Ready(
        key="praise_waits",
        says="What surely reads as praise and nothing else can wait: Low.",
        body=RuleBody(
            name="Praise can wait",
            when=Conditions(
                parts=(
                    ReadsAsOneOf(reads_as=(ReadsAs.PRAISE,), sureness=Sureness.SURE),
                    Conditions(
                        of="none",
                        parts=(ReadsAsOneOf(reads_as=(ReadsAs.QUESTION, ReadsAs.COMPLAINT), sureness=Sureness.LIKELY),),
                    ),
                )
            ),
            then=(SetPriority(priority=Priority.LOW),),
        ),
    ),
)
