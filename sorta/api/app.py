"""Builds the web application from the parts main gives it."""

import asyncio
import time
import uuid
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from mimetypes import guess_type
from pathlib import Path

import structlog
from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sorta.api.deps import COOKIE, HouseDep, NowDep, TokenDep, name_cookie
from sorta.api.errors import Problem, add_handlers, make_unforeseen
from sorta.api.limits import Limits
from sorta.api.metrics import Meter, answer, check_token
from sorta.api.routes import (
    acts,
    advice,
    approvals,
    cases,
    desk,
    draws,
    files,
    first,
    groups,
    hours,
    invitations,
    live,
    outer,
    outgoing,
    overview,
    people,
    programs,
    record,
    reports,
    roles,
    rules,
    session,
    setup,
    sorting,
    team,
    texts,
    workspaces,
)
from sorta.api.schemas.programs import ToldBody
from sorta.api.schemas.session import DemoAccount
from sorta.core.suggesting import load_library
from sorta.services import metrics, sign_in
from sorta.services.house import House
from sorta.services.intake import Intake

log = structlog.get_logger()
#: What browsers obey. The page asks for nothing of another host, is shown in nobody's frame and uses no device of its reader.
_HEADERS = {
    "Content-Security-Policy": "default-src 'self'; img-src 'self' data:; font-src 'self' data:; style-src 'self' "
    "'unsafe-inline'; object-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'",
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=(), payment=(), usb=(), display-capture=()",
}
_SECURE_HEADERS = {"Strict-Transport-Security": "max-age=31536000"}


_ROUTERS = (
    session.router,
    desk.router,
    first.router,
    acts.router,
    advice.router,
    approvals.router,
    cases.router,
    outgoing.router,
    draws.router,
    files.router,
    sorting.router,
    people.router,
    programs.router,
    groups.router,
    roles.router,
    overview.router,
    record.router,
    reports.router,
    invitations.router,
    rules.router,
    team.router,
    hours.router,
    texts.router,
    setup.router,
    workspaces.router,
    outer.router,
    live.router,
    rules.schema_router,
)


def list_routes() -> list[APIRoute]:
    """Every way in over HTTP but the built pages."""
    return [route for router in _ROUTERS for route in router.routes if isinstance(route, APIRoute)]


class RequestLog:
    """Gives every request an id, logs it when it is answered, and adds the headers that browsers obey."""

    def __init__(self, app: ASGIApp, *, secure: bool, meter: Meter) -> None:
        self._app, self._meter = app, meter
        self._headers = {**_HEADERS, **(_SECURE_HEADERS if secure else {})}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        id = Headers(scope=scope).get("x-request-id", "")[:64] or uuid.uuid4().hex
        structlog.contextvars.clear_contextvars()
        structlog.contextvars.bind_contextvars(request_id=id)
        began = time.perf_counter()
        has_started = False

        async def send_with_headers(message: Message) -> None:
            nonlocal has_started
            if message["type"] == "http.response.start":
                has_started = True
                headers = MutableHeaders(scope=message)
                headers["X-Request-Id"] = id
                for name, value in self._headers.items():
                    # A page that is stricter says so itself.
                    headers.setdefault(name, value)
                if scope["path"].startswith("/api/") and "cache-control" not in headers:
                    headers["Cache-Control"] = "no-store"
                spent = time.perf_counter() - began
                route = getattr(scope.get("route"), "path", "other")
                self._meter.requests.labels(scope["method"], route, message["status"]).observe(spent)
                took = round(spent * 1000, 1)
                log.info("request", method=scope["method"], path=scope["path"], status=message["status"], ms=took)
            await send(message)

        try:
            await self._app(scope, receive, send_with_headers)
        except Exception as error:
            # Answered here and not by the framework's outermost layer, so that these answers have the headers too.
            if has_started:
                raise
            await make_unforeseen(Request(scope), error)(scope, receive, send_with_headers)


def _name_route(route: APIRoute) -> str:
    return route.name


#: How one is known here; the rest is in docs/programs.md.
_ABOUT = """What members' browsers and programs ask for. A browser is known by its session's cookie, and its writes by the session's own word in `X-CSRF-Token`;
a program by a token of its workspace, as `Authorization: Bearer`. What goes wrong is an `application/problem+json` (RFC 9457)."""


