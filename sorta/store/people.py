"""Members, sessions and their workspaces. Used by services.sign_in and the acts."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn, Tx

SQL = db.Statements("people")


@dataclass(frozen=True, kw_only=True)
class MemberForSignIn:
    id: int
    organisation_id: int
    name: str
    initials: str
    email: str
    password_hash: str
    has_password: bool


@dataclass(frozen=True, kw_only=True)
class Session:
    member_id: int
    name: str
    initials: str
    email: str
    has_password: bool
    created_at: datetime
    whole: bool
    has_second: bool
    screen: dict[str, Any]


@dataclass(frozen=True, kw_only=True)
class WorkspaceRow:
    id: int
    name: str
    time_zone: str
    role: str
    role_name: str
    permissions: list[str]
    limited: bool
    needs_second: bool
    description: str
    archived_at: datetime | None
    languages: list[str]
    colour: str | None
    picture: str | None
    send_settles: bool


@dataclass(frozen=True, kw_only=True)
class MemberRow:
    id: int
    name: str
    initials: str
    role: str
    role_name: str
    permissions: list[str]
    limited: bool


async def get_member_for_sign_in(conn: Conn, email: str) -> MemberForSignIn | None:
    return await db.fetch_one(conn, MemberForSignIn, SQL.get_member_for_sign_in, {"email": email})


async def add_session(
    conn: Conn,
    *,
    token_hash: bytes,
    member_id: int,
    now: datetime,
    expires_at: datetime,
    whole: bool,
    came_from: str,
    agent: str,
) -> None:
    values = {
        "token_hash": token_hash,
        "member_id": member_id,
        "now": now,
        "expires_at": expires_at,
        "whole": whole,
        "came_from": came_from,
        "agent": agent,
    }
    await db.execute(conn, SQL.add_session, values)


async def delete_session(conn: Conn, token_hash: bytes) -> int | None:
    """Whose it was."""
    member_id: int | None = await db.fetch_value(conn, SQL.delete_session, {"token_hash": token_hash})
    return member_id


async def touch_session(conn: Conn, token_hash: bytes, now: datetime) -> None:
    await db.execute(conn, SQL.touch_session, {"token_hash": token_hash, "now": now})


async def set_device(conn: Conn, token_hash: bytes, member_id: int, now: datetime) -> None:
    await db.execute(conn, SQL.set_device, {"token_hash": token_hash, "member_id": member_id, "now": now})


async def is_device_of(conn: Conn, token_hash: bytes, email: str) -> bool:
    return bool(await db.fetch_value(conn, SQL.is_device_of, {"token_hash": token_hash, "email": email}))


async def get_session(conn: Conn, token_hash: bytes, now: datetime, idle_since: datetime) -> Session | None:
    values = {"token_hash": token_hash, "now": now, "idle_since": idle_since}
    return await db.fetch_one(conn, Session, SQL.get_session, values)


async def get_scope(
    conn: Conn, token_hash: bytes, workspace_id: int, now: datetime, idle_since: datetime
) -> dict[str, Any] | None:
    """Session, role and zone in one call, in the workspace of the transaction."""
    values = {"token_hash": token_hash, "workspace_id": workspace_id, "now": now, "idle_since": idle_since}
    rows = await db.fetch_dicts(conn, SQL.get_scope, values)
    return rows[0] if rows else None


async def set_limited(tx: Tx, member_id: int, *, limited: bool) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "limited": limited}
    await db.execute(tx, SQL.set_limited, values)


async def list_workspaces(conn: Conn, member_id: int) -> list[WorkspaceRow]:
    async with conn.transaction():
        await conn.execute("select set_config('app.member_id', %s, true)", [str(member_id)])
        return await db.fetch_all(conn, WorkspaceRow, SQL.list_workspaces, {"member_id": member_id})


async def list_all_workspace_ids(conn: Conn) -> list[int]:
    return [row["id"] for row in await db.fetch_dicts(conn, SQL.list_all_workspace_ids, {})]


async def list_working_ids(conn: Conn) -> list[int]:
    return [row["id"] for row in await db.fetch_dicts(conn, SQL.list_working_ids, {})]


async def count_workspaces(conn: Conn, organisation_id: int) -> int:
    return int(await db.fetch_value(conn, SQL.count_workspaces, {"organisation_id": organisation_id}))


async def set_workspace(
    tx: Tx,
    *,
    name: str,
    description: str,
    languages: Sequence[str],
    colour: str | None,
    send_settles: bool,
) -> None:
    values = {
        "workspace_id": tx.workspace_id,
        "name": name,
        "description": description,
        "languages": list(languages),
        "colour": colour,
        "send_settles": send_settles,
    }
    await db.execute(tx, SQL.set_workspace, values)


async def archive(tx: Tx, member_id: int, reason: str, now: datetime) -> bool:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "reason": reason, "now": now}
    return await db.fetch_value(tx, SQL.archive, values) is not None


async def bring_back(tx: Tx) -> bool:
    return await db.fetch_value(tx, SQL.bring_back, {"workspace_id": tx.workspace_id}) is not None


async def get_workspace(tx: Tx) -> dict[str, Any] | None:
    """Name, time zone and what it is about."""
    rows = await db.fetch_dicts(tx, SQL.get_workspace, {"workspace_id": tx.workspace_id})
    return rows[0] if rows else None


async def list_members(tx: Tx) -> list[MemberRow]:
    return await db.fetch_all(tx, MemberRow, SQL.list_members, {"workspace_id": tx.workspace_id})


async def list_names(tx: Tx) -> dict[int, str]:
    """Of who works here, and of who did: what the past is told with."""
    return {
        row["id"]: row["name"] for row in await db.fetch_dicts(tx, SQL.list_names, {"workspace_id": tx.workspace_id})
    }


async def list_about(tx: Tx) -> list[dict[str, Any]]:
    """What who manages members sees of each."""
    return await db.fetch_dicts(tx, SQL.list_about, {"workspace_id": tx.workspace_id})


async def lock_tries(conn: Conn, key: str, now: datetime) -> tuple[int, datetime]:
    """How often, and when last."""
    (row,) = await db.fetch_dicts(conn, SQL.lock_tries, {"key": key, "now": now})
    return row["tries"], row["last_at"]


async def take_back_try(conn: Conn, keys: list[str]) -> None:
    await db.execute(conn, SQL.take_back_try, {"keys": keys})


async def add_failure(conn: Conn, key: str, now: datetime) -> None:
    await db.execute(conn, SQL.add_failure, {"key": key, "now": now})


async def delete_failures(conn: Conn, keys: list[str]) -> None:
    await db.execute(conn, SQL.delete_failures, {"keys": keys})


async def add_organisation(conn: Conn, name: str) -> int:
    id: int = await db.fetch_value(conn, SQL.add_organisation, {"name": name})
    return id


async def add_workspace(conn: Conn, organisation_id: int, name: str, time_zone: str) -> int:
    values = {"organisation_id": organisation_id, "name": name, "time_zone": time_zone}
    id: int = await db.fetch_value(conn, SQL.add_workspace, values)
    return id


async def add_member(conn: Conn, values: dict[str, Any]) -> int:
    id: int = await db.fetch_value(conn, SQL.add_member, values)
    return id


async def add_member_of_provider(conn: Conn, values: dict[str, Any]) -> None:
    await db.execute(conn, SQL.add_member_of_provider, values)


async def list_organisations(conn: Conn) -> list[tuple[int, str]]:
    return [(row["id"], row["name"]) for row in await db.fetch_dicts(conn, SQL.list_organisations, {})]


async def lock_address(conn: Conn, email: str) -> None:
    await db.execute(conn, SQL.lock_address, {"email": email})


async def list_working_of(conn: Conn, organisation_id: int) -> list[int]:
    rows = await db.fetch_dicts(conn, SQL.list_working_of, {"organisation_id": organisation_id})
    return [row["id"] for row in rows]


async def get_organisation_of(tx: Tx) -> int:
    return int(await db.fetch_value(tx, SQL.get_organisation_of, {"workspace_id": tx.workspace_id}))


async def list_roles(tx: Tx) -> list[dict[str, Any]]:
    return await db.fetch_dicts(tx, SQL.list_roles, {"workspace_id": tx.workspace_id})


async def add_role(tx: Tx, *, key: str, name: str, permissions: list[str]) -> None:
    values = {"workspace_id": tx.workspace_id, "key": key, "name": name, "permissions": permissions}
    await db.execute(tx, SQL.add_role, values)


async def change_role(tx: Tx, *, key: str, name: str, permissions: list[str]) -> None:
    values = {"workspace_id": tx.workspace_id, "key": key, "name": name, "permissions": permissions}
    await db.execute(tx, SQL.change_role, values)


async def delete_role(tx: Tx, key: str) -> None:
    await db.execute(tx, SQL.delete_role, {"workspace_id": tx.workspace_id, "key": key})


async def lock_roles(tx: Tx) -> dict[int, str]:
    rows = await db.fetch_dicts(tx, SQL.lock_roles, {"workspace_id": tx.workspace_id})
    return {row["member_id"]: row["role"] for row in rows}


async def set_role(tx: Tx, member_id: int, role: str) -> None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id, "role": role}
    await db.execute(tx, SQL.set_role, values)


async def set_screen(conn: Conn, member_id: int, wish: dict[str, Any]) -> None:
    await db.execute(conn, SQL.set_screen, {**wish, "member_id": member_id})


async def set_password(conn: Conn, member_id: int, password_hash: str, token_hash: bytes) -> None:
    values = {"member_id": member_id, "password_hash": password_hash, "token_hash": token_hash}
    await db.execute(conn, SQL.set_password, values)


async def add_password_link(conn: Conn, token_hash: bytes, member_id: int, now: datetime, expires_at: datetime) -> None:
    values = {"token_hash": token_hash, "member_id": member_id, "now": now, "expires_at": expires_at}
    await db.execute(conn, SQL.add_password_link, values)


async def find_password_link(conn: Conn, token_hash: bytes, now: datetime) -> MemberForSignIn | None:
    values = {"token_hash": token_hash, "now": now}
    return await db.fetch_one(conn, MemberForSignIn, SQL.find_password_link, values)


async def use_password_link(conn: Conn, token_hash: bytes, now: datetime) -> None:
    await db.execute(conn, SQL.use_password_link, {"token_hash": token_hash, "now": now})
