"""Passkeys: made, shown to sign in, and removed. Used by the API.

A challenge is sealed, so that asking costs nothing here and needs no place; it is written down when it is answered, and is good once.
"""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any

from sorta.core.errors import Impossible, Invalid, NotFound, SignInRefused
from sorta.core.passkeys import (
    PasskeyRefused,
    Site,
    ask_for_new,
    ask_for_one,
    check_shown,
    find_site,
    read_new,
    read_shown,
    take_new,
)
from sorta.core.security import Happening
from sorta.core.titles import check_title
from sorta.services.house import House
from sorta.services.second_step import check_may_go, give_codes
from sorta.services.security_log import log, note_sign_in
from sorta.services.sign_in import FREE_FROM, Entered, check_present_password, count_tries, enter, get_session
from sorta.services.tokens import hash_token
from sorta.store import passkeys as store
from sorta.store import people, second_step
from sorta.store.db import Conn
from sorta.store.keyring import NotSealed

#: How long somebody may take over what their device asks.
ASKED_FOR = timedelta(minutes=5)
MOST, LONGEST_NAME = 20, 60
#: What challenges are sealed as: to make a passkey, for the member who asked; to show one, for nobody yet.
_NEW, _SHOW = "passkey.new", "passkey.show"
_NOT_THIS = "That passkey does not open this. Try again, or sign in with your password."


def are_taken(house: House) -> bool:
    """Whether browsers know passkeys at the address of this installation."""
    return find_site(house.address) is not None


def _get_site(house: House) -> Site:
    """Where passkeys hold. Raises Impossible where browsers know none."""
    site = find_site(house.address)
    if site is None:
        raise Impossible("Passkeys need Sorta to be at an address with a name, by https.")
    return site


def _seal(house: House, purpose: str, member_id: int, now: datetime) -> bytes:
    return house.keys.seal(purpose, member_id, (now + ASKED_FOR).isoformat()).encode()


async def _open(house: House, conn: Conn, purpose: str, member_id: int, challenge: bytes, now: datetime) -> None:
    """That a challenge is ours, not over, and answered for the first time. Raises PasskeyRefused."""
    try:
        until = datetime.fromisoformat(house.keys.open(purpose, member_id, challenge.decode()))
    except (NotSealed, UnicodeDecodeError) as error:
        raise PasskeyRefused("nobody here has asked for this") from error
    if until < now:
        raise PasskeyRefused("it came too late")
    if not await store.answer(conn, hash_token(challenge.decode()), now, until):
        raise PasskeyRefused("it was answered before")


async def ask_new(house: House, token: str, password: str, now: datetime) -> dict[str, Any]:
    """What one's browser is asked to make a passkey. Raises Invalid with a wrong password or too many, Impossible."""
    site = _get_site(house)
    session = await get_session(house, token, now)
    await check_present_password(house, session, password, now)
    async with house.db.connect() as conn:
        there = await store.list_passkeys(conn, session.member_id)
        handle = await store.get_user(conn, session.member_id)
    if len(there) >= MOST:
        raise Invalid(f"At most {MOST} passkeys. Remove one first.", "password")
    challenge = _seal(house, _NEW, session.member_id, now)
    return ask_for_new(
        site,
        challenge,
        handle=handle,
        email=session.email,
        name=session.name,
        there=[one.credential for one in there],
    )


async def add(house: House, token: str, said: Mapping[str, Any], name: str, came_from: str, now: datetime) -> list[str]:
    """Keep the passkey that a browser has made; recovery codes for who has none, shown this once. Sessions elsewhere end. Raises Invalid,
    Impossible."""
    site = _get_site(house)
    session = await get_session(house, token, now)
    called = check_title(name, "A passkey’s name", LONGEST_NAME)
    try:
        challenge = read_new(said)
        async with house.db.connect() as conn, conn.transaction():
            await _open(house, conn, _NEW, session.member_id, challenge, now)
            made = take_new(site, challenge, said)
            if not await store.add_passkey(
                conn,
                session.member_id,
                credential_id=made.credential_id,
                credential=made.credential,
                sign_count=made.sign_count,
                name=called,
                now=now,
            ):
                raise PasskeyRefused("it is kept already")
            codes = await give_codes(conn, session.member_id)
            await second_step.end_others(conn, session.member_id, hash_token(token))
            await note_sign_in(conn, session.member_id, Happening.PASSKEY_MADE, came_from, called)
    except PasskeyRefused as error:
        log.info("a passkey was not kept", member=session.member_id, reason=str(error))
        raise Invalid(f"Your browser’s answer does not hold: {error}. Begin again.", "credential") from error
    return codes


def ask(house: House, now: datetime) -> dict[str, Any]:
    """What a browser is asked to show a passkey, whoever is there. Raises Impossible."""
    return ask_for_one(_get_site(house), _seal(house, _SHOW, 0, now))


async def sign_in(
    house: House,
    said: Mapping[str, Any],
    came_from: str,
    now: datetime,
    device: str | None = None,
    agent: str = "",
) -> Entered:
    """A session, whole, for who shows their passkey. `device` as in signing in by password. Raises SignInRefused, TooManyTries, Impossible."""
    site = _get_site(house)
    tried = f"from:{came_from}"
    async with house.db.connect() as conn:
        await count_tries(conn, {tried: FREE_FROM}, now)
    whose: int | None = None
    try:
        challenge, credential_id = read_shown(said)
        async with house.db.connect() as conn, conn.transaction():
            found = await store.find_passkey(conn, credential_id)
            if found is None:
                raise PasskeyRefused("nobody here has it")
            whose = found.member_id
            await _open(house, conn, _SHOW, 0, challenge, now)
            count = check_shown(
                site,
                challenge,
                said,
                credential=found.credential,
                handle=found.user_handle,
                sign_count=found.sign_count,
            )
            await store.set_used(conn, found.id, count, now)
            await people.take_back_try(conn, [tried])
            known = device is not None and await people.is_device_of(conn, hash_token(device), found.email)
            return await enter(conn, found.member_id, came_from, now, device if known else None, agent, shown=True)
    except PasskeyRefused as error:
        log.info("security", kind="passkey_refused", came_from=came_from, reason=str(error))
        if whose is not None:
            async with house.db.connect() as conn:
                await note_sign_in(conn, whose, Happening.PASSKEY_REFUSED, came_from, str(error))
        raise SignInRefused(_NOT_THIS) from error


async def remove(house: House, token: str, id: int, password: str, came_from: str, now: datetime) -> None:
    """Take a passkey back; sessions elsewhere end. Raises NotFound, Invalid with a wrong password, or where a workspace asks for a second
    step and there is no other."""
    session = await get_session(house, token, now)
    await check_present_password(house, session, password, now)
    async with house.db.connect() as conn, conn.transaction():
        name = await store.remove_passkey(conn, session.member_id, id)
        if name is None:
            raise NotFound("You have no such passkey any more.")
        await check_may_go(conn, session.member_id)
        await second_step.forget_codes(conn, session.member_id)
        await second_step.end_others(conn, session.member_id, hash_token(token))
        await note_sign_in(conn, session.member_id, Happening.PASSKEY_REMOVED, came_from, name)
