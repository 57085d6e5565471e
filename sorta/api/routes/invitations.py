"""Inviting, coming in by an invitation, and setting another password by a link."""

from dataclasses import asdict

from fastapi import APIRouter, Request, Response, status

from sorta.api.deps import AgentDep, CameFromDep, HouseDep, NowDep, ScopeDep
from sorta.api.routes.session import set_cookies
from sorta.api.schemas import invitations as shapes
from sorta.services import forgotten, invitations

router = APIRouter(prefix="/api", tags=["invitations"])


@router.get("/workspaces/{workspace_id}/invitations")
async def list_invitations(house: HouseDep, scope: ScopeDep, now: NowDep) -> list[shapes.Invitation]:
    """Who has been invited and has not come, the newest first."""
    return [shapes.Invitation.model_validate(one) for one in await invitations.list_pending(house, scope, now)]


@router.post("/workspaces/{workspace_id}/invitations")
async def invite(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewInvitations) -> shapes.Invited:
    """Invite people; who was invited and has not come gets a new link."""
    found = await invitations.invite(
        house, scope, body.emails, invitations.Place(**body.model_dump(exclude={"emails"})), now
    )
    return shapes.Invited.model_validate(asdict(found))


@router.delete("/workspaces/{workspace_id}/invitations/{invitation_id}", status_code=204)
async def cancel_invitation(house: HouseDep, scope: ScopeDep, now: NowDep, invitation_id: int) -> None:
    """Take an invitation back: its link leads nowhere."""
    await invitations.cancel(house, scope, invitation_id, now)


@router.get("/welcome/{token}")
async def get_welcome(house: HouseDep, now: NowDep, token: str) -> shapes.Welcome:
    """What a link leads to."""
    return shapes.Welcome.model_validate(asdict(await invitations.look(house, token, now)))


@router.post("/welcome/{token}", status_code=status.HTTP_204_NO_CONTENT)
async def come_in(
    request: Request,
    house: HouseDep,
    now: NowDep,
    came_from: CameFromDep,
    agent: AgentDep,
    token: str,
    body: shapes.Coming,
) -> Response:
    """Take an invitation: makes the account and signs in."""
    entered = await invitations.come_in(house, token, invitations.Coming(**body.model_dump()), came_from, now, agent)
    return set_cookies(request, entered)


@router.post("/password-links", status_code=status.HTTP_204_NO_CONTENT)
async def ask_for_password_link(
    house: HouseDep, now: NowDep, came_from: CameFromDep, body: shapes.ForgottenPassword
) -> None:
    """Have a link mailed by which another password is set; the answer is the same whether or not anybody has the address."""
    await forgotten.ask(house, body.email, came_from, now)


@router.post("/password-links/{token}", status_code=status.HTTP_204_NO_CONTENT)
async def use_password_link(
    request: Request,
    house: HouseDep,
    now: NowDep,
    came_from: CameFromDep,
    agent: AgentDep,
    token: str,
    body: shapes.PasswordByLink,
) -> Response:
    """Set another password by a link: signs in, and ends all other sessions."""
    return set_cookies(request, await forgotten.set_password(house, token, body.password, came_from, now, agent))
