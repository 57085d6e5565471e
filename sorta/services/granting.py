"""Accounts by their network's leave: asked for at the network's page, renewed before it ends, given back. Used by the API and the clock."""

import secrets
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta

import structlog

from sorta.core.errors import Impossible, Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.core.ports import Grant, Grantor, GrantRefused, Lacking, Unreachable
from sorta.core.security import Happening
from sorta.networks.abilities import TABLE
from sorta.services.alerts import add_alerts
from sorta.services.house import House, Scope
from sorta.services.sealing import REFRESH_TOKEN, TOKEN, VERIFIER, seal_row
from sorta.services.security_log import note
from sorta.services.signatures import make_hook_secret
from sorta.services.tokens import hash_token, make_token
from sorta.store import accounts as store
from sorta.store import alerts, earlier
from sorta.store.live import make_notice, tell

log = structlog.get_logger()
#: How long somebody may take at a network's page.
ASKED_FOR = timedelta(minutes=10)
#: Nobody else renews a token meanwhile; what does not answer is asked again after as long.
LEASE = timedelta(minutes=2)
#: A token is renewed when so much of its time is left, and a long one this long before its end.
SHARE_LEFT, SOONEST = 1 / 3, timedelta(days=1)
_AT_ONCE = 50


@dataclass(frozen=True, kw_only=True)
class Granted:
    """What came of asking: the account, whether it is new here, and what its network asks to be allowed besides."""

    id: int
    name: str
    network_name: str
    is_new: bool
    lacking: tuple[Lacking, ...]


def _get_grantor(house: House, network: str) -> Grantor:
    if house.grantor is None or network not in house.grantor.list_networks():
        raise Impossible("This installation is not known to that network as a program. Connect with a token instead.")
    return house.grantor


def list_networks(house: House) -> frozenset[str]:
    """The networks that are asked at their own page."""
    return frozenset() if house.grantor is None else house.grantor.list_networks()


