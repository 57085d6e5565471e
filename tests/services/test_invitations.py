"""Coming in: the first Owner, colleagues by mail and by link; what is used, late, taken back or worth nothing any more leads nowhere."""

import asyncio
import os
from collections.abc import AsyncIterator
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from dev.cluster import Cluster
from sorta.core.errors import Invalid, NotAllowed, NotFound, SignInRefused, TooManyTries
from sorta.core.permissions import Permission
from sorta.core.ports import Letter, LetterRefused, Unreachable
from sorta.services import invitations, roles, security_log, sign_in
from sorta.services.house import House
from sorta.services.invitations import Coming
from sorta.services.reads import Reads
from sorta.store import people
from tests.world import World, begin_outside, make_house

pytestmark = pytest.mark.anyio
WORDS = "turnstile-otter-eleven"


@dataclass
class Post:
    """Takes letters, or not."""

    sender: str = "desk@brinewick.example"
    letters: list[Letter] = field(default_factory=list)
    problem: Exception | None = None

    async def send(self, letter: Letter) -> None:
        if self.problem is not None:
            raise self.problem
        self.letters.append(letter)


@pytest.fixture
def post(world: World) -> Post:
    made = Post()
    world.house = replace(world.house, post=made, address="https://desk.example")
    return made


@dataclass
class Empty:
    """A database in which nobody has an account, and its owner's address."""

    world: World
    owner: str

    @property
    def house(self) -> House:
        return self.world.house

    @property
    def now(self) -> datetime:
        return self.world.now


@pytest.fixture
async def empty(pg: Cluster, tmp_path: Path) -> AsyncIterator[Empty]:
    name = f"empty_{os.getpid()}"
    pg.create_database(name, "template_sorta")
    now = datetime(2026, 11, 20, 12, tzinfo=UTC)
    async with make_house(pg.conninfo("sorta_web", name), now, tmp_path, begin_outside()) as made:
        yield Empty(made, pg.conninfo("sorta_owner", name))
    pg.drop_database(name)


async def invite(world: World, text: str, role: str = "responder", who: str = "noor", **after: float) -> Any:
    return await invitations.invite(
        world.house, world.scopes[who], text, invitations.Place(role=role), world.after(**after)
    )


async def get_tokens(world: World) -> list[str]:
    rows = await invitations.list_pending(world.house, world.scopes["noor"], world.now)
    return [row["address"].rsplit("/", 1)[1] for row in rows]


async def come(world: World, token: str, **after: float) -> sign_in.Entered:
    said = Coming(name="Uma Lind", password=WORDS)
    return await invitations.come_in(world.house, token, said, "198.51.100.7", world.after(**(after or {"hours": 1})))


async def test_somebody_invited_chooses_a_password_and_is_in(world: World, post: Post) -> None:
    found = await invite(world, "uma@tidewater.example")
    assert found.invited == ["uma@tidewater.example"]
    assert await invitations.mail_invitations(world.house, world.workspace_id, world.now) == 1
    (letter,) = post.letters
    (token,) = await get_tokens(world)
    assert f"https://desk.example/welcome/{token}" in letter.text
    welcome = await invitations.look(world.house, token, world.after(hours=1))
    assert (welcome.workspace, welcome.role, welcome.invited_by) == ("Aquarium", "Responder", "Noor Person")
    entered = await come(world, token)
    scope = await sign_in.get_scope(world.house, entered.token, world.workspace_id, world.after(hours=1))
    assert (scope.name, scope.role.key) == ("Uma Lind", "responder")
    # And again with the password, the address written otherwise.
    await sign_in.sign_in(
        world.house, email=" UMA@tidewater.example", password=WORDS, came_from="x", now=world.after(hours=2)
    )
    assert await invitations.list_pending(world.house, world.scopes["noor"], world.now) == []
    told = [entry["words"] for entry in await security_log.list_entries(world.house, world.scopes["noor"])]
    assert any("came in by an invitation: Uma Lind as Responder" in words for words in told)
    assert await invitations.mail_invitations(world.house, world.workspace_id, world.after(hours=3)) == 0


async def test_a_link_leads_in_once(world: World, post: Post) -> None:
    await invite(world, "uma@tidewater.example")
    (token,) = await get_tokens(world)
    both = await asyncio.gather(come(world, token), come(world, token), return_exceptions=True)
    assert sorted(type(one).__name__ for one in both) in (["Entered", "NotFound"], ["Entered", "TooLate"])
    with pytest.raises(NotFound, match="leads nowhere"):
        await come(world, token)
    with pytest.raises(NotFound):
        await invitations.look(world.house, token, world.now)


