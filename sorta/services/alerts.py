"""Telling members: here, on their device, by mail and by text message, each thing once, quietly when they are away or do not want to be
disturbed. Used by the trail, rules, delivery, the clock."""

from collections.abc import Awaitable, Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from functools import partial
from typing import Any
from zoneinfo import ZoneInfo

from sorta.core.alerting import OCCASIONS, Digest, Habits, Wants, Watch, find_named, get_leaving, is_quiet
from sorta.core.errors import Invalid, NotFound
from sorta.core.events import Assigned, Event, Noted
from sorta.core.facts import Facts
from sorta.core.permissions import Permission
from sorta.core.ports import Letter, MailPost, TextPost
from sorta.core.retry import GiveUp, TryAgain
from sorta.core.words import check_pattern
from sorta.services.house import House, Scope
from sorta.services.sending import Sent, attempt
from sorta.store import accounts as account_store
from sorta.store import alerts as store
from sorta.store import rules, sorting
from sorta.store.db import Tx
from sorta.store.live import tell

_WAYS = ("here", "device", "mail", "text")
#: What should have left this long ago is news no more; it stands in the app.
SENT_WITHIN = timedelta(hours=2)
#: So many things in one letter at most; what is more goes with the next.
MOST_TOGETHER = 50


async def add_alerts(
    tx: Tx,
    *,
    members: Iterable[int],
    occasion: str,
    words: str,
    conversation_id: int | None,
    key: str,
    now: datetime,
) -> list[int]:
    """Tell members something within a transaction, by the ways each wants; `key` names the thing, so that nobody is told twice.

    Who is away is told here only; mails and text messages wait until quiet hours are over.
    """
    given = []
    for row in await store.list_wants(tx, list(members), occasion, conversation_id, now):
        usual = OCCASIONS[occasion][1]
        wants = {way: row[way] if row[way] is not None else getattr(usual, way) for way in _WAYS}
        habits = Habits(quiet_from=row["quiet_from"], quiet_until=row["quiet_until"], digest=Digest(row["digest"]))
        zone = ZoneInfo(row["time_zone"])
        ways = {}
        if wants["mail"] and not row["is_away"]:
            ways["mail"] = get_leaving(habits, now, zone, gathered=True).isoformat()
        if wants["text"] and not row["is_away"] and row["has_phone"]:
            ways["text"] = get_leaving(habits, now, zone, gathered=False).isoformat()
        if wants["here"] or ways:
            device = wants["device"] and wants["here"] and not is_quiet(habits, now, zone)
            given.append({"member": row["member_id"], "here": wants["here"], "device": device, "ways": ways})
    if not given:
        return []
    told = await store.add_alerts(
        tx,
        given=given,
        occasion=occasion,
        words=words,
        conversation_id=conversation_id,
        key=key,
        now=now,
    )
    for member in told:
        await tell(tx, "alert", member=member)
    return told


@dataclass(frozen=True, kw_only=True)
class News:
    """What a colleague did that others are told of: gave something to somebody or to a team, or wrote a note, which may name somebody."""

    conversation_id: int
    person: str
    seq: int
    by: int
    owner: int | None = None
    team: int | None = None
    note: str = ""

    @classmethod
    def find(cls, row: Mapping[str, Any], before: Facts, event: Event) -> "News | None":
        """What an event is news of, if of anything; what rules and the clock do is none: rules say themselves whom they tell."""
        if event.member_id is None:
            return None
        match event.what:
            case Assigned() as given_to:
                owner, team, words = given_to.owner, given_to.team, given_to.note or ""
            case Noted(text=text):
                owner, team, words = None, None, text
            case _:
                return None
        given = owner if owner not in (before.owner, event.member_id) else None
        to_team = team if owner is None and team != before.team else None
        if given is None and to_team is None and "@" not in words:
            return None
        return cls(
            conversation_id=row["id"],
            person=row["person_name"],
            seq=event.seq,
            by=event.member_id,
            owner=given,
            team=to_team,
            note=words,
        )


