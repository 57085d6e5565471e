"""Files sent along with answers: taken in, shown to members, held by an answer, read for delivery. Used by the API,
answers, approvals, scheduling and delivery."""

import asyncio
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import structlog

from sorta.core.attachments import MOST, check_description, check_file, check_room
from sorta.core.errors import Impossible, Invalid, NoRoom, NotAllowed, NotFound, TooLate
from sorta.core.permissions import Permission
from sorta.core.ports import OutgoingFile
from sorta.networks.abilities import TABLE
from sorta.services.house import House, Scope
from sorta.store import attachments as store
from sorta.store import trail
from sorta.store.attachments import AttachmentRow, LibraryRow
from sorta.store.db import Tx
from sorta.store.files import DiskFull, Files


@dataclass(frozen=True, kw_only=True)
class TakenBack:
    """An answer that its author took back, to be written on: its words, and its files as shown."""

    text: str
    attachments: list[dict[str, Any]]


#: What was put beside a draft and never sent goes after this long.
KEPT_FOR = timedelta(days=30)
#: What nobody finished, or wrote down, is looked at after this long (and no more after three times as long), so many at once.
LEFT_BEHIND, AT_ONCE = timedelta(days=1), 500
log = structlog.get_logger()


def _get_files(house: House) -> Files:
    if house.files is None:
        raise Impossible("No files are kept in this installation; nothing can be sent along.")
    return house.files


def can_attach(house: House, network: str) -> bool:
    """Whether answers on a network can have files, here."""
    return house.files is not None and TABLE[network].attachments


def describe(rows: Iterable[AttachmentRow], workspace_id: int) -> list[dict[str, Any]]:
    """Files as messages, drafts and proposals show them."""
    return [
        {
            "id": row.id,
            "media_type": row.media_type,
            "name": row.name,
            "size": row.size,
            "description": row.description,
            "url": f"/api/workspaces/{workspace_id}/attachments/{row.id}",
        }
        for row in rows
    ]


async def list_described(tx: Tx, ids: Sequence[int]) -> list[dict[str, Any]]:
    """Files by number, as shown; those that are gone are left out."""
    return describe(await store.list_attachments(tx, ids), tx.workspace_id) if ids else []


async def describe_extras(tx: Tx, extras: Mapping[str, Any]) -> list[dict[str, Any]]:
    """The files in the kept extras of an answer that waits, as shown."""
    return await list_described(tx, extras.get("attachments") or [])


async def add_attachment(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    content: bytes,
    declared: str,
    name: str,
    now: datetime,
) -> dict[str, Any]:
    """Keep a file to be sent along here. Raises Invalid for what is not taken, Impossible where the network has none."""
    scope.check(Permission.SORT)
    await _check_place(house, scope, conversation_id)
    checked = await house.workshop.do(check_file, content, declared, name)
    async with house.db.transact(scope.workspace_id) as tx:
        sha256 = await keep(house, tx, scope, content)
        return await _put(
            tx,
            scope,
            conversation_id,
            sha256=sha256,
            media_type=checked.media_type,
            name=checked.name,
            size=len(content),
            description="",
            now=now,
        )


async def _put(tx: Tx, scope: Scope, conversation_id: int, **values: Any) -> dict[str, Any]:
    """A file beside an answer that is being written, its content kept; as shown."""
    given = {"conversation_id": conversation_id, "member_id": scope.member_id, **values}
    id = await store.add_attachment(tx, given)
    return (await list_described(tx, [id]))[0]


async def _check_place(house: House, scope: Scope, conversation_id: int) -> None:
    _get_files(house)
    async with house.db.transact(scope.workspace_id) as tx:
        row = await trail.get_conversation(tx, conversation_id)
    if row is None:
        raise NotFound("There is no such conversation in this workspace.")
    _check_network(row["network"])


async def keep(house: House, tx: Tx, scope: Scope, content: bytes) -> str:
    """Keep what is in a file until the transaction that holds it ends; its name. Raises NoRoom."""
    await _make_room(tx, scope, len(content))
    try:
        return await asyncio.to_thread(_get_files(house).add, scope.workspace_id, content)
    except DiskFull as error:
        log.error("no room for files", reason=str(error))
        raise NoRoom(
            "There is no room for files on this machine just now; nothing was kept. Tell whoever runs this installation."
        ) from error


async def _make_room(tx: Tx, scope: Scope, size: int) -> None:
    """Contents stay as they are until the transaction ends, and there is room for one more. Raises NoRoom."""
    # Or the same content could be taken away as not needed between its being found and its being held.
    await store.lock_files(tx)
    check_room(size, **await store.measure(tx, scope.member_id))


async def _add_copy(
    tx: Tx, scope: Scope, conversation_id: int, of: AttachmentRow | LibraryRow, description: str, now: datetime
) -> dict[str, Any]:
    """A file whose content is kept already."""
    await _make_room(tx, scope, of.size)
    return await _put(
        tx,
        scope,
        conversation_id,
        sha256=of.sha256,
        media_type=of.media_type,
        name=of.name,
        size=of.size,
        description=description,
        now=now,
    )