@pytest.mark.parametrize("why", ["late", "taken back", "another one", "not a member", "demoted", "less", "made up"])
async def test_what_leads_nowhere_any_more(world: World, post: Post, why: str) -> None:
    await invite(world, "uma@tidewater.example", role="lead")
    (token,) = await get_tokens(world)
    after = {"hours": 1.0}
    noor = world.scopes["noor"]
    if why == "late":
        after = {"days": 8.0}
    elif why == "taken back":
        (row,) = await invitations.list_pending(world.house, noor, world.now)
        await invitations.cancel(world.house, noor, row["id"], world.now)
    elif why == "another one":
        await invite(world, "uma@tidewater.example", role="lead", minutes=1)
    elif why == "not a member":
        async with world.house.db.transact(world.workspace_id) as tx:
            await tx.execute("delete from membership where member_id = %s", [noor.member_id])
    elif why == "demoted":
        await roles.give_role(world.house, noor, world.scopes["mara"].member_id, "owner")
        await roles.give_role(world.house, noor, noor.member_id, "responder")
    elif why == "less":
        key = await roles.add_role(
            world.house, noor, name="Door", permissions=[Permission.SEE, Permission.MANAGE_MEMBERS]
        )
        await roles.give_role(world.house, noor, world.scopes["mara"].member_id, "owner")
        await roles.give_role(world.house, noor, noor.member_id, key)
    else:
        token = "x" * 43
    with pytest.raises(NotFound, match="leads nowhere"):
        await come(world, token, **after)


async def test_nobody_invites_to_more_than_they_hold(world: World, post: Post) -> None:
    with pytest.raises(NotAllowed):
        await invite(world, "uma@tidewater.example", who="ilse")
    noor = world.scopes["noor"]
    door = await roles.add_role(world.house, noor, name="Door", permissions=[Permission.SEE, Permission.MANAGE_MEMBERS])
    await roles.give_role(world.house, noor, world.scopes["ilse"].member_id, door)
    async with world.house.db.transact(world.workspace_id) as tx:
        held = await roles.list_held_roles(Reads(tx))
    ilse = replace(world.scopes["ilse"], role=held[world.scopes["ilse"].member_id])
    with pytest.raises(NotAllowed, match="does not hold all of that"):
        await invitations.invite(world.house, ilse, "uma@tidewater.example", invitations.Place(role="owner"), world.now)
    await invite(world, "uma@tidewater.example", role="owner")
    # Nor do they see a link that would make them an Owner.
    (row,) = await invitations.list_pending(world.house, ilse, world.now)
    assert row["address"] is None
    with pytest.raises(NotFound, match="no such role"):
        await invite(world, "x@y.example", role="king")


async def test_many_by_paste_whatever_separates_them(world: World, post: Post) -> None:
    text = """Ana Reis <ana.reis@tidewater.example>, bo@tidewater.example;cleo@tidewater.example
    BO@tidewater.example\tnot-an-address  "Dana, Day" <dana@tidewater.example>\nmara@brinewick.example"""
    found = await invite(world, text)
    assert sorted(found.invited) == [f"{n}@tidewater.example" for n in ("ana.reis", "bo", "cleo", "dana")]
    assert found.already == ["mara@brinewick.example"]
    assert found.wrong == ["not-an-address"]
    with pytest.raises(Invalid, match="at least one"):
        await invite(world, "nobody here")
    with pytest.raises(Invalid, match="At most 100"):
        await invite(world, " ".join(f"n{n}@tidewater.example" for n in range(101)))


async def test_who_has_an_account_shows_their_password_or_comes_at_once(world: World, post: Post) -> None:
    async with world.house.db.connect() as conn:
        organisation = await people.get_organisation_of(await world.house.db.enter(conn, world.workspace_id))
        await invite(world, "uma@tidewater.example")
        (token,) = await get_tokens(world)
        # Meanwhile she has come into another workspace of the organisation.
        await people.add_member(
            conn,
            {
                "organisation_id": organisation,
                "email": "uma@tidewater.example",
                "name": "Uma Lind",
                "initials": "UL",
                "password_hash": sign_in.hash_password(WORDS),
            },
        )
    welcome = await invitations.look(world.house, token, world.now)
    assert welcome.has_account
    with pytest.raises(SignInRefused):
        await invitations.come_in(world.house, token, Coming(name="", password="something else"), "x", world.now)
    entered = await invitations.come_in(world.house, token, Coming(name="", password=WORDS), "x", world.now)
    assert (await sign_in.get_scope(world.house, entered.token, world.workspace_id, world.now)).name == "Uma Lind"
    # Otto works elsewhere in the organisation: no link is needed.
    assert (await invite(world, "otto@brinewick.example")).joined == ["otto@brinewick.example"]
    async with world.house.db.transact(world.workspace_id) as tx:
        assert "otto" in {m.name.split()[0].lower() for m in await people.list_members(tx)}


async def test_a_weak_password_uses_nothing_up(world: World, post: Post) -> None:
    await invite(world, "uma@tidewater.example")
    (token,) = await get_tokens(world)
    for said in (
        Coming(name="Uma", password="password123"),
        Coming(name=" ", password=WORDS),
        Coming(name="x" * 81, password=WORDS),
    ):
        with pytest.raises(Invalid):
            await invitations.come_in(world.house, token, said, "x", world.now)
    await come(world, token)


