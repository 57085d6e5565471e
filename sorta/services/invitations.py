"""Coming in without an account yet: the first Owner by the link that `init` prints, colleagues by one that is mailed or handed over.

An invitation is worth what its maker may do when it is taken: who may not manage members any more, or holds less than the role, has their
links lead nowhere. Used by main, the API and duties.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

import psycopg

from sorta.core.advice import check_address
from sorta.core.errors import Invalid, NotAllowed, NotFound, TooLate
from sorta.core.permissions import HeldRole, Permission, Role, check_within
from sorta.core.ports import Letter
from sorta.core.retry import GiveUp, TryAgain
from sorta.core.security import Happening
from sorta.core.titles import check_title
from sorta.services import workspaces
from sorta.services.groups import check_groups, check_limit
from sorta.services.groups import place as put
from sorta.services.hours import check_zone
from sorta.services.house import House, Scope, act_as
from sorta.services.members import get_scope_of
from sorta.services.organisation import open_workspace
from sorta.services.reads import Reads
from sorta.services.roles import list_roles_of, pick_role
from sorta.services.sealing import INVITATION_TOKEN, seal_row
from sorta.services.security_log import note
from sorta.services.sending import attempt
from sorta.services.sign_in import Entered, enter, make_hash, sign_in
from sorta.services.tokens import hash_token, make_token
from sorta.store import groups as group_store
from sorta.store import invitations as store
from sorta.store import people, sorting
from sorta.store.db import Conn, Tx
from sorta.store.live import tell

#: How long the links lead anywhere.
FIRST_FOR, INVITED_FOR = timedelta(days=1), timedelta(days=7)
MOST_AT_ONCE, MOST_PENDING = 100, 500
LONGEST_NAME = 80
#: Nobody else mails one while it is under way; after so long it is given up, and the link can still be handed over.
LEASE = timedelta(minutes=2)
_AT_ONCE = 20
_GONE = "This link leads nowhere (any more): it was used, taken back, or its time is over. Ask for a new one."
#: What stands between addresses, however they were pasted; and an address in angle brackets after a name.
_BETWEEN = re.compile(r"[,;\s]+")
_NAMED = re.compile(r"<([^<>\s]{1,300})>")
_WITH_NAME = re.compile(r'(?:"[^"\n]{0,100}"\s{0,9}|[^,;<>"\n]{0,100})<[^<>\s]{1,300}>')


def make_first(conninfo: str, now: datetime) -> str | None:
    """What stands in the link of the first Owner, made as the owner of the tables; None where somebody has an account already."""
    token = make_token()

    with psycopg.connect(conninfo) as conn:
        if conn.execute("select exists (select from member)").fetchone() == (True,):
            return None
        conn.execute("update invitation set cancelled_at = %s where workspace_id is null and taken_at is null", [now])
        conn.execute(
            "insert into invitation (token_hash, made_at, expires_at, mail_state) values (%s, %s, %s, 'none')",
            [hash_token(token), now, now + FIRST_FOR],
        )
    return token


def read_addresses(text: str) -> tuple[list[str], list[str]]:
    """The addresses of a text, whatever separates them, each once; and what in it is none."""
    found: dict[str, None] = {}
    wrong: list[str] = []
    # 'Ana Reis <ana@example.org>, ...': of those with a name the address is what stands in brackets.
    named = _NAMED.findall(text)
    rest = _WITH_NAME.sub(" ", text) if named else text
    for said in [*named, *(part for part in _BETWEEN.split(rest) if part)]:
        try:
            found[check_address(said).lower()] = None
        except Invalid:
            wrong.append(said[:100])
    return list(found), wrong


@dataclass
class Invited:
    """What became of each address: invited, in already, come in at once (they have an account), or no address."""

    invited: list[str] = field(default_factory=list)
    already: list[str] = field(default_factory=list)
    joined: list[str] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)


@dataclass(frozen=True, kw_only=True)
class Place:
    """What somebody is from when they come in: their role, their groups and teams, and whether they see their groups' accounts only."""

    role: str
    limited: bool = False
    groups: Sequence[int] = ()
    teams: Sequence[int] = ()


