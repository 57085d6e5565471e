"""People: the list, a profile, facts, tags, follow-ups, joining two records of one person. Used by the API."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound
from sorta.core.finding import read_search
from sorta.core.people import JoinCandidate, Mark, check_fact, find_marks, list_conflicting, suggest
from sorta.core.permissions import Permission
from sorta.core.security import Happening
from sorta.core.standing import POINTS, REACTION_POINTS
from sorta.core.tables import write_csv
from sorta.networks.abilities import TABLE
from sorta.services.filters import make_pattern
from sorta.services.finding import make_patterns
from sorta.services.house import House, Scope
from sorta.services.reads import Reads
from sorta.services.security_log import note
from sorta.services.tags import find_tag
from sorta.store import people, persons, profiles, sorting
from sorta.store.db import Tx
from sorta.store.live import tell

LONGEST_PAGE = 200
MOST_EXPORTED = 50_000
LONGEST_FOLLOW_UP = 400
_POINTS = {kind.value: points for kind, points in POINTS.items()}


def _read_filters(given: Mapping[str, Any]) -> dict[str, Any]:
    values = {name: value for name, value in given.items() if value not in (None, [], "", False)}
    if "words" in values:
        said = values["words"]
        patterns = make_patterns(read_search(said))
        if not patterns:
            raise Invalid(f"‘{said[:40]}’ has no letters or digits to look for.", "words")
        values |= {"words": patterns, "said": make_pattern(said)}
    return values


def _read_cursor(order: str, cursor: str) -> dict[str, Any]:
    """A cursor is the place of a row as the list gave it."""
    key, _, id = cursor.rpartition("~")
    try:
        value: Any = int(key) if order == "standing" else datetime.fromisoformat(key) if order == "lately" else key
        return {"key": value, "after": int(id)}
    except ValueError as error:
        raise Invalid(f"This place in the list cannot be read: {error}.", "after") from error


async def list_persons(
    house: House, scope: Scope, *, filters: Mapping[str, Any], order: str, cursor: str | None, limit: int
) -> dict[str, Any]:
    """A page of people and, with the first one, how many there are."""
    wanted = _read_filters(filters)
    after = _read_cursor(order, cursor) if cursor else None
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await profiles.list_persons(
            tx, filters=wanted, order=order, cursor=after, limit=min(limit, LONGEST_PAGE)
        )
        total = await profiles.count_persons(tx, wanted) if after is None else None
    return {"persons": rows, "total": total}


async def export_persons(house: House, scope: Scope, *, filters: Mapping[str, Any], order: str) -> str:
    """The list through its filters as CSV. Raises NotAllowed."""
    scope.check(Permission.EXPORT)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await profiles.list_persons(
            tx, filters=_read_filters(filters), order=order, cursor=None, limit=MOST_EXPORTED
        )
        tags = {t["id"]: t["name"] for t in await sorting.list_tags(tx)}
        await note(tx, scope, Happening.EXPORTED, f"{len(rows)} people as a table", order=order)
    head = ("Number", "Name", "Handles", "Networks", "Reach", "Standing", "Conversations", "First", "Lately", "Tags", "Blocked")  # fmt: skip
    return write_csv(
        head,
        (
            (
                row["id"],
                row["name"],
                [i["handle"] for i in row["identities"]],
                list(dict.fromkeys(TABLE[i["network"]].name for i in row["identities"])),
                max((i["reach"] for i in row["identities"] if i["reach"] is not None), default=None),
                row["standing"],
                row["conversations"],
                row["first_at"],
                row["last_at"],
                [tags[t] for t in row["tags"]],
                row["blocked"],
            )
            for row in rows
        ),
    )


async def _check(tx: Tx, id: int) -> None:
    if not await profiles.is_person(tx, id):
        raise NotFound("There is no such person in this workspace.")


async def get_profile(house: House, scope: Scope, id: int, now: datetime) -> dict[str, Any]:
    """Everything about one person; of a record that was joined into another, that other. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        id = await profiles.get_joined_to(tx, id) or id
        await _check(tx, id)
        person = await persons.get_person(tx, id, now)
        handles = await profiles.list_handles(tx, id)
        found = {
            "contacts": await profiles.list_contacts(tx, id),
            "facts": mark_facts(await profiles.list_facts(tx, id)),
            "follow_ups": await profiles.list_follow_ups(tx, id),
            "joins": await profiles.list_joins(tx, id),
            "worth": await profiles.list_worth(tx, id, _POINTS, REACTION_POINTS, now),
        }
        candidates = await profiles.list_candidates(tx, id)
    suggestions = suggest(
        person["name"],
        [
            JoinCandidate(person_id=c["person_id"], name=c["name"], shared=tuple(Mark(**m) for m in c["shared"]))
            for c in candidates
        ],
    )
    return {
        **person,
        **found,
        "identities": [{**h, "can_block": TABLE[h["network"]].block} for h in handles],
        "suggestions": [asdict(s) for s in suggestions],
    }


async def _tell(tx: Tx, id: int) -> None:
    await tell(tx, "people", ids=[id])


