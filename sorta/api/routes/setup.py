"""Accounts, networks, and what was kept aside."""

from dataclasses import asdict

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import setup as shapes
from sorta.api.schemas.sorting import Made
from sorta.core.permissions import Permission
from sorta.services import accounts, desk, duties, earlier, granting, intake, retention, security_log

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["setup"])


@router.get("/networks")
async def list_networks(house: HouseDep, scope: ScopeDep) -> list[shapes.Network]:
    """What each network can do."""
    return [shapes.Network.model_validate(n) for n in desk.list_networks(granting.list_networks(house))]


@router.get("/accounts")
async def list_accounts(house: HouseDep, scope: ScopeDep) -> list[shapes.Account]:
    """The connected accounts."""
    return [shapes.Account.model_validate(a) for a in await accounts.list_accounts(house, scope)]


@router.post("/accounts", status_code=201)
async def connect_account(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewAccount) -> Made:
    """Connect an account once its network has taken the token."""
    return Made(id=await accounts.connect(house, scope, accounts.NewAccount(**body.model_dump()), now))


@router.post("/accounts/ask")
async def ask_for_leave(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.AskedNetwork) -> shapes.AskAddress:
    """Where a network asks the owner of an account for leave."""
    return shapes.AskAddress(address=await granting.ask(house, scope, body.network, now))


@router.post("/accounts/grants")
async def take_grant(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.GrantAnswer) -> shapes.Granted:
    """Connect what a network has granted."""
    found = await granting.take(house, scope, body.network, body.response, body.state, now)
    return shapes.Granted.model_validate(asdict(found))


@router.post("/accounts/{account_id}/disconnect", status_code=204)
async def disconnect_account(house: HouseDep, scope: ScopeDep, now: NowDep, account_id: int) -> None:
    """Nothing comes in or goes out by an account from now on; what was said stays."""
    await granting.disconnect(house, scope, account_id, now)


@router.put("/accounts/{account_id}/token", status_code=204)
async def set_token(house: HouseDep, scope: ScopeDep, account_id: int, body: shapes.NewToken) -> None:
    """Give an account a new access token."""
    await accounts.set_token(house, scope, account_id, body.token)


@router.put("/accounts/{account_id}/sign-off", status_code=204)
async def set_sign_off(house: HouseDep, scope: ScopeDep, account_id: int, body: shapes.SignOff) -> None:
    """What closes an account's answers."""
    await accounts.set_sign_off(house, scope, account_id, body.sign_off)


@router.post("/accounts/{account_id}/hook-secret")
async def change_hook_secret(house: HouseDep, scope: ScopeDep, now: NowDep, account_id: int) -> shapes.HookSecret:
    """A new secret for what the network delivers, shown this once."""
    secret, until = await accounts.change_hook_secret(house, scope, account_id, now)
    return shapes.HookSecret(secret=secret, before_until=until)


@router.get("/accounts/{account_id}/earlier")
async def list_earlier(house: HouseDep, scope: ScopeDep, account_id: int) -> list[shapes.EarlierRun]:
    """What was said before the account was connected, as far as it was asked for, and how far that is."""
    return [shapes.EarlierRun.model_validate(one) for one in await earlier.list_runs(house, scope, account_id)]


@router.post("/accounts/{account_id}/earlier")
async def read_earlier(
    house: HouseDep, scope: ScopeDep, now: NowDep, account_id: int, body: shapes.ReadEarlier
) -> Made:
    """Read what was said by an account in the last days."""
    id = await earlier.start(house, scope, account_id, days=body.days, stays_open=body.stays_open, now=now)
    return Made(id=id)


@router.delete("/accounts/{account_id}/earlier/{run_id}", status_code=204)
async def stop_earlier(house: HouseDep, scope: ScopeDep, now: NowDep, account_id: int, run_id: int) -> None:
    """Read no more; what came stays."""
    await earlier.stop(house, scope, account_id, run_id, now)


@router.get("/clock")
async def get_clock(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Clock:
    """What runs by itself for this workspace and how it went last, and what is kept for how long."""
    return shapes.Clock(
        duties=[shapes.Duty.model_validate(one) for one in await duties.list_duties(house, scope, now)],
        periods=[shapes.Period.model_validate(one) for one in await retention.list_periods(house, scope.workspace_id)],
    )


@router.get("/periods/{name}/preview")
async def preview_period(
    house: HouseDep, scope: ScopeDep, now: NowDep, name: str, days: int | None = None
) -> shapes.PeriodPreview:
    """What would go if a kind of things were kept so many days; without them for good."""
    return shapes.PeriodPreview.model_validate(await retention.preview(house, scope, name, days, now))


@router.put("/periods/{name}", status_code=204)
async def set_period(house: HouseDep, scope: ScopeDep, name: str, body: shapes.NewPeriod) -> None:
    """How long a kind of things is kept from now on."""
    await retention.set_period(house, scope, name, body.days)


@router.get("/security-log")
async def list_security_log(house: HouseDep, scope: ScopeDep, before: int | None = None) -> list[shapes.SecurityEntry]:
    """Signing in, who may do what, secrets, holds and exports, the newest first."""
    return [shapes.SecurityEntry.model_validate(e) for e in await security_log.list_entries(house, scope, before)]


@router.get("/aside")
async def list_aside(house: HouseDep, scope: ScopeDep) -> list[shapes.Aside]:
    """What could not be taken in."""
    return [shapes.Aside.model_validate(a) for a in await accounts.list_aside(house, scope)]


@router.post("/aside/{aside_id}/try")
async def try_aside(house: HouseDep, scope: ScopeDep, now: NowDep, aside_id: int) -> shapes.TriedAgain:
    """Try to take one of them in once more."""
    scope.check(Permission.MANAGE_ACCOUNTS)
    reason = await intake.try_aside_again(house, scope.workspace_id, aside_id, now)
    return shapes.TriedAgain(reason=reason)