def make_app(
    house: House,
    *,
    web: Path | None = None,
    secure_cookies: bool = False,
    demo_password: str | None = None,
    demo_accounts: list[DemoAccount] | None = None,
    metrics_token: str | None = None,
) -> FastAPI:
    """The application; `web` is the folder of the built pages, `metrics_token` what whoever reads its figures has to say."""
    meter = Meter()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        await asyncio.to_thread(load_library)
        await house.open()
        await house.live.open()
        watching = asyncio.create_task(meter.watch_loop())
        try:
            yield
        finally:
            watching.cancel()
            await house.live.close()
            await house.close()

    app = FastAPI(
        title="Sorta",
        description=_ABOUT,
        version="0.1.0",
        lifespan=lifespan,
        generate_unique_id_function=_name_route,
        # One shape for what is sent and what is answered: a rule comes back as it went.
        separate_input_output_schemas=False,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        responses={"4XX": {"model": Problem, "content": {"application/problem+json": {}}}},
    )
    give_house(app, house)
    app.state.secure_cookies = secure_cookies
    app.state.demo_password = demo_password
    app.state.demo_accounts = demo_accounts or []
    add_handlers(app)

    for router in _ROUTERS:
        app.include_router(router)
    # Nothing that a stranger writes stands in one answer with a session's own word, so that its length tells nothing of it (BREACH).
    app.add_middleware(GZipMiddleware, minimum_size=1000)
    # The last one added is the first to be asked.
    app.add_middleware(Limits, routes=list_routes(), cookie=name_cookie(COOKIE, secure=secure_cookies))
    app.add_middleware(RequestLog, secure=secure_cookies, meter=meter)

    @app.get("/metrics", include_in_schema=False)
    async def get_metrics(request: Request, house: HouseDep, now: NowDep) -> Response:
        check_token(request, metrics_token)
        return answer(meter, await metrics.collect(house, now))

    @app.get("/api/openapi.json", include_in_schema=False)
    async def get_description(house: HouseDep, token: TokenDep, now: NowDep) -> JSONResponse:
        await sign_in.get_session(house, token, now)
        return JSONResponse(app.openapi())

    @app.webhooks.post("conversation", status_code=204)
    async def tell_program(body: ToldBody) -> None:
        """What programs are told, signed by the Standard Webhooks scheme; answered by anything between 200 and 299."""

    if web is not None:
        _add_pages(app, web)
    return app


class Assets(StaticFiles):
    """Parts of the built pages. Each has its hash in its name and never changes; where it was compressed as it was built, it goes out so."""

    _KINDS = (("br", ".br"), ("gzip", ".gz"))

    def __init__(self, directory: Path) -> None:
        super().__init__(directory=directory)
        self._built = {file.name for file in directory.iterdir()}

    async def get_response(self, path: str, scope: Scope) -> Response:
        wanted = {part.split(";")[0].strip() for part in Headers(scope=scope).get("accept-encoding", "").split(",")}
        for kind, ending in self._KINDS:
            if kind not in wanted or path + ending not in self._built:
                continue
            response = await super().get_response(path + ending, scope)
            response.headers["Content-Encoding"] = kind
            response.headers["Content-Type"] = guess_type(path)[0] or "application/octet-stream"
            break
        else:
            response = await super().get_response(path, scope)
        response.headers["Vary"] = "Accept-Encoding"
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def give_house(app: FastAPI, house: House) -> None:
    """Answer from this house from now on. The tests give one application house after house: making one takes as long as many answers."""
    app.state.house = house
    app.state.intake = Intake(house)


def _add_pages(app: FastAPI, web: Path) -> None:
    """The built pages; every address that is not a file is the one page, which routes by itself."""
    app.mount("/assets", Assets(directory=web / "assets"))

    top = {file.name for file in web.iterdir() if file.is_file()}

    @app.get("/{path:path}", include_in_schema=False)
    async def get_page(path: str) -> FileResponse:
        if path.startswith(("api/", "hooks/", "l/", "metrics")):
            raise HTTPException(404, "There is nothing at this address.")
        if path in top:
            return FileResponse(web / path)
        return FileResponse(web / "index.html", headers={"Cache-Control": "no-cache"})
