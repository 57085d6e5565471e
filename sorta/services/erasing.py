"""Everything about a person: handed out to them, and erased at their wish. Used by the API.

Erasing takes the words, names and files; rows stay, so that figures and the order of trails do (decision 0049). It cannot be taken back.
"""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sorta.core.errors import Impossible, Invalid, NotFound
from sorta.core.events import WORDS, Settled
from sorta.core.facts import SettledAs
from sorta.core.people import ERASED, make_pattern
from sorta.core.permissions import Permission
from sorta.core.security import Happening
from sorta.services.attachments import drop
from sorta.services.house import House, Scope
from sorta.services.profiles import get_profile
from sorta.services.security_log import note
from sorta.services.trail import Ledger
from sorta.store import erasing, profiles, sorting
from sorta.store.db import Tx
from sorta.store.live import tell

#: What keeps somebody from being erased until it is done or taken back.
UNFINISHED = {
    "answer": "An answer is on its way to them, or waits to go",
    "consent": "An answer waits for consent",
    "later": "An answer is to be sent later",
    "case": "Something is being passed on to a support desk",
    "advice": "Somebody outside was asked and has not answered",
}


async def _list_records(tx: Tx, id: int) -> list[dict[str, Any]]:
    """The record and all that were joined into it. Raises NotFound, Impossible for who was erased already."""
    rows = await erasing.list_records(tx, id)
    mine = next((row for row in rows if row["id"] == id), None)
    if mine is None or mine["joined_to"] is not None:
        raise NotFound("There is no such person in this workspace.")
    if mine["erased_at"] is not None:
        raise Impossible("They have been erased already.")
    return rows


async def get_everything(house: House, scope: Scope, id: int, now: datetime) -> dict[str, Any]:
    """All that is held about a person, for themselves: of who is limited, what came and went by the accounts they see. Raises NotAllowed,
    NotFound."""
    scope.check(Permission.EXPORT)
    profile = await get_profile(house, scope, id, now)
    profile.pop("suggestions")
    async with house.db.transact(scope.workspace_id, steady=True) as tx:
        people = [row["id"] for row in await _list_records(tx, profile["id"])]
        ids = await erasing.list_conversations(tx, people)
        told = await erasing.tell_all(tx, people, ids)
        tags = {t["id"]: t["name"] for t in await sorting.list_tags(tx)}
    async with house.db.transact(scope.workspace_id) as tx:
        await note(tx, scope, Happening.EXPORTED, "everything about one person", person=profile["id"])
    return {**profile, **told, "tags": [tags[t] for t in profile["tags"]]}


async def preview(house: House, scope: Scope, id: int) -> dict[str, Any]:
    """What would go: {name, counts by what it is, mentions in conversations of others, unfinished [{id, why}]}. Raises NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await _list_records(tx, id)
        people = [row["id"] for row in rows]
        ids = await erasing.list_conversations(tx, people)
        counts = await erasing.count_all(tx, people, ids)
        unfinished = await erasing.list_unfinished(tx, ids)
        pattern = make_pattern(await erasing.list_names(tx, people))
        others = await _list_mentioning(tx, ids, pattern)
    return {
        "name": next(row["name"] for row in rows if row["id"] == id),
        "counts": {"conversations": len(ids), **counts, "mentions": len(others)},
        "unfinished": [{"conversation_id": one["id"], "why": UNFINISHED[one["why"]]} for one in unfinished],
    }


async def _list_mentioning(tx: Tx, ids: Sequence[int], pattern: str | None) -> list[int]:
    if pattern is None:
        return []
    return await erasing.list_mentioning(tx, ids, pattern, WORDS)


async def erase(house: House, scope: Scope, id: int, *, name: str, now: datetime) -> dict[str, int]:
    """Take every word, name and file of a person; how much went, by what it was. `name` is theirs, said again by who does it.

    Raises NotAllowed, NotFound, Invalid for another name, Impossible while something is still to go out to them.
    """
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await _list_records(tx, id)
        if name.strip() != next(row["name"] for row in rows if row["id"] == id).strip():
            raise Invalid("That is not what this person is called. Write the name as it stands above.", "name")
        people = [row["id"] for row in rows]
        ids = await erasing.list_conversations(tx, people)
        pattern = make_pattern(await erasing.list_names(tx, people))
        others = await _list_mentioning(tx, ids, pattern)
        ids = await _lock(tx, id, people, [*ids, *others])
        if await erasing.list_unfinished(tx, ids):
            raise Impossible(
                "Something is still to go out to them, or waits for somebody: see what, and finish it first."
            )
        if pattern is not None and others:
            await erasing.unname(tx, others, pattern, WORDS)
        ledger = Ledger(house, tx, now)
        return await _erase(ledger, id, people, ids, member_id=scope.member_id, others=others)


async def erase_forgotten(house: House, workspace_id: int, id: int, before: datetime, now: datetime) -> bool:
    """The same for somebody nobody has heard of since, unless something of theirs came or is open meanwhile; whether it was done. In the
    words of others their names stay, until those go too."""
    async with house.db.transact(workspace_id) as tx:
        try:
            people = [row["id"] for row in await _list_records(tx, id)]
            ids = await erasing.list_conversations(tx, people)
            ids = await _lock(tx, id, people, ids)
        except (Impossible, NotFound):
            # Joined, or erased by somebody else, before or while this waited for it.
            return False
        if await erasing.is_heard_of(tx, ids, before) or await erasing.list_unfinished(tx, ids):
            return False
        await _erase(Ledger(house, tx, now), id, people, ids, member_id=None, others=())
    return True


async def _lock(tx: Tx, id: int, people: Sequence[int], ids: Sequence[int]) -> list[int]:
    """Lock people and conversations in the order of intake; the people's conversations with those that came meanwhile. Raises Impossible
    for somebody who was erased meanwhile."""
    await profiles.lock_persons(tx, people)
    await erasing.lock_all(tx, ids)
    await _list_records(tx, id)
    return await erasing.list_conversations(tx, people)


async def _erase(
    ledger: Ledger, id: int, people: Sequence[int], ids: Sequence[int], *, member_id: int | None, others: Sequence[int]
) -> dict[str, int]:
    tx, now = ledger.tx, ledger.now
    counts = await erasing.count_all(tx, people, ids)
    await ledger.lock(ids)
    for conversation_id in ids:
        conversation = await ledger.get(conversation_id)
        if conversation.facts.settled_as is None:
            ledger.add(conversation, Settled(how=SettledAs.REMOVED), member_id=member_id)
    await ledger.write()
    files = await erasing.erase(tx, people=people, ids=ids, name=ERASED, keys=WORDS, now=now)
    told = {"conversations": len(ids), **counts, "mentions": len(others)}
    await erasing.add_erasure(tx, id, told, member_id, now)
    await tell(tx, "people", ids=list(people))
    await tell(tx, "conversations", ids=[*ids, *others])
    if files:
        # Last: what is taken from the disk does not come back with a transaction that fails.
        await drop(ledger.house, tx, files)
    return told
