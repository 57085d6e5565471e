"""The rules at work: read on every message in the transaction that stores it. Used by services.ingest.

`core.deciding` says what comes out; here it is done, each effect an event of the trail with the rule's name and the
evidence. What goes outside is queued in the same transaction and leaves with its commit.
"""

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import TypeAdapter

from sorta.core.alerting import Watch, list_told
from sorta.core.answers import get_obstacle as get_reply_obstacle
from sorta.core.answers import prepare_reply
from sorta.core.deciding import Heard, Match, decide
from sorta.core.errors import Invalid
from sorta.core.events import (
    Alerted,
    Assigned,
    ByRule,
    ChosenMember,
    ConsentAsked,
    Moderated,
    Offered,
    Parked,
    PersonTagged,
    Prioritised,
    Reopened,
    Replied,
    Settled,
    Tagged,
    Watched,
    What,
)
from sorta.core.facts import SettledAs
from sorta.core.not_done import NotDone
from sorta.core.parking import get_parked_until
from sorta.core.ports import Kind, Moderation
from sorta.core.reading import (
    ReadsAs,
    count_other_characters,
    get_tone_chance,
    list_chances,
    names_somebody,
    without_handles,
)
from sorta.core.routing import WEIGHTS
from sorta.core.rules import (
    ANY_LANGUAGE,
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
    RuleBody,
    SetPriority,
    SettleIt,
    TellMembers,
    make_sure,
)
from sorta.core.targets import Promise
from sorta.core.texts import fill_in, list_links, without_placeholders
from sorta.core.words import fold_text
from sorta.networks.abilities import TABLE
from sorta.services import moderation
from sorta.services.alerts import add_alerts
from sorta.services.answers import find_sign_off, has_public_reply, make_outgoing_message, queue_outgoing
from sorta.services.approvals import withdraw_overtaken
from sorta.services.auto_answers import find_obstacle, get_author
from sorta.services.cases import hand_over_by_rule
from sorta.services.consent import find_needs
from sorta.services.house import House
from sorta.services.links import shorten
from sorta.services.team import Given, choose_member, note_turns
from sorta.services.texts import get_text, get_values
from sorta.services.trail import Ledger, Open
from sorta.store import alerts, groups, persons, rules, texts, trail
from sorta.store.accounts import Account
from sorta.store.db import Tx
from sorta.store.rules import HeardRow

BODY = TypeAdapter(RuleBody)


@dataclass(frozen=True, kw_only=True)
class RuleBook:
    """The rules of a workspace that are switched on, as of a version, and the account groups they may ask for."""

    version: int
    rules: tuple[Rule, ...]
    groups: Mapping[int, frozenset[int]]
    #: Whether a rule asks if one of us has answered: only then it is looked up.
    asks_answered: bool
    #: What members want to hear of when it comes in.
    watches: tuple[Watch, ...] = ()


async def get_book(house: House, tx: Tx, version: int) -> RuleBook:
    """The rules as they are: kept by each process, and read anew when their version has moved on."""
    kept = house.books.get(tx.workspace_id)
    if isinstance(kept, RuleBook) and kept.version == version:
        return kept
    active = await rules.list_active(tx)
    book = RuleBook(
        version=version,
        rules=tuple(
            Rule(
                id=row["id"],
                version=row["version"],
                body=speak(house, BODY.validate_python(row["body"]), row["spoken"]),
                answers=row["answers"],
            )
            for row in active
        ),
        groups=await rules.list_groups_of(tx),
        asks_answered=any("nobody_answered" in json.dumps(row["body"]["when"]) for row in active),
        watches=tuple(
            Watch(
                member=row["member_id"],
                accounts=frozenset(row["accounts"]),
                kinds=frozenset(row["kinds"]),
                words=tuple(row["words"]),
            )
            for row in await alerts.list_watches(tx)
        ),
    )
    house.books[tx.workspace_id] = book
    return book


def speak(house: House, body: RuleBody, spoken: Mapping[str, str | None]) -> RuleBody:
    """The rule with the language that each of its answers is written for: its own, that of its saved reply (`spoken`, by
    number; none is any), or the one its words are read as."""

    def get_language(action: AnswerWith) -> str | None:
        if action.saved is not None:
            return spoken.get(str(action.saved)) or ANY_LANGUAGE
        return action.language or house.reader.judge(without_placeholders(action.text)).language

    then = tuple(replace(a, language=get_language(a)) if isinstance(a, AnswerWith) else a for a in body.then)
    return make_sure(replace(body, then=then))


