"""A workspace carried whole to another installation, in one file. Used by main's commands `export` and `import`.

The file is a zip: `manifest.json` says what it is, `members.jsonl` who is named in it, `rows/<table>.jsonl` holds the rows, `files/` what was sent along. Nothing that lets anybody in goes along: no
passwords, tokens or secrets. Where it comes in, accounts are disconnected and everything outgoing is held until somebody there says otherwise, so that nothing goes out twice.
"""

import json
import zipfile
from collections.abc import Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, BinaryIO

from sorta.core.carrying import BLANK, STAYS, carry
from sorta.core.errors import Impossible, Invalid, NotFound
from sorta.core.permissions import Role
from sorta.services.checking import find_differences
from sorta.services.house import House
from sorta.services.links import make_slug
from sorta.services.sealing import DESK_HOOK_SECRET, DESK_TOKEN, HOOK_SECRET, TOKEN
from sorta.services.sign_in import NOBODYS
from sorta.services.signatures import make_hook_secret
from sorta.store import carrying as store
from sorta.store import people
from sorta.store.carrying import Table
from sorta.store.db import Conn, Tx

FORM = 1
#: Rows written at once, and bytes of one row: none has come near.
_AT_ONCE, _LONGEST = 1000, 64 * 2**20
_HELD = "It was brought in from another installation. Look at its accounts, then let it go on."
#: Sealed here, and not there.
_SECRETS = {
    "account": {"token": TOKEN, "hook_secret": HOOK_SECRET},
    "support_desk": {"token": DESK_TOKEN, "hook_secret": DESK_HOOK_SECRET},
}


@dataclass
class Carried:
    """What came of it: the workspace, how many rows of each table and files, who was made a member, how often something named what is not there (any more), by
    its kind, and which trails do not lead to what stands."""

    workspace_id: int = 0
    name: str = ""
    rows: dict[str, int] = field(default_factory=dict)
    files: int = 0
    new_members: list[str] = field(default_factory=list)
    lost: dict[str, int] = field(default_factory=dict)
    mismatches: list[int] = field(default_factory=list)


async def carry_out(house: House, workspace_id: int, to: BinaryIO, now: datetime) -> Carried:
    """Write a workspace into a file, as of one moment. It blocks, and is for a process of its own. Raises NotFound."""
    done = Carried(workspace_id=workspace_id)
    members: set[int] = set()
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED) as whole:
        async with house.db.transact(workspace_id, steady=True) as tx:
            row = await store.get_workspace(tx)
            if row is None:
                raise NotFound(f"There is no workspace {workspace_id}.")
            done.name = row["name"]
            for table in await store.list_tables(tx):
                if table.name not in STAYS:
                    await _write_table(house, tx, table, whole, members, done)
            with whole.open("members.jsonl", "w") as out:
                for one in await store.list_members(tx, sorted(members)):
                    out.write(_write(one))
            manifest = {
                "form": FORM,
                "at": now.isoformat(),
                "migrations": await store.list_migrations(tx),
                "workspace": row,
                "rows": done.rows,
                "files": done.files,
            }
        whole.writestr("manifest.json", json.dumps(manifest, indent=1))
    return done


async def _write_table(
    house: House,
    tx: Tx,
    table: Table,
    whole: zipfile.ZipFile,
    members: set[int],
    done: Carried,
) -> None:
    def note(kind: str, number: int) -> int:
        if kind == "member":
            members.add(number)
        return number

    files, count = set(), 0
    with whole.open(f"rows/{table.name}.jsonl", "w", force_zip64=True) as out:
        async for row in store.read_rows(tx, table):
            carry(table.name, row, note)
            out.write(_write({**row, **dict.fromkeys(_SECRETS.get(table.name, {}), "")}))
            count += 1
            if table.name in ("attachment", "library_file"):
                files.add(row["sha256"])
    done.rows[table.name] = count
    for sha256 in sorted(files):
        try:
            content = house.files.read(tx.workspace_id, sha256) if house.files is not None else None
        except FileNotFoundError:
            # It went with the answer it was for, and its row stays.
            content = None
        if content is not None:
            whole.writestr(f"files/{sha256}", content)
            done.files += 1


