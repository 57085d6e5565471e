"""Programs: tokens by which they ask in a member's name, and what they are told of. Used by the API and the clock."""

import json
from collections.abc import Collection, Sequence
from datetime import datetime, timedelta
from typing import Any

from standardwebhooks.webhooks import Webhook

from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound, SignInRefused
from sorta.core.permissions import HeldRole, Permission
from sorta.core.programs import (
    MOST_HOOKS,
    MOST_TOKENS,
    OFF_AFTER,
    check_name,
    check_token,
    check_url,
    get_next_try,
    list_events,
)
from sorta.core.security import Happening
from sorta.services.alerts import add_alerts
from sorta.services.house import House, Scope, act_as
from sorta.services.members import get_scope_of
from sorta.services.reads import Reads
from sorta.services.sealing import PROGRAM_SECRET, open_taken
from sorta.services.security_log import note
from sorta.services.sending import Failed, send_once
from sorta.services.signatures import BOTH_FOR, make_hook_secret
from sorta.services.tokens import hash_token, make_token
from sorta.store import alerts
from sorta.store import programs as store
from sorta.store.db import Tx

#: What stands before each token, so that one that lies about is known for what it is.
MARK = "sorta_"
#: How often it is written down that a token was used.
TOUCHED_EVERY = timedelta(minutes=1)
#: Nobody else tells the same meanwhile; told in one go of the clock; how many of a log are listed.
LEASE, AT_ONCE, PAGE = timedelta(minutes=1), 200, 50


async def get_scope(house: House, token: str, workspace_id: int, came_from: str, now: datetime) -> Scope:
    """In whose name a program asks, and with what: of its token's permissions those that its maker holds now. Raises SignInRefused."""
    async with house.db.transact(workspace_id) as tx:
        found = await store.find_token(tx, hash_token(token), now)
        if found is None:
            raise SignInRefused("This token opens nothing: it has ended, was taken back, or is another workspace's.")
        try:
            maker = await get_scope_of(Reads(tx), found["made_by"])
        except NotAllowed as error:
            raise SignInRefused("Who made this token works here no more.") from error
        if found["used_at"] is None or now - found["used_at"] > TOUCHED_EVERY:
            await store.touch_token(tx, found["id"], now)
    act_as(maker.member_id, f"{came_from}, by the token “{found['name']}”")
    role = HeldRole(
        key=maker.role.key,
        name=f"{maker.role.name}, by the token “{found['name']}”",
        grants=maker.role.grants & frozenset(Permission(p) for p in found["permissions"] if p in set(Permission)),
    )
    return Scope(
        workspace_id=workspace_id,
        member_id=maker.member_id,
        name=maker.name,
        role=role,
        zone=maker.zone,
        csrf="",
        limited=maker.limited,
    )


