"""Connected accounts, their tokens, and what was kept aside. Used by the API, intake, delivery, listening and the demo."""

from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.core.ports import AccountRef
from sorta.core.security import Happening
from sorta.networks.abilities import TABLE
from sorta.services.house import House, Scope
from sorta.services.sealing import HOOK_SECRET, TOKEN, open_taken, seal_row
from sorta.services.security_log import note
from sorta.services.signatures import BOTH_FOR, make_hook_secret
from sorta.store import accounts, duties
from sorta.store.accounts import Account
from sorta.store.db import Unavailable
from sorta.store.live import make_notice


async def list_accounts(house: House, scope: Scope) -> list[dict[str, Any]]:
    """The accounts, without their credentials."""
    async with house.db.transact(scope.workspace_id) as conn:
        rows = await accounts.list_accounts(conn, scope.workspace_id)
    return [
        {
            "id": a.id,
            "network": a.network,
            "network_name": TABLE[a.network].name,
            "letters": TABLE[a.network].letters,
            "name": a.name,
            "handle": a.handle,
            "paused_reason": a.paused_reason,
            "silent_since": a.silent_since,
        }
        for a in rows
    ]


async def set_token(house: House, scope: Scope, account_id: int, token: str) -> None:
    """Give an account a new access token; what waited for it goes out with the worker's next tick."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    if not token.strip():
        raise Invalid("Paste the new access token.", "token")
    async with house.db.transact(scope.workspace_id) as conn:
        account = await accounts.get_account(conn, scope.workspace_id, account_id)
        if account is None:
            raise NotFound("There is no such account in this workspace.")
        notice = make_notice(scope.workspace_id, "accounts", ids=[account_id])
        sealed = house.keys.seal(TOKEN, scope.workspace_id, token.strip())
        await accounts.set_token(conn, scope.workspace_id, account_id, sealed, notice)
        await note(conn, scope, Happening.TOKEN_CHANGED, _name(account), account=account_id)


async def change_hook_secret(house: House, scope: Scope, account_id: int, now: datetime) -> tuple[str, datetime]:
    """A new secret for what the network delivers, shown this once, and until when the one before is taken too."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    secret, until = make_hook_secret(), now + BOTH_FOR
    sealed = house.keys.seal(HOOK_SECRET, scope.workspace_id, secret)
    async with house.db.transact(scope.workspace_id) as conn:
        account = await accounts.get_account(conn, scope.workspace_id, account_id)
        if account is None:
            raise NotFound("There is no such account in this workspace.")
        await accounts.change_hook_secret(conn, scope.workspace_id, account_id, sealed, until)
        await note(conn, scope, Happening.SECRET_CHANGED, _name(account), account=account_id)
    return secret, until


def _name(account: Account) -> str:
    return f"{account.name} on {TABLE[account.network].name}"


def list_hook_secrets(house: House, account: Account, now: datetime) -> list[str]:
    """What the network may sign its deliveries with now."""
    kept = account.hook_secret, account.hook_secret_before, account.hook_secret_until
    return open_taken(house, HOOK_SECRET, account.workspace_id, *kept, now)


async def list_aside(house: House, scope: Scope) -> list[dict[str, Any]]:
    """What networks sent that could not be taken in, newest first. For Owners."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as conn:
        return await accounts.list_aside(conn, scope.workspace_id)


async def add_account(house: House, workspace_id: int, values: dict[str, Any]) -> int:
    """Connect an account; its number."""
    async with house.db.transact(workspace_id) as conn:
        return await accounts.add_account(conn, workspace_id, seal_row(house, workspace_id, "account", values))


#: Seconds that the clock may be behind before the installation is no longer ready.
MOST_BEHIND = 30


async def check_health(house: House, now: datetime) -> dict[str, Any]:
    """Whether the parts that the web process depends on are well; a database that is away is an answer too. `behind` is by
    how many seconds the clock's rounds are late."""
    try:
        async with house.db.connect() as conn:
            health = await accounts.get_health(conn)
            if not health["migrations"]:
                return {**health, "keys": False, "clock": False}
            async with conn.transaction():
                await house.db.enter(conn, 1)
                health["keys"] = await accounts.is_chosen(conn)
            behind = await duties.get_behind(conn, now)
    except Unavailable:
        return {"database": False, "migrations": False, "keys": False, "clock": False}
    return {**health, "clock": behind is not None and behind <= MOST_BEHIND, "behind": behind and max(0.0, behind)}


def make_ref(house: House, account: Account, patience: float | None = None) -> AccountRef:
    """What an adapter needs to know of an account; `patience` is how many seconds it waits for an answer."""
    return AccountRef(
        external_id=account.external_id,
        handle=account.handle,
        api_url=account.api_url,
        token=house.keys.open(TOKEN, account.workspace_id, account.token),
        patience=patience,
    )


async def get_account(house: House, workspace_id: int, account_id: int) -> Account:
    """A connected account. Raises NotFound."""
    async with house.db.transact(workspace_id, pipelined=True) as conn:
        account = await accounts.get_account(conn, workspace_id, account_id)
    if account is None:
        raise NotFound("There is no such account.")
    return account
