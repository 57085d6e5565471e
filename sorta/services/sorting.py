"""Tags, teams, account groups and saved views of a workspace. Used by the API and the demo."""

from typing import Any

from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.services.advice import can_ask
from sorta.services.house import House, Scope
from sorta.store import cases, groups, sorting, texts

LONGEST_NAME = 80


async def get_directory(house: House, scope: Scope) -> dict[str, Any]:
    """What one can sort by: tags, teams and account groups."""
    async with house.db.transact(scope.workspace_id) as tx:
        return {
            "tags": await sorting.list_tags(tx),
            "own_tags": await sorting.list_own_tags(tx, scope.member_id),
            "teams": await sorting.list_teams(tx),
            "groups": await groups.list_groups(tx),
            "desks": [
                {"id": d["id"], "name": d["name"], "follow_hours": d["follow_hours"]}
                for d in await cases.list_desks(tx)
            ],
            "saved_replies": [
                {"id": r["id"], "name": r["body"]["name"], "archived": r["archived_at"] is not None}
                for r in await texts.list_saved_replies(tx, archived=True)
            ],
            "can_translate": house.translator is not None,
            "can_ask": can_ask(house),
        }


async def add_team(house: House, workspace_id: int, name: str, members: list[int]) -> int:
    """A new team; its number."""
    async with house.db.transact(workspace_id) as tx:
        return await sorting.add_team(tx, name, members)


async def list_views(house: House, scope: Scope) -> list[dict[str, Any]]:
    """One's own saved views and the shared ones."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await sorting.list_views(tx, scope.member_id)
    return [{**row, "own": row["member_id"] == scope.member_id} for row in rows]


async def set_view(house: House, scope: Scope, *, name: str, shared: bool, query: dict[str, Any]) -> int:
    """Save a view under a name; one's own of the same name is replaced. Raises Invalid."""
    said = " ".join(name.split())
    if not 1 <= len(said) <= LONGEST_NAME:
        raise Invalid(f"A view's name has 1 to {LONGEST_NAME} characters.", "name")
    if shared:
        scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        return await sorting.set_view(tx, scope.member_id, said, shared, query)


async def delete_view(house: House, scope: Scope, id: int) -> None:
    """Forget a view of one's own. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        if not await sorting.delete_view(tx, scope.member_id, id):
            raise NotFound("There is no such view of yours.")
