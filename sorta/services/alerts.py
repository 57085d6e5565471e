"""Telling members: in the app and by mail, each thing once, quietly when they are away. Used by rules, delivery, the tick."""

from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any

import structlog

from sorta.core.errors import Invalid
from sorta.core.ports import Letter, LetterRefused, MailPost, Unreachable
from sorta.core.retry import get_pause
from sorta.services.house import House, Scope
from sorta.store import alerts as store
from sorta.store.db import Conn
from sorta.store.live import make_notice, tell

log = structlog.get_logger()
#: What members are told of: (occasion, what it says in the choices, whether it is mailed unless they choose otherwise).
OCCASIONS: dict[str, tuple[str, bool]] = {
    "rule": ("A rule tells me", True),
    "approval": ("An answer waits for my approval", True),
    "decided": ("My answer was approved or came back", False),
    "due_soon": ("Something of mine is due soon", False),
    "late": ("Something of mine is late", True),
    "not_out": ("An answer of mine is not out yet, or was refused", True),
    "account": ("Answers from an account do not go out", True),
    "stopped": ("An answer of mine could not be sent at its time", True),
    "case": ("A desk gave back what I handed over", False),
    "advice": ("Outside advice came, or did not come in time", True),
    "standing_still": ("Something that runs by itself stands still", True),
    "unusual": ("Far more comes in than usual", True),
    "rule_off": ("A rule was switched off by itself", True),
}
DUE_SOON_MINUTES = 15
#: A mail server that is away for longer than this has missed the news; it stands in the app.
MAILED_WITHIN = timedelta(hours=2)


async def add_alerts(
    conn: Conn,
    workspace_id: int,
    *,
    members: Iterable[int],
    occasion: str,
    words: str,
    conversation_id: int | None,
    key: str,
    now: datetime,
) -> list[int]:
    """Tell members something within a transaction; `key` names the thing, so that nobody is told twice."""
    told = await store.add_alerts(
        conn,
        workspace_id,
        members=list(members),
        occasion=occasion,
        words=words,
        conversation_id=conversation_id,
        key=key,
        by_mail=OCCASIONS[occasion][1],
        now=now,
    )
    for member in told:
        await tell(conn, make_notice(workspace_id, "alert", member=member))
    return told


async def list_alerts(house: House, scope: Scope, limit: int) -> dict[str, Any]:
    """What the member was told, newest first, and how much of it is unread."""
    async with house.db.transact(scope.workspace_id) as conn:
        return {
            "unread": await store.count_unread(conn, scope.workspace_id, scope.member_id),
            "alerts": await store.list_alerts(conn, scope.workspace_id, scope.member_id, limit),
        }


async def set_read(house: House, scope: Scope, id: int | None, now: datetime) -> None:
    """The member has read one alert, or all."""
    async with house.db.transact(scope.workspace_id) as conn:
        await store.set_read(conn, scope.workspace_id, scope.member_id, id, now)


async def list_choices(house: House, scope: Scope) -> list[dict[str, Any]]:
    """What the member can be told of, and how they want it."""
    async with house.db.transact(scope.workspace_id) as conn:
        rows = await store.list_choices(conn, scope.workspace_id, scope.member_id)
    chosen = {row["occasion"]: row for row in rows}
    return [
        {
            "occasion": occasion,
            "words": words,
            "in_app": chosen[occasion]["in_app"] if occasion in chosen else True,
            "by_mail": chosen[occasion]["by_mail"] if occasion in chosen else by_mail,
            "minutes": chosen[occasion]["minutes"] if occasion in chosen else DUE_SOON_MINUTES,
        }
        for occasion, (words, by_mail) in OCCASIONS.items()
    ]


