"""Signing in by a provider's word: in the browser that asked, once; who it is, and what their groups give and take."""

import asyncio
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

import pyotp
import pytest

from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound, SecondStep, SignInRefused, TooManyTries
from sorta.core.permissions import Permission, Role
from sorta.core.ports import GrantRefused, SaidToBe, Unreachable
from sorta.services import identity, leaving, second_step, sign_in
from sorta.services.house import House, Scope
from sorta.store import people
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio
ILSE = SaidToBe(subject="s1", email="ilse@brinewick.example", is_verified=True, name="Ilse B.", groups=())
RUNA = SaidToBe(subject="s9", email="runa@brinewick.example", is_verified=True, name="Runa Falk", groups=("night",))


@dataclass
class Provider:
    """Says who is there, to whoever brings the state they were sent with."""

    who: SaidToBe | Exception = ILSE
    name: str = "Harbour House"
    issuer: str = "https://who.example"
    asked: list[dict[str, str]] = field(default_factory=list)

    async def make_address(self, *, state: str, nonce: str, verifier: str) -> str:
        if isinstance(self.who, Unreachable):
            raise self.who
        self.asked.append({"state": state, "nonce": nonce, "verifier": verifier})
        return f"https://who.example/authorise?state={state}"

    async def take_code(self, response: str, *, state: str, nonce: str, verifier: str, now: datetime) -> SaidToBe:
        if response != f"state={state}" or {"state": state, "nonce": nonce, "verifier": verifier} not in self.asked:
            raise GrantRefused("This is not what Harbour House was asked.")
        if isinstance(self.who, Exception):
            raise self.who
        return self.who


@pytest.fixture
def provider() -> Provider:
    return Provider()


def at_home(world: World, provider: Provider) -> House:
    return replace(world.house, identity=provider)


async def come(
    world: World, provider: Provider, who: SaidToBe, came_from: str = "here", now: datetime | None = None
) -> sign_in.Entered:
    provider.who = who
    house, at = at_home(world, provider), now or world.now
    asked = await identity.ask(house, at)
    return await identity.take(house, f"state={provider.asked[-1]['state']}", asked.kept, came_from, at)


async def let_in(world: World, provider: Provider, name: str, role: str) -> int:
    return await identity.add_group(at_home(world, provider), world.scopes["noor"], name, role)


async def list_places(world: World, token: str) -> list[tuple[str, str]]:
    session = await sign_in.get_session(world.house, token, world.now)
    found = await sign_in.list_workspaces(world.house, session.member_id)
    return [(str(w["name"]), str(w["role"])) for w in found]


async def test_a_member_is_known_by_the_address_and_from_then_on_by_the_providers_name(
    world: World, provider: Provider
) -> None:
    entered = await come(world, provider, ILSE)
    assert (await sign_in.get_session(world.house, entered.token, world.now)).email == ILSE.email
    # Another address there is the same one still; another name with her address is not.
    again = await come(world, provider, replace(ILSE, email="other@example.org", is_verified=False))
    assert (await sign_in.get_session(world.house, again.token, world.now)).email == ILSE.email
    with pytest.raises(SignInRefused, match="somebody else"):
        await come(world, provider, replace(ILSE, subject="s2"))


@pytest.mark.parametrize("bent", [{"is_verified": False}, {"email": None}, {"email": ""}])
async def test_an_address_that_is_not_verified_is_nobodys(
    world: World, provider: Provider, bent: dict[str, object]
) -> None:
    with pytest.raises(SignInRefused, match="not verified"):
        await come(world, provider, replace(ILSE, **bent))  # type: ignore[arg-type]


async def test_only_the_browser_that_asked_is_signed_in_once_and_soon(world: World, provider: Provider) -> None:
    house = at_home(world, provider)
    mine, another = await identity.ask(house, world.now), await identity.ask(house, world.now)
    response = f"state={provider.asked[0]['state']}"
    # An attacker's answer in another's browser, in one that asked for nothing, and what was made up.
    for kept in (another.kept, None, "", "sealed:x", house.keys.seal("passkey.show", 0, "{}")):
        with pytest.raises(SignInRefused):
            await identity.take(house, response, kept, "there", world.now)
    with pytest.raises(SignInRefused, match="ten minutes"):
        await identity.take(house, response, mine.kept, "here", world.now + identity.ASKED_FOR + timedelta(seconds=1))
    tried = await asyncio.gather(
        *(identity.take(house, response, mine.kept, f"from {n}", world.now) for n in range(4)), return_exceptions=True
    )
    assert sum(isinstance(one, sign_in.Entered) for one in tried) == 1
    assert all(isinstance(one, sign_in.Entered | SignInRefused) for one in tried)


async def test_who_cannot_be_asked_is_said_and_trying_is_slowed(world: World, provider: Provider) -> None:
    with pytest.raises(Impossible):
        await identity.ask(world.house, world.now)
    house = at_home(world, provider)
    provider.who = Unreachable("Harbour House did not answer.")
    with pytest.raises(SignInRefused, match="did not answer"):
        await identity.ask(house, world.now)
    for _ in range(sign_in.FREE_FROM):
        with pytest.raises(SignInRefused):
            await identity.take(house, "x", "x", "there", world.now)
    with pytest.raises(TooManyTries):
        await identity.take(house, "x", "x", "there", world.now)


