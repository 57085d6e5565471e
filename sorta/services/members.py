"""Members as those on whose behalf something is done later, and the clock it is done by. Used by scheduling, trials, sharing and unusual hours."""

from zoneinfo import ZoneInfo

from sorta.core.errors import NotAllowed
from sorta.services.house import Scope
from sorta.services.reads import Reads
from sorta.services.roles import read_member_role
from sorta.services.trail import Open
from sorta.store import groups, people
from sorta.store.db import Tx


async def get_zone(tx: Tx) -> ZoneInfo:
    """The zone of the workspace's clock."""
    workspace = await people.get_workspace(tx)
    assert workspace is not None
    return ZoneInfo(workspace["time_zone"])


async def get_scope_of(reads: Reads, member_id: int) -> Scope:
    """What a member may do in a workspace now. Raises NotAllowed when they work there no more."""
    members = {m.id: m for m in await reads.get(people.list_members)}
    workspace = await reads.get(people.get_workspace)
    if member_id not in members or workspace is None:
        raise NotAllowed("Its author works here no more.")
    member = members[member_id]
    return Scope(
        workspace_id=reads.tx.workspace_id,
        member_id=member_id,
        name=member.name,
        role=read_member_role(member),
        limited=member.limited,
        zone=ZoneInfo(workspace["time_zone"]),
        csrf="",
    )


async def check_sight(tx: Tx, author: Scope, conversation: Open) -> None:
    """Raise NotAllowed when who wrote something does not see its account any more."""
    if not await groups.is_seen_by(tx, author.member_id, conversation.row["account_id"]):
        raise NotAllowed(f"{author.name} does not see this account any more.")