async def tell_news(tx: Tx, news: Sequence[News], now: datetime) -> None:
    """Tell those it concerns, each of one thing once: who is given something hears of the note with it."""
    names = dict(await store.list_names(tx))
    teams = {t["id"]: t for t in await sorting.list_teams(tx)} if any(n.team for n in news) else {}
    for one in news:
        by, said = names.get(one.by, "Somebody"), f": {one.note}" if one.note else "."
        to: list[tuple[str, list[int], str]] = []
        if one.owner is not None:
            to.append(("given", [one.owner], f"{by} gave you {one.person}{said}"))
        if one.team in teams:
            team = teams[one.team]
            to.append(("given_team", team["members"], f"{by} gave {one.person} to {team['name']}{said}"))
        to.append(("named", find_named(one.note, names.items()), f"{by} named you in a note on {one.person}{said}"))
        known = {one.by}
        for occasion, members, words in to:
            await add_alerts(
                tx,
                members=[m for m in members if m not in known],
                occasion=occasion,
                words=words,
                conversation_id=one.conversation_id,
                key=f"{occasion}:{one.conversation_id}:{one.seq}",
                now=now,
            )
            known.update(members if occasion != "given_team" else ())


async def list_alerts(house: House, scope: Scope, limit: int) -> dict[str, Any]:
    """What the member was told, newest first, and how much of it is unread."""
    async with house.db.transact(scope.workspace_id) as tx:
        return {
            "unread": await store.count_unread(tx, scope.member_id),
            "alerts": await store.list_alerts(tx, scope.member_id, limit),
        }


async def set_read(house: House, scope: Scope, id: int | None, now: datetime) -> None:
    """The member has read one alert, or all."""
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_read(tx, scope.member_id, id, now)


async def describe(house: House, scope: Scope) -> dict[str, Any]:
    """What the member can be told of, how they want it, and what applies for who has chosen nothing; by which ways it can leave."""
    async with house.db.transact(scope.workspace_id) as tx:
        mine = await store.list_choices(tx, scope.member_id)
        ours = await store.list_defaults(tx)
        watches = await store.list_watches(tx, scope.member_id)
        habits = await store.get_habits(tx, scope.member_id)
    usual = {occasion: usual for occasion, (_, usual) in OCCASIONS.items()} | _read_wants(ours)
    chosen = _read_wants(mine)
    return {
        "choices": [
            {
                "occasion": occasion,
                "words": words,
                "is_own": occasion in chosen,
                **asdict(chosen.get(occasion, usual[occasion])),
            }
            for occasion, (words, _) in OCCASIONS.items()
        ],
        "defaults": [
            {"occasion": occasion, "words": words, **asdict(usual[occasion])}
            for occasion, (words, _) in OCCASIONS.items()
        ],
        "habits": {key: habits[key] for key in ("quiet_from", "quiet_until", "digest")},
        "watches": [{key: w[key] for key in ("id", "accounts", "kinds", "words")} for w in watches],
        "phone": habits["phone"],
        "mail_refused": habits["mail_refused"],
        "text_refused": habits["text_refused"],
        "can_mail": house.post is not None,
        "can_text": house.texting is not None,
    }


def _read_wants(rows: Iterable[Mapping[str, Any]]) -> dict[str, Wants]:
    return {row["occasion"]: Wants(**{key: row[key] for key in row if key != "occasion"}) for row in rows}


def _check_occasion(occasion: str) -> None:
    if occasion not in OCCASIONS:
        raise Invalid(f"Nobody is told of {occasion!r}.", "occasion")


async def set_choice(house: House, scope: Scope, occasion: str, wants: Wants) -> None:
    """How the member wants to be told of something. Raises Invalid for an occasion that there is not."""
    _check_occasion(occasion)
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_choice(tx, scope.member_id, occasion, wants)


async def forget_choices(house: House, scope: Scope) -> None:
    """The member wants what applies in the workspace."""
    async with house.db.transact(scope.workspace_id) as tx:
        await store.forget_choices(tx, scope.member_id)


