"""Signing in and out."""

from datetime import timedelta

from fastapi import APIRouter, Request, Response, status

from sorta.api.deps import (
    ASKED_COOKIE,
    COOKIE,
    DEVICE_COOKIE,
    AgentDep,
    CameFromDep,
    HouseDep,
    NowDep,
    OwnTokenDep,
    ScopeDep,
    TokenDep,
    name_cookie,
    read_cookie,
)
from sorta.api.schemas.invitations import NewPassword
from sorta.api.schemas.session import (
    Code,
    Demo,
    DemoAccount,
    KnownPhone,
    NewPasskey,
    NewProviderGroup,
    OwnAccount,
    PasskeyAsked,
    Phone,
    PresentPassword,
    ProviderAnswer,
    ProviderAsked,
    ProviderGroupId,
    ProviderGroups,
    RecoveryCodes,
    Screen,
    ScreenWish,
    SecondNeeds,
    SecondSetup,
    Session,
    SetSecondNeeds,
    ShownPasskey,
    SignIn,
    SignInWays,
    Workspace,
)
from sorta.services import identity, passkeys, phones, second_step, sign_in

router = APIRouter(prefix="/api", tags=["session"])


@router.post("/session", status_code=status.HTTP_204_NO_CONTENT)
async def add_session(
    request: Request, body: SignIn, house: HouseDep, now: NowDep, came_from: CameFromDep, agent: AgentDep
) -> Response:
    """Sign in: sets the session's cookie, which no script can read and no other site can send. Who has a second step shows it next:
    until then every answer says so (`/problems/second-step`)."""
    entered = await sign_in.sign_in(
        house,
        email=body.email,
        password=body.password,
        came_from=came_from,
        now=now,
        device=read_cookie(request, DEVICE_COOKIE),
        agent=agent,
    )
    return set_cookies(request, entered)


def set_cookies(request: Request, entered: sign_in.Entered) -> Response:
    """The answer to who has just entered."""
    response = Response(status_code=status.HTTP_204_NO_CONTENT)
    _set_cookie(request, response, COOKIE, entered.token, sign_in.SESSION_FOR)
    _set_cookie(request, response, DEVICE_COOKIE, entered.device, sign_in.DEVICE_FOR)
    return response


