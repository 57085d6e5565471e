"""Passkeys: one lets in its member alone, once for each asking, at this site; and whatever changes ends the sessions elsewhere.

What an answer must say is WebAuthn's (W3C, Level 2, 7.1 and 7.2); each bent one leaves out one of its steps.
"""

import asyncio
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from cryptography.hazmat.primitives.asymmetric import ec
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Impossible, Invalid, NotFound, SecondNeeded, SecondStep, SignInRefused, TooManyTries
from sorta.core.passkeys import PasskeyRefused, Site, check_shown, find_site, read_new, read_shown, take_new
from sorta.services import passkeys, second_step, sign_in
from sorta.services.house import House
from sorta.store import security_log
from tests.authenticator import FLAG, Authenticator
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio
ORIGIN = "https://desk.example"
ILSE, MARA = "ilse@brinewick.example", "mara@brinewick.example"


def at_home(world: World) -> House:
    return replace(world.house, address=ORIGIN)


async def enter(world: World, email: str = ILSE, came_from: str = "here") -> str:
    entered = await sign_in.sign_in(
        world.house, email=email, password=PASSWORD, came_from=came_from, now=world.now, agent="Firefox/1 Linux"
    )
    return entered.token


async def make(world: World, token: str, **bent: Any) -> tuple[Authenticator, list[str]]:
    house = at_home(world)
    device = Authenticator(ORIGIN, counts=bent.pop("counts", True))
    options = await passkeys.ask_new(house, token, PASSWORD, world.now)
    return device, await passkeys.add(house, token, device.make(options, **bent), "Phone", "here", world.now)


async def show(world: World, device: Authenticator, **bent: Any) -> sign_in.Entered:
    house = at_home(world)
    return await passkeys.sign_in(house, device.show(passkeys.ask(house, world.now), **bent), "there", world.now)


async def test_a_passkey_is_made_and_lets_its_member_in_whole(world: World) -> None:
    elsewhere = await enter(world, came_from="elsewhere")
    token = await enter(world)
    device, codes = await make(world, token)
    assert len(codes) == second_step.CODES
    with pytest.raises(SignInRefused):
        await sign_in.get_session(world.house, elsewhere, world.now)
    entered = await show(world, device)
    session = await sign_in.get_session(world.house, entered.token, world.now)
    assert (session.email, session.has_second) == (ILSE, True)
    state = await second_step.get_state(at_home(world), entered.token, world.now)
    assert (state["is_on"], state["has_app"], state["takes_passkeys"]) == (True, False, True)
    assert [(p["name"], p["used_at"]) for p in state["passkeys"]] == [("Phone", world.now)]
    # A second one brings no other codes, and is known by its own name.
    _, again = await make(world, token)
    assert again == []


async def test_after_a_password_it_is_asked_for_and_a_recovery_code_does_too(world: World) -> None:
    device, codes = await make(world, await enter(world))
    half = await enter(world)
    with pytest.raises(SecondStep):
        await sign_in.get_session(world.house, half, world.now)
    with pytest.raises(SignInRefused):
        await second_step.show(world.house, half, "000000", "here", None, world.now)
    await second_step.show(world.house, half, codes[0], "here", None, world.now)
    assert (await sign_in.get_session(world.house, half, world.now)).email == ILSE
    whole = await show(world, device)
    assert (await sign_in.get_session(world.house, whole.token, world.now)).email == ILSE


BENT: list[dict[str, Any]] = [
    {"origin": "https://desk.example.evil.example"},
    {"origin": "http://desk.example"},
    {"host": "evil.example"},
    {"flags": FLAG.UP},
    {"flags": FLAG.UV},
    {"crossOrigin": True},
    {"kind": "webauthn.create"},
    {"key": ec.generate_private_key(ec.SECP256R1())},
    {"handle": b"somebody else"},
    {"handle": b""},
    {"count": 0},
    {"challenge": "AAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"},
]


@pytest.mark.parametrize("bent", BENT, ids=lambda bent: "-".join(f"{k}" for k in bent))
async def test_a_bent_answer_lets_nobody_in(world: World, bent: dict[str, Any]) -> None:
    device, _ = await make(world, await enter(world))
    await show(world, device)
    with pytest.raises(SignInRefused):
        await show(world, device, **bent)
    # And the right one still does.
    await show(world, device)


@pytest.mark.parametrize(
    "bent",
    [
        {"origin": "https://evil.example"},
        {"host": "evil.example"},
        {"flags": FLAG.UP},
        {"crossOrigin": True},
        {"type": "webauthn.get"},
        {"challenge": "AAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"},
    ],
    ids=str,
)
async def test_a_bent_new_one_is_not_kept(world: World, bent: dict[str, Any]) -> None:
    token = await enter(world)
    with pytest.raises(Invalid):
        await make(world, token, **bent)
    assert not (await second_step.get_state(world.house, token, world.now))["is_on"]


async def test_an_answer_is_good_once_also_at_the_same_moment_and_not_for_long(world: World) -> None:
    house = at_home(world)
    device, _ = await make(world, await enter(world), counts=False)
    options = passkeys.ask(house, world.now)
    said = device.show(options)
    tried = await asyncio.gather(
        *(passkeys.sign_in(house, said, f"from {n}", world.now) for n in range(4)), return_exceptions=True
    )
    assert sum(isinstance(one, sign_in.Entered) for one in tried) == 1
    assert all(isinstance(one, sign_in.Entered | SignInRefused) for one in tried)
    late = device.show(passkeys.ask(house, world.now))
    with pytest.raises(SignInRefused):
        await passkeys.sign_in(house, late, "there", world.now + passkeys.ASKED_FOR + timedelta(seconds=1))
    # What was asked of one for making is no asking to show, and no other's to make.
    token, other = await enter(world, MARA), await enter(world, MARA, "other")
    asked = await passkeys.ask_new(house, token, PASSWORD, world.now)
    with pytest.raises(SignInRefused):
        await passkeys.sign_in(house, device.show(asked), "there", world.now)
    assert await passkeys.add(house, other, Authenticator(ORIGIN).make(asked), "Mine", "here", world.now)
    ilse = await passkeys.sign_in(house, device.show(passkeys.ask(house, world.now)), "there", world.now)
    hers = await passkeys.ask_new(house, ilse.token, PASSWORD, world.now)
    with pytest.raises(Invalid):
        await passkeys.add(house, other, Authenticator(ORIGIN).make(hers), "Not hers", "here", world.now)


