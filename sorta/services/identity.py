"""Signing in by the word of a provider (OpenID Connect), and which of its groups work in a workspace as what. Used by the API.

What was asked is sealed into a cookie of the browser that asked, so that nobody can have another's browser answer, and nothing is kept of who never comes
back. A place that a group gives is given, changed and taken with it each time somebody comes by the provider; what was given or taken by hand stays so.
"""

import json
import secrets
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sorta.core.advice import check_address
from sorta.core.errors import Impossible, Invalid, NotFound, SignInRefused
from sorta.core.permissions import Permission, Role, check_owner_stays, check_within
from sorta.core.ports import GrantRefused, IdentityProvider, SaidToBe, Unreachable
from sorta.core.security import Happening
from sorta.core.titles import check_title
from sorta.services import leaving
from sorta.services.house import House, Scope, act_as
from sorta.services.invitations import LONGEST_NAME, make_initials
from sorta.services.members import get_scope_of
from sorta.services.reads import Reads
from sorta.services.roles import list_roles_of, pick_role, read_role
from sorta.services.security_log import log, note, note_sign_in
from sorta.services.sign_in import FREE_FROM, NOBODYS, Entered, count_tries, enter
from sorta.services.tokens import hash_token, make_token
from sorta.store import identity as store
from sorta.store import leaving as leaving_store
from sorta.store import passkeys, people
from sorta.store.db import Conn, Tx
from sorta.store.keyring import NotSealed
from sorta.store.live import tell

#: How long somebody may take at the provider's page.
ASKED_FOR = timedelta(minutes=10)
MOST_GROUPS, LONGEST_GROUP = 200, 255
_PURPOSE = "identity.asked"


def _get_provider(house: House) -> IdentityProvider:
    if house.identity is None:
        raise Impossible("This installation knows no provider to sign in by.")
    return house.identity


