"""The workspace's own files, kept to be sent along again and again: pictures, a map, a price list. Used by the API."""

from dataclasses import asdict
from datetime import datetime
from typing import Any

from sorta.core.attachments import LONGEST_NAME, MOST_KEPT, check_file, check_kept, make_name
from sorta.core.errors import Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.services.attachments import drop, find_kept, keep, read
from sorta.services.house import House, Scope
from sorta.store import attachments as store
from sorta.store.attachments import LibraryRow


async def list_files(house: House, scope: Scope) -> list[dict[str, Any]]:
    """All of them by name, each with the address it is served at."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_library(tx)
    return [{**asdict(row), "url": f"/api/workspaces/{scope.workspace_id}/library/{row.id}"} for row in rows]


async def add_file(
    house: House, scope: Scope, *, content: bytes, declared: str, name: str, description: str, now: datetime
) -> int:
    """Keep a file; its number. Raises Invalid for what is not taken, is there already or is one too many, NoRoom."""
    scope.check(Permission.MANAGE_REPLIES)
    checked = await house.workshop.do(check_file, content, declared, name)
    line = check_kept(checked.media_type, description)
    async with house.db.transact(scope.workspace_id) as tx:
        sha256 = await keep(house, tx, scope, content)
        if len(there := await store.list_library(tx)) >= MOST_KEPT:
            raise Invalid(f"The library holds {MOST_KEPT} files, the most there can be. Take one out first.", "file")
        values = {
            "member_id": scope.member_id,
            "sha256": sha256,
            "media_type": checked.media_type,
            "name": checked.name,
            "size": len(content),
            "description": line,
            "now": now,
        }
        id = await store.add_to_library(tx, values)
        if id is None:
            called = next(one.name for one in there if one.sha256 == sha256)
            raise Invalid(f"It is in the library already, as {called}.", "file")
        return id


async def set_file(house: House, scope: Scope, id: int, *, name: str, description: str) -> None:
    """What it is called and what it shows, from now on; what was sent stays as it went. Raises NotFound, Invalid."""
    scope.check(Permission.MANAGE_REPLIES)
    async with house.db.transact(scope.workspace_id) as tx:
        row = await find_kept(tx, id)
        line = check_kept(row.media_type, description)
        if not name.strip() or len(name) > LONGEST_NAME:
            raise Invalid(f"A file's name has 1 to {LONGEST_NAME} characters.", "name")
        called = make_name(name, row.media_type)
        await store.set_in_library(tx, id, name=called, description=line)


async def remove_file(house: House, scope: Scope, id: int) -> None:
    """Take it out; answers that it went along with keep it. Raises NotFound."""
    scope.check(Permission.MANAGE_REPLIES)
    async with house.db.transact(scope.workspace_id) as tx:
        sha256 = await store.remove_from_library(tx, id)
        if sha256 is None:
            raise NotFound("There is no such file in the library any more.")
        await drop(house, tx, [sha256])


async def read_file(house: House, scope: Scope, id: int) -> tuple[LibraryRow, bytes]:
    """One with what is in it. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        row = await find_kept(tx, id)
    return row, await read(house, scope.workspace_id, row.sha256)