def _set_cookie(request: Request, response: Response, name: str, value: str, lasts: timedelta) -> None:
    secure = request.app.state.secure_cookies
    response.set_cookie(
        name_cookie(name, secure=secure),
        value,
        max_age=int(lasts.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=secure,
        path="/",
    )


@router.get("/session")
async def get_session(house: HouseDep, token: TokenDep, now: NowDep) -> Session:
    """Who is signed in, and where they work."""
    session = await sign_in.get_session(house, token, now)
    workspaces = await sign_in.list_workspaces(house, session.member_id)
    return Session(
        member_id=session.member_id,
        name=session.name,
        initials=session.initials,
        email=session.email,
        csrf=sign_in.make_csrf(token),
        screen=Screen.model_validate(session.screen),
        has_second=session.has_second,
        undo_seconds=house.undo_for.total_seconds(),
        workspaces=[Workspace.model_validate(w) for w in workspaces],
    )


@router.post("/session/second", status_code=status.HTTP_204_NO_CONTENT)
async def show_second_step(
    request: Request, body: Code, house: HouseDep, token: TokenDep, now: NowDep, came_from: CameFromDep
) -> Response:
    """Show the second step. There is no page of the session's yet that could carry its word: the code does."""
    device = read_cookie(request, DEVICE_COOKIE)
    known = await second_step.show(house, token, body.code, came_from, device, now)
    return set_cookies(request, sign_in.Entered(token=token, device=known))


@router.get("/session/ways")
async def get_ways(house: HouseDep) -> SignInWays:
    """How one may sign in here, besides by a password."""
    return SignInWays(passkeys=passkeys.are_taken(house), provider=identity.get_name(house))


@router.post("/session/provider")
async def ask_provider(request: Request, response: Response, house: HouseDep, now: NowDep) -> ProviderAsked:
    """Where somebody says who they are. What was asked is kept in a cookie of their browser until they come back."""
    asked = await identity.ask(house, now)
    _set_cookie(request, response, ASKED_COOKIE, asked.kept, identity.ASKED_FOR)
    return ProviderAsked(address=asked.address)


@router.post("/session/provider/take", status_code=status.HTTP_204_NO_CONTENT)
async def take_from_provider(
    request: Request, body: ProviderAnswer, house: HouseDep, now: NowDep, came_from: CameFromDep, agent: AgentDep
) -> Response:
    """Sign in by the word of the provider. Who has a second step here shows it next."""
    kept, device = read_cookie(request, ASKED_COOKIE), read_cookie(request, DEVICE_COOKIE)
    entered = await identity.take(house, body.response, kept, came_from, now, device, agent)
    response = set_cookies(request, entered)
    _set_cookie(request, response, ASKED_COOKIE, "", timedelta(0))
    return response


@router.post("/session/passkey")
async def ask_for_passkey(house: HouseDep, now: NowDep) -> PasskeyAsked:
    """What the browser is asked to show a passkey. Nothing is kept of it until it is answered."""
    return PasskeyAsked(options=passkeys.ask(house, now))


@router.post("/session/passkey/show", status_code=status.HTTP_204_NO_CONTENT)
async def show_passkey(
    request: Request, body: ShownPasskey, house: HouseDep, now: NowDep, came_from: CameFromDep, agent: AgentDep
) -> Response:
    """Sign in with a passkey, instead of a password or after it."""
    device = read_cookie(request, DEVICE_COOKIE)
    return set_cookies(request, await passkeys.sign_in(house, body.credential, came_from, now, device, agent))


@router.post("/me/passkeys/ask")
async def ask_for_new_passkey(house: HouseDep, token: OwnTokenDep, now: NowDep, body: PresentPassword) -> PasskeyAsked:
    """What the browser is asked to make a passkey."""
    return PasskeyAsked(options=await passkeys.ask_new(house, token, body.password, now))


@router.post("/me/passkeys")
async def add_passkey(
    house: HouseDep, token: OwnTokenDep, now: NowDep, came_from: CameFromDep, body: NewPasskey
) -> RecoveryCodes:
    """Keep the passkey that the browser has made; with recovery codes, for who has none."""
    return RecoveryCodes(codes=await passkeys.add(house, token, body.credential, body.name, came_from, now))


@router.post("/me/passkeys/{passkey_id}/remove", status_code=status.HTTP_204_NO_CONTENT)
async def remove_passkey(
    house: HouseDep, token: OwnTokenDep, now: NowDep, came_from: CameFromDep, passkey_id: int, body: PresentPassword
) -> None:
    """A passkey opens nothing from now on."""
    await passkeys.remove(house, token, passkey_id, body.password, came_from, now)


@router.get("/me")
async def get_account(house: HouseDep, token: OwnTokenDep, now: NowDep) -> OwnAccount:
    """How one signs in, and where one is signed in."""
    return OwnAccount.model_validate(await second_step.get_state(house, token, now))


@router.post("/me/second")
async def begin_second_step(house: HouseDep, token: OwnTokenDep, now: NowDep, body: PresentPassword) -> SecondSetup:
    """A secret for an app; asked for at signing in once it is confirmed."""
    setup = await second_step.begin(house, token, body.password, now)
    return SecondSetup(picture=setup.picture, secret=setup.secret)


@router.post("/me/second/confirm")
async def confirm_second_step(
    house: HouseDep, token: OwnTokenDep, now: NowDep, came_from: CameFromDep, body: Code
) -> RecoveryCodes:
    """The app shows the right codes."""
    return RecoveryCodes(codes=await second_step.confirm(house, token, body.code, came_from, now))


@router.post("/me/phone", status_code=status.HTTP_204_NO_CONTENT)
async def begin_phone(house: HouseDep, token: OwnTokenDep, now: NowDep, body: Phone) -> None:
    """Have a code sent to a number that text messages are to go to."""
    await phones.begin(house, token, body.phone, now)


@router.post("/me/phone/confirm")
async def confirm_phone(house: HouseDep, token: OwnTokenDep, now: NowDep, body: Code) -> KnownPhone:
    """The code that came: text messages go there from now on."""
    return KnownPhone(phone=await phones.confirm(house, token, body.code, now))


@router.delete("/me/phone", status_code=status.HTTP_204_NO_CONTENT)
async def remove_phone(house: HouseDep, token: OwnTokenDep, now: NowDep) -> None:
    """No text messages from now on."""
    await phones.remove(house, token, now)


@router.post("/me/second/off", status_code=status.HTTP_204_NO_CONTENT)
async def turn_off_second_step(
    house: HouseDep, token: OwnTokenDep, now: NowDep, came_from: CameFromDep, body: PresentPassword
) -> None:
    """No second step from now on."""
    await second_step.turn_off(house, token, body.password, came_from, now)


@router.post("/me/recovery-codes")
async def renew_recovery_codes(
    house: HouseDep, token: OwnTokenDep, now: NowDep, came_from: CameFromDep, body: PresentPassword
) -> RecoveryCodes:
    """Other recovery codes."""
    return RecoveryCodes(codes=await second_step.renew_codes(house, token, body.password, came_from, now))


@router.delete("/me/sessions/{session_id}", status_code=status.HTTP_204_NO_CONTENT)
async def end_one_session(
    house: HouseDep, token: OwnTokenDep, now: NowDep, came_from: CameFromDep, session_id: int
) -> None:
    """End one of one's sessions elsewhere."""
    await second_step.end_session(house, token, session_id, came_from, now)


@router.delete("/me/sessions", status_code=status.HTTP_204_NO_CONTENT)
async def end_other_sessions(house: HouseDep, token: OwnTokenDep, now: NowDep, came_from: CameFromDep) -> None:
    """End all but this one."""
    await second_step.end_others(house, token, came_from, now)


@router.get("/workspaces/{workspace_id}/second-step")
async def get_second_needs(house: HouseDep, scope: ScopeDep) -> SecondNeeds:
    """Whether this workspace asks for a second step, and who has none."""
    return SecondNeeds.model_validate(await second_step.get_needed(house, scope))


@router.put("/workspaces/{workspace_id}/second-step", status_code=status.HTTP_204_NO_CONTENT)
async def set_second_needs(house: HouseDep, scope: ScopeDep, body: SetSecondNeeds) -> None:
    """Ask everybody who works here for a second step, or nobody."""
    await second_step.set_needed(house, scope, on=body.needs_second)


@router.get("/workspaces/{workspace_id}/provider-groups")
async def list_provider_groups(house: HouseDep, scope: ScopeDep) -> ProviderGroups:
    """Which of the provider's groups work here as what."""
    return ProviderGroups.model_validate(await identity.list_groups(house, scope))


@router.post("/workspaces/{workspace_id}/provider-groups", status_code=status.HTTP_201_CREATED)
async def add_provider_group(house: HouseDep, scope: ScopeDep, body: NewProviderGroup) -> ProviderGroupId:
    """Who is in this group works here, from when they next come by the provider."""
    return ProviderGroupId(id=await identity.add_group(house, scope, body.name, body.role))


@router.delete("/workspaces/{workspace_id}/provider-groups/{group_id}", status_code=status.HTTP_204_NO_CONTENT)
async def remove_provider_group(house: HouseDep, scope: ScopeDep, group_id: int) -> None:
    """Who is in this group works here no more because of it, from when they next come by the provider."""
    await identity.remove_group(house, scope, group_id)


@router.put("/session/screen", status_code=status.HTTP_204_NO_CONTENT)
async def set_screen(body: ScreenWish, house: HouseDep, token: OwnTokenDep, now: NowDep) -> None:
    """How the member wants the screen, and its keys."""
    session = await sign_in.get_session(house, token, now)
    await sign_in.set_screen(house, session.member_id, body.model_dump())


@router.put("/session/password", status_code=status.HTTP_204_NO_CONTENT)
async def set_password(
    body: NewPassword, house: HouseDep, token: OwnTokenDep, now: NowDep, came_from: CameFromDep
) -> None:
    """Another password for who is signed in; their sessions elsewhere end."""
    await sign_in.change_password(
        house, token, before=body.before, password=body.password, came_from=came_from, now=now
    )


@router.delete("/session", status_code=status.HTTP_204_NO_CONTENT)
async def delete_session(request: Request, house: HouseDep, token: OwnTokenDep) -> Response:
    """Sign out."""
    await sign_in.sign_out(house, token)
    response = Response(status_code=status.HTTP_204_NO_CONTENT)
    secure = request.app.state.secure_cookies
    name = name_cookie(COOKIE, secure=secure)
    response.delete_cookie(name, path="/", httponly=True, samesite="strict", secure=secure)
    return response


@router.get("/demo")
async def get_demo(request: Request) -> Demo:
    """The demo's accounts, in the demo."""
    password: str | None = request.app.state.demo_password
    accounts: list[DemoAccount] = request.app.state.demo_accounts if password else []
    return Demo(password=password, accounts=accounts)
