"""The second step at signing in, and the places where somebody is signed in. Used by the API.

A member may have one: codes of an app, passkeys (services.passkeys), or both, with recovery codes for when they are lost. A workspace may ask for it: who has none is led to setting
one up, and sees nothing of the workspace before. Whatever of it changes ends the sessions elsewhere.
"""

import secrets
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

import pyotp
import segno

from sorta.core.errors import Invalid, NotFound, SignInRefused
from sorta.core.passkeys import find_site
from sorta.core.permissions import Permission
from sorta.core.second_step import (
    CODES,
    LENGTH,
    SIGNS,
    find_step,
    say_browser,
    show_recovery_code,
    tidy_recovery_code,
    write_address,
)
from sorta.core.security import Happening
from sorta.services.house import House, Scope
from sorta.services.sealing import SECOND_SECRET
from sorta.services.security_log import note, note_sign_in
from sorta.services.sign_in import (
    FREE_ACCOUNT,
    FREE_TRIES,
    IDLE_FOR,
    SESSION_FOR,
    check_present_password,
    count_tries,
    get_any_session,
    get_session,
)
from sorta.services.tokens import hash_token, make_token
from sorta.store import people
from sorta.store import second_step as store
from sorta.store.db import Conn
from sorta.store.passkeys import list_passkeys

ISSUER = "Sorta"


@dataclass(frozen=True, kw_only=True)
class Setup:
    """A secret for an app: as a picture (SVG), and to be typed."""

    picture: str
    secret: str


async def get_state(house: House, token: str, now: datetime) -> dict[str, Any]:
    """Whether there is a second step and of which kinds, how many recovery codes are left, and where else one is signed in."""
    session = await get_session(house, token, now)
    async with house.db.connect() as conn:
        has_app = await store.has_app(conn, session.member_id)
        passkeys = await list_passkeys(conn, session.member_id)
        rows = await store.list_sessions(conn, session.member_id, hash_token(token), now, now - IDLE_FOR)
        left = await store.count_codes(conn, session.member_id)
    sessions = [{**asdict(row), "browser": say_browser(row.agent)} for row in rows]
    return {
        "is_on": session.has_second,
        "has_app": has_app,
        "passkeys": [asdict(row) for row in passkeys],
        "has_password": session.has_password,
        "takes_passkeys": find_site(house.address) is not None,
        "codes_left": left,
        "sessions": sessions,
    }


async def begin(house: House, token: str, password: str, now: datetime) -> Setup:
    """A new secret, asked for at signing in once a code of it was shown. Raises Invalid with a wrong password, or where there is one."""
    session = await get_session(house, token, now)
    await check_present_password(house, session, password, now)
    secret = pyotp.random_base32()
    async with house.db.connect() as conn:
        sealed = house.keys.seal(SECOND_SECRET, session.member_id, secret)
        if not await store.begin(conn, session.member_id, sealed, now):
            raise Invalid("You sign in with the codes of an app already. Turn them off first.", "code")
    address = write_address(secret, session.email, ISSUER)
    picture = segno.make(address, error="m").svg_inline(scale=4, border=2, dark="#000", light="#fff")
    return Setup(picture=picture, secret=secret)


def _make_codes() -> list[str]:
    return ["".join(secrets.choice(SIGNS) for _ in range(LENGTH)) for _ in range(CODES)]


async def give_codes(conn: Conn, member_id: int, *, fresh: bool = False) -> list[str]:
    """Recovery codes for who has none left, or `fresh` ones in place of those there were, shown this once; else none."""
    if not fresh and await store.count_codes(conn, member_id):
        return []
    codes = _make_codes()
    await store.set_codes(conn, member_id, [hash_token(code) for code in codes])
    return [show_recovery_code(code) for code in codes]


async def confirm(house: House, token: str, code: str, came_from: str, now: datetime) -> list[str]:
    """The app shows the right codes: from now on they are asked for. The recovery codes, shown this once, for who has none; sessions
    elsewhere end. Raises Invalid, TooManyTries."""
    session = await get_session(house, token, now)
    async with house.db.connect() as conn:
        await count_tries(conn, {f"second:{session.member_id}": FREE_TRIES}, now)
    async with house.db.connect() as conn, conn.transaction():
        factor = await store.get_factor(conn, session.member_id)
        if factor is None or factor.confirmed_at is not None:
            raise Invalid("There is nothing to confirm. Begin again.", "code")
        step = find_step(house.keys.open(SECOND_SECRET, session.member_id, factor.secret), code, now, factor.last_step)
        if step is None:
            raise Invalid(
                "That is not the code your app should show now. Look at its clock, and try the next one.", "code"
            )
        await store.confirm(conn, session.member_id, step, now)
        codes = await give_codes(conn, session.member_id)
        await store.end_others(conn, session.member_id, hash_token(token))
        await people.delete_failures(conn, [f"second:{session.member_id}"])
        await note_sign_in(conn, session.member_id, Happening.SECOND_ON, came_from)
    return codes


