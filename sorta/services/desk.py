"""What the desk shows: queue, counts, sheet, drafts, presence, find. Used by the API."""

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict
from datetime import UTC, datetime, timedelta
from typing import Any

from sorta.core.answers import get_obstacle, say_disconnected
from sorta.core.errors import ChangedElsewhere, Invalid, NotFound
from sorta.core.events import Event
from sorta.core.facts import Move
from sorta.core.finding import list_asked, read_search
from sorta.core.names import find_caution, get_look
from sorta.core.not_done import list_not_done
from sorta.core.permissions import WORDS, Permission
from sorta.core.targets import Priority, get_audience
from sorta.core.undo import Sent, list_undoable
from sorta.core.working_time import get_local_midnight_after
from sorta.networks.abilities import TABLE
from sorta.services import advice, approvals, attachments, moderation
from sorta.services.acts import may_stop_rules
from sorta.services.answers import describe_front, has_public_reply, say_sign_off
from sorta.services.consent import find_needs_of_both
from sorta.services.events import list_events
from sorta.services.filters import read_filters
from sorta.services.finding import note_words
from sorta.services.hours import get_promise
from sorta.services.house import PRESENT_FOR, House, Scope
from sorta.services.links import get_link_length
from sorta.services.profiles import mark_facts
from sorta.services.reads import Reads
from sorta.services.trail import Open, read_facts
from sorta.store import accounts, db, desk, groups, leaving, people, persons, profiles, scheduled, trail
from sorta.store.db import Conn
from sorta.store.live import make_notice, tell

LONGEST_PAGE = 200
#: What a view counts at most: more than that says as much.
MOST_COUNTED = 1000
#: How many conversations one act can be done to from a filter.
MOST_AT_ONCE = 5000
EPOCH = datetime(1970, 1, 1, tzinfo=UTC)
#: For how long it is remembered that words are common, and of how many.
COMMON_FOR = timedelta(minutes=10)
MOST_REMEMBERED = 2000


def get_band_edges(scope: Scope, now: datetime) -> dict[str, datetime]:
    """Where the bands end: now, within the hour, today (on the workspace's clock)."""
    return {
        "now": now,
        "hour": now + timedelta(hours=1),
        "today": get_local_midnight_after(now.astimezone(scope.zone)),
    }


async def list_rows(
    house: House,
    scope: Scope,
    *,
    filters: Mapping[str, Any],
    order: str,
    cursor: str | None,
    limit: int,
    now: datetime,
    backwards: bool = False,
) -> str:
    """A page of the queue as JSON text; backwards, from the end or from the cursor up. Raises Invalid for a cursor that is none of ours."""
    after = _read_cursor(order, cursor) if cursor else None
    wanted = read_filters(filters, scope, get_band_edges(scope, now))
    async with house.db.transact(scope.workspace_id, pipelined=True) as tx:
        rows = await desk.list_rows(
            tx,
            scope.member_id,
            filters=wanted,
            order=order,
            after=after,
            limit=min(limit, LONGEST_PAGE),
            backwards=backwards,
            are_common="words" in wanted and await _are_common(house, tx, filters["words"], now),
        )
    return f'{{"rows":{rows}}}'


async def _are_common(house: House, conn: Conn, words: str, now: datetime) -> bool:
    """Remembered for a while: it goes by statistics that seldom change, and asking takes as long as the page."""
    known = house.common_words.get(words)
    if known is None or now - known[0] > COMMON_FOR:
        if len(house.common_words) >= MOST_REMEMBERED:
            house.common_words.clear()
        known = house.common_words[words] = (now, await desk.are_common(conn, list_asked(read_search(words))))
    return known[1]


async def list_ids(house: House, scope: Scope, *, filters: Mapping[str, Any], now: datetime) -> list[tuple[int, int]]:
    """All that the filters let through, also beyond what is loaded, each with the newest number of its trail; at most
    MOST_AT_ONCE."""
    wanted = read_filters(filters, scope, get_band_edges(scope, now))
    async with house.db.transact(scope.workspace_id) as tx:
        return await desk.list_ids(tx, scope.member_id, filters=wanted, limit=MOST_AT_ONCE)


