"""Where a member is sent text messages: a number, once they have said the code that was sent to it. Used by the API."""

import hashlib
import hmac
import secrets
from datetime import datetime, timedelta

from sorta.core.alerting import check_phone
from sorta.core.errors import Impossible, Invalid
from sorta.core.ports import LetterRefused, Unreachable
from sorta.services.house import House
from sorta.services.sign_in import get_session
from sorta.store import alerts as store

#: How long a code is good, how often it may be said wrong, and how many are sent to a member in a day: each costs, and disturbs somebody
#: whose number it may not be.
CODE_FOR, MOST_TRIES, MOST_SENT, A_DAY = timedelta(minutes=10), 5, 5, timedelta(days=1)


def _hash(phone: str, code: str) -> bytes:
    return hashlib.sha256(f"{phone} {code}".encode()).digest()


async def begin(house: House, token: str, phone: str, now: datetime) -> None:
    """Send a code to a number. Raises Invalid for what is none or what the gateway refuses, Impossible after too many."""
    if house.texting is None:
        raise Impossible("This installation sends no text messages.")
    member = (await get_session(house, token, now)).member_id
    number, code = check_phone(phone), f"{secrets.randbelow(10**6):06}"
    async with house.db.connect() as conn:
        sent = await store.begin_phone(
            conn, member, number, _hash(number, code), now=now, until=now + CODE_FOR, a_day_ago=now - A_DAY
        )
    if sent > MOST_SENT:
        raise Impossible(f"More than {MOST_SENT} codes were asked for today. Try again tomorrow.")
    try:
        await house.texting.send(
            key=f"code-{secrets.token_hex(8)}", to=number, text=f"{code} is your code for text messages from Sorta."
        )
    except LetterRefused as error:
        raise Invalid(f"This number cannot be sent to. {error}", "phone") from error
    except Unreachable as error:
        raise Impossible(f"The code could not be sent. {error} Try again in a while.") from error


async def confirm(house: House, token: str, code: str, now: datetime) -> str:
    """The code that came: the number is theirs from now on. Raises Invalid for another one, Impossible for one that is over."""
    member = (await get_session(house, token, now)).member_id
    async with house.db.connect() as conn:
        # Counted before it is compared: whoever asks many at once has no more tries than who asks one by one.
        row = await store.count_phone_try(conn, member, now)
    if row is None or row["tries"] > MOST_TRIES:
        raise Impossible("This code is over. Have another one sent.")
    if not hmac.compare_digest(bytes(row["code_hash"]), _hash(row["phone"], "".join(code.split()))):
        raise Invalid("That is not the code that was sent.", "code")
    async with house.db.connect() as conn:
        await store.set_phone(conn, member, row["phone"])
    phone: str = row["phone"]
    return phone


async def remove(house: House, token: str, now: datetime) -> None:
    """No text messages any more."""
    member = (await get_session(house, token, now)).member_id
    async with house.db.connect() as conn:
        await store.set_phone(conn, member, None)