async def list_tokens(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """The tokens, without themselves. Raises NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_tokens(tx)
    return [{**row, "is_over": row["revoked_at"] is not None or row["expires_at"] <= now} for row in rows]


async def add_token(
    house: House, scope: Scope, *, name: str, permissions: Collection[Permission], days: int, now: datetime
) -> str:
    """A new token, told this once. Raises Invalid, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    held = check_token(permissions, scope.role.grants, days)
    token = f"{MARK}{make_token()}"
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_tokens(tx)
        live = [row for row in rows if row["revoked_at"] is None and row["expires_at"] > now]
        if len(live) >= MOST_TOKENS:
            raise Invalid(f"{MOST_TOKENS} tokens at once at most. Take one back first.", "name")
        said = check_name(name, [row["name"] for row in live])
        await store.add_token(
            tx,
            {
                "name": said,
                "token_hash": hash_token(token),
                "ending": token[-4:],
                "permissions": sorted(held),
                "member_id": scope.member_id,
                "now": now,
                "expires_at": now + timedelta(days=days),
            },
        )
        await note(tx, scope, Happening.TOKEN_MADE, f"{said}: {', '.join(sorted(held))}, for {days} days")
    return token


async def revoke_token(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Take a token back. Raises NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        name = await store.revoke_token(tx, id, now)
        if name is None:
            raise NotFound("There is no such token, or it was taken back already.")
        await note(tx, scope, Happening.TOKEN_TAKEN_BACK, name)


async def list_hooks(house: House, scope: Scope) -> list[dict[str, Any]]:
    """Where programs are told. Raises NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.list_hooks(tx)


async def set_hook(
    house: House, scope: Scope, id: int | None, *, name: str, url: str, kinds: Sequence[str], now: datetime
) -> tuple[int, str | None]:
    """A new place (`id` None), or what one is called, where it is and what it is told of: its number, and of a new one its secret, told
    this once. Raises Invalid, NotFound, NotAllowed, Impossible where this installation tells nobody."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    if house.program_post is None:
        raise Impossible("This installation tells no programs.")
    address, events = check_url(url), list_events(kinds)
    secret = make_hook_secret() if id is None else None
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_hooks(tx)
        if id is None and len(rows) >= MOST_HOOKS:
            raise Invalid(f"{MOST_HOOKS} places at most. Remove one first.", "name")
        said, told = check_name(name, [row["name"] for row in rows if row["id"] != id]), sorted(set(kinds))
        values = {
            "name": said,
            "url": address,
            "kinds": told,
            "events": sorted(events),
            "member_id": scope.member_id,
            "now": now,
        }
        if id is not None:
            if not await store.set_hook(tx, {**values, "id": id}):
                raise NotFound("There is no such place in this workspace.")
        else:
            assert secret is not None
            sealed = house.keys.seal(PROGRAM_SECRET, scope.workspace_id, secret)
            id = await store.add_hook(tx, {**values, "secret": sealed})
        await note(tx, scope, Happening.PROGRAM_TOLD, f"{said}: {', '.join(told)}")
    return id, secret


async def change_secret(house: House, scope: Scope, id: int, now: datetime) -> tuple[str, datetime]:
    """Another secret, told this once; until then what is told is signed with the one before, too. Raises NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    secret, until = make_hook_secret(), now + BOTH_FOR
    async with house.db.transact(scope.workspace_id) as tx:
        sealed = house.keys.seal(PROGRAM_SECRET, scope.workspace_id, secret)
        name = await store.set_hook_secret(tx, id, sealed, until)
        if name is None:
            raise NotFound("There is no such place in this workspace.")
        await note(tx, scope, Happening.SECRET_CHANGED, f"the program {name}")
    return secret, until


async def remove_hook(house: House, scope: Scope, id: int, now: datetime) -> None:
    """It is told nothing more. Raises NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        name = await store.remove_hook(tx, id, now)
        if name is None:
            raise NotFound("There is no such place in this workspace.")
        await note(tx, scope, Happening.PROGRAM_TOLD_NO_MORE, name)


async def _check_is_here(tx: Tx, id: int) -> None:
    if id not in {row["id"] for row in await store.list_hooks(tx)}:
        raise NotFound("There is no such place in this workspace.")


async def list_told(house: House, scope: Scope, id: int, before: int | None) -> list[dict[str, Any]]:
    """What a program was told or is to be, the newest first, a page of it. Raises NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        await _check_is_here(tx, id)
        return await store.list_events(tx, id, before, PAGE)


async def tell_again(house: House, scope: Scope, id: int, event_id: int | None, now: datetime) -> int:
    """Tell once more what was told or failed, under the same key: one, or all that failed; how many. Raises NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        await _check_is_here(tx, id)
        return await store.tell_again(tx, id, event_id, now)


def make_body(workspace_id: int, event: store.HookEvent) -> str:
    """What is sent (Standard Webhooks, "Payload structure"): the event and by which numbers it is asked for; no words of anybody's."""
    data = {"workspace": workspace_id, "conversation": event.conversation_id, **event.data}
    for said in ("text", "reason", "note", "words", "remark", "before", "was", "now"):
        data.pop(said, None)
    told = {"type": f"conversation.{event.event}", "timestamp": event.made_at.isoformat(), "data": data}
    return json.dumps(told, separators=(",", ":"), sort_keys=True)


async def tell_programs(house: House, workspace_id: int, now: datetime) -> int:
    """Tell programs what has happened; how many times. A duty of the clock."""
    count = 0
    for _ in range(AT_ONCE if house.program_post is not None else 0):
        async with house.db.transact(workspace_id) as tx:
            event = await store.claim_event(tx, now, now + LEASE)
        if event is None:
            break
        await _tell(house, workspace_id, event, now)
        count += 1
    return count


async def _tell(house: House, workspace_id: int, event: store.HookEvent, now: datetime) -> None:
    post = house.program_post
    assert post is not None

    async def send() -> tuple[str | None, bool]:
        body, key = make_body(workspace_id, event), f"msg_{event.key.hex}"
        taken = open_taken(
            house, PROGRAM_SECRET, workspace_id, event.secret, event.secret_before, event.secret_until, now
        )
        headers = {
            "Content-Type": "application/json",
            "webhook-id": key,
            "webhook-timestamp": str(int(now.timestamp())),
            "webhook-signature": " ".join(Webhook(secret).sign(key, now, body) for secret in taken),
        }
        return await post.tell(event.url, headers, body)

    ended = await send_once(send, "event", event.id)
    problem, is_gone = (ended.reason, False) if isinstance(ended, Failed) else ended
    next_at = None if problem is None else get_next_try(event.attempts, now)
    state = "sent" if problem is None else "failed" if next_at is None else "waiting"
    since = None if problem is None else event.failing_since or now
    off = None
    if is_gone:
        off = "It answered that it is there no more (410)."
    elif since is not None and now - since > OFF_AFTER:
        off = f"It has taken nothing for {OFF_AFTER.days} days: {problem}"
    async with house.db.transact(workspace_id) as tx:
        if not await store.set_told(tx, event, state=state, next_at=next_at, problem=problem, now=now):
            return
        await store.set_hook_state(tx, event.hook_id, failing_since=since, off_reason=off)
        if off is not None:
            await add_alerts(
                tx,
                members=await alerts.list_members_with(tx, Permission.MANAGE_ACCOUNTS),
                occasion="account",
                words=f"A program is told nothing more. {off} Switch it on again in Setup.",
                conversation_id=None,
                key=f"hook:{event.hook_id}:{now.isoformat()}",
                now=now,
            )