async def count_some(house: House, scope: Scope, *, filters: Mapping[str, Any], now: datetime) -> int:
    """How many conversations the filters let through; from MOST_COUNTED on they are not counted further."""
    wanted = read_filters(filters, scope, get_band_edges(scope, now))
    async with house.db.transact(scope.workspace_id) as tx:
        return await desk.count_some(tx, scope.member_id, filters=wanted, limit=MOST_COUNTED)


async def list_rows_by_id(house: House, scope: Scope, ids: list[int], order: str) -> str:
    """These conversations as they are now, whatever their move, as JSON text, each with its place in this order."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await desk.list_rows(
            tx,
            scope.member_id,
            filters={"ids": ids},
            order=order,
            after=None,
            limit=LONGEST_PAGE,
        )
    return f'{{"rows":{rows}}}'


def _read_cursor(order: str, cursor: str) -> dict[str, Any]:
    """A cursor is the place of a row as the list gave it, its numbers joined by commas."""
    names, parts = desk.ORDERS[order], cursor.split(",")
    if len(names) != len(parts):
        raise Invalid("This place in the list does not belong to this order.", "after")
    try:
        numbers = [-int(part) if order in desk.DOWN else int(part) for part in parts]
        return {name: _read_number(name, number) for name, number in zip(names, numbers, strict=True)}
    except (ValueError, OverflowError) as error:
        raise Invalid(f"This place in the list cannot be read: {error}.", "after") from error


def _read_number(name: str, number: int) -> int | str:
    if name not in ("due", "last_at"):
        return number
    return "infinity" if str(number) == desk.NEVER else (EPOCH + timedelta(microseconds=number)).isoformat()


async def count_moves(house: House, scope: Scope, filters: Mapping[str, Any], now: datetime) -> dict[str, Any]:
    """How many conversations stand at each move and in each band, through the filters; and, within the filters'
    move, how many have each value of each thing one can filter by (those without regard to other filters)."""
    edges = get_band_edges(scope, now)
    wanted = read_filters(filters, scope, edges)
    move = wanted.pop("move", Move.UNSORTED.value)
    async with house.db.transact(scope.workspace_id) as tx:
        bands = await desk.count_bands(tx, scope.member_id, filters=wanted, edges=edges)
        totals = {} if wanted else {m.move: m.total for m in await desk.count_moves(tx)}
        values = await desk.count_values(tx, scope.member_id, move, seen=scope.limited)
    found = {b.move: asdict(b) for b in bands}
    empty = {"total": 0, "late": 0, "within_hour": 0, "later_today": 0, "after_today": 0, "not_due": 0}
    moves = [found.get(one.value, {"move": one.value, **empty}) for one in Move]
    for one in moves:
        if not wanted:
            one["total"] = totals.get(one["move"], 0)
    return {"moves": moves, "edges": edges, "values": [asdict(v) for v in values]}


async def get_sheet(house: House, scope: Scope, conversation_id: int, now: datetime) -> dict[str, Any]:
    """Everything about one conversation: the script, the post, the person, the trail, what can be done."""
    workspace_id = scope.workspace_id
    async with house.db.transact(workspace_id, pipelined=True) as tx:
        reads = Reads(tx)
        # None of these needs another's answer, and each would be a way there and back of its own; so with the next.
        async with db.at_once() as tasks:
            found = tasks.create_task(trail.get_conversation(tx, conversation_id))
            everybody = tasks.create_task(reads.get(people.list_members))
            all_accounts = tasks.create_task(reads.get(accounts.list_accounts))
        row, members, connected = found.result(), everybody.result(), all_accounts.result()
        if row is None:
            raise NotFound("There is no such conversation in this workspace.")
        opened, person_id, account_id = Open(row, read_facts(row)), row["person_id"], row["account_id"]
        async with db.at_once() as tasks:
            start = tasks.create_task
            messages = start(trail.list_messages(tx, conversation_id))
            events = start(list_events(tx, conversation_id))
            post = start(trail.get_post(tx, row["post_id"])) if row["post_id"] else None
            person = start(persons.get_person(tx, person_id, now))
            identities = start(persons.list_identities(tx, person_id))
            alike = start(persons.list_alike(tx, person_id))
            others = start(persons.list_other_conversations(tx, person_id, conversation_id))
            facts = start(profiles.list_facts(tx, person_id))
            follow_ups = start(profiles.list_open_follow_ups(tx, person_id))
            answered = start(has_public_reply(tx, row))
            own = start(desk.list_drafts(tx, scope.member_id, conversation_id))
            shown = start(desk.list_shared_drafts(tx, scope.member_id, conversation_id))
            blind = start(groups.list_blind(tx, account_id))
            promise = start(get_promise(house, tx))
            both = start(find_needs_of_both(reads, opened, scope))
            proposal = start(approvals.get_latest_proposal(tx, scope, row, connected, members))
            asked = start(advice.list_of(tx, conversation_id))
            waits = start(scheduled.get_waiting(tx, conversation_id))
            linked = start(trail.list_linked(tx, row["linked"]))
        later, drafts = waits.result(), own.result()
        files = await attachments.describe_extras(tx, later["extras"]) if later else []
        beside = await attachments.list_described(tx, [f for d in drafts for f in d.attachments])
    account = next(a for a in connected if a.id == account_id)
    needs = {public: [need.name for need in listed] for public, listed in both.result().items()}
    ours = [a.handle for a in connected]
    shown_post = post.result() if post else None
    audience = get_audience(row["kind"], public=row["public"])
    return {
        "conversation": row,
        "account": _describe_account(account),
        "senders": [
            {**_describe_account(a), "sign_off": say_sign_off(a, members, scope.member_id)}
            for a in connected
            if a.network == account.network and a.disconnected_at is None
        ],
        "post": asdict(shown_post) if shown_post else None,
        "messages": [
            {
                **m,
                "offered": moderation.list_offered(row["network"], m, gone=moderation.say_gone(account)),
                "not_done": [says for r in m["not_done"] for says in list_not_done(r["name"], r["done"], r["lost"])],
            }
            for m in map(asdict, messages.result())
        ],
        "trail": _describe_trail(events.result(), messages.result(), scope),
        "person": {
            **person.result(),
            "identities": [
                {**i, "caution": find_caution(i["handle"], ours, _list_known(i["handle"], alike.result(), members))}
                for i in identities.result()
            ],
            "others": others.result(),
            "facts": [{key: f[key] for key in ("name", "value", "is_one_of_two")} for f in mark_facts(facts.result())],
            "follow_ups": follow_ups.result(),
        },
        "drafts": [{**asdict(d), "attachments": [one for one in beside if one["id"] in d.attachments]} for d in drafts],
        "shared_drafts": shown.result(),
        "modes": _list_modes(
            scope,
            row,
            now,
            needs,
            has_public_reply=answered.result(),
            link_length=get_link_length(house),
            account=account,
            sign_off=say_sign_off(account, members, scope.member_id),
        ),
        "can_attach": attachments.can_attach(house, row["network"]),
        "proposal": proposal.result(),
        "advice": asked.result(),
        "linked": linked.result(),
        "scheduled": later
        and {**later, "overtaken": row["last_inbound_seq"] > later["seen_seq"], "attachments": files},
        "blind": sorted(blind.result().get(account_id, ())),
        "can_block": TABLE[row["network"]].block,
        "target_minutes": promise.result().targets.minutes[audience][Priority(row["priority"])],
    }


def _list_known(
    handle: str, alike: Sequence[Mapping[str, Any]], members: Sequence[people.MemberRow]
) -> list[tuple[str, str]]:
    """Whom we know that a handle could be taken for: people who were here before, and colleagues."""
    return [
        *((row["other"], f"that of {row['name']}") for row in alike if row["handle"] == handle),
        *((member.name, "the name of a colleague") for member in members),
    ]


def _describe_trail(
    events: Sequence[Event], messages: Sequence[trail.MessageRow], scope: Scope
) -> list[dict[str, Any]]:
    """The trail, each act with whether the member can take it back, or why not."""
    sent = {m.id: Sent(state=m.delivery, maybe_out=m.maybe_out) for m in messages if m.delivery is not None}
    undoable = list_undoable(events, scope.member_id, sent, may_stop_rules=may_stop_rules(scope))
    if Permission.SORT not in scope.role.grants:
        undoable = {}
    return [
        {
            "seq": e.seq,
            "kind": e.kind,
            "at": e.at,
            "member_id": e.member_id,
            "data": e.what,
            "rule": e.rule,
            "is_act": e.seq in undoable,
            "undo_obstacle": undoable.get(e.seq),
        }
        for e in events
    ]


def _describe_account(account: accounts.Account) -> dict[str, Any]:
    return {"id": account.id, "name": account.name, "paused_reason": account.paused_reason}


def _list_modes(
    scope: Scope,
    row: dict[str, Any],
    now: datetime,
    needs: Mapping[bool, list[str]],
    *,
    has_public_reply: bool,
    link_length: int | None,
    account: accounts.Account,
    sign_off: str,
) -> list[dict[str, Any]]:
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
            has_public_reply=has_public_reply,
        )
        if account.disconnected_at is not None:
            obstacle = say_disconnected(account.name, abilities.name)
        elif obstacle is None and permission not in scope.role.grants:
            obstacle = f"Your role here ({scope.role.name}) may not {WORDS[permission]}."
        readers = f"Anyone on {abilities.name} can read this" if public else f"Only {row['person_name']} can read this"
        modes.append(
            {
                "mode": mode,
                "obstacle": obstacle,
                "readers": readers,
                "limit": abilities.length_limit,
                "front": describe_front(row["network"], row["handle"]) if public else "",
                "needs": needs[public],
                "link_length": link_length,
                "sign_off": sign_off,
            }
        )
    return modes


async def set_read(house: House, scope: Scope, conversation_id: int, seq: int) -> None:
    """The member has seen the conversation up to `seq`."""
    async with house.db.transact(scope.workspace_id) as tx:
        if await trail.get_conversation(tx, conversation_id) is None:
            raise NotFound("There is no such conversation in this workspace.")
        await desk.set_read(tx, scope.member_id, conversation_id, seq)


async def set_draft(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    mode: str,
    body: str,
    shared: bool,
    now: datetime,
    files: Sequence[int] = (),
    account: int | None = None,
    rev: int = 0,
) -> int:
    """Keep what the member is typing in one mode, the files beside it and the account that is to answer, for themselves
    or to be seen by colleagues; neither words nor files forgets it. The number of this writing, 0 when nothing is kept.

    `rev` is the number that the words go on from. Raises ChangedElsewhere when the member has written other words here
    since, in another tab or on another device; those stay.
    """
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        member_id = scope.member_id
        if await trail.get_conversation(tx, conversation_id) is None:
            raise NotFound("There is no such conversation in this workspace.")
        before = await desk.get_draft(tx, member_id, conversation_id, mode)
        made: int | None = 0
        if body.strip() or files:
            made = await desk.set_draft(
                tx,
                member_id,
                conversation_id,
                mode=mode,
                body=body,
                shared=shared,
                attachments=list(files),
                account=account,
                now=now,
                rev=rev,
            )
        elif before is not None:
            made = 0 if before.rev == rev or before.body == body else None
            if made is not None:
                await desk.delete_draft(tx, member_id, conversation_id, mode)
        if made is None:
            raise ChangedElsewhere("You have written other words here meanwhile, in another tab or on another device.")
        if shared or (before is not None and before.shared):
            await tell(tx, "draft", ids=[conversation_id], member=member_id)
    return made


async def set_presence(house: House, scope: Scope, conversation_id: int | None, doing: str, now: datetime) -> None:
    """Tell the others what the member has open, or that nothing is."""
    async with house.db.transact(scope.workspace_id) as tx:
        notice = make_notice(
            scope.workspace_id, "presence", member=scope.member_id, conversation=conversation_id, doing=doing
        )
        if conversation_id is None:
            await desk.delete_presence(tx, scope.member_id, notice)
            return
        if await trail.get_conversation(tx, conversation_id) is None:
            raise NotFound("There is no such conversation in this workspace.")
        await desk.set_presence(
            tx,
            scope.member_id,
            conversation_id,
            doing,
            now=now,
            present_since=now - PRESENT_FOR,
            notice=notice,
        )


async def list_presence(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """Who has what open."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await desk.list_presence(tx, now - PRESENT_FOR)
    return [asdict(row) for row in rows]


