"""What the desk shows: queue, counts, sheet, drafts, presence, find. Used by the API."""

import json
import re
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

from sorta.core.answers import get_obstacle
from sorta.core.errors import Invalid, NotFound
from sorta.core.moves import Move
from sorta.core.permissions import GRANTS, Permission
from sorta.core.working_time import get_local_midnight_after
from sorta.networks.abilities import TABLE
from sorta.services.answers import describe_front
from sorta.services.house import House, Scope
from sorta.store import accounts, desk, people, trail
from sorta.store.live import make_notice

LONGEST_PAGE = 200
#: A member nobody has heard of for this long has left the desk.
PRESENT_FOR = timedelta(seconds=25)


def get_band_edges(scope: Scope, now: datetime) -> dict[str, datetime]:
    """Where the bands end: now, within the hour, today (on the workspace's clock)."""
    return {
        "now": now,
        "hour": now + timedelta(hours=1),
        "today": get_local_midnight_after(now.astimezone(scope.zone)),
    }


async def list_rows(house: House, scope: Scope, *, move: Move, order: str, cursor: str | None, limit: int) -> str:
    """A page of the queue as JSON text. Raises Invalid for a cursor that is none of ours."""
    after = _read_cursor(order, cursor) if cursor else None
    async with house.db.transact(scope.workspace_id) as conn:
        rows = await desk.list_rows(
            conn,
            scope.workspace_id,
            scope.member_id,
            move=move.value,
            order=order,
            after=after,
            limit=min(limit, LONGEST_PAGE),
        )
    return f'{{"rows":{rows}}}'


async def list_rows_by_id(house: House, scope: Scope, ids: list[int]) -> str:
    """These conversations as they are now, whatever their move, as JSON text."""
    async with house.db.transact(scope.workspace_id) as conn:
        rows = await desk.list_rows_by_id(conn, scope.workspace_id, scope.member_id, ids)
    return f'{{"rows":{rows}}}'


def _read_cursor(order: str, cursor: str) -> dict[str, Any]:
    """A cursor is the last row's place: `due~priority~id` or `last_at~id`, as the client has them."""
    parts = cursor.split("~")
    try:
        if order == "due" and len(parts) == 3:
            due = "infinity" if parts[0] == "" else datetime.fromisoformat(parts[0]).isoformat()
            return {"due": due, "rank": -int(parts[1]), "id": int(parts[2])}
        if order == "newest" and len(parts) == 2:
            return {"last_at": datetime.fromisoformat(parts[0]), "id": int(parts[1])}
    except ValueError as error:
        raise Invalid(f"This place in the list cannot be read: {error}.", "after") from error
    raise Invalid("This place in the list does not belong to this order.", "after")


