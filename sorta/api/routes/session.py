"""Signing in and out."""

from fastapi import APIRouter, Request, Response, status

from sorta.api.deps import COOKIE, DEVICE_COOKIE, CameFromDep, HouseDep, NowDep, TokenDep, name_cookie, read_cookie
from sorta.api.schemas.invitations import NewPassword
from sorta.api.schemas.session import Demo, DemoAccount, Keys, Session, SignIn, Workspace
from sorta.services import sign_in

router = APIRouter(prefix="/api", tags=["session"])


@router.post("/session", status_code=status.HTTP_204_NO_CONTENT)
async def add_session(request: Request, body: SignIn, house: HouseDep, now: NowDep, came_from: CameFromDep) -> Response:
    """Sign in: sets the session's cookie, which no script can read and no other site can send."""
    entered = await sign_in.sign_in(
        house,
        email=body.email,
        password=body.password,
        came_from=came_from,
        now=now,
        device=read_cookie(request, DEVICE_COOKIE),
    )
    return set_cookies(request, entered)


def set_cookies(request: Request, entered: sign_in.Entered) -> Response:
    """The answer to who has just entered."""
    response = Response(status_code=status.HTTP_204_NO_CONTENT)
    secure = request.app.state.secure_cookies
    for name, value, lasts in (
        (COOKIE, entered.token, sign_in.SESSION_FOR),
        (DEVICE_COOKIE, entered.device, sign_in.DEVICE_FOR),
    ):
        response.set_cookie(
            name_cookie(name, secure=secure),
            value,
            max_age=int(lasts.total_seconds()),
            httponly=True,
            samesite="strict",
            secure=secure,
            path="/",
        )
    return response


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
        single_keys=session.single_keys,
        workspaces=[Workspace.model_validate(w) for w in workspaces],
    )


@router.put("/session/keys", status_code=status.HTTP_204_NO_CONTENT)
async def set_keys(request: Request, body: Keys, house: HouseDep, token: TokenDep, now: NowDep) -> None:
    """How the member wants single-character keys."""
    session = await sign_in.get_session(house, token, now)
    sign_in.check_csrf(request.headers.get("X-CSRF-Token"), sign_in.make_csrf(token))
    await sign_in.set_single_keys(house, session.member_id, body.single_keys)


@router.put("/session/password", status_code=status.HTTP_204_NO_CONTENT)
async def set_password(
    request: Request, body: NewPassword, house: HouseDep, token: TokenDep, now: NowDep, came_from: CameFromDep
) -> None:
    """Another password for who is signed in; their sessions elsewhere end."""
    await sign_in.get_session(house, token, now)
    sign_in.check_csrf(request.headers.get("X-CSRF-Token"), sign_in.make_csrf(token))
    await sign_in.change_password(
        house, token, before=body.before, password=body.password, came_from=came_from, now=now
    )


@router.delete("/session", status_code=status.HTTP_204_NO_CONTENT)
async def delete_session(request: Request, house: HouseDep, token: TokenDep, now: NowDep) -> Response:
    """Sign out."""
    await sign_in.get_session(house, token, now)
    sign_in.check_csrf(request.headers.get("X-CSRF-Token"), sign_in.make_csrf(token))
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