async def add_fact(house: House, scope: Scope, id: int, *, name: str, value: str, now: datetime) -> int:
    """Save a fact about a person; a mail address or a customer number in it is known from then on."""
    scope.check(Permission.SORT)
    said, text = check_fact(name, value)
    async with house.db.transact(scope.workspace_id) as tx:
        await _check(tx, id)
        fact = await profiles.add_fact(tx, id, name=said, value=text, member_id=scope.member_id, now=now)
        marks = find_marks(text)
        if marks:
            await profiles.add_marks(tx, [(m.kind, m.value, id) for m in marks])
        await _tell(tx, id)
    return fact


async def delete_fact(house: House, scope: Scope, id: int, fact_id: int) -> None:
    """Forget a fact. Raises NotFound."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        if not await profiles.delete_fact(tx, id, fact_id):
            raise NotFound("There is no such fact about this person.")
        await _tell(tx, id)


def mark_facts(facts: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Facts, each with whether another value stands under its name."""
    differing = list_conflicting((f["name"], f["value"]) for f in facts)
    return [{**f, "is_one_of_two": f["name"] in differing} for f in facts]


async def set_tag(house: House, scope: Scope, id: int, *, name: str, on: bool) -> None:
    """Tag a person or take the tag off, from their profile."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        tag_id = await find_tag(Reads(tx), scope, name, make=on)
        await _check(tx, id)
        await persons.set_tagged(tx, id, tag_id, on=on)
        await _tell(tx, id)


async def add_follow_up(
    house: House, scope: Scope, id: int, *, words: str, due_at: datetime, member_id: int | None, now: datetime
) -> int:
    """Something to do about a person at a time, by oneself or a colleague. Raises Invalid."""
    scope.check(Permission.SORT)
    said = " ".join(words.split())
    if not 1 <= len(said) <= LONGEST_FOLLOW_UP:
        raise Invalid(f"Say in 1 to {LONGEST_FOLLOW_UP} characters what is to be done.", "words")
    for_id = member_id or scope.member_id
    async with house.db.transact(scope.workspace_id) as tx:
        await _check(tx, id)
        if for_id not in {m.id for m in await people.list_members(tx)}:
            raise Invalid("That member does not work in this workspace.", "member_id")
        made = await profiles.add_follow_up(
            tx, id, for_id=for_id, words=said, due_at=due_at, member_id=scope.member_id, now=now
        )
        await _tell(tx, id)
    return made


async def set_follow_up_done(house: House, scope: Scope, follow_up_id: int, *, done: bool, now: datetime) -> None:
    """It is done, or open again. Raises NotFound."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        by, at = (scope.member_id, now) if done else (None, None)
        id = await profiles.set_follow_up_done(tx, follow_up_id, by, at)
        if id is None:
            raise NotFound("There is no such follow-up.")
        await _tell(tx, id)


async def list_due_follow_ups(house: House, scope: Scope) -> list[dict[str, Any]]:
    """What one has to do about people, soonest first."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await profiles.list_due_follow_ups(tx, scope.member_id)


async def _check_whole(tx: Tx, scope: Scope, ids: Sequence[int]) -> None:
    """Raise NotAllowed when some of what these people said went by accounts that who asks does not see: it would be moved unseen."""
    if scope.limited and await profiles.is_partly_seen(tx, ids):
        raise NotAllowed(
            "Some of what they said went by accounts of other groups. Ask somebody who sees every account."
        )


async def join(house: House, scope: Scope, id: int, other_id: int, now: datetime) -> int:
    """Two records are one person: everything of the other comes to this one; the joining's number."""
    scope.check(Permission.SORT)
    if id == other_id:
        raise Invalid("Choose two different people.", "person_id")
    async with house.db.transact(scope.workspace_id) as tx:
        await _check_whole(tx, scope, [id, other_id])
        rows = await profiles.lock_persons(tx, [id, other_id])
        if len([r for r in rows if r["joined_to"] is None and r["erased_at"] is None]) != 2:
            raise NotFound("One of them is not there any more, or was joined meanwhile.")
        made = await profiles.join(tx, to=id, gone=other_id, member_id=scope.member_id, now=now)
        await profiles.set_points(tx, id, _POINTS, REACTION_POINTS)
        await _tell(tx, id)
    return made


async def take_apart(house: House, scope: Scope, join_id: int, now: datetime) -> None:
    """Undo a joining, also long after. Raises NotFound, Impossible when the record was joined on."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        joined = await profiles.get_join(tx, join_id)
        if joined is None:
            raise NotFound("They have been taken apart already.")
        kept, gone = joined["kept_id"], joined["gone_id"]
        await _check_whole(tx, scope, [kept, gone])
        if not await profiles.is_person(tx, kept):
            raise Impossible("This person was joined with another one since: take that apart first.")
        await profiles.lock_persons(tx, [kept, gone])
        await profiles.take_apart(tx, joined, now)
        for id in (kept, gone):
            await profiles.set_points(tx, id, _POINTS, REACTION_POINTS)
            await _tell(tx, id)
