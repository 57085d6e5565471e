"""Connected accounts, their tokens, and what was kept aside. Used by the API, intake, delivery, listening and the demo."""

from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from sorta.core.answers import check_sign_off
from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.core.ports import AccountRef, Unreachable
from sorta.core.security import Happening
from sorta.networks.abilities import TABLE
from sorta.services.granting import list_networks
from sorta.services.house import House, Scope
from sorta.services.sealing import HOOK_SECRET, TOKEN, open_taken, seal_row
from sorta.services.security_log import note
from sorta.services.signatures import BOTH_FOR, make_hook_secret
from sorta.store import accounts, duties, earlier
from sorta.store.accounts import Account
from sorta.store.db import Tx, Unavailable
from sorta.store.live import make_notice, tell

#: Characters of what is said of an account.
LONGEST = 500


async def list_accounts(house: House, scope: Scope) -> list[dict[str, Any]]:
    """The accounts, without their credentials."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await accounts.list_accounts(tx)
    asking = list_networks(house)
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
            "token_ends_at": a.token_ends_at,
            "sign_off": a.sign_off,
            "renews": a.refresh_token is not None,
            "lacking": a.lacking,
            "disconnected_at": a.disconnected_at,
            "asks": a.network in asking,
        }
        for a in rows
    ]


async def set_token(house: House, scope: Scope, account_id: int, token: str) -> None:
    """Give an account a new access token; what waited for it goes out with the worker's next tick."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    if not token.strip():
        raise Invalid("Paste the new access token.", "token")
    async with house.db.transact(scope.workspace_id) as tx:
        account = await accounts.get_account(tx, account_id)
        if account is None:
            raise NotFound("There is no such account in this workspace.")
        notice = make_notice(scope.workspace_id, "accounts", ids=[account_id])
        sealed = house.keys.seal(TOKEN, scope.workspace_id, token.strip())
        await accounts.set_token(tx, account_id, sealed, notice)
        await note(tx, scope, Happening.TOKEN_CHANGED, _name(account), account=account_id)


async def set_sign_off(house: House, scope: Scope, account_id: int, sign_off: str) -> None:
    """The line that closes an account's answers from now on; empty for none. Raises Invalid, NotFound."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    line = check_sign_off(sign_off)
    async with house.db.transact(scope.workspace_id) as tx:
        account = await accounts.get_account(tx, account_id)
        if account is None:
            raise NotFound("There is no such account in this workspace.")
        notice = make_notice(scope.workspace_id, "accounts", ids=[account_id])
        await accounts.set_sign_off(tx, account_id, line, notice)
        await note(tx, scope, Happening.SIGNS_OFF, _name(account), account=account_id)


async def change_hook_secret(house: House, scope: Scope, account_id: int, now: datetime) -> tuple[str, datetime]:
    """A new secret for what the network delivers, shown this once, and until when the one before is taken too."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    secret, until = make_hook_secret(), now + BOTH_FOR
    sealed = house.keys.seal(HOOK_SECRET, scope.workspace_id, secret)
    async with house.db.transact(scope.workspace_id) as tx:
        account = await accounts.get_account(tx, account_id)
        if account is None:
            raise NotFound("There is no such account in this workspace.")
        await accounts.change_hook_secret(tx, account_id, sealed, until)
        await note(tx, scope, Happening.SECRET_CHANGED, _name(account), account=account_id)
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
    async with house.db.transact(scope.workspace_id) as tx:
        return await accounts.list_aside(tx)


async def add_account(house: House, workspace_id: int, values: dict[str, Any]) -> int:
    """Connect an account; its number. Raises Invalid when it is connected already."""
    async with house.db.transact(workspace_id) as tx:
        return await _add(house, tx, values)


async def _add(house: House, tx: Tx, values: dict[str, Any]) -> int:
    id = await accounts.add_account(tx, seal_row(house, tx.workspace_id, "account", values))
    if id is None:
        raise Invalid("This account is connected here already.", "external_id")
    return id


@dataclass(frozen=True, kw_only=True)
class NewAccount:
    """An account as its network knows it: its id and handle there, where the network's interface for programs is, and a token for it."""

    network: str
    name: str
    handle: str
    external_id: str
    api_url: str
    token: str


async def connect(house: House, scope: Scope, new: NewAccount, now: datetime) -> int:
    """Connect an account once its network has taken the token; its number. Its deliveries are signed with a secret that nobody has seen:
    whoever sets the network up has a new one made. Raises Invalid with what is wrong, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    if new.network not in TABLE:
        raise Invalid("There is no such network here.", "network")
    said = {name: value.strip() for name, value in asdict(new).items()}
    said["handle"] = said["handle"].removeprefix("@")
    for name in ("name", "handle", "external_id", "token"):
        if not said[name] or len(said[name]) > LONGEST or not said[name].isprintable():
            raise Invalid(f"The {name.replace('_', ' ')} has 1 to {LONGEST} characters.", name)
    address = said["api_url"].rstrip("/")
    if not address.startswith(("https://", "http://")) or len(address) > LONGEST or not address.isprintable():
        raise Invalid("The address of the network’s interface begins with https://.", "api_url")
    ref = AccountRef(external_id=said["external_id"], handle=said["handle"], api_url=address, token=said["token"])
    try:
        await house.networks[new.network].list_since(ref, None)
    except Unreachable as error:
        raise Invalid(
            f"{TABLE[new.network].name} does not let it in: {error} Nothing was connected.", "token"
        ) from error
    values = {**said, "api_url": address, "hook_secret": make_hook_secret()}
    async with house.db.transact(scope.workspace_id) as tx:
        id = await _add(house, tx, values)
        await earlier.begin_reading(tx, id, now)
        await note(tx, scope, Happening.CONNECTED, f"{said['name']} on {TABLE[new.network].name}", account=id)
        await tell(tx, "accounts", ids=[id])
    return id


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
    async with house.db.transact(workspace_id, pipelined=True) as tx:
        account = await accounts.get_account(tx, account_id)
    if account is None:
        raise NotFound("There is no such account.")
    return account
