"""A second step at signing in: nothing is open before it, no code goes twice, and whatever changes ends the sessions elsewhere."""

import asyncio
from dataclasses import replace
from datetime import datetime
from typing import Any

import pyotp
import pytest

from sorta.core.errors import Invalid, NotAllowed, NotFound, SecondNeeded, SecondStep, SignInRefused, TooManyTries
from sorta.services import forgotten, sealing, second_step, sign_in
from sorta.store.keyring import Keyring, make_key
from tests.services.test_invitations import WORDS, Post
from tests.world import KEYS, PASSWORD, World

pytestmark = pytest.mark.anyio
ILSE = "ilse@brinewick.example"


async def enter(world: World, at: datetime, came_from: str = "here", device: str | None = None) -> sign_in.Entered:
    return await sign_in.sign_in(
        world.house, email=ILSE, password=PASSWORD, came_from=came_from, now=at, device=device, agent="Firefox/1 Linux"
    )


async def set_up(world: World) -> tuple[str, str, list[str]]:
    """A session, the app's secret, and the recovery codes."""
    token = (await enter(world, world.now)).token
    setup = await second_step.begin(world.house, token, PASSWORD, world.now)
    codes = await second_step.confirm(world.house, token, show(setup.secret, world.now), "here", world.now)
    return token, setup.secret, codes


def show(secret: str, at: datetime) -> str:
    """What the app shows."""
    return pyotp.TOTP(secret).at(at)


async def step(world: World, token: str, code: str, at: datetime, came_from: str = "here", **more: Any) -> str:
    return await second_step.show(world.house, token, code, came_from, more.get("device"), at)


async def test_nothing_is_open_until_the_code_was_shown(world: World) -> None:
    elsewhere = (await enter(world, world.now, "elsewhere")).token
    token, secret, _ = await set_up(world)
    # What was open elsewhere is not any more.
    with pytest.raises(SignInRefused):
        await sign_in.get_session(world.house, elsewhere, world.now)
    at = world.after(minutes=5)
    half = await enter(world, at)
    with pytest.raises(SecondStep):
        await sign_in.get_session(world.house, half.token, at)
    with pytest.raises(SecondStep):
        await sign_in.get_scope(world.house, half.token, world.workspace_id, at)
    assert await sign_in.find_member(world.house, half.token, at) is None
    for do in (
        second_step.get_state(world.house, half.token, at),
        second_step.turn_off(world.house, half.token, PASSWORD, "here", at),
        second_step.end_others(world.house, half.token, "here", at),
        sign_in.change_password(world.house, half.token, before=PASSWORD, password=WORDS, came_from="x", now=at),
    ):
        with pytest.raises(SecondStep):
            await do
    with pytest.raises(SignInRefused):
        await step(world, half.token, "000000", at)
    await step(world, half.token, show(secret, at), at)
    assert (await sign_in.get_session(world.house, half.token, at)).has_second
    assert len((await second_step.get_state(world.house, token, at))["sessions"]) == 2


async def test_a_code_goes_once_also_at_the_same_moment(world: World) -> None:
    _, secret, _ = await set_up(world)
    at = world.after(minutes=5)
    halves = [await enter(world, at, f"from {n}") for n in range(4)]
    tried = [step(world, half.token, show(secret, at), at, f"from {n}") for n, half in enumerate(halves)]
    done = await asyncio.gather(*tried, return_exceptions=True)
    assert sum(isinstance(one, str) for one in done) == 1
    assert all(isinstance(one, str | SignInRefused) for one in done)


async def test_a_recovery_code_goes_once_and_says_how_many_are_left(world: World) -> None:
    token, _, codes = await set_up(world)
    at = world.after(minutes=5)
    await step(world, (await enter(world, at)).token, codes[3].upper(), at)
    half = (await enter(world, at)).token
    with pytest.raises(SignInRefused):
        await step(world, half, codes[3], at)
    assert (await second_step.get_state(world.house, token, at))["codes_left"] == len(codes) - 1
    fresh = await second_step.renew_codes(world.house, token, PASSWORD, "here", at)
    assert not set(fresh) & set(codes)
    with pytest.raises(SignInRefused):
        await step(world, half, codes[0], at)
    await step(world, half, fresh[0], at)


async def test_guessing_is_slowed_and_whoever_is_known_is_not(world: World) -> None:
    _, secret, _ = await set_up(world)
    at = world.after(minutes=5)
    known = await enter(world, at)
    device = await step(world, known.token, show(secret, at), at)
    half = (await enter(world, at, "attacker")).token
    for _ in range(sign_in.FREE_TRIES):
        with pytest.raises(SignInRefused):
            await step(world, half, "000000", at, "attacker")
    with pytest.raises(TooManyTries):
        await step(world, half, show(secret, at), at, "attacker")
    # From many places, with the right password.
    for n in range(sign_in.FREE_ACCOUNT):
        with pytest.raises((SignInRefused, TooManyTries)):
            await step(world, half, "000000", at, f"place {n}")
    with pytest.raises(TooManyTries):
        await step(world, half, "000000", at, "yet another")
    later = world.after(minutes=6)
    again = await enter(world, later, device=device)
    await step(world, again.token, show(secret, later), later, device=device)


async def test_half_a_session_does_not_last(world: World) -> None:
    _, secret, _ = await set_up(world)
    half = (await enter(world, world.after(minutes=5))).token
    at = world.after(minutes=16)
    with pytest.raises(SignInRefused, match="Sign in"):
        await step(world, half, show(secret, at), at)


