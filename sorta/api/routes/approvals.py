"""Replies that wait for consent, and the policies that ask for it."""

from fastapi import APIRouter

from sorta.api.deps import HouseDep, NowDep, ScopeDep
from sorta.api.schemas import approvals as shapes
from sorta.api.schemas.files import TakenBack
from sorta.api.schemas.sorting import Made
from sorta.services import approvals, policies, policy_trials

router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["approvals"])


@router.get("/approvals")
async def list_approvals(house: HouseDep, scope: ScopeDep) -> list[shapes.WaitingProposal]:
    """What waits for consent, soonest due first."""
    return [shapes.WaitingProposal.model_validate(one) for one in await approvals.list_approvals(house, scope)]


@router.post("/conversations/{conversation_id}/proposals")
async def add_proposal(
    house: HouseDep, scope: ScopeDep, now: NowDep, conversation_id: int, body: shapes.NewProposal
) -> Made:
    """Ask for approval of a reply."""
    id = await approvals.propose(
        house,
        scope,
        conversation_id,
        public=body.public,
        text=body.text,
        seen_seq=body.seen_seq,
        settle=body.settle,
        now=now,
        extras=body.get_extras(),
    )
    return Made(id=id)


@router.put("/proposals/{proposal_id}", status_code=204)
async def set_proposal(
    house: HouseDep, scope: ScopeDep, now: NowDep, proposal_id: int, body: shapes.ChangedProposal
) -> None:
    """Its author writes it anew, or confirms it after they wrote again."""
    await approvals.change(house, scope, proposal_id, text=body.text, seen_seq=body.seen_seq, now=now)


@router.post("/proposals/{proposal_id}/approve")
async def approve_proposal(
    house: HouseDep, scope: ScopeDep, now: NowDep, proposal_id: int, body: shapes.Approval
) -> shapes.Approved:
    """Consent, as it stands or with edits."""
    seq = await approvals.approve(house, scope, proposal_id, seen_seq=body.seen_seq, text=body.text, now=now)
    return shapes.Approved(sent=seq is not None, seq=seq)


@router.post("/proposals/{proposal_id}/send-back", status_code=204)
async def send_proposal_back(
    house: HouseDep, scope: ScopeDep, now: NowDep, proposal_id: int, body: shapes.SentBack
) -> None:
    """Back to its author with a reason."""
    await approvals.send_back(house, scope, proposal_id, reason=body.reason, now=now)


@router.post("/proposals/{proposal_id}/withdraw")
async def withdraw_proposal(house: HouseDep, scope: ScopeDep, now: NowDep, proposal_id: int) -> TakenBack:
    """Its author takes it back."""
    return TakenBack.of(await approvals.withdraw(house, scope, proposal_id, now))


@router.post("/policies/try")
async def try_policy(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.PolicyToTry) -> shapes.PolicyTrial:
    """Which answers of the last days a policy would have held; nothing is changed."""
    return shapes.PolicyTrial.model_validate(
        await policy_trials.try_policy(house, scope, body.body, days=body.days, now=now)
    )


@router.get("/policies")
async def list_policies(house: HouseDep, scope: ScopeDep) -> list[shapes.StoredPolicy]:
    """The policies."""
    return [shapes.StoredPolicy.model_validate(one) for one in await policies.list_policies(house, scope)]


@router.post("/policies")
async def add_policy(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewPolicy) -> Made:
    """A new policy."""
    return Made(id=await policies.add_policy(house, scope, body.body, on=body.on, now=now))


@router.put("/policies/{policy_id}", status_code=204)
async def set_policy(house: HouseDep, scope: ScopeDep, now: NowDep, policy_id: int, body: shapes.NewPolicy) -> None:
    """A policy as it is from now on."""
    await policies.set_policy(house, scope, policy_id, body.body, on=body.on, now=now)


@router.delete("/policies/{policy_id}", status_code=204)
async def remove_policy(house: HouseDep, scope: ScopeDep, now: NowDep, policy_id: int) -> None:
    """Take a policy away."""
    await policies.remove_policy(house, scope, policy_id, now)


@router.get("/approvals/asking")
async def get_asking(house: HouseDep, scope: ScopeDep) -> shapes.Asking:
    """When the next approver is asked."""
    return shapes.Asking(share=await policies.get_share(house, scope))


@router.put("/approvals/asking", status_code=204)
async def set_asking(house: HouseDep, scope: ScopeDep, body: shapes.Asking) -> None:
    """Ask the next sooner or later."""
    await policies.set_share(house, scope, body.share)