async def set_default(house: House, scope: Scope, occasion: str, wants: Wants) -> None:
    """What applies for who has chosen nothing. Raises NotAllowed, Invalid for an occasion that there is not."""
    scope.check(Permission.MANAGE_MEMBERS)
    _check_occasion(occasion)
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_default(tx, occasion, wants)


async def set_habits(house: House, scope: Scope, habits: Habits) -> None:
    """When the member is not to be disturbed, and how their mails are gathered. Raises Invalid for half of quiet hours."""
    if (habits.quiet_from is None) != (habits.quiet_until is None):
        raise Invalid("Say from when until when nothing is to disturb you, or neither.", "quiet_from")
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_habits(tx, scope.member_id, habits)


#: What one member can want to hear of, and words of one of them.
MOST_WATCHES, MOST_WORDS = 20, 20


async def add_watch(
    house: House, scope: Scope, *, accounts: Sequence[int], kinds: Sequence[str], words: Sequence[str]
) -> int:
    """Hear of what comes in by accounts, of kinds, with words; its number. Raises Invalid."""
    said = tuple(dict.fromkeys(check_pattern(word) for word in words if word.strip()))
    if not (accounts or kinds or said):
        raise Invalid("Choose accounts, kinds or words: of everything that comes in the list itself tells.", "words")
    if len(said) > MOST_WORDS:
        raise Invalid(f"At most {MOST_WORDS} words.", "words")
    async with house.db.transact(scope.workspace_id) as tx:
        known = {a.id for a in await account_store.list_accounts(tx)}
        if not known.issuperset(accounts):
            raise Invalid("There is no such account in this workspace.", "accounts")
        if len(await store.list_watches(tx, scope.member_id)) >= MOST_WATCHES:
            raise Invalid(f"At most {MOST_WATCHES} of these.", "words")
        made = Watch(member=scope.member_id, accounts=frozenset(accounts), kinds=frozenset(kinds), words=said)
        id = await store.add_watch(tx, made)
        await rules.touch_rules(tx)
    return id


async def delete_watch(house: House, scope: Scope, id: int) -> None:
    """Hear of it no more. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        if not await store.delete_watch(tx, scope.member_id, id):
            raise NotFound("That is gone already.")
        await rules.touch_rules(tx)


async def tell_follow_ups(house: House, workspace_id: int, now: datetime) -> int:
    """Tell members of what they have to do about people; how many were told. Run by the worker's clock."""
    count = 0
    async with house.db.transact(workspace_id) as tx:
        for row in await store.list_due_follow_ups(tx, now):
            told = await add_alerts(
                tx,
                members=[row["member_id"]],
                occasion="follow_up",
                words=f"Follow up on {row['name']}: {row['words']}",
                conversation_id=None,
                key=f"follow_up:{row['id']}:{row['due_at'].isoformat()}",
                now=now,
            )
            count += len(told)
    return count


async def tell_late(house: House, workspace_id: int, now: datetime) -> int:
    """Tell owners of what is late or will be soon; how many were told. Run by the worker's tick."""
    count = 0
    async with house.db.transact(workspace_id) as tx:
        for row in await store.list_late(tx, now):
            occasion = "late" if row["is_late"] else "due_soon"
            said = "is late" if row["is_late"] else "is due soon"
            told = await add_alerts(
                tx,
                members=[row["owner_id"]],
                occasion=occasion,
                words=f"{row['person_name']} {said}.",
                conversation_id=row["id"],
                # Not by the due: when targets or hours change it is the same wait, and nobody is told of it again.
                key=f"{occasion}:{row['id']}:{row['awaiting_since'].isoformat()}",
                now=now,
            )
            count += len(told)
    return count


#: Members written to in one round, and how many in a row may fail before whoever passes it on is left alone until the next.
_LETTERS, _FAILURES = 50, 3
#: Nobody else sends what is under way; a worker that died loses it then.
SEND_LEASE = timedelta(minutes=1)
#: An address or number that was refused for good is tried again after this: people mend them.
REFUSED_FOR = timedelta(days=1)
#: What a text message holds at most: three parts of one.
LONGEST_TEXT = 459


