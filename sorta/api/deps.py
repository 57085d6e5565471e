"""What routes ask for: the house, the time, who asks. Protects writes against other sites' pages."""

from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from typing import Annotated, Any, TypeVar

from fastapi import Depends, Request
from fastapi.exceptions import RequestValidationError
from pydantic import BaseModel, ValidationError

from sorta.api.schemas.base import list_many
from sorta.core.errors import SignInRefused
from sorta.core.permissions import Permission
from sorta.services import programs, sign_in
from sorta.services.house import House, Scope, act_as, see_as
from sorta.services.intake import Intake

#: What the cookies are called, after `__Host-` where they go over https only: then no other host can set them (RFC 6265bis, 4.1.3.2).
COOKIE, DEVICE_COOKIE, ASKED_COOKIE = "sorta_session", "sorta_device", "sorta_asked"
_SAFE = frozenset({"GET", "HEAD", "OPTIONS"})


async def get_house(request: Request) -> House:
    """The application's parts."""
    house: House = request.app.state.house
    return house


async def get_intake(request: Request) -> Intake:
    """Where deliveries are taken in, one per process."""
    intake: Intake = request.app.state.intake
    return intake


async def get_now() -> datetime:
    """The instant of this request."""
    return datetime.now(UTC)


async def get_came_from(request: Request) -> str:
    """The address that the request came from, as far as it is known."""
    return request.client.host if request.client else "unknown"


async def get_agent(request: Request) -> str:
    """What the browser says of itself."""
    return request.headers.get("User-Agent", "")


def name_cookie(name: str, *, secure: bool) -> str:
    """The name that a cookie has here."""
    return f"__Host-{name}" if secure else name


def read_cookie(request: Request, name: str) -> str | None:
    """A cookie's value, if it came along."""
    return request.cookies.get(name_cookie(name, secure=request.app.state.secure_cookies))


async def get_token(request: Request) -> str:
    """The session's token. Raises SignInRefused when there is none."""
    token = read_cookie(request, COOKIE)
    if not token:
        raise SignInRefused("Sign in to go on.")
    return token


HouseDep = Annotated[House, Depends(get_house)]
IntakeDep = Annotated[Intake, Depends(get_intake)]
CameFromDep = Annotated[str, Depends(get_came_from)]
NowDep = Annotated[datetime, Depends(get_now)]
TokenDep = Annotated[str, Depends(get_token)]
AgentDep = Annotated[str, Depends(get_agent)]


async def get_own_token(request: Request, house: HouseDep, token: TokenDep, now: NowDep) -> str:
    """The token of whoever is signed in, or is about to be; a write must carry the session's own word."""
    await sign_in.get_any_session(house, token, now)
    if request.method not in _SAFE:
        sign_in.check_csrf(request.headers.get("X-CSRF-Token"), sign_in.make_csrf(token))
    return token


OwnTokenDep = Annotated[str, Depends(get_own_token)]


async def get_scope(request: Request, house: HouseDep, now: NowDep, came_from: CameFromDep, workspace_id: int) -> Scope:
    """Who asks, in the workspace of the path: a program by its token, or a member, whose writes must carry the session's own word. A page
    says whose it is."""
    kind, _, said = request.headers.get("Authorization", "").partition(" ")
    if kind.lower() == "bearer":
        scope = await programs.get_scope(house, said.strip(), workspace_id, came_from, now)
        see_as(scope.seer)
        return scope
    scope = await sign_in.get_scope(house, await get_token(request), workspace_id, now)
    act_as(scope.member_id, came_from)
    see_as(scope.seer)
    sign_in.check_member(request.headers.get("X-Member"), scope.member_id, scope.name)
    if request.method not in _SAFE:
        sign_in.check_csrf(request.headers.get("X-CSRF-Token"), scope.csrf)
    return scope


ScopeDep = Annotated[Scope, Depends(get_scope)]


def needs(permission: Permission) -> Any:
    """For routes whose bodies take work to read: who may not is told so before anything of it is looked at."""

    async def check(scope: ScopeDep) -> None:
        scope.check(permission)

    return Depends(check)


Q = TypeVar("Q", bound=BaseModel)


def make_query_reader(model: type[Q]) -> Callable[[Request], Awaitable[Q]]:
    """A dependency that reads the query into a model, only what was given: with some twenty-five optional parameters the
    framework takes a millisecond to look for each, on the most frequent request there is. See `describe_query`."""
    fields = model.model_fields
    many = list_many(model)

    async def read(request: Request) -> Q:
        given = request.query_params
        found = {name: given.getlist(name) if name in many else given[name] for name in given if name in fields}
        try:
            return model.model_validate(found)
        except ValidationError as error:
            wrong = [{**e, "loc": ("query", *e["loc"])} for e in error.errors(include_url=False)]
            raise RequestValidationError(wrong) from error

    return read


def describe_query(model: type[BaseModel]) -> dict[str, Any]:
    """The parameters that a model reads, for the API's description."""
    schema = model.model_json_schema(ref_template="#/components/schemas/{model}")
    return {
        "parameters": [
            {"name": name, "in": "query", "required": False, "schema": shape}
            for name, shape in schema["properties"].items()
        ]
    }
