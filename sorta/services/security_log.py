"""The security log: signing in, who may do what, secrets, holds and exports, as rows and as log lines. Used by those who change it.

Nothing in it is a secret, and nobody can change an entry; how long it is kept stands in services.retention.
"""

from datetime import datetime
from typing import Any

import structlog

from sorta.core.permissions import Permission
from sorta.core.security import Happening, say
from sorta.services.house import House, Scope
from sorta.store import security_log as store
from sorta.store.db import Conn

log = structlog.get_logger()
#: Entries in one answer, and characters of what one is about.
PAGE, LONGEST = 100, 300


async def note(conn: Conn, scope: Scope, happening: Happening, what: str = "", **about: Any) -> None:
    """Write down what a member did in a workspace, in the transaction that does it."""
    told = {"what": what[:LONGEST], **about}
    await store.add_entry(conn, scope.workspace_id, scope.member_id, happening, told)
    log.info("security", kind=happening.value, workspace=scope.workspace_id, member=scope.member_id, **told)


async def note_sign_in(conn: Conn, member_id: int, happening: Happening, came_from: str = "", what: str = "") -> None:
    """Write down how a member signed in or out, which belongs to no workspace; each of theirs shows it."""
    told = {key: said for key, said in (("came_from", came_from), ("what", what[:LONGEST])) if said}
    await store.add_entry(conn, None, member_id, happening, told)
    log.info("security", kind=happening.value, member=member_id, **told)


async def list_entries(house: House, scope: Scope, before: int | None = None) -> list[dict[str, Any]]:
    """The newest first, `before` an entry's number. For who manages members. Raises NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_entries(tx, before, PAGE)
    return [_tell(row) for row in rows]


def _tell(row: dict[str, Any]) -> dict[str, Any]:
    at: datetime = row["at"]
    about = row["about"]
    return {
        "id": row["id"],
        "at": at,
        "name": row["name"] or "Somebody",
        "words": say(Happening(row["kind"]), about.get("what", "")),
        "came_from": about.get("came_from"),
    }
