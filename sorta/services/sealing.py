"""What is sealed, and sealing it again with a newer key. Used by main, and by those who keep a secret."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from sorta.services.house import House
from sorta.store import sealed, second_step

#: What each secret is sealed as: table and column. A secret that is being replaced is the same thing as its successor.
TOKEN, HOOK_SECRET, REFRESH_TOKEN = "account.token", "account.hook_secret", "account.refresh_token"
VERIFIER = "grant_try.verifier"
PROGRAM_SECRET = "web_hook.secret"
DESK_TOKEN, DESK_HOOK_SECRET = "support_desk.token", "support_desk.hook_secret"
REPORT_TOKEN = "shared_report.token"
INVITATION_TOKEN = "invitation.token"
#: Of members, who belong to no workspace: sealed for each of them.
SECOND_SECRET = "second_factor.secret"
TABLES = {
    "shared_report": {"token": REPORT_TOKEN},
    "invitation": {"token": INVITATION_TOKEN},
    "account": {
        "token": TOKEN,
        "hook_secret": HOOK_SECRET,
        "hook_secret_before": HOOK_SECRET,
        "refresh_token": REFRESH_TOKEN,
    },
    "grant_try": {"verifier": VERIFIER},
    "web_hook": {"secret": PROGRAM_SECRET, "secret_before": PROGRAM_SECRET},
    "support_desk": {"token": DESK_TOKEN, "hook_secret": DESK_HOOK_SECRET, "hook_secret_before": DESK_HOOK_SECRET},
}


def seal_row(house: House, workspace_id: int, table: str, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values of a new row of one of TABLES, its secrets as they are kept."""
    columns = TABLES[table]
    return {
        name: house.keys.seal(columns[name], workspace_id, value) if name in columns and value is not None else value
        for name, value in values.items()
    }


def open_taken(
    house: House, purpose: str, workspace_id: int, kept: str, before: str | None, until: datetime | None, now: datetime
) -> list[str]:
    """The signing secrets that are taken now: the newest, and the one before while it is being changed."""
    taken = [kept] if before is None or until is None or until <= now else [kept, before]
    return [house.keys.open(purpose, workspace_id, one) for one in taken]


async def seal_again(house: House, workspace_id: int) -> int:
    """Seal every secret of a workspace with the newest key, also those kept before anything was; how many.

    All or none of the workspace's: raises NotSealed where one was sealed with a key that is not here.
    """
    count = 0
    async with house.db.transact(workspace_id) as tx:
        for table, columns in TABLES.items():
            for row in await sealed.lock_rows(tx, table):
                fresh = {
                    column: kept and house.keys.seal_again(columns[column], workspace_id, kept)
                    for column, kept in row.items()
                    if column in columns
                }
                await sealed.set_row(tx, table, {"id": row["id"], **fresh})
                count += sum(kept is not None for kept in fresh.values())
    return count


async def seal_members(house: House) -> int:
    """The same for what belongs to members; how many."""
    async with house.db.connect() as conn, conn.transaction():
        rows = await second_step.list_secrets(conn)
        for row in rows:
            fresh = house.keys.seal_again(SECOND_SECRET, row["member_id"], row["secret"])
            await second_step.set_secret(conn, row["member_id"], fresh)
    return len(rows)
