"""Rules tried on the past, in the background. Used by the API and the worker."""

from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.core.rules import Rule, RuleBody
from sorta.core.trial import Trial
from sorta.services.hours import get_promise
from sorta.services.house import House, Scope
from sorta.services.members import get_zone
from sorta.services.rules import dump, list_rules, put_in
from sorta.services.ruling import BODY, make_heard, speak
from sorta.store import rules, texts
from sorta.store.live import tell

TRY = "try_rules"
LONGEST_DAYS = 90
_AT_ONCE = 500


async def start_trial(house: House, scope: Scope, *, body: RuleBody, rule_id: int, days: int, now: datetime) -> int:
    """Try a rule as it is written now, in its place among the others (0 is new, at the bottom); the trial's number."""
    scope.check(Permission.MANAGE_RULES)
    if not 1 <= days <= LONGEST_DAYS:
        raise Invalid(f"A trial goes back 1 to {LONGEST_DAYS} days.", "days")
    known = (await list_rules(house, scope, now))["rules"]
    before = [
        Rule(id=r["id"], version=r["version"], body=BODY.validate_python(r["body"]), on=r["switched_on"]) for r in known
    ]
    if rule_id and rule_id not in {rule.id for rule in before}:
        raise NotFound("There is no such rule in this workspace.")
    after = put_in(before, rule_id, body)

    def write(them: list[Rule]) -> list[dict[str, Any]]:
        return [{"id": r.id, "version": r.version, "on": r.on, "body": dump(r.body)} for r in them]

    async with house.db.transact(scope.workspace_id) as tx:
        both = {"before": write(before), "after": write(after)}
        id = await rules.add_trial(tx, member_id=scope.member_id, rules=both, rule_id=rule_id, days=days, now=now)
        await house.queue.add_job(tx, TRY, once=f"trial:{id}", workspace_id=scope.workspace_id, trial_id=id)
    return id


async def get_trial(
    house: House, scope: Scope, id: int, *, limit: int = 50, only_differing: bool = False
) -> dict[str, Any]:
    """How far a trial has come, and what came out: the first of the messages that the rule meets or for which something
    else comes out (`only_differing`: of those alone), as they are shown. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        row = await rules.get_trial(tx, id)
        if row is None or row["member_id"] != scope.member_id:
            raise NotFound("There is no such trial of yours.")
        result = row["result"]
        if result is not None:
            wanted = [e for e in result["examples"] if e["comes"] or e["goes"] or not only_differing]
            page = wanted[:limit]
            shown = {m["id"]: m for m in await rules.list_shown(tx, [e["message"] for e in page])}
            result = {
                **result,
                "examples": [{**e, **shown[e["message"]]} for e in page if e["message"] in shown],
                "more": len(wanted) - len(page) + result["unlisted"],
            }
    return {**row, "result": result}


async def cancel_trial(house: House, scope: Scope, id: int) -> None:
    """Nobody waits for it any more. Raises NotFound when there is none of one's own that runs."""
    async with house.db.transact(scope.workspace_id) as tx:
        row = await rules.get_trial(tx, id)
        if row is None or row["member_id"] != scope.member_id:
            raise NotFound("There is no such trial of yours.")
        await rules.cancel_trial(tx, id)


async def run_trial(house: House, workspace_id: int, id: int) -> None:
    """Run a trial to its end or until it is cancelled. Run by the worker; safe to run twice."""
    async with house.db.transact(workspace_id) as tx:
        row = await rules.get_trial(tx, id)
        if row is None or row["state"] in ("done", "cancelled"):
            return
        until = row["made_at"]
        since = until - timedelta(days=row["days"])
        total = await rules.count_heard(tx, since, until)
        promise = await get_promise(house, tx)
        groups = await rules.list_groups_of(tx)
        spoken = await texts.get_languages(tx)
        zone = await get_zone(tx)
        member = row["member_id"]

    def read(them: list[dict[str, Any]]) -> list[Rule]:
        return [
            Rule(
                id=r["id"],
                version=r["version"],
                on=r["on"],
                body=speak(house, BODY.validate_python(r["body"]), spoken),
            )
            for r in them
        ]

    trial = Trial(read(row["rules"]["before"]), read(row["rules"]["after"]), row["rule_id"])
    after = (since, 0)
    while True:
        async with house.db.transact(workspace_id) as tx:
            page = await rules.list_heard(tx, since=since, until=until, after=after, limit=_AT_ONCE)
        trial.take(make_heard(r, promise=promise, zone=zone, groups=groups) for r in page)
        over = len(page) < _AT_ONCE
        async with house.db.transact(workspace_id) as tx:
            going = await rules.set_trial(
                tx,
                id,
                state="done" if over else "running",
                done=trial.messages,
                total=max(total, trial.messages),
                result=_describe(trial, since, until, zone) if over else None,
            )
            await tell(tx, "trial", member=member, trial=id)
        if over or not going:
            return
        after = (page[-1].arrived_at, page[-1].id)


def _describe(trial: Trial, since: datetime, until: datetime, zone: ZoneInfo) -> dict[str, Any]:
    days, day = [], since.astimezone(zone).date()
    while day <= until.astimezone(zone).date():
        days.append({"day": day.isoformat(), "messages": trial.by_day[day], "matched": trial.matched_by_day[day]})
        day += timedelta(days=1)
    names = sorted({*trial.before.counts, *trial.after.counts})
    return {
        "messages": trial.messages,
        "matched": trial.matched,
        "differing": trial.differing,
        "unlisted": trial.unlisted,
        "answers": trial.answers,
        "levels": {level.value: n for level, n in trial.by_level.items()},
        "days": days,
        "outcomes": [{"name": n, "before": trial.before.counts[n], "after": trial.after.counts[n]} for n in names],
        "lost": [{"effect": e, "to": to, "n": n} for (e, to), n in trial.lost_to.most_common()],
        "stopped": sorted(trial.after.stopped),
        "examples": [asdict(e) for e in trial.examples],
    }
