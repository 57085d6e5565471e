"""The only way conversations change: events are folded into facts and written with them. Used by all acts."""

from collections.abc import AsyncIterator, Awaitable, Callable, Iterable
from contextlib import asynccontextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property
from typing import Any

from sorta.core.answers import list_against_ending, say_news
from sorta.core.errors import Impossible, MovedOn, NotFound
from sorta.core.events import Arrived, ByRule, Event, Undone, What, write_data
from sorta.core.facts import Answering, Facts, SettledAs, Unanswered, get_move
from sorta.core.finding import write_vector
from sorta.core.moves import apply, replay
from sorta.core.spells import may_change
from sorta.core.targets import Priority, Promise, get_audience, get_due
from sorta.services.alerts import News, tell_news
from sorta.services.events import read_events
from sorta.services.hours import get_promise
from sorta.services.house import House
from sorta.services.reads import Reads
from sorta.services.spells import Told, tell_anew, write_anew
from sorta.store import trail as store
from sorta.store.db import Tx
from sorta.store.live import make_notice


def read_facts(row: dict[str, Any]) -> Facts:
    """The facts that a conversation's row holds."""
    return Facts(
        seq=row["seq"],
        sorted=row["sorted"],
        priority=Priority(row["priority"]),
        owner=row["owner_id"],
        team=row["team_id"],
        tags=tuple(row["tags"]),
        watchers=tuple(row["watchers"]),
        settled_as=SettledAs(row["settled_as"]) if row["settled_as"] else None,
        parked_until=_instant(row["parked_until"]),
        unanswered=_read_unanswered(row["unanswered"]),
        answering=tuple(_read_answering(a) for a in row["answering"]),
        settled_on=row.get("settled_on"),
        parked_on=row.get("parked_on"),
        answered_until=_instant(row.get("answered_until")),
        by_hand=tuple(row.get("by_hand") or ()),
        proposal_waiting=bool(row.get("proposal_waiting")),
        consent_rules=tuple(row.get("consent_rules") or ()),
        case_until=_instant(row.get("case_until")),
        advice_waiting=tuple(row.get("advice_waiting") or ()),
        thanked=row.get("thanked"),
        linked=tuple(row.get("linked") or ()),
    )


def _read_answering(value: dict[str, Any]) -> Answering:
    before = value.get("before")
    return Answering(
        message=value["message"],
        covers=_read_unanswered(value["covers"]),
        settles=value["settles"],
        before=SettledAs(before) if before else None,
        before_on=value.get("before_on"),
        parked_until=_instant(value.get("parked_until")),
        parked_on=value.get("parked_on"),
        stuck=value.get("stuck"),
        acknowledges=bool(value.get("acknowledges")),
    )


def _write_answering(one: Answering) -> dict[str, Any]:
    """What is not set is left out: most replies on their way are plain."""
    more = {
        "before": one.before,
        "before_on": one.before_on,
        "parked_until": _text(one.parked_until),
        "parked_on": one.parked_on,
        "stuck": one.stuck,
        "acknowledges": one.acknowledges or None,
    }
    return {
        "message": one.message,
        "covers": _write_unanswered(one.covers),
        "settles": one.settles,
        **{key: value for key, value in more.items() if value is not None},
    }


def _instant(value: Any) -> datetime | None:
    return datetime.fromisoformat(value) if isinstance(value, str) else value


def _read_unanswered(values: list[dict[str, Any]]) -> tuple[Unanswered, ...]:
    return tuple(Unanswered(message=u["message"], at=datetime.fromisoformat(u["at"])) for u in values)


def _write_unanswered(values: tuple[Unanswered, ...]) -> list[dict[str, Any]]:
    return [{"message": u.message, "at": u.at.isoformat()} for u in values]


def project(row: dict[str, Any], facts: Facts, promise: Promise, now: datetime) -> dict[str, Any]:
    """The columns of a conversation's row that follow from its facts."""
    audience = get_audience(row["kind"], public=row["public"])
    awaiting = facts.awaiting_since
    return {
        "seq": facts.seq,
        "sorted": facts.sorted,
        "move": get_move(facts, now).value,
        "priority": int(facts.priority),
        "owner_id": facts.owner,
        "team_id": facts.team,
        "tags": list(facts.tags),
        "watchers": list(facts.watchers),
        "settled_as": facts.settled_as.value if facts.settled_as else None,
        "parked_until": facts.parked_until.isoformat() if facts.parked_until else None,
        "awaiting_since": awaiting.isoformat() if awaiting else None,
        "due": _text(get_due(awaiting, facts.priority, audience, promise)),
        "by_hand": list(facts.by_hand),
        "proposal_waiting": facts.proposal_waiting,
        "consent_rules": list(facts.consent_rules),
        "case_until": _text(facts.case_until),
        "advice_waiting": list(facts.advice_waiting),
        "unanswered": _write_unanswered(facts.unanswered),
        "answering": [_write_answering(a) for a in facts.answering],
        "settled_on": facts.settled_on,
        "parked_on": facts.parked_on,
        "answered_until": _text(facts.answered_until),
        "thanked": facts.thanked,
        "linked": list(facts.linked),
    }


