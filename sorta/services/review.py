"""What rules hid, answered or settled since nobody looked: kept or shown again, one by one or all. Used by the API."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, Literal

from sorta.core.errors import TooLate
from sorta.core.permissions import Permission
from sorta.core.ports import Moderation
from sorta.services import acts, moderation
from sorta.services.house import House, Scope
from sorta.services.many import Report, do_many
from sorta.store import rules
from sorta.store.live import tell

MOST = 300
Verdict = Literal["kept", "shown", "again"]


async def list_review(house: House, scope: Scope) -> dict[str, Any]:
    """What waits to be looked at, newest first, and how much there is of it."""
    async with house.db.transact(scope.workspace_id) as tx:
        return {
            "total": await rules.count_review(tx),
            "items": await rules.list_review(tx, MOST),
        }


async def review(
    house: House, scope: Scope, ids: Sequence[int], verdict: Verdict, now: datetime
) -> dict[str, list[dict[str, Any]]]:
    """Say of each whether it stays so ('kept') or is brought back ('shown'): hidden ones are shown again on the
    network, settled ones become our move. An answer that went out stays. 'again' takes one's own 'kept' back: it waits to be
    looked at as before. What failed is told one by one."""
    scope.check(Permission.SORT)
    if verdict == "kept":
        return await _keep(house, scope, ids, now)
    report = await do_many(ids, lambda id: _review_one(house, scope, id, verdict, now))
    async with house.db.transact(scope.workspace_id) as tx:
        await tell(tx, "rules")
    return report


async def _keep(house: House, scope: Scope, ids: Sequence[int], now: datetime) -> dict[str, list[dict[str, Any]]]:
    """A morning's three hundred at one go: nothing happens to them, and none can be refused."""
    async with house.db.transact(scope.workspace_id) as tx:
        await rules.set_reviewed(tx, ids, member_id=scope.member_id, verdict="kept", now=now)
        await tell(tx, "rules")
    return Report(done=dict.fromkeys(ids, 0)).tell(list(dict.fromkeys(ids)))


async def _review_one(house: House, scope: Scope, id: int, verdict: Verdict, now: datetime) -> int:
    """The number of the act in the trail; 0 where nothing had to be done."""
    seq = 0
    if verdict == "again":
        async with house.db.transact(scope.workspace_id) as tx:
            if not await rules.look_again(tx, id, scope.member_id):
                raise TooLate("Only what one has left as it is oneself can be looked at again.")
        return seq
    async with house.db.transact(scope.workspace_id) as tx:
        hit = await rules.get_hit(tx, id)
    if hit is None or hit["reviewed_at"] is not None:
        return seq
    if verdict == "shown":
        if "hide" in hit["effects"]:
            _, seq = await moderation.moderate(house, scope, hit["message_id"], what=Moderation.SHOW, now=now)
        if "settle" in hit["effects"]:
            seq = await acts.reopen(house, scope, hit["conversation_id"], message_id=hit["message_id"], now=now)
    async with house.db.transact(scope.workspace_id) as tx:
        await rules.set_reviewed(tx, [id], member_id=scope.member_id, verdict=verdict, now=now)
    return seq
