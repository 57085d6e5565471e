"""Somebody works in a workspace no more: what is theirs goes to others, and nothing of it is lost. Used by the API and the clock.

They are out at once, in one transaction; their work follows one by one, and the clock goes on where that was broken off, or where something
comes back to them later (a settled conversation keeps its owner, and reopens).
"""

from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid, NotFound
from sorta.core.events import Assigned
from sorta.core.permissions import Permission, check_owner_stays, check_within
from sorta.core.security import Happening
from sorta.services import approvals, scheduling
from sorta.services.house import House, Scope
from sorta.services.roles import list_roles_of, pick_role
from sorta.services.security_log import note
from sorta.services.trail import Ledger, writing
from sorta.store import leaving as store
from sorta.store import people, scheduled, sorting
from sorta.store.leaving import FormerRow, LeftRow
from sorta.store.live import tell

#: What is passed on in one go of the clock.
AT_ONCE = 500


async def preview(house: House, scope: Scope, member_id: int) -> dict[str, Any]:
    """What would be without its member, by kind, and what names them. Raises NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        if member_id not in {m.id for m in await people.list_members(tx)}:
            raise NotFound("There is no such member in this workspace.")
        return await store.count_work(tx, member_id)


async def let_go(
    house: House, scope: Scope, member_id: int, *, to_owner: int | None, to_team: int | None, now: datetime
) -> int:
    """They work here no more; what is open of theirs goes to a member, to a team or to nobody, and this is how many conversations.
    Answers of theirs that waited for approval or their time are taken back, their words kept as drafts that colleagues see.

    Raises NotFound, NotAllowed when they may more than one does oneself, Invalid for oneself, the last Owner, or heirs not here.
    """
    scope.check(Permission.MANAGE_MEMBERS)
    if member_id == scope.member_id:
        raise Invalid("Nobody lets themselves go. Ask somebody else who manages members.", "member_id")
    if to_owner is not None and to_team is not None:
        raise Invalid("Their work goes to a member or to a team, not to both.", "to_team")
    async with house.db.transact(scope.workspace_id) as tx:
        held = await people.lock_roles(tx)
        if member_id not in held:
            raise NotFound("There is no such member in this workspace.")
        roles = await list_roles_of(tx)
        check_within(scope.role, pick_role(roles, held[member_id]))
        check_owner_stays(held, member_id, "")
        if to_owner is not None and (to_owner not in held or to_owner == member_id):
            raise Invalid("Who gets their work has to work here.", "to_owner")
        if to_team is not None and to_team not in {t["id"] for t in await sorting.list_teams(tx)}:
            raise Invalid("There is no such team in this workspace.", "to_team")
        name = (await people.list_names(tx))[member_id]
        open_ones = (await store.count_work(tx, member_id))["open"]
        await store.let_go(
            tx,
            member_id,
            by=scope.member_id,
            to_owner=to_owner,
            to_team=to_team,
            follow_ups_to=scope.member_id if to_owner is None else to_owner,
            now=now,
        )
        await note(tx, scope, Happening.LET_GO, name, to=member_id, role=held[member_id])
        await tell(tx, "roles")
    async with house.db.connect() as conn:
        if not await people.list_workspaces(conn, member_id):
            await store.end_sessions(conn, member_id)
    await pass_on(house, scope.workspace_id, now)
    return int(open_ones)


async def pass_on(house: House, workspace_id: int, now: datetime) -> int:
    """Pass on what is still with former members, each in a transaction of its own; how much. A duty of the clock."""
    async with house.db.transact(workspace_id) as tx:
        left = await store.list_left(tx, AT_ONCE)
        former = {row.id: row for row in await store.list_former(tx)} if left else {}
    for one in left:
        who = former[one.member_id]
        if one.what == "scheduled":
            await _stop(house, workspace_id, one, who, now)
            continue
        async with writing(house, workspace_id, now) as ledger:
            if one.what == "proposal":
                await approvals.withdraw_overtaken(
                    ledger, await ledger.get(one.conversation_id), f"{who.name} works here no more"
                )
                await store.share_draft(ledger.tx, who.id, one.conversation_id)
            else:
                await _give_on(ledger, one, who)
    return len(left)


async def _give_on(ledger: Ledger, one: LeftRow, who: FormerRow) -> None:
    conversation = await ledger.get(one.conversation_id)
    if conversation.facts.owner != who.id:
        return
    here = {m.id for m in await people.list_members(ledger.tx)}
    owner = who.to_owner if who.to_owner in here else None
    team = who.to_team or (None if owner is not None else conversation.facts.team)
    what = Assigned(owner=owner, team=team, note=f"{who.name} works here no more.")
    ledger.add(conversation, what, member_id=who.let_go_by)


async def _stop(house: House, workspace_id: int, one: LeftRow, who: FormerRow, now: datetime) -> None:
    await scheduling.stop(house, workspace_id, one.id, f"{who.name} works here no more.", now)
    async with house.db.transact(workspace_id) as tx:
        row = await scheduled.get_scheduled(tx, one.id)
        assert row is not None
        await approvals.keep_words(tx, row, shared=True, now=now)
