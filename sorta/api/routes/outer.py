"""What others call: networks' deliveries, and whether we are well."""

from fastapi import APIRouter, Request, Response

from sorta.api.deps import HouseDep, IntakeDep, NowDep
from sorta.api.schemas.setup import Health
from sorta.core.errors import Invalid
from sorta.services import accounts, ingest

router = APIRouter(tags=["outer"])
LARGEST_DELIVERY = 1_000_000


@router.post("/hooks/{workspace_id}/{account_id}", status_code=202)
async def add_delivery(
    request: Request, house: HouseDep, intake: IntakeDep, now: NowDep, workspace_id: int, account_id: int
) -> Response:
    """One activity from a network, signed by the Standard Webhooks scheme. Answered once it is stored."""
    account = await ingest.get_account(house, workspace_id, account_id)
    body = await request.body()
    if len(body) > LARGEST_DELIVERY:
        raise Invalid(f"A delivery can be {LARGEST_DELIVERY} bytes long.", "body")
    ingest.verify(account, body, request.headers)
    await intake.take(account, body.decode(errors="replace"), now)
    return Response(status_code=202)


@router.get("/healthz")
async def get_health() -> dict[str, str]:
    """This process is alive."""
    return {"status": "alive"}


@router.get("/readyz")
async def get_readiness(house: HouseDep, response: Response) -> Health:
    """Database, migrations and worker are all well; 503 while one is not."""
    health = Health.model_validate(await accounts.check_health(house))
    if not (health.database and health.migrations and health.worker):
        response.status_code = 503
    return health
