"""The policies of approval: written, listed with what to know about them, and how soon the next is asked. Used by the API."""

from datetime import datetime
from typing import Any

from sorta.core.approval import Policy, PolicyBody, check_policy, list_warnings
from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.core.security import Happening
from sorta.services.consent import POLICY, resolve_policy
from sorta.services.house import House, Scope
from sorta.services.reads import Reads
from sorta.services.roles import list_held_roles
from sorta.services.security_log import note
from sorta.store import accounts, people, sorting
from sorta.store import approvals as store
from sorta.store.db import Tx
from sorta.store.live import tell


async def list_policies(house: House, scope: Scope) -> list[dict[str, Any]]:
    """The policies of the workspace, each with what to know about who may consent now."""
    async with house.db.transact(scope.workspace_id) as tx:
        roles = await list_held_roles(Reads(tx))
        teams = {t["id"]: set(t["members"]) for t in await sorting.list_teams(tx)}
        found = []
        for row in await store.list_policies(tx):
            body = POLICY.validate_python(row["body"])
            policy = Policy(id=row["id"], body=body, approvers=resolve_policy(body, roles, teams))
            found.append({**row, "warnings": list(list_warnings(policy, roles))})
        return found


async def _check(tx: Tx, body: PolicyBody) -> dict[str, Any]:
    tidy = check_policy(body)
    members = {m.id for m in await people.list_members(tx)}
    teams = {t["id"] for t in await sorting.list_teams(tx)}
    tags = {t["id"] for t in await sorting.list_tags(tx)}
    known = {a.id for a in await accounts.list_accounts(tx)}
    if not (set(tidy.members) <= members and set(tidy.teams) <= teams):
        raise Invalid("The policy names a member or a team that is not here.", "members")
    roles = {r["key"] for r in await people.list_roles(tx)}
    if not {*tidy.roles, *tidy.when.roles} <= roles:
        raise Invalid("The policy names a role that is not here.", "roles")
    if not (set(tidy.when.tags) <= tags and set(tidy.when.accounts) <= known):
        raise Invalid("The policy names a tag or an account that is not here.", "when")
    made: dict[str, Any] = POLICY.dump_python(tidy, mode="json")
    return made


async def add_policy(house: House, scope: Scope, body: PolicyBody, *, on: bool, now: datetime) -> int:
    """A new policy; its number. Raises Invalid."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        made = await _check(tx, body)
        id = await store.add_policy(tx, body=made, on=on, member_id=scope.member_id, now=now)
        await note(tx, scope, Happening.POLICY_ADDED, made["name"], policy=id, on=on)
        await tell(tx, "approvals")
        return id


async def set_policy(house: House, scope: Scope, id: int, body: PolicyBody, *, on: bool, now: datetime) -> None:
    """A policy as it is from now on; what waits keeps the consent it was asked for. Raises Invalid, NotFound."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        await rewrite(tx, scope, id, body, on=on, now=now)


async def rewrite(tx: Tx, scope: Scope, id: int, body: PolicyBody, *, on: bool, now: datetime) -> None:
    """The same within a transaction. Raises Invalid, NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_RULES)
    made = await _check(tx, body)
    if not await store.set_policy(tx, id, body=made, on=on, member_id=scope.member_id, now=now):
        raise NotFound("There is no such policy in this workspace.")
    await note(tx, scope, Happening.POLICY_CHANGED, made["name"], policy=id, on=on)
    await tell(tx, "approvals")


async def remove_policy(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Take a policy away. Raises NotFound."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        name = await store.remove_policy(tx, id, member_id=scope.member_id, now=now)
        if name is None:
            raise NotFound("There is no such policy in this workspace.")
        await note(tx, scope, Happening.POLICY_REMOVED, name, policy=id)
        await tell(tx, "approvals")


async def set_share(house: House, scope: Scope, share: int) -> None:
    """After which share of the time left the next is asked, in percent. Raises Invalid."""
    scope.check(Permission.MANAGE_RULES)
    if not 10 <= share <= 90:
        raise Invalid("The next can be asked after 10 to 90 percent of the time left.", "share")
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_share(tx, share)
        await tell(tx, "approvals")


async def get_share(house: House, scope: Scope) -> int:
    """After which share of the time left the next is asked, in percent."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await store.get_share(tx)
