"""Signing in and out."""

from fastapi import APIRouter, Request, Response, status

from sorta.api.deps import COOKIE, HouseDep, NowDep, TokenDep
from sorta.api.schemas.session import Demo, DemoAccount, Keys, Session, SignIn, Workspace
from sorta.services import sign_in

router = APIRouter(prefix="/api", tags=["session"])


@router.post("/session", status_code=status.HTTP_204_NO_CONTENT)
async def add_session(request: Request, body: SignIn, house: HouseDep, now: NowDep) -> Response:
    """Sign in: sets the session's cookie, which no script can read and no other site can send."""
    came_from = request.client.host if request.client else "unknown"
    token = await sign_in.sign_in(house, email=body.email, password=body.password, came_from=came_from, now=now)
    response = Response(status_code=status.HTTP_204_NO_CONTENT)
    response.set_cookie(
        COOKIE,
        token,
        max_age=int(sign_in.SESSION_FOR.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.app.state.secure_cookies,
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
        csrf=session.csrf,
        single_keys=session.single_keys,
        workspaces=[Workspace.model_validate(w) for w in workspaces],
    )


@router.put("/session/keys", status_code=status.HTTP_204_NO_CONTENT)
async def set_keys(request: Request, body: Keys, house: HouseDep, token: TokenDep, now: NowDep) -> None:
    """How the member wants single-character keys."""
    session = await sign_in.get_session(house, token, now)
    sign_in.check_csrf(request.headers.get("X-CSRF-Token"), session.csrf)
    await sign_in.set_single_keys(house, session.member_id, body.single_keys)


@router.delete("/session", status_code=status.HTTP_204_NO_CONTENT)
async def delete_session(request: Request, house: HouseDep, token: TokenDep, now: NowDep) -> Response:
    """Sign out."""
    session = await sign_in.get_session(house, token, now)
    sign_in.check_csrf(request.headers.get("X-CSRF-Token"), session.csrf)
    await sign_in.sign_out(house, token)
    response = Response(status_code=status.HTTP_204_NO_CONTENT)
    response.delete_cookie(COOKIE, path="/", httponly=True, samesite="strict")
    return response


@router.get("/demo")
async def get_demo(request: Request) -> Demo:
    """The demo's accounts, in the demo."""
    password: str | None = request.app.state.demo_password
    accounts: list[DemoAccount] = request.app.state.demo_accounts if password else []
    return Demo(password=password, accounts=accounts)
