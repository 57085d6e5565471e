"""Rules, their trials, and the review of what they did."""

from typing import Annotated, Any

from fastapi import APIRouter, Query

from sorta.api.deps import HouseDep, NowDep, ScopeDep, needs
from sorta.api.schemas import rules as shapes
from sorta.api.schemas.acts import DoneMany
from sorta.api.schemas.sorting import Made
from sorta.core.permissions import Permission
from sorta.services import review, rules, trials

_RULES = [needs(Permission.MANAGE_RULES)]
router = APIRouter(prefix="/api/workspaces/{workspace_id}", tags=["rules"])
schema_router = APIRouter(tags=["rules"])


@schema_router.get("/api/rules.schema.json")
async def get_rule_schema() -> dict[str, Any]:
    """The JSON schema of a rule."""
    return rules.make_schema()


@router.get("/rules")
async def list_rules(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.Rules:
    """The rules in their order, with what to know about them."""
    return shapes.Rules.model_validate(await rules.list_rules(house, scope, now))


@router.post("/rules", dependencies=_RULES)
async def add_rule(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewRule) -> Made:
    """A new rule at the bottom."""
    return Made(id=await rules.add_rule(house, scope, body.body, on=body.on, now=now))


@router.get("/conversations/{conversation_id}/rule")
async def make_rule_of(house: HouseDep, scope: ScopeDep, conversation_id: int) -> shapes.Suggested:
    """The rule that a conversation suggests, to be looked over before it is kept."""
    return shapes.Suggested.model_validate({"body": await rules.make_of(house, scope, conversation_id)})


@router.post("/rules/check", dependencies=_RULES)
async def check_rule(house: HouseDep, scope: ScopeDep, body: shapes.CheckedRule) -> list[shapes.RuleWarning]:
    """What to know about a rule that is being written."""
    found = await rules.check_rule(house, scope, body.body, body.id)
    return [shapes.RuleWarning.model_validate(one) for one in found]


@router.put("/rules/order", status_code=204, dependencies=_RULES)
async def set_rule_order(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.Order) -> None:
    """The rules in this order from now on."""
    await rules.set_order(house, scope, body.ids, now, was=body.was)


@router.get("/rules/file")
async def export_rules(house: HouseDep, scope: ScopeDep, now: NowDep) -> shapes.RuleFile:
    """All rules as a file."""
    return shapes.RuleFile.model_validate(await rules.export_rules(house, scope, now))


@router.post("/rules/file", dependencies=_RULES)
async def import_rules(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.RuleFile) -> shapes.Imported:
    """Add the rules of a file at the bottom, switched off, all or none; those that are here already are left out."""
    return shapes.Imported.model_validate(await rules.import_rules(house, scope, body.model_dump(), now))


@router.patch("/rules/{rule_id}", status_code=204, dependencies=_RULES)
async def set_rule(house: HouseDep, scope: ScopeDep, now: NowDep, rule_id: int, body: shapes.ChangedRule) -> None:
    """A rule as it is from now on."""
    await rules.set_rule(
        house, scope, rule_id, body=body.body, on=body.on, version=body.version, now=now, answers=bool(body.answers)
    )


@router.post("/rules/{rule_id}/copy")
async def copy_rule(house: HouseDep, scope: ScopeDep, now: NowDep, rule_id: int) -> Made:
    """The same rule again, switched off."""
    return Made(id=await rules.copy_rule(house, scope, rule_id, now))


@router.delete("/rules/{rule_id}", status_code=204)
async def remove_rule(house: HouseDep, scope: ScopeDep, now: NowDep, rule_id: int) -> None:
    """Take a rule away."""
    await rules.remove_rule(house, scope, rule_id, now)


@router.get("/rules/{rule_id}/versions")
async def list_rule_versions(house: HouseDep, scope: ScopeDep, rule_id: int) -> list[shapes.RuleVersion]:
    """The versions of a rule, newest first."""
    found = await rules.list_versions(house, scope, rule_id)
    return [shapes.RuleVersion.model_validate(one) for one in found]


@router.post("/trials", dependencies=_RULES)
async def start_trial(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.NewTrial) -> Made:
    """Try a rule on the past, in the background."""
    id = await trials.start_trial(house, scope, body=body.body, rule_id=body.rule_id, days=body.days, now=now)
    return Made(id=id)


@router.get("/trials/{trial_id}")
async def get_trial(
    house: HouseDep,
    scope: ScopeDep,
    trial_id: int,
    limit: Annotated[int, Query(ge=1, le=5000)] = 50,
    differing: bool = False,
) -> shapes.Trial:
    """How far a trial has come, and what came out; of the messages it meets, or of those alone that come out differently."""
    found = await trials.get_trial(house, scope, trial_id, limit=limit, only_differing=differing)
    return shapes.Trial.model_validate(found)


@router.delete("/trials/{trial_id}", status_code=204)
async def cancel_trial(house: HouseDep, scope: ScopeDep, trial_id: int) -> None:
    """Stop a trial."""
    await trials.cancel_trial(house, scope, trial_id)


@router.get("/review")
async def list_review(house: HouseDep, scope: ScopeDep) -> shapes.Review:
    """What rules hid, answered or settled and nobody has looked at."""
    return shapes.Review.model_validate(await review.list_review(house, scope))


@router.post("/review")
async def add_review(house: HouseDep, scope: ScopeDep, now: NowDep, body: shapes.Verdict) -> DoneMany:
    """Say of several at once whether they stay so."""
    return DoneMany.model_validate(await review.review(house, scope, body.ids, body.verdict, now))