def _write(row: Mapping[str, Any]) -> bytes:
    return json.dumps(row, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"


async def carry_in(house: House, file: BinaryIO, now: datetime, organisation: str | None = None) -> Carried:
    """Bring a workspace in from a file, whole or not at all: into this installation's organisation, the one of this name where there are several, or a new one where there is none. Who is
    named in it and has no account here gets one without a password. It blocks, and is for a process of its own. Raises Invalid, Impossible with why it cannot come in."""
    try:
        with zipfile.ZipFile(file) as whole:
            manifest = _read_manifest(whole)
            done = Carried(name=str(manifest["workspace"]["name"]))
            async with house.db.connect() as conn, conn.transaction():
                if await store.list_migrations(conn) != manifest["migrations"]:
                    raise Impossible(
                        "It was written by another version of Sorta. Bring both to the same one, and write it again."
                    )
                into = await _find_organisation(conn, organisation, done.name)
                members = await _bring_members(conn, into, whole, done)
                row = manifest["workspace"]
                done.workspace_id = await people.add_workspace(conn, into, row["name"], row["time_zone"])
                tx = await house.db.enter(conn, done.workspace_id)
                await store.set_workspace(tx, row, reason=_HELD, now=now)
                await _bring_rows(house, tx, whole, members, done, now)
                _bring_files(house, whole, done)
    except (zipfile.BadZipFile, KeyError, TypeError, ValueError, EOFError) as error:
        raise Invalid(f"The file cannot be read: {error}.", "file") from error
    except store.AlreadyHere as error:
        raise Impossible(
            f"Something of it is here already ({error}): it was brought in before, or comes from here."
        ) from error
    done.mismatches = list(await find_differences(house, done.workspace_id, now))
    return done


def _read_manifest(whole: zipfile.ZipFile) -> dict[str, Any]:
    manifest: dict[str, Any] = json.loads(whole.read("manifest.json"))
    if manifest["form"] != FORM:
        raise Impossible("This file was made by another version of Sorta.")
    return manifest


async def _find_organisation(conn: Conn, name: str | None, fallback: str) -> int:
    there = await people.list_organisations(conn)
    if name is None and not there:
        return await people.add_organisation(conn, fallback)
    found = [id for id, called in there if name in (None, called)]
    if len(found) != 1:
        names = ", ".join(called for _, called in there)
        raise Invalid(f"Say which organisation it comes to: {names}.", "organisation")
    return found[0]


async def _bring_members(conn: Conn, into: int, whole: zipfile.ZipFile, done: Carried) -> dict[int, int]:
    found = {}
    for one in _read(whole, "members.jsonl"):
        email = str(one["email"]).lower()
        await people.lock_address(conn, email)
        member = await people.get_member_for_sign_in(conn, email)
        if member is None:
            values = {"organisation_id": into, "email": email, "name": one["name"], "initials": one["initials"]}
            await people.add_member_of_provider(conn, {**values, "password_hash": NOBODYS})
            member = await people.get_member_for_sign_in(conn, email)
            assert member is not None
            done.new_members.append(email)
        elif member.organisation_id != into:
            raise Impossible(f"{email} has an account with another organisation here.")
        found[int(one["id"])] = member.id
    return found


def _read(whole: zipfile.ZipFile, name: str) -> Iterator[dict[str, Any]]:
    with closing(whole.open(name)) as lines:
        while line := lines.readline(_LONGEST):
            yield json.loads(line)


async def _bring_rows(
    house: House, conn: Conn, whole: zipfile.ZipFile, members: dict[int, int], done: Carried, now: datetime
) -> None:
    tables = [table for table in await store.list_tables(conn) if table.name not in STAYS]
    numbers: dict[str, dict[int, int]] = {"member": members}
    for table in tables:
        if table.numbers:
            there = [int(row["id"]) for row in _read(whole, f"rows/{table.name}.jsonl")]
            here = await store.take_numbers(conn, table.name, len(there))
            numbers[table.name] = dict(zip(there, here, strict=True))

    def move(kind: str, number: int) -> int | None:
        found = numbers[kind].get(number)
        if found is None:
            done.lost[kind] = done.lost.get(kind, 0) + 1
        return found

    for table in tables:
        waiting: list[dict[str, Any]] = []
        count = 0
        for row in _read(whole, f"rows/{table.name}.jsonl"):
            if set(row) != set(table.columns):
                raise Invalid(f"A row of {table.name} has other columns.", "file")
            waiting.append(await _settle(house, conn, table.name, carry(table.name, row, move), done, now))
            if len(waiting) >= _AT_ONCE:
                await store.add_rows(conn, table, waiting)
                waiting.clear()
            count += 1
        if waiting:
            await store.add_rows(conn, table, waiting)
        done.rows[table.name] = count


async def _settle(
    house: House, conn: Conn, table: str, row: dict[str, Any], done: Carried, now: datetime
) -> dict[str, Any]:
    """A row as it is here: of this workspace, without what stayed there."""
    row |= {"workspace_id": done.workspace_id, **BLANK.get(table, {})}
    if table in _SECRETS:
        token, secret = _SECRETS[table]["token"], _SECRETS[table]["hook_secret"]
        row["token"] = house.keys.seal(token, done.workspace_id, "none")
        row["hook_secret"] = house.keys.seal(secret, done.workspace_id, make_hook_secret())
    if table == "account":
        row["disconnected_at"] = row["disconnected_at"] or now.isoformat()
    if table == "draw":
        # Nobody reads the seed of a draw that is open, so what was promised with it cannot be kept elsewhere.
        row["seed"] = (row["certificate"] or {}).get("seed", "")
        if row["drawn_at"] is None and row["cancelled_at"] is None:
            row["cancelled_at"] = now.isoformat()
    if table == "link" and await store.has_slug(conn, row["slug"]):
        row["slug"] = make_slug()
    return row


def _bring_files(house: House, whole: zipfile.ZipFile, done: Carried) -> None:
    names = [name for name in whole.namelist() if name.startswith("files/")]
    if names and house.files is None:
        raise Impossible("Files go along, and this installation keeps none: set SORTA_FILES.")
    for name in names:
        assert house.files is not None
        # Kept under the hash of what is in it, whatever the file calls it.
        house.files.add(done.workspace_id, whole.read(name))
        done.files += 1


async def list_owners(house: House, workspace_id: int) -> list[str]:
    """The addresses of a workspace's Owners."""
    async with house.db.transact(workspace_id) as tx:
        owners = [m.id for m in await people.list_members(tx) if m.role == Role.OWNER]
        return [one["email"] for one in await store.list_members(tx, owners)]