def _text(instant: datetime | None) -> str | None:
    return instant.isoformat() if instant else None


async def check_seen(
    ledger: "Ledger", conversation: "Open", member_id: int, *, seen_seq: int | None, how: SettledAs | None
) -> None:
    """Raise MovedOn when a member would settle (`how`) or park (None) a conversation without knowing what happened in it
    since `seen_seq`; without a number nothing is checked."""
    if seen_seq is None or seen_seq == conversation.facts.seq:
        return
    events = await ledger.list_written(conversation)
    news = list_against_ending(events, seen_seq, member_id, how)
    if news:
        raise MovedOn(f"Since you looked, {say_news(news)}. Look first, then decide.", tuple(e.seq for e in news))


@dataclass
class Open:
    """A conversation being changed in this transaction."""

    row: dict[str, Any]
    facts: Facts
    is_new: bool = False
    #: Whether something happened after which its spells are others.
    has_new_spells: bool = False

    @property
    def id(self) -> int:
        id: int = self.row["id"]
        return id

    def is_latest(self, sent_at: datetime) -> bool:
        """Whether nothing of theirs is newer than what was sent then."""
        return sent_at >= _at(self.row["last_inbound_at"])

    def note_said(self, at: datetime) -> None:
        """Something was said in it, or has come to stand outside."""
        self.row["last_at"] = max(_at(self.row["last_at"]), at).isoformat()


@dataclass
class Ledger:
    """Collects what happens to conversations in one transaction and writes all of it at once."""

    house: House
    tx: Tx
    now: datetime
    _open: dict[int, Open] = field(default_factory=dict)
    _events: list[dict[str, Any]] = field(default_factory=list)
    _messages: list[dict[str, Any]] = field(default_factory=list)
    _added: dict[int, list[Event]] = field(default_factory=dict)
    _news: list[News] = field(default_factory=list)
    _written: dict[int, list[Event]] = field(default_factory=dict)
    _after: list[Callable[[], Awaitable[None]]] = field(default_factory=list)

    @property
    def workspace_id(self) -> int:
        return self.tx.workspace_id

    @cached_property
    def reads(self) -> Reads:
        """What its transaction has read of the workspace."""
        return Reads(self.tx)

    async def lock(self, conversation_ids: Iterable[int]) -> None:
        """Lock several until the transaction ends, in the order of their numbers; what is not there says so when it is asked for."""
        missing = sorted({id for id in conversation_ids if id not in self._open})
        for row in await store.lock_conversations(self.tx, missing) if missing else ():
            self.take(row)

    async def get(self, conversation_id: int) -> Open:
        """The conversation, locked until the transaction ends. Raises NotFound."""
        await self.lock([conversation_id])
        if conversation_id not in self._open:
            raise NotFound("There is no such conversation in this workspace.")
        conversation = self._open[conversation_id]
        if conversation.row["erased_at"] is not None:
            raise Impossible("What was said here has been erased: nothing is done with it any more.")
        return conversation

    @property
    def size(self) -> int:
        """How much has been added."""
        return len(self._events)

    def take(self, row: dict[str, Any], *, is_new: bool = False) -> Open:
        """Work on a row that this transaction has locked or is making."""
        if row["id"] not in self._open:
            self._open[row["id"]] = Open(row, Facts() if is_new else read_facts(row), is_new)
        return self._open[row["id"]]

    def add(
        self,
        conversation: Open,
        what: What,
        *,
        at: datetime | None = None,
        member_id: int | None = None,
        rule: ByRule | None = None,
    ) -> Event:
        """One more event; the facts follow."""
        event = Event(seq=conversation.facts.seq + 1, at=at or self.now, what=what, member_id=member_id, rule=rule)
        before = conversation.facts
        conversation.facts = apply(before, event)
        if isinstance(what, Arrived):
            conversation.row["last_inbound_seq"] = event.seq
        conversation.has_new_spells = conversation.has_new_spells or may_change(before, event, conversation.facts)
        self._added.setdefault(conversation.id, []).append(event)
        news = News.find(conversation.row, before, event)
        if news is not None:
            self._news.append(news)
        self._events.append(
            {
                "conversation_id": conversation.id,
                "seq": event.seq,
                "kind": event.kind,
                "at": event.at.isoformat(),
                "member_id": member_id,
                "data": write_data(what, rule),
            }
        )
        return event

    async def list_written(self, conversation: Open) -> list[Event]:
        """The trail as this transaction found it: locked as the conversation is, nobody else adds to it meanwhile. Of all that it works
        on at once: where one is asked for, others follow."""
        if conversation.id not in self._written:
            ids = [one.id for one in self._open.values() if not one.is_new and one.id not in self._written]
            for id, rows in (await store.list_trails(self.tx, ids)).items():
                added = self._added.get(id)
                self._written[id] = [e for e in read_events(rows) if not added or e.seq < added[0].seq]
        return self._written[conversation.id]

    async def add_undone(self, conversation: Open, of: int, member_id: int | None, reason: str | None = None) -> Event:
        """Take one event back: the facts are folded anew without it."""
        written = await self.list_written(conversation)
        event = self.add(conversation, Undone(of=of, reason=reason), member_id=member_id)
        added = self._added[conversation.id]
        conversation.facts = replay([*written, *added])
        return event

    def has_answer(self, conversation: Open) -> bool:
        """Whether an answer of one of us is among what this transaction is about to write."""
        return any(
            m["conversation_id"] == conversation.id and not m["inbound"] and m.get("rule_id") is None
            for m in self._messages
        )

    def add_message(self, conversation: Open, message: dict[str, Any]) -> None:
        """One more thing said; the row keeps what the queue shows of it. `words`, by which it is found, come along with what may be long."""
        words = message["words"] if "words" in message else write_vector(message["body"])
        self._messages.append({**message, "conversation_id": conversation.id, "words": words})
        row = conversation.row
        row["messages"] += 1
        conversation.note_said(_at(message["sent_at"]))
        if message["inbound"]:
            if conversation.is_latest(_at(message["sent_at"])):
                row["last_inbound_at"] = message["sent_at"]
                row["preview"] = make_preview(message["body"])
                row.update({key: message[key] for key in ("sentiment", "reads_as", "language")})
                row["bare_mention"] = bool((message["evidence"] or {}).get("bare_mention"))
                row["rating"] = message["rating"] or row.get("rating")
            row["has_attachment"] = bool(row.get("has_attachment") or message["attachments"])

    def unsay(self, conversation: Open) -> None:
        """A reply of ours was called back before it left: it was never said."""
        conversation.row["messages"] -= 1

    def after(self, do: Callable[[], Awaitable[None]]) -> None:
        """Do this in the same transaction when all is written: for rows that point at what was added."""
        self._after.append(do)

    async def write(self) -> None:
        """Write everything, and tell the listeners once the transaction is committed."""
        if not self._events:
            return
        told = [await self._tell(one) for one in self._open.values() if one.has_new_spells]
        opened, anew = await tell_anew(self.house, self.tx, told)
        promise = await get_promise(self.house, self.tx)
        rows: dict[bool, list[dict[str, Any]]] = {True: [], False: []}
        for conversation in self._open.values():
            row = {**conversation.row, **project(conversation.row, conversation.facts, promise, self.now)}
            rows[conversation.is_new].append({k: _plain(v) for k, v in row.items()})
        # Whoever has seen a conversation up to this number need not look again.
        (first, *others) = self._open.values()
        how_far = {} if others else {"seq": first.facts.seq}
        notice = make_notice(self.workspace_id, "conversations", ids=sorted(self._open), **how_far)
        await store.write_trail(
            self.tx,
            new=rows[True],
            changed=rows[False],
            messages=self._messages,
            events=self._events,
            opened=opened,
            notice=notice,
        )
        await write_anew(self.tx, anew)
        if self._news:
            await tell_news(self.tx, self._news, self.now)
        for do in self._after:
            await do()

    async def _tell(self, conversation: Open) -> Told:
        """All there is of a conversation, with what is about to be written."""
        id = conversation.id
        added = events = self._added[id]
        if not conversation.is_new:
            events = [*await self.list_written(conversation), *added]
        said = [m for m in self._messages if m["conversation_id"] == id and m["inbound"]]
        return Told(row=conversation.row, events=events, said={m["id"]: m for m in said}, is_new=conversation.is_new)


