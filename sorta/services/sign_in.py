"""Signing in and out, and who is asking. Used by the API's dependencies."""

import hashlib
import hmac
import secrets
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import anyio
from pwdlib import PasswordHash

from sorta.core.errors import AnotherMember, NotFound, NotOurPage, SignInRefused, TooManyTries
from sorta.services.house import House, Scope
from sorta.services.roles import read_role
from sorta.store import people

SESSION_FOR = timedelta(days=14)
#: Tries that cost nothing; after them each doubles the pause, up to a quarter of an hour.
FREE_TRIES = 5
LONGEST_PAUSE = 900

_hasher = PasswordHash.recommended()
#: Verified against when nobody has that address, so that both answers take as long.
_NOBODY = _hasher.hash(secrets.token_urlsafe(16))


def hash_password(password: str) -> str:
    """An Argon2 hash for the members table."""
    return _hasher.hash(password)


def _hash_token(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()


def get_pause(tries: int, last_at: datetime, now: datetime) -> int:
    """Whole seconds to wait before the next try, 0 when it is free."""
    if tries < FREE_TRIES or now - last_at > timedelta(minutes=15):
        return 0
    pause = min(2.0 ** (tries - FREE_TRIES + 1), LONGEST_PAUSE)
    left = pause - (now - last_at).total_seconds()
    return max(0, int(-(-left // 1)))


async def sign_in(house: House, *, email: str, password: str, came_from: str, now: datetime) -> str:
    """The token of a new session. Raises SignInRefused or TooManyTries."""
    keys = [f"email:{email.strip().lower()}", f"from:{came_from}"]
    async with house.db.connect() as conn:
        failures = await people.list_failures(conn, keys)
        pause = max((get_pause(f["tries"], f["last_at"], now) for f in failures), default=0)
        if pause:
            raise TooManyTries(f"Too many tries. Wait {pause} seconds, then try again.", pause)
        member = await people.get_member_for_sign_in(conn, email.strip().lower())
        stored = member.password_hash if member else _NOBODY
        fits = await anyio.to_thread.run_sync(_hasher.verify, password, stored)
        if member is None or not fits:
            for key in keys:
                await people.add_failure(conn, key, now)
            raise SignInRefused("E-mail address and password do not belong together.")
        await people.delete_failures(conn, keys)
        token = secrets.token_urlsafe(32)
        await people.add_session(
            conn,
            token_hash=_hash_token(token),
            member_id=member.id,
            csrf=secrets.token_urlsafe(24),
            now=now,
            expires_at=now + SESSION_FOR,
        )
    return token


async def sign_out(house: House, token: str) -> None:
    """End the session; a second time changes nothing."""
    async with house.db.connect() as conn:
        await people.delete_session(conn, _hash_token(token))


async def get_session(house: House, token: str, now: datetime) -> people.Session:
    """Who the token belongs to. Raises SignInRefused when it has run out or never was."""
    async with house.db.connect() as conn:
        session = await people.get_session(conn, _hash_token(token), now)
    if session is None:
        raise SignInRefused("Sign in to go on.")
    return session


async def find_member(house: House, token: str | None, now: datetime) -> int | None:
    """Who is signed in with this token, if anybody."""
    if not token:
        return None
    async with house.db.connect() as conn:
        session = await people.get_session(conn, _hash_token(token), now)
    return None if session is None else session.member_id


async def list_workspaces(house: House, member_id: int) -> list[dict[str, object]]:
    """The member's workspaces, with the role in each and what it grants."""
    async with house.db.connect() as conn:
        rows = await people.list_workspaces(conn, member_id)
    return [
        {
            "id": r.id,
            "name": r.name,
            "time_zone": r.time_zone,
            "role": r.role_name,
            "permissions": sorted(r.permissions),
        }
        for r in rows
    ]


async def get_scope(house: House, token: str, workspace_id: int, now: datetime) -> Scope:
    """Who asks and what they are in the workspace. Raises SignInRefused, or NotFound when not a member."""
    async with house.db.connect() as conn:
        found = await people.get_scope(conn, _hash_token(token), workspace_id, now)
        if found is None:
            if await people.get_session(conn, _hash_token(token), now) is None:
                raise SignInRefused("Sign in to go on.")
            raise NotFound("There is no such workspace, or you are not a member of it.")
    return Scope(
        workspace_id=workspace_id,
        member_id=found["member_id"],
        name=found["name"],
        role=read_role(found["role"], found["role_name"], found["permissions"]),
        zone=ZoneInfo(found["time_zone"]),
        csrf=found["csrf"],
    )


def check_csrf(sent: str | None, expected: str) -> None:
    """Raise NotOurPage unless the request carries the session's own word, which other sites cannot know."""
    if not hmac.compare_digest(sent or "", expected):
        raise NotOurPage("This request did not come from Sorta's own page. Reload the page and try again.")


def check_member(sent: str | None, member_id: int, name: str) -> None:
    """Raise AnotherMember when the page says that it is somebody else's; one that says nothing is taken as it is."""
    if sent is not None and sent != str(member_id):
        raise AnotherMember(f"{name} is signed in in this browser now. Nothing was done in their name.")


async def set_single_keys(house: House, member_id: int, how: str) -> None:
    """How the member wants single-character keys: plain, with alt, or off."""
    async with house.db.connect() as conn:
        await people.set_single_keys(conn, member_id, how)
