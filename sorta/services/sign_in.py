"""Signing in and out, and who is asking. Used by the API's dependencies."""

import asyncio
import hashlib
import hmac
import json
import secrets
import time
from collections.abc import AsyncGenerator, Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import structlog
from pwdlib import PasswordHash

from sorta.core.colours import get_ink
from sorta.core.errors import (
    AnotherMember,
    Busy,
    Invalid,
    NotFound,
    NotOurPage,
    SecondNeeded,
    SecondStep,
    SignInRefused,
    TooManyTries,
)
from sorta.core.passwords import check_password, normalise
from sorta.core.security import Happening
from sorta.services.house import House, Scope, Unavailable, seen_by
from sorta.services.roles import read_role
from sorta.services.security_log import note_sign_in
from sorta.services.tokens import hash_token, make_token
from sorta.store import live, people, second_step
from sorta.store.db import Conn
from sorta.store.live import TooManyStreams

log = structlog.get_logger()

#: A session ends after so long, and when nobody has used it for so long; use is written down no more often than this.
SESSION_FOR = timedelta(days=14)
IDLE_FOR = timedelta(days=3)
TOUCHED_EVERY = timedelta(minutes=5)
#: So long after coming in somebody without a password is still taken to be the one who came in.
JUST_NOW = timedelta(minutes=10)
DEVICE_FOR = timedelta(days=180)
#: So long the second step may take; and so much of what a browser says of itself is kept.
HALF_FOR = timedelta(minutes=10)
LONGEST_AGENT = 300
#: Tries that cost nothing: of one account from one address, or on a device it is known by; from one address; of one account from
#: anywhere. After them each doubles the pause, up to a quarter of an hour. An address is an office, and an account everybody's to
#: try: whoever is known by their device is slowed by neither.
FREE_TRIES, FREE_FROM, FREE_ACCOUNT = 5, 20, 50
LONGEST_PAUSE = 900
#: Seconds between two looks whether a stream's listener may still listen.
LOOKED_AT_EVERY = 10.0

_hasher = PasswordHash.recommended()
#: Of a password that nobody knows: verified against when nobody has that address, so that both answers take as long, and kept of who has none.
NOBODYS = _hasher.hash(secrets.token_urlsafe(16))


def hash_password(password: str) -> str:
    """An Argon2 hash for the members table."""
    return _hasher.hash(normalise(password))


