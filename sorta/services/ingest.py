"""Taking in what networks say: each thing once, in whatever order it comes. Used by services.intake and listening."""

import asyncio
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

import structlog

from sorta.core.events import AnsweredOutside, Arrived, Edited, Linked, Removed, Reopened, Settled
from sorta.core.facts import SettledAs
from sorta.core.finding import write_vector
from sorta.core.people import find_marks
from sorta.core.ports import (
    EditSeen,
    IdentitySeen,
    MessageSeen,
    PostSeen,
    ReactionSeen,
    Reader,
    RemovalSeen,
    Seen,
)
from sorta.core.reading import SHOWN_FROM, Reading, is_only_thanks, read
from sorta.core.standing import POINTS, REACTION_POINTS
from sorta.core.threading import GOES_ON_FOR, get_thread_key
from sorta.services.auto_answers import call_back, get_author
from sorta.services.cases import follow
from sorta.services.hours import get_promise
from sorta.services.house import House
from sorta.services.own_reading import get_reader
from sorta.services.ruling import Ruling, Told, get_book, make_heard
from sorta.services.trail import Ledger, Open, get_last_at, make_preview
from sorta.store import erasing, persons, profiles, trail
from sorta.store.accounts import Account
from sorta.store.db import Conflict, Tx
from sorta.store.live import make_notice
from sorta.store.rules import HeardRow

log = structlog.get_logger()
_TRIES = 5
#: Messages read at one go: some 50 ms.
_READ_AT_ONCE = 16
#: Characters of a text that people write: what is done with one of that length takes a few milliseconds.
SHORT = 2_000


@dataclass(frozen=True, kw_only=True)
class ReadMessage:
    """What takes a while with a message and asks nothing of the database: what it reads as (None for ours), and what it is found by."""

    reading: Reading | None
    words: str


Readings = Mapping[str, ReadMessage]


def read_message(reader: Reader, account: Account, seen: MessageSeen) -> Reading | None:
    """What a message of theirs reads as; None for ours."""
    if seen.by_us:
        return None
    return read(seen.body, reader.judge(seen.body), own_handles=(account.handle,))


def _is_short(seens: Sequence[Seen]) -> bool:
    """Whether reading takes a few milliseconds at most: one or two messages of a length that people write, or of ours as long."""
    said = [seen for seen in seens if isinstance(seen, MessageSeen)]
    return sum(not seen.by_us for seen in said) <= 2 and sum(len(seen.body) for seen in said) <= SHORT


def _read_all(reader: Reader, account: Account, seens: Sequence[Seen]) -> dict[str, ReadMessage]:
    return {
        s.external_id: ReadMessage(reading=read_message(reader, account, s), words=write_vector(s.body))
        for s in seens
        if isinstance(s, MessageSeen)
    }


async def _read_beside(house: House, reader: Reader, account: Account, seens: Sequence[Seen]) -> Readings:
    """As `_read_all`, off the event loop and a few at a time: who comes with a thousand lets others in between."""
    readings: dict[str, ReadMessage] = {}
    for start in range(0, len(seens), _READ_AT_ONCE):
        readings |= await house.reading.do(_read_all, reader, account, seens[start : start + _READ_AT_ONCE])
    return readings


@dataclass(kw_only=True)
class History:
    """What is told long after it happened: no rule reads it, and nothing that waits is called back for it. Conversations that began
    with it, or were settled before it came (`begun`, filled in here), are settled so, where anything is said, as of the last that was said in them."""

    settled_as: SettledAs | None
    begun: set[int] = field(default_factory=set)


async def take_in(
    house: House,
    account: Account,
    seens: Sequence[Seen],
    now: datetime,
    history: History | None = None,
    came: Mapping[str, datetime] | None = None,
) -> int:
    """Store what was seen, each thing once, in one transaction that is run again when it lost a race.

    `came` says when each message came, by its name on the network, where that was not `now`. The number of messages that were new.
    """
    # Reading takes a while and asks nothing of the database: done before the transaction, once.
    reader = await get_reader(house, account.workspace_id)
    readings = (
        _read_all(reader, account, seens) if _is_short(seens) else await _read_beside(house, reader, account, seens)
    )
    for attempt in range(_TRIES):
        try:
            async with house.db.transact(account.workspace_id, pipelined=True) as tx:
                return await _take_in_once(house, tx, account, seens, readings, now, history, came or {})
        except Conflict:
            if attempt == _TRIES - 1:
                raise
            await asyncio.sleep(0.01 * (attempt + 1))
    raise AssertionError("the last try either returns or raises")


