"""Links: kept ones by name, short ones in what goes out, and their clicks. Used by the API, answers and ruling."""

import secrets
import string
from datetime import datetime, timedelta
from typing import Any

from sorta.core.errors import Invalid, NotFound
from sorta.core.links import add_tags, check_target, find_links, is_program, replace_links
from sorta.core.permissions import Permission
from sorta.core.texts import check_link_name, list_links
from sorta.services.house import House, Scope
from sorta.store import accounts, links, people, texts
from sorta.store.db import Tx

SLUG_LENGTH = 8
COUNTED_DAYS = 28
_SLUG_LETTERS = string.ascii_letters + string.digits


def get_link_length(house: House) -> int | None:
    """How many characters any link takes up once it is short; None where links stay as they are."""
    return len(house.address) + len("/l/") + SLUG_LENGTH if house.address else None


def make_slug() -> str:
    """What stands in a short link's address."""
    return "".join(secrets.choice(_SLUG_LETTERS) for _ in range(SLUG_LENGTH))


async def shorten(house: House, tx: Tx, text: str, *, account_id: int, member_id: int | None, now: datetime) -> str:
    """The text with its links made short, each with UTM tags for the account's network and handle.

    Raises Invalid for a link that leads somewhere unsafe.
    """
    own = f"{house.address}/l/"
    by: dict[str, str] = {}
    found = {check_target(address) for _, _, address in find_links(text) if not address.startswith(own)}
    if not (found and house.address):
        return text
    account = await accounts.get_account(tx, account_id)
    assert account is not None
    for address in sorted(found):
        target = add_tags(address, source=account.network, campaign=account.handle)
        slug = await links.add_link(
            tx,
            slug=make_slug(),
            target=target,
            account_id=account_id,
            member_id=member_id,
            now=now,
        )
        by[address] = own + slug
    return replace_links(text, by)


async def open_link(
    house: House, slug: str, *, user_agent: str, method: str, member_of: int | None, now: datetime
) -> str:
    """Where a short link leads; the click is counted, a program's and a member's own apart. Raises NotFound.

    `member_of` is a member who is signed in where it was opened.
    """
    async with house.db.connect() as conn:
        found = await links.find_link(conn, slug)
    if found is None:
        raise NotFound("This link leads nowhere (any more).")
    async with house.db.transact(found["workspace_id"]) as tx:
        apart = "program" if is_program(user_agent, method) else None
        if apart is None and member_of is not None:
            members = {m.id for m in await people.list_members(tx)}
            apart = "member" if member_of in members else None
        await links.add_click(tx, found["id"], apart=apart, now=now)
    target: str = found["target"]
    return target


async def list_all(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """The kept links by name, and the short ones with their clicks."""
    async with house.db.transact(scope.workspace_id) as tx:
        kept = await links.list_kept(tx)
        short = await links.list_links(tx, now - timedelta(days=COUNTED_DAYS))
    return {
        "kept": kept,
        "short": [{**one, "address": f"{house.address}/l/{one['slug']}"} for one in short],
        "days": COUNTED_DAYS,
    }


async def set_kept(house: House, scope: Scope, name: str, target: str, now: datetime) -> int:
    """Keep a link under a name; texts that name it lead there from now on. Raises Invalid."""
    scope.check(Permission.MANAGE_REPLIES)
    plain, checked = check_link_name(name), check_target(target.strip())
    async with house.db.transact(scope.workspace_id) as tx:
        return await links.set_kept(tx, name=plain, target=checked, member_id=scope.member_id, now=now)


async def remove_kept(house: House, scope: Scope, id: int) -> None:
    """Keep a link no longer. Raises NotFound, and Invalid while a saved reply names it."""
    scope.check(Permission.MANAGE_REPLIES)
    async with house.db.transact(scope.workspace_id) as tx:
        kept = await links.get_kept(tx, id)
        if kept is None:
            raise NotFound("There is no such link in this workspace.")
        users = [
            row["body"]["name"]
            for row in await texts.list_saved_replies(tx)
            if kept["name"] in list_links(row["body"]["text"])
        ]
        if users:
            raise Invalid(f"Saved replies name it: {', '.join(users)}. Change them first.", "name")
        await links.remove_kept(tx, id)
