"""The rules the Aquarium works by, its teams' ways and who takes how much. Used by demo.stories."""

from datetime import datetime, timedelta

from demo.load import Loader
from sorta.core.ports import Kind
from sorta.core.reading import BAND, ReadsAs, Sureness
from sorta.core.routing import Way
from sorta.core.rules import (
    AccountIs,
    AddTags,
    AnswerWith,
    BareMention,
    Conditions,
    GiveTo,
    HasWords,
    HideIt,
    HoursAre,
    KindIs,
    LikeIt,
    ReachIs,
    ReadsAsOneOf,
    RuleBody,
    SentimentIs,
    SetPriority,
    SettleIt,
    TellMembers,
)  # fmt: skip
from sorta.core.targets import Priority
from sorta.services import rules, tags, team
from sorta.services.house import Scope

#: Every kind that stands in public under posts of the page.
UNDER_POSTS = (Kind.COMMENT, Kind.REPLY, Kind.MENTION, Kind.STORY_MENTION, Kind.VISITOR_POST)
#: Words that a bare mention must not have to be settled unseen.
PROTECTED = ("ticket*", "pass", "help", "refund", "open", "closed", "hurt", "lost")
#: What praise that is liked unseen must not read as besides.
NOT_PRAISE_ALONE = (ReadsAs.QUESTION, ReadsAs.COMPLAINT, ReadsAs.SPAM)


async def add_rules(loader: Loader, scope: Scope, *, heard: int, on: bool, now: datetime) -> list[int]:
    """The starting rules, in their order; their numbers. `heard` is the saved reply that is offered for complaints."""
    house, ws = loader.house, scope.workspace_id

    async def tag(name: str) -> int:
        return await tags.get_tag(house, scope, name, make=True)

    care, animals = loader.teams[ws, "Visitor care"], loader.teams[ws, "Animal care"]
    noor = loader.scopes[ws, "NH"].member_id
    reel = loader.pages["loopreel", "brinewick"].id
    bodies = (
        RuleBody(
            name="Injury or danger",
            when=Conditions(
                parts=(HasWords(words=("injur*", "hurt", "bleeding", "cut on", "sick", "dying", "fell in", "suffer*")),)
            ),
            then=(
                SetPriority(priority=Priority.URGENT),
                AddTags(tags=(await tag("animal care"),)),
                GiveTo(team=animals),
            ),
        ),
        RuleBody(
            name="Complaints",
            when=Conditions(
                parts=(
                    KindIs(kinds=(Kind.COMMENT, Kind.MENTION, Kind.REPLY, Kind.VISITOR_POST, Kind.PRIVATE_MESSAGE)),
                    ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,)),
                )
            ),
            then=(
                SetPriority(priority=Priority.URGENT),
                GiveTo(team=care),
                AnswerWith(saved=heard, offer=True),
            ),
        ),
        RuleBody(
            name="Heard by many",
            when=Conditions(parts=(ReachIs(at_least=50),)),
            then=(SetPriority(priority=Priority.HIGH), TellMembers(members=(noor,))),
        ),
        RuleBody(
            name="Friends named under a picture",
            when=Conditions(
                parts=(KindIs(kinds=(Kind.COMMENT, Kind.REPLY)), BareMention(at_most=30, none_of=PROTECTED))
            ),
            then=(SettleIt(how="no_reply_needed"),),
        ),
        RuleBody(
            name="Group visits",
            when=Conditions(
                parts=(HasWords(words=("school*", "class", "pupils", "group visit*", "kindergarten", "children in")),)
            ),
            then=(AddTags(tags=(await tag("school"),), person=True), GiveTo(team=care)),
        ),
        RuleBody(
            name="Nobody watches the reel at night",
            when=Conditions(parts=(KindIs(kinds=UNDER_POSTS), AccountIs(accounts=(reel,)), HoursAre(inside=False))),
            then=(HideIt(),),
        ),
        RuleBody(
            name="Praise",
            # What goes out by itself asks more: that it is glad as well, and nothing else besides.
            when=Conditions(
                parts=(
                    ReadsAsOneOf(reads_as=(ReadsAs.PRAISE,)),
                    SentimentIs(at_least=BAND),
                    Conditions(of="none", parts=(ReadsAsOneOf(reads_as=NOT_PRAISE_ALONE, sureness=Sureness.LIKELY),)),
                )
            ),
            then=(LikeIt(),),
        ),
    )
    return [await rules.add_rule(house, scope, body, on=on, now=now) for body in bodies]


async def set_team(loader: Loader, scope: Scope, now: datetime) -> None:
    """Ways of the teams, and who takes how much in which languages."""
    house, ws = loader.house, scope.workspace_id
    await team.set_way(house, scope, loader.teams[ws, "Visitor care"], Way.LIGHTEST)
    await team.set_way(house, scope, loader.teams[ws, "Membership"], Way.KNOWN)
    for initials, capacity, languages, away in (
        ("MO", 40, (), 0),
        ("IB", 30, ("en", "de", "da"), 0),
        ("TN", 30, ("en", "es", "fr"), 0),
        ("AR", 10, ("en", "pl", "es"), 0),
        ("SW", 12, ("en", "da"), 3),
    ):
        await team.set_availability(
            house,
            scope,
            loader.scopes[ws, initials].member_id,
            capacity=capacity,
            languages=languages,
            away_from=now + timedelta(days=1) if away else None,
            away_until=now + timedelta(days=1 + away) if away else None,
            away_reason="Diving course" if away else "",
            shift=None,
            now=now,
        )