async def count_moves(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """How many conversations stand at each move and in each band."""
    edges = get_band_edges(scope, now)
    async with house.db.transact(scope.workspace_id) as conn:
        counts = await desk.count_moves(conn, scope.workspace_id, **edges)
    found = {c.move: asdict(c) for c in counts}
    empty = {"total": 0, "late": 0, "within_hour": 0, "later_today": 0, "after_today": 0, "not_due": 0}
    moves = [found.get(move.value, {"move": move.value, **empty}) for move in Move]
    return {"moves": moves, "edges": edges}


async def get_sheet(house: House, scope: Scope, conversation_id: int, now: datetime) -> dict[str, Any]:
    """Everything about one conversation: the script, the post, the person, the trail, what can be done."""
    async with house.db.transact(scope.workspace_id) as conn:
        row = await trail.get_conversation(conn, scope.workspace_id, conversation_id)
        if row is None:
            raise NotFound("There is no such conversation in this workspace.")
        messages = await trail.list_messages(conn, scope.workspace_id, conversation_id)
        events = await trail.list_trail(conn, scope.workspace_id, conversation_id)
        post = await trail.get_post(conn, scope.workspace_id, row["post_id"]) if row["post_id"] else None
        person = await desk.get_person(conn, scope.workspace_id, row["person_id"])
        identities = await desk.list_identities(conn, scope.workspace_id, row["person_id"])
        others = await desk.list_other_conversations(conn, scope.workspace_id, row["person_id"], conversation_id)
        draft = await desk.get_draft(conn, scope.workspace_id, scope.member_id, conversation_id)
        account = await accounts.get_account(conn, scope.workspace_id, row["account_id"])
    assert account is not None
    return {
        "conversation": row,
        "account": {"id": account.id, "name": account.name, "paused_reason": account.paused_reason},
        "post": asdict(post) if post else None,
        "messages": [asdict(m) for m in messages],
        "trail": [asdict(e) for e in events],
        "person": {**person, "identities": identities, "others": others},
        "draft": asdict(draft) if draft else None,
        "modes": _list_modes(scope, row, now),
    }


def _list_modes(scope: Scope, row: dict[str, Any], now: datetime) -> list[dict[str, Any]]:
    """The two ways of answering, each with who can read it, or why it cannot be used."""
    abilities = TABLE[row["network"]]
    modes = []
    for mode, permission in (("public", Permission.REPLY_PUBLICLY), ("private", Permission.REPLY_PRIVATELY)):
        public = mode == "public"
        obstacle = get_obstacle(
            abilities,
            public=public,
            conversation_public=row["public"],
            last_inbound_at=row["last_inbound_at"],
            now=now,
        )
        if obstacle is None and permission not in GRANTS[scope.role]:
            obstacle = (
                "All replies of a Trainee need approval first; leave a team note for a colleague."
                if scope.role.value == "trainee"
                else "Your role here sees everything and changes nothing."
            )
        readers = f"Anyone on {abilities.name} can read this" if public else f"Only {row['person_name']} can read this"
        modes.append(
            {
                "mode": mode,
                "obstacle": obstacle,
                "readers": readers,
                "limit": abilities.length_limit,
                "front": describe_front(row["network"], row["handle"]) if public else "",
            }
        )
    return modes


async def set_read(house: House, scope: Scope, conversation_id: int, seq: int) -> None:
    """The member has seen the conversation up to `seq`."""
    async with house.db.transact(scope.workspace_id) as conn:
        if await trail.get_conversation(conn, scope.workspace_id, conversation_id) is None:
            raise NotFound("There is no such conversation in this workspace.")
        await desk.set_read(conn, scope.workspace_id, scope.member_id, conversation_id, seq)


async def set_draft(house: House, scope: Scope, conversation_id: int, mode: str, body: str, now: datetime) -> None:
    """Keep what the member is typing; empty text forgets it."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as conn:
        if await trail.get_conversation(conn, scope.workspace_id, conversation_id) is None:
            raise NotFound("There is no such conversation in this workspace.")
        if body.strip():
            await desk.set_draft(conn, scope.workspace_id, scope.member_id, conversation_id, mode, body, now)
        else:
            await desk.delete_draft(conn, scope.workspace_id, scope.member_id, conversation_id)


async def set_presence(house: House, scope: Scope, conversation_id: int | None, doing: str, now: datetime) -> None:
    """Tell the others what the member has open, or that nothing is."""
    async with house.db.transact(scope.workspace_id) as conn:
        notice = make_notice(
            scope.workspace_id, "presence", member=scope.member_id, conversation=conversation_id, doing=doing
        )
        if conversation_id is None:
            await desk.delete_presence(conn, scope.workspace_id, scope.member_id, notice)
            return
        if await trail.get_conversation(conn, scope.workspace_id, conversation_id) is None:
            raise NotFound("There is no such conversation in this workspace.")
        await desk.set_presence(conn, scope.workspace_id, scope.member_id, conversation_id, doing, now, notice)


async def list_presence(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """Who has what open."""
    async with house.db.transact(scope.workspace_id) as conn:
        rows = await desk.list_presence(conn, scope.workspace_id, now - PRESENT_FOR)
    return [asdict(row) for row in rows]


async def list_members(house: House, scope: Scope) -> list[dict[str, Any]]:
    """The members of the workspace."""
    async with house.db.transact(scope.workspace_id) as conn:
        return [asdict(m) for m in await people.list_members(conn, scope.workspace_id)]


def list_networks() -> list[dict[str, Any]]:
    """The networks, each with what it can do."""
    return [asdict(abilities) for abilities in TABLE.values()]


def make_query(words: str) -> str:
    """A full-text query for all the words, the last one as far as it is typed."""
    found = re.findall(r"\w+", words, flags=re.UNICODE)
    return " & ".join([f"'{w}'" for w in found[:-1]] + [f"'{found[-1]}':*"]) if found else ""


async def find(house: House, scope: Scope, words: str, limit: int = 8) -> dict[str, Any]:
    """People by name or handle, and messages by their words, in this workspace only."""
    query = make_query(words)
    pattern = "%" + re.sub(r"([\\%_])", r"\\\1", words.strip()) + "%"
    async with house.db.transact(scope.workspace_id) as conn:
        persons = await desk.find_people(conn, scope.workspace_id, pattern, limit) if words.strip() else []
        messages = await desk.find_messages(conn, scope.workspace_id, query, limit) if query else []
    return {"people": persons, "messages": messages}


def read_rows(text: str) -> Any:
    """The page as objects, for callers inside Python."""
    return json.loads(text)["rows"]