async def _take_in_once(
    house: House,
    tx: Tx,
    account: Account,
    seens: Sequence[Seen],
    readings: Readings,
    now: datetime,
    history: History | None,
    came: Mapping[str, datetime],
) -> int:
    fresh = 0
    if account.has_erased:
        gone = await erasing.list_come_back(tx, account.id, [s.external_id for s in seens])
        seens = [s for s in seens if s.external_id not in gone]
    for seen in seens:
        if isinstance(seen, PostSeen):
            await trail.set_post(tx, account.id, _post(seen))
    ledger = Ledger(house, tx, now)
    messages = [seen for seen in seens if isinstance(seen, MessageSeen)]
    if messages:
        fresh, ruling = await _take_messages(tx, ledger, account, messages, readings, now, history, came)
        await ledger.write()
        if ruling is not None:
            await ruling.finish()
    changes = [seen for seen in seens if isinstance(seen, EditSeen | RemovalSeen)]
    if changes:
        ledger = Ledger(house, tx, now)
        for change in changes:
            await _take_change(tx, ledger, account, change)
        await ledger.write()
    for seen in seens:
        if isinstance(seen, ReactionSeen):
            await trail.add_reaction(tx, _reaction(account, seen, now))
    return fresh


def _post(post: PostSeen) -> dict[str, Any]:
    return {
        "external_id": post.external_id,
        "title": post.title,
        "body": post.body,
        "url": post.url,
        "published_at": post.published_at.isoformat() if post.published_at else None,
        "author": post.author.name if post.author else None,
        "is_ad": post.is_ad,
    }


def _partner(partner: IdentitySeen) -> dict[str, Any]:
    return {
        "external_id": partner.external_id,
        "handle": partner.handle,
        "name": partner.name,
        "reach": partner.reach,
        "automatic": partner.automatic,
    }


def _reaction(account: Account, seen: ReactionSeen, now: datetime) -> dict[str, Any]:
    return {
        "points": REACTION_POINTS,
        "notice": make_notice(account.workspace_id, "reaction"),
        "workspace_id": account.workspace_id,
        "account_id": account.id,
        "network": account.network,
        "external_id": seen.external_id,
        "author": seen.author.external_id,
        "handle": seen.author.handle,
        "name": seen.author.name,
        "reach": seen.author.reach,
        "object_id": seen.object_id,
        "at": seen.at,
    }


async def _take_messages(
    tx: Tx,
    ledger: Ledger,
    account: Account,
    seens: list[MessageSeen],
    readings: Readings,
    now: datetime,
    history: History | None,
    came: Mapping[str, datetime],
) -> tuple[int, Ruling | None]:
    unique = {seen.external_id: seen for seen in seens}
    batch = sorted(unique.values(), key=lambda s: (s.sent_at, s.external_id))
    items = [
        {
            "n": n,
            "external_id": s.external_id,
            "thread_key": get_thread_key(s),
            "partner": _partner(s.partner),
            "post": _post(s.post) if s.post else None,
        }
        for n, s in enumerate(batch)
    ]
    fresh = 0
    given: list[tuple[int, int, datetime]] = []
    marks: list[tuple[str, str, int]] = []
    ruling: Ruling | None = None
    touched: dict[int, Open] = {}
    for found in await trail.resolve_messages(tx, account.id, account.network, now, items):
        if found.known:
            continue
        fresh += 1
        seen = batch[found.n]
        # Each is taken in as of when it came: those that waited for each other share a transaction, not a time.
        at = ledger.now = came.get(seen.external_id, now)
        taken = readings[seen.external_id]
        reading = taken.reading
        conversation = _open(ledger, account, seen, found, at)
        touched[conversation.id] = conversation
        begins = found.conversation is None and not conversation.facts.seq
        # What was settled is so still, when something that was said long ago comes after all.
        if history is not None and (begins or conversation.facts.settled_as is not None):
            history.begun.add(conversation.id)
        if not (seen.by_us or seen.public):
            await _link(tx, ledger, account, conversation, found, min(seen.sent_at, at))
        if seen.by_us and history is None:
            await call_back(ledger, conversation, "it was answered on the network itself")
        was = Before(
            first_message=conversation.row["last_inbound_seq"] == 0,
            junk=conversation.facts.settled_as is SettledAs.JUNK,
        )
        _take_message(ledger, account, conversation, seen, taken, found, at)
        if not seen.by_us:
            if history is None:
                ruling = ruling or await _open_ruling(ledger, account, found)
            is_open = conversation.facts.settled_as is None or conversation.facts.thanked == found.message_id
            if ruling is not None and reading is not None and is_open and (ruling.book.rules or ruling.book.watches):
                await _rule(ruling, conversation, seen, reading, found, was, at)
            await follow(ledger, conversation, found.message_id, min(seen.sent_at, at))
            given.append((found.person_id, POINTS[seen.kind], min(seen.sent_at, at)))
            marks += [(m.kind, m.value, found.person_id) for m in find_marks(seen.body)]
    ledger.now = now
    if history is not None and history.settled_as is not None:
        for id in history.begun & set(touched):
            settle_past(ledger, touched[id], history.settled_as)
    if given:
        await persons.add_points(tx, given)
    if marks:
        await profiles.add_marks(tx, marks)
    return fresh, ruling