def get_name(house: House) -> str | None:
    """What the provider is called, where there is one."""
    return None if house.identity is None else house.identity.name


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Where somebody says who they are, and what their browser keeps meanwhile."""

    address: str
    kept: str


async def ask(house: House, now: datetime) -> Asked:
    """Send somebody to the provider. Raises Impossible, SignInRefused where it does not answer."""
    provider = _get_provider(house)
    # RFC 7636, 4.1: 43 to 128 characters that an address takes as they are.
    said = {"state": make_token(), "nonce": make_token(), "verifier": secrets.token_urlsafe(48)}
    try:
        address = await provider.make_address(**said)
    except Unreachable as error:
        raise SignInRefused(f"{error} Try again later, or sign in another way.") from error
    kept = json.dumps({**said, "until": (now + ASKED_FOR).isoformat()})
    return Asked(address=address, kept=house.keys.seal(_PURPOSE, 0, kept))


async def take(
    house: House,
    response: str,
    kept: str | None,
    came_from: str,
    now: datetime,
    device: str | None = None,
    agent: str = "",
) -> Entered:
    """A session for who comes back from the provider, by the query it sent them with and what their browser `kept`. Raises Impossible, SignInRefused,
    TooManyTries."""
    provider = _get_provider(house)
    tried = f"from:{came_from}"
    async with house.db.connect() as conn:
        await count_tries(conn, {tried: FREE_FROM}, now)
    try:
        asked = json.loads(house.keys.open(_PURPOSE, 0, kept or ""))
    except NotSealed:
        raise SignInRefused("This was not asked for in this browser, or it was used already. Begin again.") from None
    if datetime.fromisoformat(asked["until"]) < now:
        raise SignInRefused("That took longer than ten minutes. Begin again.")
    try:
        said = await provider.take_code(
            response, state=asked["state"], nonce=asked["nonce"], verifier=asked["verifier"], now=now
        )
    except (GrantRefused, Unreachable) as error:
        log.info("security", kind="provider_refused", came_from=came_from, reason=str(error))
        raise SignInRefused(f"{error} You are not signed in.") from error
    left: list[int] = []
    async with house.db.connect() as conn, conn.transaction():
        if not await passkeys.answer(conn, hash_token(asked["nonce"]), now, now + ASKED_FOR):
            raise SignInRefused("This was used already. Begin again.")
        member = await _find_member(house, conn, provider, said, came_from, now)
        act_as(member.id, came_from)
        left = await _place(house, conn, provider, member, said.groups, now)
        await store.set_login_used(conn, provider.issuer, said.subject, now)
        await people.take_back_try(conn, [tried])
        known = device is not None and await people.is_device_of(conn, hash_token(device), member.email)
        entered = await enter(conn, member.id, came_from, now, device if known else None, agent)
    for workspace_id in left:
        await leaving.pass_on(house, workspace_id, now)
    return entered


async def _find_member(
    house: House, conn: Conn, provider: IdentityProvider, said: SaidToBe, came_from: str, now: datetime
) -> people.MemberForSignIn:
    """Who somebody is here: by the provider's own name for them, or the first time by the address it has verified; else somebody new, where one of
    their groups works anywhere. Raises SignInRefused."""
    member = await store.find_login(conn, provider.issuer, said.subject)
    if member is not None:
        return member
    if not said.email or not said.is_verified:
        raise SignInRefused(f"{provider.name} has not verified your mail address, by which you are known here.")
    await people.lock_address(conn, said.email)
    member = await people.get_member_for_sign_in(conn, said.email)
    if member is None:
        member = await _add_member(house, conn, provider, said)
    if not await store.add_login(conn, provider.issuer, said.subject, member.id, now):
        raise SignInRefused(
            f"{provider.name} knows the member with your address as somebody else. Ask who manages members."
        )
    await note_sign_in(conn, member.id, Happening.PROVIDER_LINKED, came_from, provider.name)
    return member


async def _add_member(house: House, conn: Conn, provider: IdentityProvider, said: SaidToBe) -> people.MemberForSignIn:
    assert said.email is not None
    try:
        email = check_address(said.email).lower()
        name = check_title(said.name or email.partition("@")[0], "A name", LONGEST_NAME)
    except Invalid as error:
        raise SignInRefused(
            f"{provider.name} says something of you that cannot be kept here. {error.message}"
        ) from error
    for workspace_id in await people.list_working_ids(conn):
        tx = await house.db.enter(conn, workspace_id)
        if any(group.name in said.groups for group in await store.list_groups(tx)):
            break
    else:
        raise SignInRefused(
            f"Nobody here has the address {email}, and none of your groups at {provider.name} works here. Ask to be invited."
        )
    values = {
        "organisation_id": await people.get_organisation_of(tx),
        "email": email,
        "name": name,
        "initials": make_initials(name),
        "password_hash": NOBODYS,
    }
    await people.add_member_of_provider(conn, values)
    member = await people.get_member_for_sign_in(conn, email)
    assert member is not None
    return member


async def _place(
    house: House,
    conn: Conn,
    provider: IdentityProvider,
    member: people.MemberForSignIn,
    groups: Collection[str],
    now: datetime,
) -> list[int]:
    """Give, change and take the places of a member that come by groups; the workspaces they left."""
    left = []
    for workspace_id in await people.list_working_of(conn, member.organisation_id):
        tx = await house.db.enter(conn, workspace_id)
        given = next((g for g in await store.list_groups(tx) if g.name in groups), None)
        place = await store.get_place(tx, member.id)
        if (place is None and given is None) or (place is not None and not place["by_group"]):
            continue
        if place is None:
            former = {row.id: row.let_go_by for row in await leaving_store.list_former(tx)}
            # Who was let go by a colleague comes back by a colleague.
            if former.get(member.id, member.id) != member.id:
                continue
        held = await people.lock_roles(tx)
        if given is None:
            if await _leave(tx, member, held, provider, now):
                left.append(workspace_id)
        elif place is None or place["role"] != given.role:
            try:
                check_owner_stays(held, member.id, given.role)
            except Invalid:
                log.warning("the only owner keeps their role", workspace=workspace_id, member=member.id)
                continue
            await people.set_role(tx, member.id, given.role)
            await store.set_by_group(tx, member.id)
            scope = await get_scope_of(Reads(tx), member.id)
            what = f"{given.name} of {provider.name}, as {given.role_name}"
            await note(tx, scope, Happening.PLACE_GIVEN, what, role=given.role)
            await tell(tx, "roles")
    return left


async def _leave(
    tx: Tx,
    member: people.MemberForSignIn,
    held: dict[int, str],
    provider: IdentityProvider,
    now: datetime,
) -> bool:
    owners = sorted(id for id, role in held.items() if role == Role.OWNER and id != member.id)
    if not owners:
        log.warning("the only owner stays", workspace=tx.workspace_id, member=member.id)
        return False
    scope = await get_scope_of(Reads(tx), member.id)
    await note(tx, scope, Happening.PLACE_GONE, provider.name)
    await leaving_store.let_go(
        tx,
        member.id,
        by=member.id,
        to_owner=None,
        to_team=None,
        follow_ups_to=owners[0],
        now=now,
    )
    await tell(tx, "roles")
    return True


async def list_groups(house: House, scope: Scope) -> dict[str, Any]:
    """What the provider is called, and which of its groups work here as what. Raises NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_groups(tx)
    return {
        "provider": get_name(house),
        "groups": [{"id": g.id, "name": g.name, "role": g.role, "role_name": g.role_name} for g in rows],
    }


async def add_group(house: House, scope: Scope, name: str, role: str) -> int:
    """From now on who is in this group at the provider works here, in a role that holds no more than one's own. Raises Invalid, NotFound, NotAllowed,
    Impossible."""
    scope.check(Permission.MANAGE_MEMBERS)
    provider = _get_provider(house)
    called = check_title(name, "A group’s name", LONGEST_GROUP)
    async with house.db.transact(scope.workspace_id) as tx:
        picked = pick_role(await list_roles_of(tx), role)
        check_within(scope.role, picked)
        if len(await store.list_groups(tx)) >= MOST_GROUPS:
            raise Invalid(f"At most {MOST_GROUPS} groups.", "name")
        id = await store.add_group(tx, called, role)
        if id is None:
            raise Invalid("That group works here already. Remove it first to give it another role.", "name")
        await note(tx, scope, Happening.GROUP_WORKS, f"{called} of {provider.name} as {picked.name}", role=role)
    return id


async def remove_group(house: House, scope: Scope, id: int) -> None:
    """Who is in this group works here no more because of it, from when they come by the provider again. Raises NotFound, NotAllowed when it gives more
    than one holds oneself."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        group = next((g for g in await store.list_groups(tx) if g.id == id), None)
        if group is None:
            raise NotFound("There is no such group here (any more).")
        check_within(scope.role, read_role(group.role, group.role_name, group.permissions))
        await store.remove_group(tx, id)
        await note(tx, scope, Happening.GROUP_WORKS_NO_MORE, group.name)