async def list_members(house: House, scope: Scope) -> list[dict[str, Any]]:
    """The members of the workspace, and after them who worked here and does no more, whose names its past bears."""
    async with house.db.transact(scope.workspace_id) as tx:
        found = await people.list_members(tx)
        former = await leaving.list_former(tx)
    return [
        {"id": m.id, "name": m.name, "initials": m.initials, "role": m.role_name, "may_sort": "sort" in m.permissions}
        for m in found
    ] + [
        {"id": m.id, "name": m.name, "initials": m.initials, "role": "", "may_sort": False, "left_at": m.left_at}
        for m in former
    ]


def list_networks(asking: Collection[str]) -> list[dict[str, Any]]:
    """The networks, each with what it can do, and whether it is among those that are asked for leave at a page of their own."""
    return [{**asdict(abilities), "asks": abilities.network in asking} for abilities in TABLE.values()]


async def get_thread(house: House, scope: Scope, post_id: int) -> dict[str, Any]:
    """Everything said under a post, in order, each with what it answers. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        post = await trail.get_post(tx, post_id)
        if post is None:
            raise NotFound("There is no such post in this workspace.")
        messages = await trail.list_thread(tx, post_id)
    by_external = {m["external_id"]: m["id"] for m in messages if m["external_id"]}
    return {
        "post": asdict(post),
        "messages": [{**m, "parent_id": by_external.get(m["in_reply_to"] or "")} for m in messages],
    }


async def fold_counts(house: House, workspace_id: int, now: datetime) -> None:
    """Fold what has changed into the kept counts. Run by the worker's clock."""
    async with house.db.transact(workspace_id) as tx:
        await desk.fold_tally(tx)