async def mail_alerts(house: House, workspace_id: int, now: datetime) -> int:
    """Mail what is to be mailed, to each member in one letter; how many letters went out.

    What the mail server does not take now stays for another time; what it will never take stands at the member, and holds up
    nobody else's.
    """
    if house.post is None:
        return 0
    return await _send_all(house, workspace_id, "mail", partial(_mail, house, house.post), now)


async def text_alerts(house: House, workspace_id: int, now: datetime) -> int:
    """The same by text messages."""
    if house.texting is None:
        return 0
    return await _send_all(house, workspace_id, "text", partial(_text, house, house.texting), now)


#: Sends what leaves together: the workspace, the rows.
Sending = Callable[[int, Sequence[Mapping[str, Any]]], Awaitable[None]]


async def _send_all(house: House, workspace_id: int, way: str, send: Sending, now: datetime) -> int:
    since = now - SENT_WITHIN
    async with house.db.transact(workspace_id) as tx:
        members = await store.list_to_send(tx, way, now, since, now - REFUSED_FOR, _LETTERS)
    count = failed = 0
    for member in members:
        sent = await _send(house, workspace_id, way, member, send, now)
        count += sent is True
        failed = failed + 1 if sent is False else 0
        if failed >= _FAILURES:
            break
    return count


async def _send(house: House, workspace_id: int, way: str, member: int, send: Sending, now: datetime) -> bool | None:
    """True when it was taken, False when not now, None when never or it is somebody else's."""
    async with house.db.transact(workspace_id) as tx:
        rows = await store.claim(
            tx,
            way,
            member,
            now=now,
            since=now - SENT_WITHIN,
            lease_until=now + SEND_LEASE,
            limit=MOST_TOGETHER,
        )
    if not rows:
        return None
    ids = [row["alert_id"] for row in rows]
    set_refused = store.set_mail_refused if way == "mail" else store.set_text_refused
    ending = await attempt(
        lambda: send(workspace_id, rows),
        f"alerts by {way}",
        ids[0],
        tries=max(row["tries"] for row in rows),
        since=min(row["leaves_at"] for row in rows),
        now=now,
        over_after=SENT_WITHIN,
    )
    async with house.db.transact(workspace_id) as tx:
        match ending:
            case Sent():
                await store.set_sent(tx, way, ids, now, None, None)
                await set_refused(tx, member, None, None)
                return True
            case TryAgain():
                await store.set_sent(tx, way, ids, None, ending.reason, ending.at)
                return False
            case GiveUp():
                await store.set_sent(tx, way, ids, None, ending.reason, None)
                if not ending.is_refused:
                    return False
                await set_refused(tx, member, ending.reason[:500], now)
                return None


def _find_address(house: House, workspace_id: int, row: Mapping[str, Any]) -> str:
    return f"{house.address}/w/{workspace_id}/desk/{row['conversation_id'] or ''}"


async def _mail(house: House, post: MailPost, workspace_id: int, rows: Sequence[Mapping[str, Any]]) -> None:
    first = rows[0]
    said = first["words"][:120] if len(rows) == 1 else f"{len(rows)} things"
    letter = Letter(
        key=f"alert-{first['batch']}",
        to=first["email"],
        to_name=first["name"],
        subject=f"{first['workspace']}: {said}",
        text="\n\n".join(f"{row['words']}\n\n{_find_address(house, workspace_id, row)}" for row in rows),
    )
    await post.send(letter)


async def _text(house: House, texting: TextPost, workspace_id: int, rows: Sequence[Mapping[str, Any]]) -> None:
    first = rows[0]
    more = f" and {len(rows) - 1} more" if len(rows) > 1 else ""
    address = _find_address(house, workspace_id, first) if len(rows) == 1 else f"{house.address}/w/{workspace_id}/desk"
    room = LONGEST_TEXT - len(first["workspace"]) - len(more) - len(address) - 3
    words = f"{first['workspace']}: {first['words'][:room]}{more} {address}"
    await texting.send(key=f"alert-{first['batch']}", to=first["phone"], text=words)
