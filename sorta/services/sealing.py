"""What is sealed, and sealing it again with a newer key. Used by main, and by those who keep a secret."""

from sorta.services.house import House
from sorta.store import sealed

#: What each secret is sealed as: table and column. A secret that is being replaced is the same thing as its successor.
TOKEN, HOOK_SECRET = "account.token", "account.hook_secret"
DESK_TOKEN, DESK_HOOK_SECRET = "support_desk.token", "support_desk.hook_secret"
TABLES = {
    "account": {"token": TOKEN, "hook_secret": HOOK_SECRET, "hook_secret_before": HOOK_SECRET},
    "support_desk": {"token": DESK_TOKEN, "hook_secret": DESK_HOOK_SECRET, "hook_secret_before": DESK_HOOK_SECRET},
}


async def seal_again(house: House, workspace_id: int) -> int:
    """Seal every secret of a workspace with the newest key, also those kept before anything was; how many.

    All or none of the workspace's: raises NotSealed where one was sealed with a key that is not here.
    """
    count = 0
    async with house.db.transact(workspace_id) as conn:
        for table, columns in TABLES.items():
            for row in await sealed.lock_rows(conn, workspace_id, table):
                fresh = {
                    column: kept and house.keys.seal_again(columns[column], workspace_id, kept)
                    for column, kept in row.items()
                    if column in columns
                }
                await sealed.set_row(conn, workspace_id, table, {"id": row["id"], **fresh})
                count += sum(kept is not None for kept in fresh.values())
    return count