async def ask(house: House, scope: Scope, network: str, now: datetime) -> str:
    """The address of the network's page where its account's owner is asked for leave. Raises Impossible, Invalid, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    if network not in TABLE:
        raise Invalid("There is no such network here.", "network")
    grantor = _get_grantor(house, network)
    # RFC 7636, 4.1: 43 to 128 characters that an address takes as they are.
    state, verifier = make_token(), secrets.token_urlsafe(48)
    try:
        address = await grantor.make_address(network, state=f"{scope.workspace_id}.{state}", verifier=verifier)
    except Unreachable as error:
        raise Invalid(f"{error} Nothing was connected; try again later.", "network") from error
    async with house.db.transact(scope.workspace_id) as tx:
        await store.add_try(
            tx,
            state_hash=hash_token(state),
            member_id=scope.member_id,
            network=network,
            verifier=house.keys.seal(VERIFIER, scope.workspace_id, verifier),
            now=now,
            expires_at=now + ASKED_FOR,
        )
    return address


async def take(house: House, scope: Scope, network: str, response: str, state: str, now: datetime) -> Granted:
    """Connect what a network has granted, by the query it sent somebody back with: new, or one that was here, whose waiting answers then go out.

    Only who has asked, in the workspace they asked in, once. Raises Impossible, Invalid with what is wrong, NotAllowed.
    """
    scope.check(Permission.MANAGE_ACCOUNTS)
    grantor = _get_grantor(house, network)
    workspace, _, word = state.partition(".")
    verifier: str | None = None
    if workspace == str(scope.workspace_id):
        async with house.db.transact(scope.workspace_id) as tx:
            verifier = await store.use_try(
                tx,
                state_hash=hash_token(word),
                member_id=scope.member_id,
                network=network,
                now=now,
            )
    if verifier is None:
        raise Invalid(
            "This was not asked for here, or longer ago than ten minutes, or is used up. Begin again.", "state"
        )
    opened = house.keys.open(VERIFIER, scope.workspace_id, verifier)
    try:
        given = await grantor.take_code(network, response, state=state, verifier=opened)
        page = await grantor.look(network, given.token)
    except (GrantRefused, Unreachable) as error:
        raise Invalid(f"{error} Nothing was connected.", "response") from error
    ends_at, renew_at = _get_times(given, now)
    values = {
        "network": network,
        "name": page.name,
        "handle": page.handle,
        "external_id": page.external_id,
        "api_url": page.api_url,
        "token": given.token,
        "refresh_token": given.refresh_token,
        "hook_secret": make_hook_secret(),
        "token_ends_at": ends_at,
        "renew_at": renew_at,
        "lacking": [asdict(one) for one in page.lacking],
    }
    async with house.db.transact(scope.workspace_id) as tx:
        id, is_new = await store.grant(tx, seal_row(house, scope.workspace_id, "account", values))
        if is_new:
            await earlier.begin_reading(tx, id, now)
        await note(tx, scope, Happening.CONNECTED, f"{page.name} on {TABLE[network].name}", account=id)
        await tell(tx, "accounts", ids=[id])
    return Granted(id=id, name=page.name, network_name=TABLE[network].name, is_new=is_new, lacking=page.lacking)


def _get_times(given: Grant, now: datetime) -> tuple[datetime | None, datetime | None]:
    """When a token ends, and when it is renewed."""
    if given.lasts is None:
        return None, None
    ends_at = now + timedelta(seconds=given.lasts)
    before = min(timedelta(seconds=given.lasts * SHARE_LEFT), SOONEST)
    return ends_at, ends_at - before if given.refresh_token is not None else None


async def renew_tokens(house: House, workspace_id: int, now: datetime) -> int:
    """Renew the tokens that end soon; how many. Where nothing is granted any more the account waits, and who manages accounts is told. A duty of
    the clock."""
    count = 0
    for _ in range(_AT_ONCE):
        async with house.db.transact(workspace_id) as tx:
            one = await store.claim_renewal(tx, now, now + LEASE)
        if one is None:
            break
        count += await _renew(house, workspace_id, one, now)
    return count


async def _renew(house: House, workspace_id: int, one: store.Renewal, now: datetime) -> bool:
    name = TABLE[one.network].name
    notice = make_notice(workspace_id, "accounts", ids=[one.id])
    try:
        grantor = _get_grantor(house, one.network)
        given = await grantor.renew(one.network, house.keys.open(REFRESH_TOKEN, workspace_id, one.refresh_token))
    except Unreachable as error:
        log.warning("a token was not renewed", workspace=workspace_id, account=one.id, reason=str(error))
        return False
    except (GrantRefused, Impossible) as error:
        said = error.message if isinstance(error, Impossible) else str(error)
        async with house.db.transact(workspace_id) as tx:
            if await store.set_lost(tx, one.id, was=one.refresh_token, reason=said, notice=notice):
                await add_alerts(
                    tx,
                    members=await alerts.list_members_with(tx, Permission.MANAGE_ACCOUNTS),
                    occasion="account",
                    words=f"{name} no longer lets an account in: {said} Connect it again.",
                    conversation_id=None,
                    key=f"grant:{one.id}:{now.isoformat()}",
                    now=now,
                )
        return False
    ends_at, renew_at = _get_times(given, now)
    fresh = {"token": given.token, "refresh_token": given.refresh_token}
    async with house.db.transact(workspace_id) as tx:
        await store.set_renewed(
            tx,
            {
                **seal_row(house, workspace_id, "account", fresh),
                "id": one.id,
                "was": one.refresh_token,
                "token_ends_at": ends_at,
                # A network that renews without a new refresh token has the one there was go on.
                "renew_at": renew_at if ends_at is None or renew_at is not None else ends_at - LEASE,
                "notice": notice,
            },
        )
    return True


async def disconnect(house: House, scope: Scope, account_id: int, now: datetime) -> None:
    """Nothing comes in or goes out by an account from now on; what was said stays. What waits comes back to its authors, and the network is told
    that its tokens are not needed. Raises NotFound, Impossible when it is done already, NotAllowed."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    async with house.db.transact(scope.workspace_id) as tx:
        account = await store.get_account(tx, account_id)
        if account is None:
            raise NotFound("There is no such account in this workspace.")
        if account.disconnected_at is not None:
            raise Impossible("It is disconnected already.")
        kept = account.refresh_token or account.token
        purpose = TOKEN if account.refresh_token is None else REFRESH_TOKEN
        await store.disconnect(
            tx,
            account_id,
            member_id=scope.member_id,
            token=house.keys.seal(TOKEN, scope.workspace_id, "none"),
            now=now,
            notice=make_notice(scope.workspace_id, "accounts", ids=[account_id]),
        )
        await note(
            tx, scope, Happening.DISCONNECTED, f"{account.name} on {TABLE[account.network].name}", account=account_id
        )
    if account.network in list_networks(house) and house.grantor is not None:
        try:
            await house.grantor.revoke(account.network, house.keys.open(purpose, scope.workspace_id, kept))
        except Unreachable as error:
            # It ends by itself; nobody here has it any more.
            log.warning("a token was not given back", account=account_id, reason=str(error))