#: People whose standing is written in one transaction: whoever takes in a message of theirs waits no longer than for these.
_RANKED_AT_ONCE = 200


async def rank_people(house: House, workspace_id: int, now: datetime) -> int:
    """Bring standings up to date, in pieces; how many changed. Run by the worker's clock."""
    async with house.db.transact(workspace_id) as tx:
        changed = await persons.list_new_standings(tx, now)
    for start in range(0, len(changed), _RANKED_AT_ONCE):
        async with house.db.transact(workspace_id) as tx:
            await persons.set_standings(tx, changed[start : start + _RANKED_AT_ONCE])
    return len(changed)


#: Handles looked at in one round of the clock: some 20 ms of work.
_LOOKED_AT_ONCE = 1000


async def note_looks(house: House, workspace_id: int, now: datetime) -> int:
    """Note of new and changed handles what they look like; how many. Run by the worker's clock."""
    async with house.db.transact(workspace_id) as tx:
        found = await persons.list_unlooked(tx, _LOOKED_AT_ONCE)
    if not found:
        return 0
    looks = await house.workshop.do(_get_looks, found)
    async with house.db.transact(workspace_id) as tx:
        await persons.set_looks(tx, looks)
    return len(looks)


def _get_looks(found: Sequence[tuple[int, str]]) -> list[tuple[int, str, str]]:
    return [(id, handle, get_look(handle)) for id, handle in found]


async def keep_counts(house: House, workspace_id: int, now: datetime) -> None:
    """Counts and standings at once: for the demo's loading and the tests."""
    await fold_counts(house, workspace_id, now)
    await rank_people(house, workspace_id, now)
    await note_words(house, workspace_id, now)


def read_rows(text: str) -> Any:
    """The page as objects, for callers inside Python."""
    return json.loads(text)["rows"]