async def show(house: House, token: str, code: str, came_from: str, device: str | None, now: datetime) -> str:
    """The second step of somebody whose password was right: their session is whole; the token of the device, known from now on. Raises
    SignInRefused, TooManyTries."""
    session = await get_any_session(house, token, now)
    if session.whole:
        return device or make_token()
    own, all_of_them = f"second:{session.member_id}|{came_from}", f"second:{session.member_id}"
    async with house.db.connect() as conn:
        # Whoever is known by their device is not slowed by others who have the password.
        is_known = device is not None and await people.is_device_of(conn, hash_token(device), session.email)
        await count_tries(conn, {own: FREE_TRIES} if is_known else {own: FREE_TRIES, all_of_them: FREE_ACCOUNT}, now)
    known = device or make_token()
    async with house.db.connect() as conn, conn.transaction():
        how = await _take(house, conn, session.member_id, code, now)
        if how is not None:
            await store.make_whole(conn, hash_token(token), now + SESSION_FOR)
            await people.set_device(conn, hash_token(known), session.member_id, now)
            await people.delete_failures(conn, [own])
            if not is_known:
                await people.take_back_try(conn, [all_of_them])
            if how is Happening.RECOVERED:
                await note_sign_in(conn, session.member_id, how, came_from)
            await note_sign_in(conn, session.member_id, Happening.SIGNED_IN, came_from)
        else:
            await note_sign_in(conn, session.member_id, Happening.SECOND_REFUSED, came_from)
    if how is None:
        raise SignInRefused("That code is not right, or was used already. Wait for the next one.")
    return known


async def _take(house: House, conn: Conn, member_id: int, code: str, now: datetime) -> Happening | None:
    """Use a code of the app, or a recovery code, once; None for one that is none."""
    factor = await store.get_factor(conn, member_id)
    if factor is not None and factor.confirmed_at is not None:
        step = find_step(house.keys.open(SECOND_SECRET, member_id, factor.secret), code, now, factor.last_step)
        if step is not None:
            await store.set_step(conn, member_id, step)
            return Happening.SIGNED_IN
    written = tidy_recovery_code(code)
    if written is not None and await store.use_code(conn, member_id, hash_token(written), now):
        return Happening.RECOVERED
    return None


async def check_may_go(conn: Conn, member_id: int) -> None:
    """That nobody who is asked for a second step is left without one, when one has just gone. Raises Invalid."""
    if await store.has_factor(conn, member_id):
        return
    asking = [w.name for w in await people.list_workspaces(conn, member_id) if w.needs_second]
    if asking:
        raise Invalid(f"{asking[0]} asks for a second step of everybody who works there.", "password")


async def turn_off(house: House, token: str, password: str, came_from: str, now: datetime) -> None:
    """No codes of an app from now on; sessions elsewhere end. Raises Invalid with a wrong password, or where a workspace asks for a second
    step and there is no other."""
    session = await get_session(house, token, now)
    await check_present_password(house, session, password, now)
    async with house.db.connect() as conn, conn.transaction():
        await store.turn_off(conn, session.member_id)
        await check_may_go(conn, session.member_id)
        await store.forget_codes(conn, session.member_id)
        await store.end_others(conn, session.member_id, hash_token(token))
        await note_sign_in(conn, session.member_id, Happening.SECOND_OFF, came_from)


async def renew_codes(house: House, token: str, password: str, came_from: str, now: datetime) -> list[str]:
    """Other recovery codes in place of those there were, shown this once. Raises Invalid."""
    session = await get_session(house, token, now)
    await check_present_password(house, session, password, now)
    if not session.has_second:
        raise Invalid("There is no second step to recover.", "code")
    async with house.db.connect() as conn, conn.transaction():
        codes = await give_codes(conn, session.member_id, fresh=True)
        await note_sign_in(conn, session.member_id, Happening.CODES_RENEWED, came_from)
    return codes


async def end_session(house: House, token: str, id: int, came_from: str, now: datetime) -> None:
    """End one of one's sessions elsewhere. Raises NotFound."""
    session = await get_session(house, token, now)
    async with house.db.connect() as conn, conn.transaction():
        if not await store.end_session(conn, session.member_id, id, hash_token(token)):
            raise NotFound("There is no such session elsewhere any more.")
        await note_sign_in(conn, session.member_id, Happening.SESSIONS_ENDED, came_from)


async def end_others(house: House, token: str, came_from: str, now: datetime) -> None:
    """End all of one's sessions but this one; no device is known any more."""
    session = await get_session(house, token, now)
    async with house.db.connect() as conn, conn.transaction():
        await store.end_others(conn, session.member_id, hash_token(token))
        await note_sign_in(conn, session.member_id, Happening.SESSIONS_ENDED, came_from)


async def get_needed(house: House, scope: Scope) -> dict[str, Any]:
    """Whether this workspace asks for a second step, and who has none. For who manages members."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        workspace = await people.get_workspace(tx)
        assert workspace is not None
        return {
            "needs_second": workspace["needs_second"],
            "lacking": await store.list_lacking(tx),
        }


async def set_needed(house: House, scope: Scope, *, on: bool) -> None:
    """Ask everybody who works here for a second step, or nobody. Raises NotAllowed, Invalid for who has none."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        if on and not await store.has_factor(tx, scope.member_id):
            raise Invalid("Set up a second step of your own first, or you would be shut out by this.", "needs_second")
        await store.set_needed(tx, on)
        await note(tx, scope, Happening.SECOND_NEEDED, "a second step" if on else "a password")