async def set_choice(house: House, scope: Scope, *, occasion: str, in_app: bool, by_mail: bool, minutes: int) -> None:
    """How the member wants to be told of something. Raises Invalid for an occasion that there is not."""
    if occasion not in OCCASIONS:
        raise Invalid(f"Nobody is told of {occasion!r}.", "occasion")
    async with house.db.transact(scope.workspace_id) as conn:
        await store.set_choice(
            conn,
            scope.workspace_id,
            scope.member_id,
            occasion=occasion,
            in_app=in_app,
            by_mail=by_mail,
            minutes=minutes,
        )


async def tell_late(house: House, workspace_id: int, now: datetime) -> int:
    """Tell owners of what is late or will be soon; how many were told. Run by the worker's tick."""
    count = 0
    async with house.db.transact(workspace_id) as conn:
        for row in await store.list_late(conn, workspace_id, now):
            occasion = "late" if row["is_late"] else "due_soon"
            said = "is late" if row["is_late"] else "is due soon"
            told = await add_alerts(
                conn,
                workspace_id,
                members=[row["owner_id"]],
                occasion=occasion,
                words=f"{row['person_name']} {said}.",
                conversation_id=row["id"],
                # Not by the due: when targets or hours change it is the same wait, and nobody is told of it again.
                key=f"{occasion}:{row['id']}:{row['awaiting_since'].isoformat()}",
                now=now,
            )
            count += len(told)
    return count


#: Letters of one round, and how many in a row may fail before the mail server is left alone until the next.
_LETTERS, _FAILURES = 50, 3
#: Nobody else mails a letter while it is under way; a worker that died loses it then.
MAIL_LEASE = timedelta(minutes=1)
#: An address that was refused for good is tried again after this: people mend their mailboxes.
REFUSED_FOR = timedelta(days=1)


async def mail_alerts(house: House, workspace_id: int, now: datetime) -> int:
    """Mail what is to be mailed, each by itself; how many went out.

    What the mail server does not take now stays for another time; what it will never take stands at the member, and holds up
    nobody else's.
    """
    if house.post is None:
        return 0
    async with house.db.transact(workspace_id) as conn:
        ids = await store.list_to_mail(conn, workspace_id, now, now - MAILED_WITHIN, now - REFUSED_FOR, _LETTERS)
    count = failed = 0
    for id in ids:
        sent = await _mail(house, house.post, workspace_id, id, now)
        count += sent is True
        failed = failed + 1 if sent is False else 0
        if failed >= _FAILURES:
            break
    return count


async def _mail(house: House, post: MailPost, workspace_id: int, id: int, now: datetime) -> bool | None:
    """True when one alert's letter was taken, False when not now, None when never or it is somebody else's."""
    async with house.db.transact(workspace_id) as conn:
        row = await store.claim_mail(conn, workspace_id, id, now, now + MAIL_LEASE)
    if row is None:
        return None
    path = f"/w/{workspace_id}/desk/{row['conversation_id'] or ''}"
    letter = Letter(
        key=f"alert-{id}",
        to=row["email"],
        to_name=row["name"],
        subject=f"{row['workspace']}: {row['words'][:120]}",
        text=f"{row['words']}\n\n{house.address}{path}",
    )
    try:
        await post.send(letter)
    except LetterRefused as error:
        async with house.db.transact(workspace_id) as conn:
            await store.set_mailed(conn, workspace_id, id, None, str(error), None)
            await store.set_mail_refused(conn, row["member_id"], str(error)[:500], now)
        log.warning("alert refused", alert=id, reason=str(error))
        return None
    except Unreachable as error:
        again = now + timedelta(seconds=get_pause(row["mail_tries"]))
        async with house.db.transact(workspace_id) as conn:
            await store.set_mailed(conn, workspace_id, id, None, str(error), again)
        log.warning("alert not mailed", alert=id, reason=str(error))
        return False
    async with house.db.transact(workspace_id) as conn:
        await store.set_mailed(conn, workspace_id, id, now, None, None)
        await store.set_mail_refused(conn, row["member_id"], None, None)
    return True