def make_heard(row: HeardRow, *, promise: Promise, zone: ZoneInfo, groups: Mapping[int, frozenset[int]]) -> Heard:
    """A message as rules see it; of a past one, standing, reach and tags are the person's of today."""
    others = without_handles(row.body, (row.own_handle,))
    evidence = row.evidence or {}
    return Heard(
        message=row.id,
        conversation=row.conversation_id,
        person=row.person_id,
        kind=Kind(row.kind),
        network=row.network,
        account=row.account_id,
        text=fold_text(row.body),
        at=row.arrived_at.astimezone(zone),
        is_open=promise.hours.is_open(row.arrived_at),
        groups=groups.get(row.account_id, frozenset()),
        mentions_other=names_somebody(others),
        other_characters=count_other_characters(others),
        language=row.language,
        sentiment=row.sentiment,
        sentiment_chance=get_tone_chance(row.sentiment, evidence),
        chances=list_chances(row.reads_as, evidence),
        reading_words={ReadsAs(label): tuple(words) for label, words in evidence.get("words", {}).items()},
        sentiment_words=tuple(evidence.get("sentiment_words", ())),
        rating=row.rating,
        has_link=bool(evidence.get("links")),
        has_attachment=row.has_attachment,
        person_tags=frozenset(row.person_tags),
        reach=row.reach,
        standing=row.standing,
        first_contact=bool(evidence.get("first_contact")),
        first_message=row.first_message,
        answered=row.answered,
        blocked=row.blocked,
        post=row.post_id,
        on_ad=row.on_ad,
        automatic=row.automatic,
    )


@dataclass(frozen=True, kw_only=True)
class Told:
    """One inbound message as the networks know it: what an effect on the network needs."""

    external_id: str
    handle: str
    identity: str
    sent_at: datetime
    person_name: str
    #: The conversation was settled as junk when it came.
    was_junk: bool = False


def _name_rule(match: Match) -> ByRule:
    """A rule as the trail names it."""
    return ByRule(id=match.rule.id, version=match.rule.version, name=match.rule.name, evidence=match.evidence)


