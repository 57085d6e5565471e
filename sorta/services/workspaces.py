"""Workspaces: made, copied, described, put away and brought back; what waits in each. Used by the API and by jobs."""

import dataclasses
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from sorta.core.colours import check_colour
from sorta.core.errors import Invalid, NotAllowed, NotFound, SortaError
from sorta.core.facts import Move
from sorta.core.permissions import STARTING, Role
from sorta.core.security import Happening
from sorta.core.titles import check_title
from sorta.services import policies, rules, texts
from sorta.services.consent import POLICY
from sorta.services.hours import check_zone
from sorta.services.house import House, Scope, seen_by
from sorta.services.members import get_scope_of
from sorta.services.organisation import open_workspace
from sorta.services.reader import LANGUAGES
from sorta.services.reads import Reads
from sorta.services.security_log import note
from sorta.services.texts import SAVED_REPLY
from sorta.store import approvals, desk, hours, links, people, sorting
from sorta.store import team as team_store
from sorta.store import texts as text_store
from sorta.store.db import Tx
from sorta.store.live import tell

LONGEST_NAME, LONGEST_DESCRIPTION = 60, 400
MOST = 200


async def list_all_workspace_ids(house: House) -> list[int]:
    """Every workspace of this installation, also those that were put away."""
    async with house.db.connect() as conn:
        return await people.list_all_workspace_ids(conn)


async def list_working_ids(house: House) -> list[int]:
    """Every workspace in which something runs by itself."""
    async with house.db.connect() as conn:
        return await people.list_working_ids(conn)


async def list_mine(house: House, member_id: int) -> list[dict[str, Any]]:
    """The workspaces a member works in, each with how many conversations wait there; those put away after them, for their Owners."""
    async with house.db.connect() as conn:
        rows = await people.list_workspaces(conn, member_id)
    found = []
    for row in rows:
        if row.archived_at is not None and row.role != Role.OWNER:
            continue
        waiting = 0
        if row.archived_at is None and not row.needs_second:
            with seen_by(member_id if row.limited else None):
                async with house.db.transact(row.id) as tx:
                    moves = {m.move: m.total for m in await desk.count_moves(tx)}
            waiting = sum(moves.get(move.value, 0) for move in (Move.UNSORTED, Move.OUR_MOVE))
        found.append(
            {
                "id": row.id,
                "name": row.name,
                "description": row.description,
                "time_zone": row.time_zone,
                "role": row.role_name,
                "is_owner": row.role == Role.OWNER,
                "archived_at": row.archived_at,
                "waiting": waiting,
            }
        )
    return sorted(found, key=lambda one: one["archived_at"] is not None)


def check_owner(scope: Scope) -> None:
    """Raise NotAllowed for whoever is no Owner here."""
    if scope.role.key != Role.OWNER:
        raise NotAllowed(f"That is for Owners; your role here is {scope.role.name}.")


def check_name(said: str, where: str = "name") -> str:
    """A workspace's name as it is kept. Raises Invalid, naming the field `where`."""
    return check_title(said, "A workspace’s name", LONGEST_NAME, where=where)


def _check_description(said: str) -> str:
    words = " ".join(said.split())
    if len(words) > LONGEST_DESCRIPTION:
        raise Invalid(
            f"It can be described in {LONGEST_DESCRIPTION} characters; these are {len(words)}.", "description"
        )
    return words


@dataclass(kw_only=True)
class Made:
    """A new workspace, how much of each kind was copied, and what was not, with why."""

    id: int
    copied: dict[str, int] = field(default_factory=dict)
    left_out: list[str] = field(default_factory=list)

    def count(self, what: str) -> None:
        """One more of these."""
        self.copied[what] = self.copied.get(what, 0) + 1


async def make(house: House, scope: Scope, *, name: str, time_zone: str, copy: bool, now: datetime) -> Made:
    """A new workspace of the same organisation, of which one is the Owner; with `copy` it begins with this one's roles, tags, teams (without
    members), kept links, saved replies, policies, hours, and rules, which are switched off. What names an account or a member of this one is
    left out and said. Raises NotAllowed, Invalid."""
    check_owner(scope)
    said = check_name(name)
    check_zone(time_zone)
    async with house.db.connect() as conn, conn.transaction():
        organisation = await people.get_organisation_of(await house.db.enter(conn, scope.workspace_id))
        if await people.count_workspaces(conn, organisation) >= MOST:
            raise Invalid(f"An organisation has at most {MOST} workspaces.", "name")
        tx = await open_workspace(house, conn, organisation, said, time_zone)
        await people.set_role(tx, scope.member_id, Role.OWNER.value)
        there = dataclasses.replace(
            scope, workspace_id=tx.workspace_id, role=STARTING[Role.OWNER], zone=ZoneInfo(time_zone), csrf=""
        )
        await note(tx, there, Happening.WORKSPACE_MADE, " as a copy of another" if copy else "")
    made = Made(id=there.workspace_id)
    if copy:
        await _copy(house, scope, there, made, now)
    return made