async def _check_place(tx: Tx, scope: Scope, place: Place) -> HeldRole:
    """What its role holds. Raises Invalid, NotAllowed, NotFound."""
    role = pick_role(await list_roles_of(tx), place.role)
    check_within(scope.role, role)
    check_limit(place.role, limited=place.limited)
    await check_groups(tx, place.groups)
    if not set(place.teams) <= {t["id"] for t in await sorting.list_teams(tx)}:
        raise Invalid("There is no such team in this workspace.", "teams")
    return role


async def _give_place(tx: Tx, member_id: int, place: Place) -> None:
    """A member with what was meant for them, as far as it is still there."""
    await people.set_role(tx, member_id, place.role)
    groups = {g["id"] for g in await group_store.list_groups(tx)}
    limited = place.limited and place.role != Role.OWNER
    await put(tx, member_id, place.role, limited=limited, groups=groups & set(place.groups))
    await sorting.join_teams(tx, member_id, place.teams)


async def invite(house: House, scope: Scope, text: str, place: Place, now: datetime) -> Invited:
    """Invite everybody whose address stands in a text to this place; who was invited and has not come gets a new link. Raises Invalid,
    NotAllowed, NotFound."""
    scope.check(Permission.MANAGE_MEMBERS)
    addresses, wrong = read_addresses(text)
    if not addresses:
        raise Invalid("Write at least one mail address, such as name@example.org.", "emails")
    if len(addresses) > MOST_AT_ONCE:
        raise Invalid(f"At most {MOST_AT_ONCE} people at once.", "emails")
    found = Invited(wrong=wrong)
    async with house.db.transact(scope.workspace_id) as tx:
        role = await _check_place(tx, scope, place)
        if await store.count_pending(tx) + len(addresses) > MOST_PENDING:
            raise Invalid(f"At most {MOST_PENDING} invitations wait at once. Take some back first.", "emails")
        here = set(await people.lock_roles(tx))
        mine = await people.get_organisation_of(tx)
        for email in addresses:
            member = await people.get_member_for_sign_in(tx, email)
            if member is None:
                await _add(house, tx, scope, email, place, now)
                found.invited.append(email)
            elif member.id in here:
                found.already.append(email)
            elif member.organisation_id != mine:
                found.wrong.append(f"{email} (has an account with another organisation here)")
            else:
                await _give_place(tx, member.id, place)
                await note(
                    tx, scope, Happening.ROLE_GIVEN, f"{member.name} is {role.name} now", to=member.id, role=role.key
                )
                found.joined.append(email)
        for email in found.invited:
            await note(tx, scope, Happening.INVITED, f"{email} as {role.name}", role=role.key)
        await tell(tx, "roles")
    return found


async def _add(house: House, tx: Tx, scope: Scope, email: str, place: Place, now: datetime) -> None:
    token = make_token()
    values = {
        "email": email,
        "role": place.role,
        "limited": place.limited,
        "groups": list(place.groups),
        "teams": list(place.teams),
        "token": token,
        "token_hash": hash_token(token),
        "member_id": scope.member_id,
        "now": now,
        "expires_at": now + INVITED_FOR,
        "mail_state": "none" if house.post is None else "waiting",
        "mail_next_at": None if house.post is None else now,
    }
    await store.set_pending(tx, seal_row(house, scope.workspace_id, "invitation", values))


