"""Saved replies: written, archived, offered for a conversation with what speaks for each. Used by the API, answers and ruling."""

from collections.abc import Mapping
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

from pydantic import TypeAdapter

from sorta.core.errors import Invalid, NotFound
from sorta.core.people import get_first_name
from sorta.core.permissions import Permission
from sorta.core.rules import AnswerWith, RuleBody
from sorta.core.suggesting import MOST_LEARNED, MOST_OTHERS, Answered, Suggester, Suggestion, list_offered, say_chance
from sorta.core.texts import Placeholders, SavedReplyBody, check_saved_reply, fill_in, fits, is_use
from sorta.services.house import House, Scope
from sorta.services.reads import Reads
from sorta.store import accounts, links, rules, texts
from sorta.store import groups as group_store
from sorta.store.db import Tx

SAVED_REPLY = TypeAdapter(SavedReplyBody)
RULE = TypeAdapter(RuleBody)
#: Whom a change concerns: those who used it within these days.
CONCERN_DAYS = 30
#: Learning takes a second for some thousand answers: so it waits for this share of them to be new.
RELEARN_SHARE = 200


async def list_saved_replies(house: House, scope: Scope, *, archived: bool) -> list[dict[str, Any]]:
    """The saved replies by name, each with how often and when it was last used."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await texts.list_saved_replies(tx, archived=archived)


async def _check(tx: Tx, id: int, body: SavedReplyBody) -> dict[str, Any]:
    kept = {k["name"] for k in await links.list_kept(tx)}
    tidy = check_saved_reply(body, kept)
    known = {a.id for a in await accounts.list_accounts(tx)}
    groups = {g["id"] for g in await group_store.list_groups(tx)}
    if not (set(tidy.accounts) <= known and set(tidy.groups) <= groups):
        raise Invalid("The saved reply names an account or a group that is not here.", "accounts")
    if tidy.shortcut and await texts.has_shortcut(tx, id, tidy.shortcut):
        raise Invalid(f"Another saved reply has the shortcut /{tidy.shortcut}.", "shortcut")
    made: dict[str, Any] = SAVED_REPLY.dump_python(tidy, mode="json")
    return made


async def add_saved_reply(house: House, scope: Scope, body: SavedReplyBody, now: datetime) -> int:
    """A new saved reply; its number. Raises Invalid."""
    scope.check(Permission.MANAGE_REPLIES)
    async with house.db.transact(scope.workspace_id) as tx:
        made = await _check(tx, 0, body)
        return await texts.add_saved_reply(tx, body=made, member_id=scope.member_id, now=now)


async def set_saved_reply(house: House, scope: Scope, id: int, body: SavedReplyBody, now: datetime) -> None:
    """A saved reply as it is from now on; rules that answer with it use it at once. Raises Invalid, NotFound, NotAllowed for who
    needs approval while such a rule is on."""
    scope.check(Permission.MANAGE_REPLIES)
    async with house.db.transact(scope.workspace_id) as tx:
        if any(rule["on"] for rule in await _list_rules_with(tx, id, now)):
            # What it says a rule says, unasked.
            scope.check(Permission.REPLY_WITHOUT_APPROVAL)
        made = await _check(tx, id, body)
        if not await texts.set_saved_reply(tx, id, body=made, member_id=scope.member_id, now=now):
            raise NotFound("There is no such saved reply in this workspace.")
        # Rules that answer with it speak its language.
        await rules.touch_rules(tx)


async def set_archived(house: House, scope: Scope, id: int, *, on: bool, now: datetime) -> None:
    """Put a saved reply away, or take it out again. Raises NotFound; Invalid while a rule that is on answers with it."""
    scope.check(Permission.MANAGE_REPLIES)
    async with house.db.transact(scope.workspace_id) as tx:
        if on:
            users = [r["name"] for r in await _list_rules_with(tx, id, now) if r["on"]]
            if users:
                raise Invalid(f"Rules answer with it: {', '.join(users)}. Change or switch them off first.", "id")
        else:
            row = await _get(tx, id)
            await _check(tx, id, SAVED_REPLY.validate_python(row["body"]))
        if not await texts.set_archived(tx, id, on=on, member_id=scope.member_id, now=now):
            raise NotFound("There is no such saved reply in this workspace.")


async def _get(tx: Tx, id: int) -> dict[str, Any]:
    row = await texts.get_saved_reply(tx, id)
    if row is None:
        raise NotFound("There is no such saved reply in this workspace.")
    return row


async def _list_rules_with(tx: Tx, id: int, now: datetime) -> list[dict[str, Any]]:
    found = []
    for row in await rules.list_rules(tx, now):
        body = RULE.validate_python(row["body"])
        if any(isinstance(a, AnswerWith) and not a.offer and a.saved == id for a in body.then):
            found.append({"id": row["id"], "name": body.name, "on": row["switched_on"]})
    return found


async def get_concerns(house: House, scope: Scope, id: int, now: datetime) -> dict[str, Any]:
    """Whom a change of a saved reply concerns: the rules that answer with it, and who used it lately. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        await _get(tx, id)
        since = now - timedelta(days=CONCERN_DAYS)
        return {
            "rules": await _list_rules_with(tx, id, now),
            "members": await texts.list_users(tx, id, since),
            "days": CONCERN_DAYS,
        }