def settle_past(ledger: Ledger, conversation: Open, how: SettledAs) -> None:
    """Settled as of the last that was said in it."""
    if conversation.facts.settled_as is None:
        ledger.add(conversation, Settled(how=how), at=get_last_at(conversation))


async def _open_ruling(ledger: Ledger, account: Account, found: trail.Resolved) -> Ruling:
    house, tx = ledger.house, ledger.tx
    return Ruling(
        ledger=ledger,
        account=account,
        book=await get_book(house, tx, found.rules_version),
        promise=await get_promise(house, tx),
        zone=ZoneInfo(found.time_zone),
        is_held=found.is_held,
    )


@dataclass(frozen=True, kw_only=True)
class Before:
    """What a conversation was when a message came."""

    first_message: bool
    junk: bool


async def _rule(
    ruling: Ruling,
    conversation: Open,
    seen: MessageSeen,
    reading: Reading,
    found: trail.Resolved,
    was: Before,
    now: datetime,
) -> None:
    """Read the rules on one message that has just been taken in."""
    ledger = ruling.ledger
    answered = ledger.has_answer(conversation)
    if ruling.book.asks_answered and found.conversation is not None and not answered:
        answered = (await get_author(ledger, conversation, found.person_id))["is_answered"]
    row = HeardRow(
        id=found.message_id,
        conversation_id=conversation.id,
        person_id=found.person_id,
        kind=seen.kind.value,
        network=ruling.account.network,
        account_id=ruling.account.id,
        body=seen.body,
        arrived_at=min(seen.sent_at, now),
        language=reading.language,
        sentiment=reading.sentiment,
        reads_as=list(reading.reads_as),
        evidence=_write_reading(reading, is_first=found.conversation is None and found.is_new_person)["evidence"],
        rating=seen.rating,
        has_attachment=bool(seen.attachments),
        post_id=found.post_id,
        reach=seen.partner.reach,
        standing=found.standing,
        automatic=seen.partner.automatic,
        # A post that this very message brought along is not in the table yet for the statement that asked.
        on_ad=found.on_ad or (seen.post is not None and seen.post.is_ad),
        own_handle=ruling.account.handle,
        person_tags=found.person_tags,
        first_message=was.first_message,
        answered=answered,
        blocked=found.blocked,
    )
    heard = make_heard(row, promise=ruling.promise, zone=ruling.zone, groups=ruling.book.groups)
    told = Told(
        external_id=seen.external_id,
        handle=seen.partner.handle,
        identity=seen.partner.external_id,
        sent_at=seen.sent_at,
        person_name=seen.partner.name,
        was_junk=was.junk,
    )
    await ruling.take(conversation, heard, told)


def _open(ledger: Ledger, account: Account, seen: MessageSeen, found: trail.Resolved, now: datetime) -> Open:
    if found.conversation is not None:
        return ledger.take(found.conversation)
    return ledger.take(_make_row(account, seen, found, min(seen.sent_at, now)), is_new=True)


async def _link(
    tx: Tx, ledger: Ledger, account: Account, private: Open, found: trail.Resolved, arrived: datetime
) -> None:
    """What they write in private after we went there from a comment of theirs is one matter with it."""
    asked = await trail.list_gone_private(
        tx,
        account_id=account.id,
        person_id=found.person_id,
        private_id=private.id,
        since=arrived - GOES_ON_FOR,
        until=arrived,
    )
    for row in asked:
        public = await ledger.get(row["id"])
        if private.id in public.facts.linked:
            continue
        facts, message = public.facts, row["message_id"]
        brings = Linked(other=public.id, message=message, owner=facts.owner, team=facts.team, tags=facts.tags)
        ledger.add(private, brings, at=arrived)
        ledger.add(public, Linked(other=private.id, message=message), at=arrived)