async def describe_attachment(house: House, scope: Scope, id: int, description: str, now: datetime) -> dict[str, Any]:
    """Say what a file shows; as it is from now on.

    One that an answer holds, or a colleague put there, stays as it is: another with the same content takes its place in
    what is being written. Raises NotFound, Invalid.
    """
    scope.check(Permission.SORT)
    line = check_description(description)
    async with house.db.transact(scope.workspace_id) as tx:
        if await store.set_description(tx, id, scope.member_id, line):
            return (await list_described(tx, [id]))[0]
        rows = await store.list_attachments(tx, [id])
        if not rows:
            raise NotFound("There is no such file in this workspace.")
        return await _add_copy(tx, scope, rows[0].conversation_id, rows[0], line, now)


async def add_from_library(
    house: House, scope: Scope, conversation_id: int, kept: int, now: datetime
) -> dict[str, Any]:
    """A file of the workspace's own goes along with an answer here, with its description. Raises NotFound, Impossible."""
    scope.check(Permission.SORT)
    await _check_place(house, scope, conversation_id)
    async with house.db.transact(scope.workspace_id) as tx:
        row = await find_kept(tx, kept)
        return await _add_copy(tx, scope, conversation_id, row, row.description, now)


async def find_kept(tx: Tx, id: int) -> LibraryRow:
    """A file of the workspace's own. Raises NotFound."""
    rows = await store.list_library(tx, id)
    if not rows:
        raise NotFound("There is no such file in the library any more.")
    return rows[0]


def _check_network(network: str) -> None:
    if not TABLE[network].attachments:
        raise Impossible(f"{TABLE[network].name} takes no files with an answer.")


async def read_attachment(house: House, scope: Scope, id: int) -> tuple[AttachmentRow, bytes]:
    """A file with what is in it. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_attachments(tx, [id])
    if not rows:
        raise NotFound("There is no such file in this workspace.")
    return rows[0], await read(house, scope.workspace_id, rows[0].sha256)


async def read(house: House, workspace_id: int, sha256: str) -> bytes:
    """What is in a file that has a row. Raises NotFound when it is lost."""
    try:
        return await asyncio.to_thread(_get_files(house).read, workspace_id, sha256)
    except FileNotFoundError as error:
        raise NotFound("The file is not in its place any more. Tell whoever runs this installation.") from error


async def remove_attachment(house: House, scope: Scope, id: int) -> None:
    """Take one's own file away again. Raises TooLate once an answer holds it, NotAllowed for a colleague's."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_attachments(tx, [id])
        if not rows:
            raise NotFound("There is no such file in this workspace.")
        if rows[0].member_id != scope.member_id:
            raise NotAllowed("Only whoever put it here can take it away.")
        sha256 = await store.remove_attachment(tx, id, scope.member_id)
        if sha256 is None:
            raise TooLate("An answer holds it already.")
        await drop(house, tx, [sha256])


async def drop(house: House, tx: Tx, sha256s: Sequence[str]) -> None:
    """Remove what no file holds any more."""
    await store.lock_files(tx)
    needed = await store.list_needed(tx, sha256s)
    for sha256 in set(sha256s) - needed:
        await asyncio.to_thread(_get_files(house).remove, tx.workspace_id, sha256)


async def sweep(house: House, workspace_id: int, now: datetime) -> int:
    """Take away what was never sent, and what a process that was killed left behind; how many. Run by the worker's clock."""
    if house.files is None:
        return 0
    async with house.db.transact(workspace_id) as tx:
        gone = await store.remove_unused(tx, now - KEPT_FOR)
        await drop(house, tx, gone)
    await asyncio.to_thread(house.files.remove_parts, workspace_id, now - LEFT_BEHIND)
    left = await asyncio.to_thread(house.files.list_kept, workspace_id, now - 3 * LEFT_BEHIND, now - LEFT_BEHIND)
    for first in range(0, len(left), AT_ONCE):
        async with house.db.transact(workspace_id) as tx:
            await drop(house, tx, left[first : first + AT_ONCE])
    return len(gone)


async def hold(tx: Tx, conversation: Mapping[str, Any], ids: Sequence[int], now: datetime) -> list[dict[str, Any]]:
    """An answer in `conversation` (its row) holds these files from now on; as shown.

    Raises Invalid when one is not there or belongs elsewhere, or they are too many; Impossible where the network has
    none.
    """
    if not ids:
        return []
    _check_network(conversation["network"])
    wanted = set(ids)
    if len(wanted) > MOST:
        raise Invalid(f"At most {MOST} files go with one answer.", "attachments")
    rows = await store.list_attachments(tx, sorted(wanted))
    if {r.id for r in rows} != wanted or any(r.conversation_id != conversation["id"] for r in rows):
        raise Invalid("One of the files is not here any more. Take it away and add it again.", "attachments")
    await store.set_attachments_used(tx, sorted(wanted), now)
    return describe(rows, tx.workspace_id)


async def read_outgoing(
    house: House, workspace_id: int, attachments: Sequence[Mapping[str, Any]]
) -> tuple[OutgoingFile, ...]:
    """The files of a message that is about to go out. Raises FileNotFoundError when one is lost."""
    if not attachments:
        return ()
    async with house.db.transact(workspace_id) as tx:
        rows = await store.list_attachments(tx, [a["id"] for a in attachments])
    if len(rows) != len(attachments):
        raise FileNotFoundError("a file of this answer")
    files = _get_files(house)
    return tuple(
        [
            OutgoingFile(
                name=row.name,
                media_type=row.media_type,
                description=row.description,
                content=await asyncio.to_thread(files.read, workspace_id, row.sha256),
            )
            for row in rows
        ]
    )
