"""Members' passkeys, and which challenges were answered. Used by services.passkeys."""

from dataclasses import dataclass
from datetime import datetime

from sorta.store import db
from sorta.store.db import Conn

SQL = db.Statements("passkeys")


@dataclass(frozen=True, kw_only=True)
class PasskeyRow:
    id: int
    member_id: int
    credential: bytes
    sign_count: int
    name: str
    made_at: datetime
    used_at: datetime | None


@dataclass(frozen=True, kw_only=True)
class FoundPasskey(PasskeyRow):
    user_handle: bytes
    email: str


async def list_passkeys(conn: Conn, member_id: int) -> list[PasskeyRow]:
    return await db.fetch_all(conn, PasskeyRow, SQL.list_passkeys, {"member_id": member_id})


async def find_passkey(conn: Conn, credential_id: bytes) -> FoundPasskey | None:
    return await db.fetch_one(conn, FoundPasskey, SQL.find_passkey, {"credential_id": credential_id})


async def get_user(conn: Conn, member_id: int) -> bytes:
    return bytes(await db.fetch_value(conn, SQL.get_user, {"member_id": member_id}))


async def add_passkey(
    conn: Conn, member_id: int, *, credential_id: bytes, credential: bytes, sign_count: int, name: str, now: datetime
) -> bool:
    """False where it is somebody's already."""
    values = {
        "member_id": member_id,
        "credential_id": credential_id,
        "credential": credential,
        "sign_count": sign_count,
        "name": name,
        "now": now,
    }
    return await db.fetch_value(conn, SQL.add_passkey, values) is not None


async def set_used(conn: Conn, id: int, sign_count: int, now: datetime) -> None:
    await db.execute(conn, SQL.set_used, {"id": id, "sign_count": sign_count, "now": now})


async def remove_passkey(conn: Conn, member_id: int, id: int) -> str | None:
    """What it was called; None where there is none."""
    name: str | None = await db.fetch_value(conn, SQL.remove_passkey, {"member_id": member_id, "id": id})
    return name


async def answer(conn: Conn, challenge_hash: bytes, now: datetime, expires_at: datetime) -> bool:
    """Whether this is a challenge's first answer."""
    values = {"challenge_hash": challenge_hash, "now": now, "expires_at": expires_at}
    return await db.fetch_value(conn, SQL.answer, values) is not None
