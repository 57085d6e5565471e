"""Policies tried on the past: which of the answers members sent would have waited, and for whom. Used by the API.

Tags, priority and roles are those of now; words, audience, and what was answered are those of then.
"""

from datetime import datetime, timedelta
from typing import Any

from sorta.core.approval import Policy, PolicyBody, Wanted, check_policy, list_needs
from sorta.core.errors import Invalid
from sorta.core.permissions import Permission
from sorta.core.targets import Priority
from sorta.core.words import fold_text
from sorta.services.consent import resolve_policy
from sorta.services.house import House, Scope
from sorta.services.reads import Reads
from sorta.services.roles import list_held_roles
from sorta.store import approvals as store
from sorta.store import sorting

MOST_DAYS = 90
MOST_REPLIES = 10_000
EXAMPLES = 12


async def try_policy(house: House, scope: Scope, body: PolicyBody, *, days: int, now: datetime) -> dict[str, Any]:
    """How many of the answers of the last days the policy would have held, by author, with examples, the latest first.

    Raises Invalid for the policy or the days.
    """
    scope.check(Permission.MANAGE_RULES)
    if not 1 <= days <= MOST_DAYS:
        raise Invalid(f"A policy can be tried on the last 1 to {MOST_DAYS} days.", "days")
    tidy = check_policy(body)
    async with house.db.transact(scope.workspace_id) as tx:
        roles = await list_held_roles(Reads(tx))
        teams = {t["id"]: set(t["members"]) for t in await sorting.list_teams(tx)}
        since = now - timedelta(days=days)
        replies = await store.list_sent(tx, since, MOST_REPLIES)
    policy = Policy(id=1, body=tidy, approvers=resolve_policy(tidy, roles, teams))
    held: list[dict[str, Any]] = []
    by_author: dict[int, int] = {}
    for row in replies:
        wanted = Wanted(
            author=row["member_id"],
            role=roles.get(row["member_id"]),
            accounts=(row["account_id"],),
            public=row["public"],
            text=fold_text(row["body"]),
            tags=tuple(row["tags"]),
            priority=Priority(row["priority"]),
            reads_as=tuple(row["reads_as"] or ()),
            reach=row["reach"],
        )
        # Whatever else needs approval here is not this policy's doing.
        need = next((n for n in list_needs([policy], wanted, roles=roles) if n.policy == policy.id), None)
        if need is None:
            continue
        by_author[row["member_id"]] = by_author.get(row["member_id"], 0) + 1
        held.append({**row, "members": list(need.members), "words": list(need.words)})
    return {
        "days": days,
        "replies": len(replies),
        "held": len(held),
        "authors": [{"member": m, "held": n} for m, n in sorted(by_author.items(), key=lambda one: -one[1])],
        "examples": held[:EXAMPLES],
    }