async def list_pending(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """Who has been invited and has not come, each with their link. Raises NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_pending(tx)
        roles = await list_roles_of(tx)
    return [
        {
            **row,
            "role_name": roles[row["role"]].name if row["role"] in roles else row["role"],
            "is_over": row["expires_at"] <= now,
            # A link is worth what its role holds: who holds less does not get it to see.
            "address": make_address(house, house.keys.open(INVITATION_TOKEN, scope.workspace_id, row["token"]))
            if row["role"] in roles and roles[row["role"]].grants <= scope.role.grants
            else None,
        }
        for row in rows
    ]


def make_address(house: House, token: str) -> str:
    """The link of an invitation."""
    return f"{house.address}/welcome/{token}"


async def cancel(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Take an invitation back. Raises NotFound, NotAllowed."""
    scope.check(Permission.MANAGE_MEMBERS)
    async with house.db.transact(scope.workspace_id) as tx:
        email = await store.cancel(tx, id, now)
        if email is None:
            raise NotFound("There is no such invitation, or it was taken or taken back already.")
        await note(tx, scope, Happening.INVITED_NO_MORE, email)
        await tell(tx, "roles")


@dataclass(frozen=True, kw_only=True)
class Welcome:
    """What a link leads to: the first organisation to be made (`workspace` None), or a workspace to come into; `has_account` when the
    address belongs to somebody who shows their password instead of choosing one."""

    email: str | None
    workspace: str | None
    role: str | None
    invited_by: str | None
    has_account: bool


@dataclass(frozen=True, kw_only=True)
class _Found:
    row: Mapping[str, Any]
    welcome: Welcome


async def _find(house: House, conn: Conn, token: str, now: datetime) -> _Found:
    """In a transaction: the invitation of a link, in its workspace. Raises NotFound, the same for whatever is wrong with it."""
    row = await store.find(conn, hash_token(token), now)
    if row is None:
        raise NotFound(_GONE)
    if row["workspace_id"] is None:
        if await store.has_members(conn, lock=True):
            raise NotFound(_GONE)
        return _Found(
            row=row, welcome=Welcome(email=None, workspace=None, role=None, invited_by=None, has_account=False)
        )
    tx = await house.db.enter(conn, row["workspace_id"])
    try:
        maker = await get_scope_of(Reads(tx), row["made_by"])
        maker.check(Permission.MANAGE_MEMBERS)
        role = pick_role(await list_roles_of(tx), row["role"])
        check_within(maker.role, role)
    except (NotAllowed, NotFound):
        raise NotFound(_GONE) from None
    workspace = await people.get_workspace(tx)
    assert workspace is not None
    member = await people.get_member_for_sign_in(conn, row["email"])
    if member is not None and member.organisation_id != await people.get_organisation_of(tx):
        raise NotFound(_GONE)
    welcome = Welcome(
        email=row["email"],
        workspace=workspace["name"],
        role=role.name,
        invited_by=maker.name,
        has_account=member is not None,
    )
    return _Found(row=row, welcome=welcome)


async def look(house: House, token: str, now: datetime) -> Welcome:
    """What a link leads to. Raises NotFound."""
    async with house.db.connect() as conn, conn.transaction():
        return (await _find(house, conn, token, now)).welcome


@dataclass(frozen=True, kw_only=True)
class Coming:
    """What somebody says who comes in: their name and password; the first Owner also their address and what is made."""

    name: str
    password: str
    email: str = ""
    organisation: str = ""
    workspace: str = ""
    time_zone: str = ""


def make_initials(name: str) -> str:
    """Two letters for a name: of its first and last word, or the first two of a single one."""
    words = name.split()
    said = words[0][:1] + words[-1][:1] if len(words) > 1 else name[:2]
    return said.upper()


async def come_in(house: House, token: str, said: Coming, came_from: str, now: datetime, agent: str = "") -> Entered:
    """Take an invitation: an account, its place, and a session. Raises NotFound, Invalid, SignInRefused, TooLate."""
    welcome = await look(house, token, now)
    if welcome.has_account:
        assert welcome.email is not None
        entered = await sign_in(
            house, email=welcome.email, password=said.password, came_from=came_from, now=now, agent=agent
        )
        async with house.db.connect() as conn, conn.transaction():
            found = await _find(house, conn, token, now)
            member = await people.get_member_for_sign_in(conn, welcome.email)
            if member is None:
                raise NotFound(_GONE)
            act_as(member.id, came_from)
            tx = await house.db.enter(conn, found.row["workspace_id"])
            await _join(tx, found, token, member.id, member.name, now)
        return entered
    name = check_title(said.name, "A name", LONGEST_NAME)
    email = check_address(said.email).lower() if welcome.email is None else welcome.email
    if welcome.workspace is None:
        organisation = check_title(said.organisation, "An organisation’s name", LONGEST_NAME, where="organisation")
        workspace = workspaces.check_name(said.workspace, "workspace")
        check_zone(said.time_zone)
    hashed = await house.hashing.do(make_hash, said.password, (name, email))
    async with house.db.connect() as conn, conn.transaction():
        # Another one may have taken the link while the password was hashed.
        found = await _find(house, conn, token, now)
        if found.welcome.has_account:
            raise TooLate("Somebody has made an account with this address meanwhile. Open the link again.")
        workspace_id = found.row["workspace_id"]
        if workspace_id is None:
            organisation_id = await people.add_organisation(conn, organisation)
            tx = await open_workspace(house, conn, organisation_id, workspace, said.time_zone)
        else:
            tx = await house.db.enter(conn, workspace_id)
            organisation_id = await people.get_organisation_of(tx)
        values = {
            "organisation_id": organisation_id,
            "email": email,
            "name": name,
            "initials": make_initials(name),
            "password_hash": hashed,
        }
        member_id = await people.add_member(conn, values)
        act_as(member_id, came_from)
        # Once more, by the name that is known now.
        await house.db.enter(conn, tx.workspace_id)
        placed = _Found(row={**found.row, "workspace_id": tx.workspace_id}, welcome=found.welcome)
        await _join(tx, placed, token, member_id, name, now)
        return await enter(conn, member_id, came_from, now, agent=agent)


async def _join(tx: Tx, found: _Found, token: str, member_id: int, name: str, now: datetime) -> None:
    """The place in the workspace, and the end of the link."""
    row = found.row
    key = row["role"] or Role.OWNER.value
    if member_id not in await people.lock_roles(tx):
        place = Place(role=key, limited=row["limited"], groups=row["groups"], teams=row["teams"])
        await _give_place(tx, member_id, place)
    await store.take(tx, hash_token(token), member_id, now)
    scope = await get_scope_of(Reads(tx), member_id)
    await note(tx, scope, Happening.CAME_IN, f"{name} as {scope.role.name}", role=key)
    await tell(tx, "roles")


async def mail_invitations(house: House, workspace_id: int, now: datetime) -> int:
    """Mail the invitations that wait; how many went out. Run by the clock."""
    count = 0
    for _ in range(_AT_ONCE if house.post is not None else 0):
        async with house.db.transact(workspace_id) as tx:
            row = await store.claim_letter(tx, now, now + LEASE)
            workspace = await people.get_workspace(tx)
        if row is None or workspace is None:
            break
        count += await _send(house, workspace_id, workspace["name"], row, now)
    return count


async def _send(house: House, workspace_id: int, workspace: str, row: Mapping[str, Any], now: datetime) -> bool:
    """Whether it was taken."""
    post = house.post
    assert post is not None

    async def send() -> None:
        token = house.keys.open(INVITATION_TOKEN, workspace_id, row["token"])
        text = (
            f"You are invited to {workspace} on Sorta, where its team sorts and answers what people say to it.\n\n"
            f"Open this link to choose your name and password:\n\n{make_address(house, token)}\n\n"
            f"It leads there until {row['expires_at']:%d %B %Y, %H:%M} UTC, once. If you do not know what this is about, leave it."
        )
        await post.send(
            Letter(
                key=f"invitation-{row['id']}-{hash_token(token).hex()[:16]}",
                to=row["email"],
                to_name="",
                subject=f"An invitation to {workspace}",
                text=text,
            )
        )

    ending = await attempt(send, "invitation", row["id"], tries=row["mail_tries"], since=row["made_at"], now=now)
    state, problem, next_at = "sent", None, None
    match ending:
        case TryAgain():
            state, problem, next_at = "waiting", ending.reason, ending.at
        case GiveUp():
            state, problem = "refused", ending.reason
    async with house.db.transact(workspace_id) as tx:
        cut = problem and problem[:500]
        await store.set_mailed(tx, row["id"], state=state, problem=cut, next_at=next_at)
        await tell(tx, "roles")
    return state == "sent"
