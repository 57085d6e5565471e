"""A forgotten password: a link by mail that sets another one, once and soon. Used by the API and the worker.

Whoever asks is told the same whether or not anybody has that address, and waits as long: who it is, is looked up by the worker.
"""

from datetime import datetime, timedelta

from sorta.core.advice import check_address
from sorta.core.errors import Impossible, NotFound
from sorta.core.ports import Letter
from sorta.core.security import Happening
from sorta.services.house import House
from sorta.services.security_log import note_sign_in
from sorta.services.sending import Failed, send_once
from sorta.services.sign_in import Entered, count_tries, enter, make_hash
from sorta.services.tokens import hash_token, make_token
from sorta.store import people

MAIL = "mail_password_link"
LINK_FOR = timedelta(minutes=30)
#: How often a link is asked for before one has to wait: for one address, and from one place.
FREE_ADDRESS, FREE_FROM = 3, 20
_GONE = (
    "This link leads nowhere (any more): it was used, or its half hour is over. Ask for a new one where you sign in."
)


async def ask(house: House, email: str, came_from: str, now: datetime) -> None:
    """Have a link mailed to an address, if anybody has it. Raises Invalid for what is no address, TooManyTries, Impossible."""
    address = check_address(email).lower()
    if house.post is None:
        raise Impossible("This installation sends no mail. Ask whoever manages members for a new way in.")
    async with house.db.connect() as conn:
        await count_tries(conn, {f"forgot:{address}": FREE_ADDRESS, f"forgot-from:{came_from}": FREE_FROM}, now)
        async with conn.transaction():
            await house.queue.add_job(conn, MAIL, once=f"forgot:{address}", email=address)


async def mail_link(house: House, email: str, now: datetime) -> bool:
    """Mail the link; whether it went out. Run by the worker. A letter that fails is asked for again by who waits for it."""
    if house.post is None:
        return False
    token = make_token()
    async with house.db.connect() as conn, conn.transaction():
        member = await people.get_member_for_sign_in(conn, email)
        if member is None:
            return False
        await people.add_password_link(conn, hash_token(token), member.id, now, now + LINK_FOR)
    return not isinstance(await send_once(lambda: _send(house, member, token), "password link", member.id), Failed)


async def _send(house: House, member: people.MemberForSignIn, token: str) -> None:
    assert house.post is not None
    text = (
        "Somebody asked for another password for your account on Sorta.\n\n"
        f"If that was you, open this link within half an hour:\n\n{house.address}/password/{token}\n\n"
        "If not, leave it: nothing has changed, and the password you have still holds."
    )
    key = f"password-{hash_token(token).hex()[:16]}"
    await house.post.send(
        Letter(key=key, to=member.email, to_name=member.name, subject="Another password for Sorta", text=text)
    )


async def set_password(
    house: House, token: str, password: str, came_from: str, now: datetime, agent: str = ""
) -> Entered:
    """Another password by a link, and a session; all others end. Raises NotFound, Invalid."""
    async with house.db.connect() as conn:
        member = await people.find_password_link(conn, hash_token(token), now)
    if member is None:
        raise NotFound(_GONE)
    hashed = await house.hashing.do(make_hash, password, (member.name, member.email))
    async with house.db.connect() as conn, conn.transaction():
        # Another may have used it while the password was hashed.
        if await people.find_password_link(conn, hash_token(token), now) is None:
            raise NotFound(_GONE)
        await people.use_password_link(conn, hash_token(token), now)
        await people.set_password(conn, member.id, hashed, b"")
        await note_sign_in(conn, member.id, Happening.PASSWORD_CHANGED, came_from)
        return await enter(conn, member.id, came_from, now, agent=agent)