#: The ledger that what is done in this task shares, where several things are done together.
_SHARED: ContextVar[Ledger | None] = ContextVar("shared", default=None)


@asynccontextmanager
async def writing(house: House, workspace_id: int, now: datetime) -> AsyncIterator[Ledger]:
    """A ledger as of `now` in a transaction of its own, written at its end; within `together` the one that all share."""
    shared = _SHARED.get()
    if shared is not None:
        if shared.workspace_id != workspace_id:
            raise ValueError("What is done together is done in one workspace.")
        shared.now = now
        yield shared
        return
    async with house.db.transact(workspace_id) as tx:
        ledger = Ledger(house, tx, now)
        yield ledger
        await ledger.write()


@asynccontextmanager
async def together(
    house: House, workspace_id: int, now: datetime, conversations: Iterable[int] = ()
) -> AsyncIterator[Ledger]:
    """What is done meanwhile in this task through `writing` is one transaction, written at once at the end; each as of its own time.

    The conversations, best named beforehand, stay locked until then, so: some tens of them, and nothing that asks anybody outside.
    """
    async with writing(house, workspace_id, now) as ledger:
        await ledger.lock(conversations)
        token = _SHARED.set(ledger)
        try:
            yield ledger
        finally:
            _SHARED.reset(token)


def get_last_at(conversation: "Open") -> datetime:
    """When the last thing was said in it."""
    return _at(conversation.row["last_at"])


def _at(value: Any) -> datetime:
    return datetime.fromisoformat(value) if isinstance(value, str) else value


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, datetime) else value


def make_preview(body: str) -> str:
    """What a queue row shows of a message."""
    return " ".join(body.split())[:240]
