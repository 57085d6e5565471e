"""Setting up an organisation: workspaces, members and their roles. Used by whatever makes a workspace, by the demo and the tests."""

import asyncio

from sorta.core.permissions import Role
from sorta.services.house import House
from sorta.services.roles import add_starting_roles
from sorta.services.sign_in import hash_password
from sorta.store import people
from sorta.store.db import Conn, Tx


async def add_organisation(house: House, name: str) -> int:
    """A new organisation; its number."""
    async with house.db.connect() as conn:
        return await people.add_organisation(conn, name)


async def add_workspace(house: House, organisation_id: int, name: str, time_zone: str) -> int:
    """A new workspace with the starting roles; its number."""
    async with house.db.connect() as conn, conn.transaction():
        return (await open_workspace(house, conn, organisation_id, name, time_zone)).workspace_id


async def open_workspace(house: House, conn: Conn, organisation_id: int, name: str, time_zone: str) -> Tx:
    """The same in a transaction, which is in the new workspace from then on."""
    tx = await house.db.enter(conn, await people.add_workspace(conn, organisation_id, name, time_zone))
    await add_starting_roles(tx)
    return tx


async def add_member(house: House, organisation_id: int, *, email: str, name: str, initials: str, password: str) -> int:
    """A new member; its number."""
    # It takes a tenth of a second of a processor: beside the loop, and with no connection held.
    password_hash = await asyncio.to_thread(hash_password, password)
    async with house.db.connect() as conn:
        values = {
            "organisation_id": organisation_id,
            "email": email.strip().lower(),
            "name": name,
            "initials": initials,
            "password_hash": password_hash,
        }
        return await people.add_member(conn, values)


async def set_role(house: House, workspace_id: int, member_id: int, role: Role) -> None:
    """Let a member work in a workspace, as this."""
    async with house.db.transact(workspace_id) as tx:
        await people.set_role(tx, member_id, role.value)