def get_pause(tries: int, free: int, last_at: datetime, now: datetime) -> int:
    """Whole seconds to wait before the next try, 0 when it is free."""
    if tries < free or now - last_at > timedelta(minutes=15):
        return 0
    pause = min(2.0 ** min(tries - free + 1, 20), LONGEST_PAUSE)
    left = pause - (now - last_at).total_seconds()
    return max(0, int(-(-left // 1)))


@dataclass(frozen=True, kw_only=True)
class Entered:
    """A new session's token, and that of the device it is on."""

    token: str
    device: str


async def sign_in(
    house: House,
    *,
    email: str,
    password: str,
    came_from: str,
    now: datetime,
    device: str | None = None,
    agent: str = "",
) -> Entered:
    """Open a session, which is not whole yet where a second step is to come. `device` is the token of a device somebody signed in on before.

    The try is counted before the password is looked at, so that tries at the same moment count too; no connection is held
    while it is hashed. Raises SignInRefused, TooManyTries, or Busy when too many are at it.
    """
    address = email.strip().lower()
    async with house.db.connect() as conn:
        known = device is not None and await people.is_device_of(conn, hash_token(device), address)
        own = f"device:{hash_token(device or '').hex()}" if known else f"pair:{address}|{came_from}"
        counted = (
            {own: FREE_TRIES}
            if known
            else {own: FREE_TRIES, f"email:{address}": FREE_ACCOUNT, f"from:{came_from}": FREE_FROM}
        )
        await count_tries(conn, counted, now)
        member = await people.get_member_for_sign_in(conn, address)
    try:
        fits = await house.hashing.do(_hasher.verify, normalise(password), member.password_hash if member else NOBODYS)
    except Busy:
        # Nobody has looked at the password: it was no try.
        async with house.db.connect() as conn:
            await people.take_back_try(conn, list(counted))
        raise
    if member is None or not fits:
        if member is None:
            log.info("security", kind="sign_in_refused", email=address, came_from=came_from)
        else:
            async with house.db.connect() as conn:
                await note_sign_in(conn, member.id, Happening.SIGN_IN_REFUSED, came_from)
        raise SignInRefused("E-mail address and password do not belong together.")
    async with house.db.connect() as conn, conn.transaction():
        await people.delete_failures(conn, [own])
        await people.take_back_try(conn, [key for key in counted if key != own])
        return await enter(conn, member.id, came_from, now, device if known else None, agent)


async def enter(
    conn: Conn,
    member_id: int,
    came_from: str,
    now: datetime,
    device: str | None = None,
    agent: str = "",
    *,
    shown: bool = False,
) -> Entered:
    """A session for somebody who has shown who they are, on a device they are known by or a new one; where they have a second step
    it is none until that is shown (`shown` says it was), and the device is not known before."""
    entered = Entered(token=make_token(), device=device or make_token())
    is_whole = shown or not await second_step.has_factor(conn, member_id)
    if is_whole:
        await people.set_device(conn, hash_token(entered.device), member_id, now)
    await people.add_session(
        conn,
        token_hash=hash_token(entered.token),
        member_id=member_id,
        now=now,
        expires_at=now + (SESSION_FOR if is_whole else HALF_FOR),
        whole=is_whole,
        came_from=came_from,
        agent=agent[:LONGEST_AGENT],
    )
    if is_whole:
        await note_sign_in(conn, member_id, Happening.SIGNED_IN, came_from)
    return entered


async def change_password(
    house: House, token: str, *, before: str, password: str, came_from: str, now: datetime
) -> None:
    """Another password for who is signed in; their sessions and devices elsewhere end. Trying the present one counts as signing in
    does. Raises SignInRefused, Invalid, TooManyTries."""
    session = await get_session(house, token, now)
    await check_present_password(house, session, before, now)
    hashed = await house.hashing.do(make_hash, password, (session.name, session.email))
    async with house.db.connect() as conn, conn.transaction():
        await people.set_password(conn, session.member_id, hashed, hash_token(token))
        await note_sign_in(conn, session.member_id, Happening.PASSWORD_CHANGED, came_from)


async def check_present_password(house: House, session: people.Session, password: str, now: datetime) -> None:
    """That who is signed in knows their password, or has just come in where they have none. Trying counts as signing in does. Raises Invalid,
    TooManyTries."""
    if not session.has_password:
        if now - session.created_at > JUST_NOW:
            raise Invalid(
                "You have no password here. Sign out, come in again, and do this within ten minutes.", "before"
            )
        return
    own = f"password:{session.member_id}"
    async with house.db.connect() as conn:
        await count_tries(conn, {own: FREE_TRIES}, now)
        member = await people.get_member_for_sign_in(conn, session.email)
    if member is None or not await house.hashing.do(_hasher.verify, normalise(password), member.password_hash):
        raise Invalid("That is not your present password.", "before")
    async with house.db.connect() as conn:
        await people.delete_failures(conn, [own])


def make_hash(password: str, about: Sequence[str]) -> str:
    """A new password's hash. Raises Invalid for one that would be guessed. Takes time, and is for a thread."""
    return hash_password(check_password(password, about))


async def count_tries(conn: Conn, keys: Mapping[str, int], now: datetime) -> None:
    """Count one try under each key, with how many are free; none is counted while one must be waited for. Raises TooManyTries."""
    async with conn.transaction():
        # In one order for everybody, or two who try at once would wait for each other.
        pause = 0
        for key in sorted(keys):
            tries, last_at = await people.lock_tries(conn, key, now)
            pause = max(pause, get_pause(tries, keys[key], last_at, now))
        if pause:
            raise TooManyTries(f"Too many tries. Wait {pause} seconds, then try again.", pause)
        for key in sorted(keys):
            await people.add_failure(conn, key, now)


async def stream_notices(
    house: House, token: str, scope: Scope, get_now: Callable[[], datetime], since: str = ""
) -> AsyncGenerator[str, None]:
    """Notices of the workspace, the first a greeting: what has happened since the mark that one has follows it, or it says that this is not
    known; ends when the session has, or the member belongs here no more.

    Raises Busy when as many streams are open as may be.
    """
    try:
        async with house.live.subscribe(scope.workspace_id, scope.member_id) as queue:
            missed = house.live.list_since(scope.workspace_id, since)
            yield json.dumps({"kind": "hello", "gap": missed is None}, separators=(",", ":"))
            for one in missed or ():
                if (told := await _reduce(house, scope, one)) is not None:
                    yield told
            looked_at = time.monotonic()
            while True:
                notice: str | None = None
                with suppress(TimeoutError):
                    notice = await asyncio.wait_for(queue.get(), LOOKED_AT_EVERY)
                if time.monotonic() - looked_at >= LOOKED_AT_EVERY:
                    looked_at = time.monotonic()
                    if not await _may_listen(house, token, scope, get_now()):
                        return
                if notice is not None and (told := await _reduce(house, scope, notice)) is not None:
                    yield told
    except TooManyStreams as error:
        raise Busy("Sorta is open in too many places at once. Close some of them.", 30) from error


async def _reduce(house: House, scope: Scope, notice: str) -> str | None:
    """A notice with the numbers of what the listener sees; None when it is of nothing that they see."""
    said = json.loads(notice) if scope.limited else {}
    # Who goes on to a conversation that is not seen has left the one they had open.
    at = said.get("conversation")
    ids = said.get("ids") or ([] if at is None else [at])
    if not ids:
        return notice
    with seen_by(scope.seer):
        async with house.db.transact(scope.workspace_id) as tx:
            seen = await live.list_seen(tx, said["kind"], ids)
    if at is not None:
        return json.dumps({**said, "conversation": at if seen else None}, separators=(",", ":"))
    return json.dumps({**said, "ids": seen}, separators=(",", ":")) if seen else None


async def _may_listen(house: House, token: str, scope: Scope, now: datetime) -> bool:
    try:
        found = await get_scope(house, token, scope.workspace_id, now, touch=False)
    except (SignInRefused, SecondStep, SecondNeeded, NotFound):
        return False
    except Unavailable:
        # A database that is away says nothing of anybody; it also has no news.
        return True
    return found.limited == scope.limited


async def sign_out(house: House, token: str) -> None:
    """End the session; a second time changes nothing."""
    async with house.db.connect() as conn:
        member_id = await people.delete_session(conn, hash_token(token))
        if member_id is not None:
            await note_sign_in(conn, member_id, Happening.SIGNED_OUT)


async def get_session(house: House, token: str, now: datetime) -> people.Session:
    """Who the token belongs to. Raises SignInRefused when it has run out or never was, SecondStep while that is to come."""
    session = await get_any_session(house, token, now)
    if not session.whole:
        raise SecondStep("Show your second step to go on.")
    return session


async def get_any_session(house: House, token: str, now: datetime) -> people.Session:
    """The same where the second step may still be to come. Raises SignInRefused."""
    async with house.db.connect() as conn:
        session = await people.get_session(conn, hash_token(token), now, now - IDLE_FOR)
    if session is None:
        raise SignInRefused("Sign in to go on.")
    return session


async def find_member(house: House, token: str | None, now: datetime) -> int | None:
    """Who is signed in with this token, if anybody."""
    if not token:
        return None
    try:
        return (await get_session(house, token, now)).member_id
    except (SignInRefused, SecondStep):
        return None


async def list_workspaces(house: House, member_id: int) -> list[dict[str, object]]:
    """The member's workspaces, with the role in each and what it grants."""
    async with house.db.connect() as conn:
        rows = await people.list_workspaces(conn, member_id)
    return [
        {
            "id": r.id,
            "heard": house.live.mark(r.id),
            "name": r.name,
            "time_zone": r.time_zone,
            "role": (role := read_role(r.role, r.role_name, r.permissions, limited=r.limited)).name,
            "permissions": sorted(role.grants),
            "limited": r.limited,
            "needs_second": r.needs_second,
            "languages": r.languages,
            "colour": r.colour,
            "ink": r.colour and get_ink(r.colour),
            "picture": r.picture,
            "send_settles": r.send_settles,
        }
        for r in rows
        if r.archived_at is None
    ]


async def get_scope(house: House, token: str, workspace_id: int, now: datetime, *, touch: bool = True) -> Scope:
    """Who asks and what they are in the workspace. `touch` says that somebody uses the session. Raises SignInRefused, or
    NotFound when not a member."""
    # Every request begins with this: two ways there and back.
    async with house.db.transact(workspace_id, pipelined=True) as tx:
        found = await people.get_scope(tx, hash_token(token), workspace_id, now, now - IDLE_FOR)
    if found is None:
        async with house.db.connect() as conn:
            session = await people.get_session(conn, hash_token(token), now, now - IDLE_FOR)
        if session is None:
            raise SignInRefused("Sign in to go on.")
        if not session.whole:
            raise SecondStep("Show your second step to go on.")
        raise NotFound("There is no such workspace, or you are not a member of it.")
    if found["lacks_second"]:
        raise SecondNeeded("This workspace asks for a second step at signing in. Set one up under your name.")
    if touch and now - found["seen_at"] > TOUCHED_EVERY:
        async with house.db.connect() as conn:
            await people.touch_session(conn, hash_token(token), now)
    return Scope(
        workspace_id=workspace_id,
        member_id=found["member_id"],
        name=found["name"],
        role=read_role(found["role"], found["role_name"], found["permissions"], limited=found["limited"]),
        limited=found["limited"],
        zone=ZoneInfo(found["time_zone"]),
        csrf=make_csrf(token),
    )


def make_csrf(token: str) -> str:
    """The word that a page of this session says to write: made from the session's token by HMAC, so that nobody has to keep it,
    and telling nothing of it."""
    return hmac.new(token.encode(), b"csrf", hashlib.sha256).hexdigest()


def check_csrf(sent: str | None, expected: str) -> None:
    """Raise NotOurPage unless the request carries the session's own word, which other sites cannot know."""
    # As bytes: a word with letters outside ASCII is wrong, and no error.
    if not hmac.compare_digest((sent or "").encode("utf-8", "replace"), expected.encode()):
        raise NotOurPage("This request did not come from Sorta's own page. Reload the page and try again.")


def check_member(sent: str | None, member_id: int, name: str) -> None:
    """Raise AnotherMember when the page says that it is somebody else's; one that says nothing is taken as it is."""
    if sent is not None and sent != str(member_id):
        raise AnotherMember(f"{name} is signed in in this browser now. Nothing was done in their name.")


async def set_screen(house: House, member_id: int, wish: dict[str, Any]) -> None:
    """How the member wants the screen and its keys; what is None in the wish stays as it is."""
    async with house.db.connect() as conn:
        await people.set_screen(conn, member_id, wish)
