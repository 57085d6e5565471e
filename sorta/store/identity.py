"""By what names a provider knows members, and what its groups are here. Used by services.identity."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sorta.store import db
from sorta.store.db import Conn, Tx
from sorta.store.people import MemberForSignIn

SQL = db.Statements("identity")


@dataclass(frozen=True, kw_only=True)
class GroupRow:
    """A group of the provider, and the role it gives in a workspace."""

    id: int
    name: str
    role: str
    role_name: str
    permissions: list[str]


async def find_login(conn: Conn, issuer: str, subject: str) -> MemberForSignIn | None:
    return await db.fetch_one(conn, MemberForSignIn, SQL.find_login, {"issuer": issuer, "subject": subject})


async def add_login(conn: Conn, issuer: str, subject: str, member_id: int, now: datetime) -> bool:
    """False where the provider knows the member by another name, or another member by this one."""
    values = {"issuer": issuer, "subject": subject, "member_id": member_id, "now": now}
    return await db.fetch_value(conn, SQL.add_login, values) is not None


async def set_login_used(conn: Conn, issuer: str, subject: str, now: datetime) -> None:
    await db.execute(conn, SQL.set_login_used, {"issuer": issuer, "subject": subject, "now": now})


async def has_login(conn: Conn, issuer: str, member_id: int) -> bool:
    return bool(await db.fetch_value(conn, SQL.has_login, {"issuer": issuer, "member_id": member_id}))


async def list_groups(tx: Tx) -> list[GroupRow]:
    return await db.fetch_all(tx, GroupRow, SQL.list_groups, {"workspace_id": tx.workspace_id})


async def add_group(tx: Tx, name: str, role: str) -> int | None:
    """None where it is named already."""
    values = {"workspace_id": tx.workspace_id, "name": name, "role": role}
    id: int | None = await db.fetch_value(tx, SQL.add_group, values)
    return id


async def remove_group(tx: Tx, id: int) -> str | None:
    """What it was called; None where there is none."""
    name: str | None = await db.fetch_value(tx, SQL.remove_group, {"workspace_id": tx.workspace_id, "id": id})
    return name


async def get_place(tx: Tx, member_id: int) -> dict[str, Any] | None:
    values = {"workspace_id": tx.workspace_id, "member_id": member_id}
    rows = await db.fetch_dicts(tx, SQL.get_place, values)
    return rows[0] if rows else None


async def set_by_group(tx: Tx, member_id: int) -> None:
    await db.execute(tx, SQL.set_by_group, {"workspace_id": tx.workspace_id, "member_id": member_id})