async def test_a_passkey_is_one_members_alone(world: World) -> None:
    house = at_home(world)
    device, _ = await make(world, await enter(world))
    mara = await enter(world, MARA)
    options = await passkeys.ask_new(house, mara, PASSWORD, world.now)
    with pytest.raises(Invalid):
        await passkeys.add(house, mara, device.make(options), "Stolen", "here", world.now)


async def test_taking_it_back_needs_the_password_and_what_a_workspace_asks_for_stays(world: World) -> None:
    house = at_home(world)
    token = await enter(world)
    device, _ = await make(world, token)
    (kept,) = (await second_step.get_state(house, token, world.now))["passkeys"]
    with pytest.raises(Invalid):
        await passkeys.remove(house, token, kept["id"], "guess", "here", world.now)
    mara = await enter(world, MARA)
    with pytest.raises(NotFound):
        await passkeys.remove(house, mara, kept["id"], PASSWORD, "here", world.now)
    async with world.house.db.connect() as conn:
        await conn.execute("update workspace set needs_second = true where id = %s", [world.workspace_id])
    await sign_in.get_scope(world.house, token, world.workspace_id, world.now)
    with pytest.raises(SecondNeeded):
        await sign_in.get_scope(world.house, mara, world.workspace_id, world.now)
    with pytest.raises(Invalid) as said:
        await passkeys.remove(house, token, kept["id"], PASSWORD, "here", world.now)
    assert "asks for a second step" in said.value.message
    assert (await second_step.get_state(house, token, world.now))["passkeys"]
    async with world.house.db.connect() as conn:
        await conn.execute("update workspace set needs_second = false where id = %s", [world.workspace_id])
    await passkeys.remove(house, token, kept["id"], PASSWORD, "here", world.now)
    state = await second_step.get_state(house, token, world.now)
    assert (state["is_on"], state["codes_left"], state["passkeys"]) == (False, 0, [])
    with pytest.raises(SignInRefused):
        await show(world, device)


async def test_a_refused_one_is_in_its_members_log_and_trying_is_slowed(world: World) -> None:
    device, _ = await make(world, await enter(world))
    await show(world, device)
    with pytest.raises(SignInRefused):
        await show(world, device, count=1)
    async with world.house.db.transact(world.workspace_id) as tx:
        first, *_ = await security_log.list_entries(tx, None, 10)
    assert first["kind"] == "passkey_refused"
    assert "copy" in first["about"]["what"]
    house = at_home(world)
    # One try is on the account already: the refused one of above.
    for _ in range(sign_in.FREE_FROM - 1):
        with pytest.raises(SignInRefused):
            await passkeys.sign_in(house, {"id": "x"}, "there", world.now)
    with pytest.raises(TooManyTries):
        await passkeys.sign_in(house, {"id": "x"}, "there", world.now)
    # From elsewhere its member comes in.
    said = device.show(passkeys.ask(house, world.now))
    assert await passkeys.sign_in(house, said, "elsewhere", world.now)


async def test_where_browsers_know_none_it_is_said(world: World) -> None:
    token = await enter(world)
    with pytest.raises(Impossible):
        passkeys.ask(world.house, world.now)
    with pytest.raises(Impossible):
        await passkeys.ask_new(replace(world.house, address="https://192.0.2.7"), token, PASSWORD, world.now)
    assert not (await second_step.get_state(world.house, token, world.now))["takes_passkeys"]


@pytest.mark.parametrize(
    ("address", "host"),
    [
        ("https://desk.example", "desk.example"),
        ("https://desk.example:8443", "desk.example"),
        ("http://localhost:8700", "localhost"),
        ("http://desk.example", None),
        ("https://192.0.2.7", None),
        ("https://[2001:db8::1]", None),
        ("", None),
    ],
)
def test_passkeys_hold_at_a_name_by_https_or_here(address: str, host: str | None) -> None:
    """WebAuthn, 5.1.7 (effective domain) and the secure contexts of its 5; addresses from RFC 5737 and 3849."""
    site = find_site(address)
    assert (site.host if site else None) == host
    assert site is None or site.origin == address


SITE = Site(host="desk.example", origin=ORIGIN)
_JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=12), inner, max_size=4),
    max_leaves=8,
)


@given(
    st.dictionaries(st.sampled_from(["id", "rawId", "type", "response"]), _JSON, max_size=4),
    st.dictionaries(
        st.sampled_from(["clientDataJSON", "attestationObject", "authenticatorData", "signature", "userHandle"]), _JSON
    ),
)
def test_whatever_a_stranger_writes_is_refused(outer: dict[str, Any], inner: dict[str, Any]) -> None:
    for said in (outer, {**outer, "response": inner}):
        for read in (read_new, read_shown):
            with pytest.raises(PasskeyRefused):
                read(said)
        with pytest.raises(PasskeyRefused):
            take_new(SITE, b"x" * 32, said)
        with pytest.raises(PasskeyRefused):
            check_shown(SITE, b"x" * 32, said, credential=b"", handle=b"", sign_count=0)
