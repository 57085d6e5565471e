"""The workspaces of this installation, for work that no member asked for. Used by jobs."""

from sorta.services.house import House
from sorta.store import people


async def list_all_workspace_ids(house: House) -> list[int]:
    """Every workspace."""
    async with house.db.connect() as conn:
        return await people.list_all_workspace_ids(conn)