@dataclass
class Ruling:
    """Reads the rules on the messages of one transaction, and does what comes out."""

    ledger: Ledger
    account: Account
    book: RuleBook
    promise: Promise
    zone: ZoneInfo
    is_held: bool
    _hits: list[dict[str, Any]] = field(default_factory=list)
    _outgoing: list[dict[str, Any]] = field(default_factory=list)
    _uses: list[dict[str, Any]] = field(default_factory=list)
    _alerts: list[dict[str, Any]] = field(default_factory=list)
    _given: list[Given] = field(default_factory=list)

    async def take(self, conversation: Open, heard: Heard, told: Told) -> None:
        """Read the rules on one message and do what they say."""
        for match in decide(self.book.rules, heard, frozenset(conversation.facts.by_hand)):
            done: list[str] = []
            lost: list[dict[str, Any]] = [
                {"effect": one.action.type, "why": one.why}
                if one.why
                else {"effect": one.action.type, "to": one.to.id if one.to else None}
                for one in match.lost
            ]
            for action in match.effects:
                why_not = await self._do(conversation, heard, told, match, action)
                if why_not is None:
                    done.append(action.type)
                else:
                    lost.append({"effect": action.type, "why": why_not})
            self._hits.append(
                {
                    "rule_id": match.rule.id,
                    "version": match.rule.version,
                    "conversation_id": conversation.id,
                    "message_id": heard.message,
                    "at": heard.at.isoformat(),
                    "evidence": [asdict(e) for e in match.evidence],
                    "effects": done,
                    "lost": lost,
                }
            )

        members = list_told(self.book.watches, account=heard.account, kind=heard.kind, text=heard.text)
        if members:
            self._alerts.append(
                {
                    "members": members,
                    "occasion": "came_in",
                    "words": f"{told.person_name}, “{heard.text.text[:140]}”",
                    "conversation_id": conversation.id,
                    "key": f"came_in:{heard.message}",
                }
            )

    async def finish(self) -> None:
        """After the ledger is written: what rules did, what goes outside, and whom it concerns; who sees what a new conversation is about
        is not known before."""
        await note_turns(self.ledger.tx, self._given)
        for alert in self._alerts:
            await add_alerts(self.ledger.tx, **alert, now=self.ledger.now)
        for outgoing in self._outgoing:
            await queue_outgoing(self.ledger, **outgoing)
        for use in self._uses:
            await texts.add_use(self.ledger.tx, **use, member_id=None, now=self.ledger.now)
        if self._hits:
            await rules.add_hits(self.ledger.tx, self._hits)

    def _add(self, conversation: Open, match: Match, what: What) -> None:
        self.ledger.add(conversation, what, rule=_name_rule(match))

    async def _do(self, conversation: Open, heard: Heard, told: Told, match: Match, action: Action) -> str | None:
        """One effect; None, or why it did not come to pass."""
        ledger = self.ledger
        match action:
            case SetPriority():
                self._add(conversation, match, Prioritised(priority=action.priority))
            case AddTags(person=False):
                for tag in set(action.tags) - set(conversation.facts.tags):
                    self._add(conversation, match, Tagged(tag=tag))
            case AddTags():
                for tag in set(action.tags) - heard.person_tags:
                    await persons.set_tagged(ledger.tx, heard.person, tag, on=True)
                    self._add(conversation, match, PersonTagged(tag=tag))
            case GiveTo():
                await self._assign(conversation, heard, match, action)
            case LikeIt():
                return await self._like(conversation, heard, told, match)
            case HideIt():
                return self._moderate(conversation, heard, told, match, Moderation.HIDE)
            case AnswerWith(offer=True):
                return await self._offer(conversation, heard, told, match, action)
            case AnswerWith():
                return await self._reply(conversation, heard, told, match, action)
            case SettleIt() | ParkIt() | HandItOver() if conversation.facts.settled_as is not None:
                return NotDone.ONLY_THANKS
            case BringBack():
                if conversation.facts.settled_as is not None:
                    self._add(conversation, match, Reopened(message=heard.message, since=heard.at))
            case SettleIt():
                await withdraw_overtaken(ledger, conversation, f"the rule “{match.rule.name}” settled the conversation")
                self._add(conversation, match, Settled(how=SettledAs(action.how)))
            case ParkIt():
                await withdraw_overtaken(ledger, conversation, f"the rule “{match.rule.name}” parked the conversation")
                back = self.promise.hours.get_next_open(
                    get_parked_until(action.choice, ledger.now.astimezone(self.zone))
                )
                self._add(conversation, match, Parked(until=back))
            case HandItOver():
                rule = _name_rule(match)
                return await hand_over_by_rule(ledger, conversation, heard.message, action.desk, rule)
            case AskConsent():
                if match.rule.name not in conversation.facts.consent_rules:
                    self._add(conversation, match, ConsentAsked())
            case LetWatch():
                for member in set(action.members) - set(conversation.facts.watchers):
                    self._add(conversation, match, Watched(member=member))
            case TellMembers():
                self._alerts.append(
                    {
                        "members": action.members,
                        "occasion": "rule",
                        "words": f"{match.rule.name}: {told.person_name}, “{heard.text.text[:140]}”",
                        "conversation_id": conversation.id,
                        "key": f"rule:{match.rule.id}:{heard.message}",
                    }
                )
                self._add(conversation, match, Alerted(members=tuple(action.members)))
        return None

    async def _assign(self, conversation: Open, heard: Heard, match: Match, action: GiveTo) -> None:
        """To a member who sees its account, or a team; who has it already from there keeps it."""
        facts = conversation.facts
        if action.member is not None:
            if facts.owner != action.member and await groups.is_seen_by(self.ledger.tx, action.member, heard.account):
                self._add(conversation, match, Assigned(owner=action.member))
            return
        if facts.team == action.team and facts.owner is not None:
            return
        assert action.team is not None
        tx = self.ledger.tx
        choice = await choose_member(tx, action.team, heard, self.zone, self._given)
        if choice.member is not None:
            load = WEIGHTS[facts.priority]
            self._given.append(Given(team=action.team, member=choice.member, at=heard.at, load=load))
        self._add(
            conversation,
            match,
            Assigned(
                owner=choice.member,
                team=action.team,
                choice=ChosenMember(reason=choice.reason, passed=choice.passed),
            ),
        )

    async def _like(self, conversation: Open, heard: Heard, told: Told, match: Match) -> str | None:
        """Nobody is liked who is blocked, or of whom something is hidden or was settled as junk."""
        if heard.blocked or told.was_junk:
            return NotDone.BLOCKED if heard.blocked else NotDone.JUNK
        author = await get_author(self.ledger, conversation, heard.person)
        if author["has_junk"] or author["has_hidden"]:
            return NotDone.JUNK if author["has_junk"] else NotDone.HIDDEN
        return self._moderate(conversation, heard, told, match, Moderation.LIKE)

    def _moderate(self, conversation: Open, heard: Heard, told: Told, match: Match, what: Moderation) -> str | None:
        message = {
            "external_id": told.external_id,
            "public": conversation.row["public"],
            "inbound": True,
            "removed_at": None,
        }
        obstacle = moderation.get_obstacle(conversation.row["network"], message, what)
        if obstacle is None:
            self._add(conversation, match, Moderated(message=heard.message, what=what))
            self._queue(conversation, heard.message, what.value, told)
        return obstacle

    def _queue(self, conversation: Open, message_id: int, what: str, told: Told) -> None:
        outgoing = {
            "conversation": conversation,
            "message_id": message_id,
            "what": what,
            "target": told.external_id,
            "recipient": told.identity,
            "member_id": None,
            "now": self.ledger.now,
            # A reply can be stopped for as long as a member's can; a like or a hiding is undone on the network.
            "leaves_at": self.ledger.now + self.ledger.house.undo_for if what == "reply" else self.ledger.now,
        }
        self._outgoing.append(outgoing)

    async def _fill(self, told: Told, action: AnswerWith) -> str:
        """An answer's words with all placeholders filled. Raises Invalid, with a code, for what is not there any more."""
        tx = self.ledger.tx
        text = action.text if action.saved is None else await get_text(tx, action.saved)
        if text is None:
            raise Invalid(NotDone.SAVED_REPLY_ARCHIVED, "then")
        values = await get_values(self.ledger.reads, told.person_name, self.account.name)
        if any(name not in values.links for name in list_links(text)):
            raise Invalid(NotDone.LINK_GONE, "then")
        return fill_in(text, values)

    async def _offer(
        self, conversation: Open, heard: Heard, told: Told, match: Match, action: AnswerWith
    ) -> str | None:
        """An answer that a member may send: it says nothing outside, so none of the limits of automatic ones hold."""
        if heard.blocked or told.was_junk:
            return NotDone.BLOCKED if heard.blocked else NotDone.JUNK
        try:
            text = await self._fill(told, action)
        except Invalid as error:
            return error.message
        self._add(conversation, match, Offered(public=conversation.row["public"], text=text, saved=action.saved))
        return None

    async def _reply(
        self, conversation: Open, heard: Heard, told: Told, match: Match, action: AnswerWith
    ) -> str | None:
        """An automatic answer within its limits; one rule that answers too often is switched off."""
        ledger, row = self.ledger, conversation.row
        abilities = TABLE[row["network"]]
        obstacle = get_reply_obstacle(
            abilities,
            public=row["public"],
            conversation_public=row["public"],
            last_inbound_at=told.sent_at,
            now=ledger.now,
            has_public_reply=row["messages"] > 1 and await has_public_reply(ledger.tx, row),
        )
        if obstacle is not None:
            return obstacle
        try:
            said = await shorten(
                ledger.house,
                ledger.tx,
                await self._fill(told, action),
                account_id=self.account.id,
                member_id=None,
                now=ledger.now,
            )
            sign_off = await find_sign_off(ledger.reads, self.account, None)
            body = prepare_reply(abilities, said, told.handle, public=row["public"], sign_off=sign_off)
        except Invalid as error:
            return error.message
        needs = await find_needs(ledger.reads, conversation, None, public=row["public"], text=body)
        if needs:
            return f"it needs approval: {needs[0].name}."
        why_not = await find_obstacle(
            ledger, conversation, heard, match.rule, is_held=self.is_held, was_junk=told.was_junk
        )
        if why_not is not None:
            return why_not
        message_id = await trail.next_message_id(ledger.tx)
        self._add(
            conversation,
            match,
            Replied(message=message_id, public=row["public"], settle=False, answers=action.answers),
        )
        ledger.add_message(
            conversation,
            make_outgoing_message(
                message_id, row, body=body, in_reply_to=told.external_id, now=ledger.now, rule_id=match.rule.id
            ),
        )
        await rules.add_answer(
            ledger.tx,
            rule_id=match.rule.id,
            conversation_id=conversation.id,
            person_id=heard.person,
            message_id=message_id,
            now=ledger.now,
        )
        if action.saved is not None:
            self._uses.append({"id": action.saved, "message_id": message_id, "answered_id": heard.message})
        self._queue(conversation, message_id, "reply", told)
        return None