async def test_what_a_link_opens_asks_for_it_too(world: World) -> None:
    _, secret, _ = await set_up(world)
    post = Post()
    world.house = replace(world.house, post=post, address="https://desk.example")
    assert await forgotten.mail_link(world.house, ILSE, world.now)
    link = post.letters[-1].text.split("/password/")[1].split()[0]
    at = world.after(minutes=5)
    entered = await forgotten.set_password(world.house, link, WORDS, "x", at)
    with pytest.raises(SecondStep):
        await sign_in.get_session(world.house, entered.token, at)
    await step(world, entered.token, show(secret, at), at, "x")


async def test_a_workspace_may_ask_for_it(world: World) -> None:
    ilse, noor = world.scopes["ilse"], world.scopes["noor"]
    token = (await enter(world, world.now)).token
    with pytest.raises(NotAllowed):
        await second_step.set_needed(world.house, ilse, on=True)
    # Nobody shuts themselves out.
    with pytest.raises(Invalid, match="of your own first"):
        await second_step.set_needed(world.house, noor, on=True)
    entered = await sign_in.sign_in(
        world.house, email="noor@brinewick.example", password=PASSWORD, came_from="x", now=world.now
    )
    setup = await second_step.begin(world.house, entered.token, PASSWORD, world.now)
    await second_step.confirm(world.house, entered.token, show(setup.secret, world.now), "x", world.now)
    await second_step.set_needed(world.house, noor, on=True)
    told = await second_step.get_needed(world.house, noor)
    assert told["needs_second"]
    assert "Ilse Person" in told["lacking"]
    assert "Noor Person" not in told["lacking"]
    # Who is in already is led to setting one up, and is in again.
    with pytest.raises(SecondNeeded):
        await sign_in.get_scope(world.house, token, world.workspace_id, world.now)
    mine = await second_step.begin(world.house, token, PASSWORD, world.now)
    with pytest.raises(SecondNeeded):
        await sign_in.get_scope(world.house, token, world.workspace_id, world.now)
    await second_step.confirm(world.house, token, show(mine.secret, world.now), "here", world.now)
    assert (await sign_in.get_scope(world.house, token, world.workspace_id, world.now)).member_id == ilse.member_id
    with pytest.raises(Invalid, match="asks for a second step"):
        await second_step.turn_off(world.house, token, PASSWORD, "here", world.now)
    await second_step.set_needed(world.house, noor, on=False)
    await second_step.turn_off(world.house, token, PASSWORD, "here", world.now)
    whole = await enter(world, world.after(minutes=1))
    assert not (await sign_in.get_session(world.house, whole.token, world.after(minutes=1))).has_second


async def test_only_who_knows_the_password_changes_it_and_nothing_takes_the_place_of_what_is(world: World) -> None:
    token = (await enter(world, world.now)).token
    for do in (
        second_step.begin(world.house, token, "guess", world.now),
        second_step.turn_off(world.house, token, "guess", "here", world.now),
        second_step.renew_codes(world.house, token, "guess", "here", world.now),
    ):
        with pytest.raises(Invalid, match="present password"):
            await do
    setup = await second_step.begin(world.house, token, PASSWORD, world.now)
    with pytest.raises(Invalid, match="not the code"):
        await second_step.confirm(world.house, token, "000000", "here", world.now)
    # Not confirmed is not asked for.
    again = await enter(world, world.now)
    assert (await sign_in.get_session(world.house, again.token, world.now)).whole
    await second_step.confirm(world.house, token, show(setup.secret, world.now), "here", world.now)
    with pytest.raises(Invalid, match="already"):
        await second_step.begin(world.house, token, PASSWORD, world.now)


async def test_where_one_is_signed_in_is_listed_and_ended_by_oneself_alone(world: World) -> None:
    token = (await enter(world, world.now)).token
    other = (await enter(world, world.after(minutes=1), "198.51.100.7")).token
    theirs = await sign_in.sign_in(
        world.house, email="mara@brinewick.example", password=PASSWORD, came_from="x", now=world.now
    )
    listed = (await second_step.get_state(world.house, token, world.after(minutes=1)))["sessions"]
    assert [(s["came_from"], s["browser"], s["is_this"]) for s in listed] == [
        ("198.51.100.7", "Firefox on Linux", False),
        ("here", "Firefox on Linux", True),
    ]
    (mara,) = (await second_step.get_state(world.house, theirs.token, world.now))["sessions"]
    for id in (mara["id"], listed[1]["id"], 0):
        with pytest.raises(NotFound):
            await second_step.end_session(world.house, token, id, "here", world.now)
    await second_step.end_session(world.house, token, listed[0]["id"], "here", world.now)
    with pytest.raises(SignInRefused):
        await sign_in.get_session(world.house, other, world.after(minutes=1))
    await enter(world, world.now, "third")
    await second_step.end_others(world.house, token, "here", world.now)
    assert len((await second_step.get_state(world.house, token, world.now))["sessions"]) == 1
    assert (await sign_in.get_session(world.house, theirs.token, world.now)).name == "Mara Person"


async def test_the_secret_is_kept_sealed_and_sealed_again(world: World) -> None:
    _, secret, codes = await set_up(world)
    async with world.house.db.connect() as conn:
        rows = await (await conn.execute("select f::text from second_factor f union all select r::text from recovery_code r")).fetchall()  # fmt: skip
    said = "".join(row for (row,) in rows)
    assert secret not in said
    assert not [code for code in codes if code in said or code.replace("-", "") in said]
    key = make_key()
    both = Keyring([*Keyring.read(key)._keys, *KEYS._keys])
    newer = replace(world.house, keys=both)
    assert await sealing.seal_members(newer) == 1
    world.house = replace(world.house, keys=Keyring.read(key))
    at = world.after(minutes=5)
    await step(world, (await enter(world, at)).token, show(secret, at), at)
