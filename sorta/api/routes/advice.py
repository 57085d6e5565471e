"""Outside advice: ask somebody by mail, stop waiting, who was asked before."""

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import advice as shapes
from sorta.api.schemas.acts import Done
from sorta.services import advice

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["advice"])


@router.post("/conversations/{conversation_id}/advice")
async def add_advice(
    house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.Question
) -> Done:
    """Ask somebody without a login, by mail; the conversation goes along."""
    seq = await advice.ask(house, scope, conversation_id, **body.model_dump(), now=now)
    return Done(seq=seq)


@router.post("/advice/{advice_id}/stop-waiting", status_code=204)
async def stop_waiting(house: HouseDep, scope: ScopeDep, now: NowDep, advice_id: int) -> None:
    """Wait for this answer no longer; one that comes all the same is kept."""
    await advice.stop_waiting(house, scope, advice_id, now)


@router.get("/advice-addresses")
async def list_advice_addresses(house: HouseDep, scope: ScopeDep) -> list[shapes.Address]:
    """Who was asked before, the latest first."""
    return [shapes.Address.model_validate(one) for one in await advice.list_addresses(house, scope)]


@router.get("/advice-domains")
async def list_advice_domains(house: HouseDep, scope: ScopeDep) -> shapes.Domains:
    """The mail domains at which people outside can be asked."""
    return shapes.Domains(domains=await advice.list_domains(house, scope))


@router.put("/advice-domains", status_code=204)
async def set_advice_domains(house: HouseDep, scope: ScopeDep, body: shapes.Domains) -> None:
    """People outside can be asked at these mail domains from now on."""
    await advice.set_domains(house, scope, body.domains)