async def test_a_second_step_here_is_still_asked_for(world: World, provider: Provider) -> None:
    token = (await come(world, provider, ILSE)).token
    setup = await second_step.begin(world.house, token, PASSWORD, world.now)
    await second_step.confirm(world.house, token, pyotp.TOTP(setup.secret).at(world.now), "here", world.now)
    half = await come(world, provider, ILSE)
    with pytest.raises(SecondStep):
        await sign_in.get_session(world.house, half.token, world.now)


async def test_somebody_new_comes_in_where_a_group_of_theirs_works(world: World, provider: Provider) -> None:
    with pytest.raises(SignInRefused, match="none of your groups"):
        await come(world, provider, RUNA)
    await let_in(world, provider, "night", "responder")
    entered = await come(world, provider, RUNA)
    session = await sign_in.get_session(world.house, entered.token, world.now)
    assert (session.name, session.initials, session.has_password) == ("Runa Falk", "RF", False)
    assert [role for _, role in await list_places(world, entered.token)] == ["Responder"]
    # No password opens it; what asks for one is allowed while she has just come in, and not later.
    for word in ("", "nobody", PASSWORD):
        with pytest.raises(SignInRefused):
            await sign_in.sign_in(
                world.house, email=session.email, password=word, came_from="x", now=world.now, agent=""
            )
    await second_step.begin(world.house, entered.token, "", world.now)
    with pytest.raises(Invalid, match="no password"):
        await second_step.begin(world.house, entered.token, "", world.after(minutes=11))
    with pytest.raises(Invalid):
        await sign_in.change_password(
            world.house, entered.token, before="", password="x", came_from="here", now=world.after(minutes=11)
        )


async def test_a_group_gives_changes_and_takes_a_place_and_leaves_what_was_given_by_hand(
    world: World, provider: Provider
) -> None:
    await let_in(world, provider, "night", "responder")
    await let_in(world, provider, "leads", "lead")
    runa = await come(world, provider, RUNA)
    await come(world, provider, replace(RUNA, groups=("leads",)))
    assert [role for _, role in await list_places(world, runa.token)] == ["Lead"]
    # Of several the one that was named first.
    await come(world, provider, replace(RUNA, groups=("leads", "night")))
    assert [role for _, role in await list_places(world, runa.token)] == ["Responder"]
    member_id = (await sign_in.get_session(world.house, runa.token, world.now)).member_id
    conversation_id = await world.hear("Is the aquarium open?")
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update conversation set owner_id = %s where id = %s", [member_id, conversation_id])
    await come(world, provider, replace(RUNA, groups=()))
    assert await list_places(world, runa.token) == []
    assert (await world.row(conversation_id))["owner_id"] is None
    # Ilse was invited by hand: no group changes that, and no missing one takes it.
    ilse = await come(world, provider, replace(ILSE, groups=("leads",)))
    before = await list_places(world, ilse.token)
    assert [role for _, role in before] == ["Responder"]
    await come(world, provider, ILSE)
    assert await list_places(world, ilse.token) == before


async def test_who_was_let_go_by_a_colleague_does_not_come_back_by_a_group(world: World, provider: Provider) -> None:
    await let_in(world, provider, "night", "responder")
    runa = await come(world, provider, RUNA)
    member_id = (await sign_in.get_session(world.house, runa.token, world.now)).member_id
    owner = world.scopes["noor"]
    await leaving.let_go(world.house, owner, member_id, to_owner=None, to_team=None, now=world.now)
    again = await come(world, provider, RUNA)
    assert await list_places(world, again.token) == []
    # A colleague brings her back, and then the place is by hand.
    async with world.house.db.transact(world.workspace_id) as tx:
        await people.set_role(tx, member_id, "observer")
    third = await come(world, provider, RUNA)
    assert [role for _, role in await list_places(world, third.token)] == ["Observer"]


async def test_the_only_owner_stays_one(world: World, provider: Provider) -> None:
    await let_in(world, provider, "owners", "owner")
    runa = await come(world, provider, replace(RUNA, groups=("owners",)))
    async with world.house.db.transact(world.workspace_id) as tx:
        held = await people.lock_roles(tx)
        for id, role in held.items():
            if role == Role.OWNER and id != (await sign_in.get_session(world.house, runa.token, world.now)).member_id:
                await people.set_role(tx, id, "lead")
    await come(world, provider, replace(RUNA, groups=()))
    assert [role for _, role in await list_places(world, runa.token)] == ["Owner"]


async def test_nobody_lets_a_group_hold_more_than_they_do(world: World, provider: Provider) -> None:
    house = at_home(world, provider)
    lead: Scope = world.scopes["mara"]
    lead = replace(lead, role=replace(lead.role, grants=lead.role.grants | {Permission.MANAGE_MEMBERS}))
    with pytest.raises(NotAllowed):
        await identity.add_group(house, lead, "all", "owner")
    id = await let_in(world, provider, "all", "owner")
    with pytest.raises(NotAllowed):
        await identity.remove_group(house, lead, id)
    with pytest.raises(NotAllowed):
        await identity.add_group(house, world.scopes["ilse"], "all", "observer")
    with pytest.raises(Invalid, match="already"):
        await identity.add_group(house, world.scopes["noor"], "all", "observer")
    with pytest.raises(NotFound):
        await identity.remove_group(house, world.scopes["noor"], id + 1)
    await identity.remove_group(house, world.scopes["noor"], id)
    assert (await identity.list_groups(house, world.scopes["noor"]))["groups"] == []
