"""Signing in: never says which part was wrong, and slows repeated tries."""

import pytest

from sorta.core.errors import NotAllowed, NotFound, SignInRefused, TooManyTries
from sorta.services import sign_in
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio


async def enter(
    world: World,
    email: str = "mara@brinewick.example",
    password: str = PASSWORD,
    seconds: float = 0,
    came_from: str = "a",
) -> str:
    return await sign_in.sign_in(
        world.house, email=email, password=password, came_from=came_from, now=world.after(seconds=seconds)
    )


async def test_in_and_out(world: World) -> None:
    token = await enter(world, email=" Mara@Brinewick.example ")
    assert (await sign_in.get_session(world.house, token, world.now)).name == "Mara Person"
    scope = await sign_in.get_scope(world.house, token, world.workspace_id, world.now)
    assert scope.role.key == "lead"
    with pytest.raises(NotFound):
        await sign_in.get_scope(world.house, token, world.other_workspace_id, world.now)
    workspaces = await sign_in.list_workspaces(world.house, scope.member_id)
    assert [w["name"] for w in workspaces] == ["Aquarium"]
    await sign_in.sign_out(world.house, token)
    with pytest.raises(SignInRefused):
        await sign_in.get_scope(world.house, token, world.workspace_id, world.now)


async def test_a_session_ends_by_itself(world: World) -> None:
    token = await enter(world)
    with pytest.raises(SignInRefused):
        await sign_in.get_session(world.house, token, world.after(days=15))


async def test_wrong_parts_look_alike(world: World) -> None:
    words = []
    for email, password in (("mara@brinewick.example", "wrong"), ("nobody@brinewick.example", PASSWORD)):
        with pytest.raises(SignInRefused) as refused:
            await enter(world, email, password, came_from=email)
        words.append(refused.value.message)
    assert words[0] == words[1]


async def test_repeated_tries_are_slowed_even_with_the_right_password(world: World) -> None:
    for n in range(sign_in.FREE_TRIES):
        with pytest.raises(SignInRefused):
            await enter(world, password="wrong", came_from=f"x{n}")
    with pytest.raises(TooManyTries) as slowed:
        await enter(world)
    assert slowed.value.retry_after == 2
    with pytest.raises(SignInRefused):
        await enter(world, password="wrong", seconds=3)
    with pytest.raises(TooManyTries) as slowed:
        await enter(world, seconds=4)
    assert slowed.value.retry_after == 3
    await enter(world, seconds=8)
    await enter(world, seconds=9)


async def test_tries_from_one_place_on_many_accounts_are_slowed_too(world: World) -> None:
    for n in range(sign_in.FREE_TRIES):
        with pytest.raises(SignInRefused):
            await enter(world, email=f"guess{n}@brinewick.example")
    with pytest.raises(TooManyTries):
        await enter(world, email="new@brinewick.example")


async def test_the_sessions_own_word(world: World) -> None:
    sign_in.check_csrf("abc", "abc")
    for sent in (None, "", "abd"):
        with pytest.raises(NotAllowed):
            sign_in.check_csrf(sent, "abc")