async def test_mail_that_fails_is_tried_again_and_given_up_with_its_reason(world: World, post: Post) -> None:
    await invite(world, "uma@tidewater.example")
    post.problem = Unreachable("The mail server does not answer.")
    assert await invitations.mail_invitations(world.house, world.workspace_id, world.now) == 0
    (row,) = await invitations.list_pending(world.house, world.scopes["noor"], world.now)
    assert (row["mail_state"], row["mail_problem"]) == ("waiting", "The mail server does not answer.")
    await invitations.mail_invitations(world.house, world.workspace_id, world.after(days=3))
    (row,) = await invitations.list_pending(world.house, world.scopes["noor"], world.now)
    assert row["mail_state"] == "refused"
    post.problem = LetterRefused("No such mailbox.")
    await invite(world, "uma@tidewater.example", minutes=2)
    await invitations.mail_invitations(world.house, world.workspace_id, world.after(minutes=3))
    (row,) = await invitations.list_pending(world.house, world.scopes["noor"], world.now)
    assert (row["mail_state"], row["mail_problem"]) == ("refused", "No such mailbox.")


async def test_the_first_owner_makes_the_organisation_once(empty: Empty) -> None:
    token = await asyncio.to_thread(invitations.make_first, empty.owner, empty.now)
    assert token is not None
    again = await asyncio.to_thread(invitations.make_first, empty.owner, empty.now)
    assert again is not None
    with pytest.raises(NotFound):
        await invitations.look(empty.house, token, empty.now)
    welcome = await invitations.look(empty.house, again, empty.now)
    assert (welcome.workspace, welcome.email, welcome.has_account) == (None, None, False)
    said = Coming(
        name="Frida Storm",
        password=WORDS,
        email="Frida@Tidewater.example",
        organisation="Tidewater Trust",
        workspace="Lighthouse",
        time_zone="Europe/Copenhagen",
    )
    for wrong in ({"time_zone": "Moon"}, {"email": "frida"}, {"organisation": " "}, {"workspace": ""}):
        with pytest.raises(Invalid):
            await invitations.come_in(empty.house, again, replace(said, **wrong), "x", empty.now)
    entered = await invitations.come_in(empty.house, again, said, "x", empty.now)
    session = await sign_in.get_session(empty.house, entered.token, empty.now)
    assert session.email == "frida@tidewater.example"
    (workspace,) = await sign_in.list_workspaces(empty.house, session.member_id)
    assert (workspace["name"], workspace["role"]) == ("Lighthouse", "Owner")
    assert await asyncio.to_thread(invitations.make_first, empty.owner, empty.now) is None
    with pytest.raises(NotFound):
        await invitations.come_in(empty.house, again, replace(said, email="x@y.example"), "x", empty.now)
    with pytest.raises(NotFound):
        await invitations.come_in(empty.house, again, said, "x", empty.world.after(days=2))


async def test_another_password_ends_sessions_elsewhere(world: World, post: Post) -> None:
    await invite(world, "uma@tidewater.example")
    (token,) = await get_tokens(world)
    here = await come(world, token)
    now = world.after(hours=2)
    there = await sign_in.sign_in(world.house, email="uma@tidewater.example", password=WORDS, came_from="y", now=now)
    with pytest.raises(Invalid, match="not your present"):
        await sign_in.change_password(
            world.house, here.token, before="guess", password="lantern-herring-noon", came_from="x", now=now
        )
    with pytest.raises(Invalid):
        await sign_in.change_password(
            world.house, here.token, before=WORDS, password="password1234", came_from="x", now=now
        )
    await sign_in.change_password(
        world.house, here.token, before=WORDS, password="lantern-herring-noon", came_from="x", now=now
    )
    await sign_in.get_session(world.house, here.token, now)
    with pytest.raises(SignInRefused):
        await sign_in.get_session(world.house, there.token, now)
    with pytest.raises(SignInRefused):
        await sign_in.sign_in(
            world.house, email="uma@tidewater.example", password=WORDS, came_from="z", now=now + timedelta(hours=1)
        )


async def test_the_present_password_is_not_guessed_at_leisure(world: World, post: Post) -> None:
    await invite(world, "uma@tidewater.example")
    (token,) = await get_tokens(world)
    here = await come(world, token)
    now = world.after(hours=2)
    for _ in range(sign_in.FREE_TRIES):
        with pytest.raises(Invalid):
            await sign_in.change_password(
                world.house, here.token, before="guess", password=WORDS, came_from="x", now=now
            )
    with pytest.raises(TooManyTries):
        await sign_in.change_password(world.house, here.token, before=WORDS, password=WORDS, came_from="x", now=now)


def test_initials() -> None:
    assert [invitations.make_initials(n) for n in ("Uma Lind", "Uma", "Ana de la Cruz", "o")] == ["UL", "UM", "AC", "O"]