async def _copy(house: House, here: Scope, there: Scope, made: Made, now: datetime) -> None:
    """Each kind by the way it is made by hand, so that whatever holds for that holds for a copy."""
    async with house.db.transact(here.workspace_id) as tx:
        roles = await people.list_roles(tx)
        tags = {t["id"]: t["name"] for t in await sorting.list_tags(tx)}
        teams = {t["id"]: t for t in await sorting.list_teams(tx)}
        kept = await links.list_kept(tx)
        saved = await text_store.list_saved_replies(tx, archived=False)
        asked = await approvals.list_policies(tx)
        worked = await hours.get_hours(tx)
    async with house.db.transact(there.workspace_id) as tx:
        await _copy_roles(tx, there, roles, made)
        new_tags = {id: await sorting.add_tag(tx, name) for id, name in tags.items()}
        new_teams = {id: await _add_team(tx, there, team) for id, team in teams.items()}
        made.copied |= {"tags": len(new_tags), "teams": len(new_teams), "links": len(kept)}
        for link in kept:
            await links.set_kept(tx, name=link["name"], target=link["target"], member_id=there.member_id, now=now)
        if worked is not None and worked["week"] is not None:
            fields = ("week", "special", "targets")
            await hours.set_hours(
                tx,
                zone=there.zone.key,
                **{name: worked[name] for name in fields},
                member_id=there.member_id,
                now=now,
            )
    for row in saved:
        body = dataclasses.replace(SAVED_REPLY.validate_python(row["body"]), accounts=(), groups=())
        if body != SAVED_REPLY.validate_python(row["body"]):
            made.left_out.append(f"The saved reply “{body.name}” was for some accounts only: it is for all now.")
        await _try(made, "saved replies", body.name, lambda b=body: texts.add_saved_reply(house, there, b, now))  # type: ignore[misc]
    for row in asked:
        policy = POLICY.validate_python(row["body"])
        when = dataclasses.replace(policy.when, tags=tuple(new_tags[id] for id in policy.when.tags if id in new_tags))
        body_of = dataclasses.replace(
            policy, when=when, teams=tuple(new_teams[id] for id in policy.teams if id in new_teams)
        )
        await _try(
            made,
            "policies",
            policy.name,
            lambda b=body_of, on=row["switched_on"]: policies.add_policy(house, there, b, on=on, now=now),  # type: ignore[misc]
        )
    given = await rules.export_rules(house, here, now)
    for one in given["rules"]:
        await _try(
            made,
            "rules",
            one["name"],
            lambda r=one: rules.import_rules(house, there, {**given, "rules": [r]}, now),  # type: ignore[misc]
        )


async def _try(made: Made, what: str, name: str, add: Callable[[], Any]) -> None:
    try:
        await add()
    except SortaError as error:
        # A rule's words are those for a file of many.
        why = error.message.rpartition("’: ")[2]
        made.left_out.append(f"“{name}” was left out of the {what}: {why}")
    else:
        made.count(what)


async def _copy_roles(tx: Tx, there: Scope, roles: list[dict[str, Any]], made: Made) -> None:
    for role in roles:
        values = {"key": role["key"], "name": role["name"], "permissions": sorted(role["permissions"])}
        if role["key"] == Role.OWNER:
            continue
        if role["key"] in set(Role):
            await people.change_role(tx, **values)
        else:
            await people.add_role(tx, **values)
        made.count("roles")


async def _add_team(tx: Tx, there: Scope, team: Mapping[str, Any]) -> int:
    id = await sorting.add_team(tx, team["name"], [])
    await team_store.set_way(tx, id, team["way"])
    return id


async def get_about(house: House, scope: Scope) -> dict[str, Any]:
    """What this workspace is called and is about."""
    async with house.db.transact(scope.workspace_id) as tx:
        row = await people.get_workspace(tx)
    assert row is not None
    return {
        "name": row["name"],
        "description": row["description"],
        "languages": row["languages"],
        "colour": row["colour"],
        "picture": row["picture"],
        "send_settles": row["send_settles"],
        "is_owner": scope.role.key == Role.OWNER,
    }


async def set_about(
    house: House,
    scope: Scope,
    *,
    name: str,
    description: str,
    languages: Sequence[str],
    colour: str | None,
    send_settles: bool = False,
) -> None:
    """What it is called and is about, the languages its team reads (it writes in the first of them), its colour, and whether sending an
    answer settles unless it is said otherwise, from now on. For Owners. Raises NotAllowed, Invalid."""
    check_owner(scope)
    said, about = check_name(name), _check_description(description)
    read = list(dict.fromkeys(languages))
    if not read or not set(read) <= set(LANGUAGES):
        raise Invalid(f"Name at least one language that messages are read in: {', '.join(LANGUAGES)}.", "languages")
    chosen = None if colour is None else check_colour(colour)
    async with house.db.transact(scope.workspace_id) as tx:
        await people.set_workspace(
            tx,
            name=said,
            description=about,
            languages=read,
            colour=chosen,
            send_settles=send_settles,
        )
        await note(tx, scope, Happening.WORKSPACE_CHANGED, said)
        await tell(tx, "roles")


async def archive(house: House, scope: Scope, now: datetime) -> None:
    """Put it away: nobody opens it, nothing of it runs, nothing leaves it; everything is kept. For Owners. Raises NotAllowed."""
    check_owner(scope)
    async with house.db.transact(scope.workspace_id) as tx:
        if await people.archive(tx, scope.member_id, "the workspace was archived", now):
            await note(tx, scope, Happening.ARCHIVED)


async def bring_back(house: House, member_id: int, workspace_id: int) -> None:
    """Open it again, for one of its Owners; what would go out stays held until somebody lets it go. Raises NotFound for whoever is not."""
    async with house.db.transact(workspace_id) as tx:
        try:
            scope = await get_scope_of(Reads(tx), member_id)
            check_owner(scope)
        except NotAllowed:
            raise NotFound("There is no such workspace that you could bring back.") from None
        if await people.bring_back(tx):
            await note(tx, scope, Happening.BROUGHT_BACK)
