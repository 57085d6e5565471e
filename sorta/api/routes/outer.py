"""What others call: networks' deliveries, short links, and whether we are well."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from sorta.api.deps import COOKIE, HouseDep, IntakeDep, NowDep, read_cookie
from sorta.api.schemas.setup import Health
from sorta.services import accounts, advice, cases, intake, links, report_page, report_sharing, sign_in

router = APIRouter(tags=["outer"])


@router.post("/hooks/{workspace_id}/{account_id}", status_code=202)
async def add_delivery(
    request: Request, house: HouseDep, door: IntakeDep, now: NowDep, workspace_id: int, account_id: int
) -> Response:
    """One activity from a network, signed by the Standard Webhooks scheme. Answered once it is stored."""
    body = await request.body()
    account = await intake.find_signed(house, workspace_id, account_id, body, request.headers, now)
    await door.take(account, body.decode(errors="replace"), now)
    return Response(status_code=202)


@router.post("/hooks/{workspace_id}/desks/{desk_id}", status_code=202)
async def add_case_news(request: Request, house: HouseDep, now: NowDep, workspace_id: int, desk_id: int) -> Response:
    """What a support desk says about a case, signed by the Standard Webhooks scheme."""
    body = await request.body()
    await cases.take_told(house, workspace_id, desk_id, body, request.headers, now)
    return Response(status_code=202)


@router.post("/hooks/mail", status_code=202)
async def add_letter(request: Request, house: HouseDep, now: NowDep) -> Response:
    """One letter as it came (RFC 5322) in base64, passed on by whoever takes our mail in, signed by the Standard Webhooks
    scheme.

    Refused with 403, 404 or 422 it goes back to its sender.
    """
    await advice.take_letter(house, await request.body(), request.headers, now)
    return Response(status_code=202)


@router.get("/l/{slug}", status_code=302, response_class=RedirectResponse)
@router.head("/l/{slug}", status_code=302, response_class=RedirectResponse, include_in_schema=False)
async def open_link(request: Request, house: HouseDep, now: NowDep, slug: str) -> RedirectResponse:
    """Lead whoever opens a short link on to its target, and count the click."""
    target = await links.open_link(
        house,
        slug,
        user_agent=request.headers.get("user-agent", ""),
        method=request.method,
        member_of=await sign_in.find_member(house, read_cookie(request, COOKIE), now),
        now=now,
    )
    return RedirectResponse(target, status_code=302, headers={"Cache-Control": "no-store"})


@router.get("/r/{token}", response_class=HTMLResponse)
async def open_shared_report(house: HouseDep, now: NowDep, token: str) -> HTMLResponse:
    """A report that was shared by a link, as a page without scripts, for whoever has the link."""
    return HTMLResponse(await report_sharing.open_share(house, token, now), headers=report_page.HEADERS)


@router.get("/healthz")
async def get_health() -> dict[str, str]:
    """This process is alive."""
    return {"status": "alive"}


@router.get("/readyz", responses={503: {"model": Health, "description": "Something is missing"}})
async def get_readiness(house: HouseDep, response: Response, now: NowDep) -> Health:
    """Database, migrations, keys and clock are all well; 503 while one is not."""
    health = Health.model_validate(await accounts.check_health(house, now))
    if not (health.database and health.migrations and health.keys and health.clock):
        response.status_code = 503
    return health