async def offer(house: House, scope: Scope, conversation_id: int) -> list[dict[str, Any]]:
    """The saved replies that fit a conversation, filled in: suggested ones first, then by use. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        asked = await texts.get_asked(tx, conversation_id)
        if asked is None:
            raise NotFound("There is no such conversation in this workspace.")
        rows = await texts.list_saved_replies(tx)
        values = await get_values(Reads(tx), asked["person_name"], asked["account_name"])
        suggester = await _get_suggester(house, tx, scope)
    groups = frozenset(asked["groups"])
    bodies = {row["id"]: SAVED_REPLY.validate_python(row["body"]) for row in rows}
    fitting = {
        id: body
        for id, body in bodies.items()
        if fits(body, account=asked["account_id"], groups=groups, language=asked["language"])
    }
    ranked = await house.workshop.do(suggester.rank, asked["body"] or "", fitting.keys())
    place = {s.reply: (n, s) for n, s in enumerate(list_offered(ranked))}
    offered = [
        {
            "id": row["id"],
            "name": bodies[row["id"]].name,
            "shortcut": bodies[row["id"]].shortcut,
            "language": bodies[row["id"]].language,
            "text": fill_in(bodies[row["id"]].text, values),
            "uses": row["uses"],
            "last_used_at": row["last_used_at"],
            "suggestion": _describe(place[row["id"]][1]) if row["id"] in place else None,
        }
        for row in rows
        if row["id"] in fitting
    ]
    return sorted(offered, key=lambda o: (place.get(o["id"], (len(place), None))[0], -o["uses"], o["name"].lower()))


def _describe(suggestion: Suggestion) -> dict[str, Any]:
    return {**asdict(suggestion), "fits": say_chance(suggestion.chance)}


async def _get_suggester(house: House, tx: Tx, scope: Scope) -> Suggester:
    """What has been learned in this workspace, and in no other, from what who asks sees; anew with each answer, later when a two
    hundredth is new."""
    of = (scope.workspace_id, scope.seer)
    count = await texts.count_learned(tx)
    kept = house.suggesters.get(of)
    if kept is not None and kept[0] <= count < kept[0] + max(1, kept[0] // RELEARN_SHARE):
        return kept[1]
    learned = await texts.list_learned(tx, MOST_LEARNED)
    answered = [Answered(text=row["body"], reply=row["saved_reply_id"]) for row in learned]
    others = await texts.list_answered_otherwise(tx, MOST_OTHERS)
    suggester = await house.workshop.do(Suggester, answered, others)
    house.suggesters[of] = (count, suggester)
    return suggester


async def get_values(reads: Reads, person_name: str, account_name: str) -> Placeholders:
    """What placeholders stand for when answering somebody."""
    kept = {k["name"]: k["target"] for k in await reads.get(links.list_kept)}
    return Placeholders(first_name=get_first_name(person_name), account=account_name, links=kept)


async def get_text(tx: Tx, id: int) -> str | None:
    """The text of a saved reply that is not archived, placeholders unfilled."""
    row = await texts.get_saved_reply(tx, id)
    return None if row is None or row["archived_at"] is not None else str(row["body"]["text"])


async def fill_saved_reply(house: House, scope: Scope, id: int, conversation_id: int) -> str:
    """The words of a saved reply for whoever a conversation is with. Raises NotFound, also for an archived one."""
    async with house.db.transact(scope.workspace_id) as tx:
        asked = await texts.get_asked(tx, conversation_id)
        text = await get_text(tx, id)
        if asked is None or text is None:
            raise NotFound("There is no such saved reply in this workspace.")
        return fill_in(text, await get_values(Reads(tx), asked["person_name"], asked["account_name"]))


async def note_use(
    tx: Tx,
    id: int,
    *,
    text: str,
    message_id: int,
    answered_id: int,
    member_id: int | None,
    now: datetime,
) -> None:
    """Count an answer as a use of a saved reply when enough of it is left in what went out."""
    row: Mapping[str, Any] | None = await texts.get_saved_reply(tx, id)
    if row is not None and is_use(row["body"]["text"], text):
        await texts.add_use(tx, id, message_id=message_id, answered_id=answered_id, member_id=member_id, now=now)