def _take_message(
    ledger: Ledger,
    account: Account,
    conversation: Open,
    seen: MessageSeen,
    taken: ReadMessage,
    found: trail.Resolved,
    now: datetime,
) -> None:
    arrived = min(seen.sent_at, now)
    conversation.row["person_name"] = seen.partner.name
    conversation.row["handle"] = seen.partner.handle
    message = {
        "id": found.message_id,
        "account_id": account.id,
        "external_id": seen.external_id,
        "inbound": not seen.by_us,
        "kind": seen.kind.value,
        "public": seen.public,
        "identity_id": None if seen.by_us else found.identity_id,
        "member_id": None,
        "body": seen.body,
        "words": taken.words,
        "in_reply_to": seen.in_reply_to,
        "url": seen.url,
        "sent_at": arrived.isoformat(),
        "arrived_at": now.isoformat(),
        "edited_at": None,
        "removed_at": None,
        "rating": seen.rating,
        "attachments": [asdict(a) for a in seen.attachments],
        **_write_reading(taken.reading, is_first=found.conversation is None and found.is_new_person),
    }
    junk = conversation.facts.settled_as == "junk" and found.blocked
    if seen.by_us:
        ledger.add(conversation, AnsweredOutside(message=found.message_id), at=arrived)
    else:
        said = next((c["body"] for c in reversed(found.early or ()) if c["body"] is not None), seen.body)
        thanks = not seen.attachments and is_only_thanks(said)
        ledger.add(conversation, Arrived(message=found.message_id, thanks=thanks), at=arrived)
        if junk and conversation.facts.settled_as is None:
            ledger.add(conversation, Settled(how=SettledAs.JUNK))
    for change in found.early or ():
        at = datetime.fromisoformat(change["at"])
        if change["body"] is None:
            message["removed_at"] = at.isoformat()
            ledger.add(conversation, Removed(message=found.message_id), at=at)
        elif message["removed_at"] is None:
            ledger.add(conversation, Edited(message=found.message_id, before=message["body"]), at=at)
            message["body"], message["edited_at"] = change["body"], at.isoformat()
            message["words"] = _write_words(change["body"])
    ledger.add_message(conversation, message)


def _write_words(body: str) -> str | None:
    """What an edited text is found by; of a long one it is made by the duty `note_words`, away from the event loop."""
    return write_vector(body) if len(body) <= SHORT else None


def _write_reading(reading: Reading | None, *, is_first: bool) -> dict[str, Any]:
    """A message's columns that its reading fills."""
    if reading is None:
        return {"language": None, "sentiment": None, "reads_as": None, "evidence": None}
    return {
        "language": reading.language,
        "sentiment": reading.sentiment,
        "reads_as": list(reading.reads_as),
        "evidence": {
            "chances": {label: round(chance, 3) for label, chance in reading.chances.items()},
            "tones": {tone: round(chance, 3) for tone, chance in reading.tones.items()},
            "words": {
                label: words for label, words in reading.words.items() if words and reading.chances[label] > SHOWN_FROM
            },
            "corrected": [],
            "sentiment_words": reading.sentiment_words,
            "links": reading.links,
            "bare_mention": reading.bare_mention,
            "first_contact": is_first,
        },
    }


def _make_row(account: Account, seen: MessageSeen, found: trail.Resolved, arrived: datetime) -> dict[str, Any]:
    return {
        "id": found.conversation_id,
        "account_id": account.id,
        "person_id": found.person_id,
        "post_id": found.post_id,
        "thread_key": get_thread_key(seen),
        "kind": seen.kind.value,
        "public": seen.public,
        "network": account.network,
        "person_name": seen.partner.name,
        "handle": seen.partner.handle,
        "preview": make_preview(seen.body),
        "messages": 0,
        "created_at": arrived.isoformat(),
        "last_at": arrived.isoformat(),
        "last_inbound_at": arrived.isoformat(),
        "last_inbound_seq": 0,
        "first_contact": found.is_new_person,
        "standing": found.standing,
    }


async def _take_change(tx: Tx, ledger: Ledger, account: Account, change: EditSeen | RemovalSeen) -> None:
    known = await trail.get_message_by_external_id(tx, account.id, change.external_id)
    body = change.body if isinstance(change, EditSeen) else None
    if known is None:
        await trail.add_early_change(tx, account.id, change.external_id, body, change.at)
        return
    if known.removed_at is not None:
        return
    conversation = await ledger.get(known.conversation_id)
    if body is None:
        await trail.set_message_removed(tx, known.id, change.at)
        ledger.add(conversation, Removed(message=known.id), at=change.at)
        return
    if (known.edited_at is not None and change.at <= known.edited_at) or body == known.body:
        return
    await trail.set_message_text(tx, known.id, body=body, words=_write_words(body), at=change.at)
    ledger.add(conversation, Edited(message=known.id, before=known.body), at=change.at)
    if conversation.facts.thanked == known.id and not is_only_thanks(body):
        # They thanked us and have written something else over it: that waits for an answer.
        ledger.add(conversation, Reopened(message=known.id, since=change.at))
    if known.inbound and conversation.is_latest(known.sent_at):
        conversation.row["preview"] = make_preview(body)
