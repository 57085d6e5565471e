"""A forgotten password: the same answer for everybody, a link once and soon, and nobody elsewhere stays in."""

import asyncio
from dataclasses import replace
from typing import Any

import pytest

from sorta.core.errors import Impossible, Invalid, NotFound, SignInRefused, TooManyTries
from sorta.core.ports import Unreachable
from sorta.services import forgotten, sign_in
from tests.services.test_invitations import WORDS, Post
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio
ILSE = "ilse@brinewick.example"


@pytest.fixture
def post(world: World) -> Post:
    made = Post()
    world.house = replace(world.house, post=made, address="https://desk.example")
    return made


async def get_token(world: World, post: Post, email: str = ILSE, **after: float) -> str:
    assert await forgotten.mail_link(world.house, email, world.after(**after)) is True
    return post.letters[-1].text.split("/password/")[1].split()[0]


async def enter(world: World, password: str, **after: float) -> sign_in.Entered:
    return await sign_in.sign_in(
        world.house, email=ILSE, password=password, came_from="y", now=world.after(**(after or {"minutes": 20}))
    )


async def use(world: World, token: str, password: str = WORDS, **after: float) -> sign_in.Entered:
    now = world.after(**(after or {"minutes": 10}))
    return await forgotten.set_password(world.house, token, password, "x", now)


async def list_jobs(world: World) -> list[dict[str, Any]]:
    async with world.house.db.connect() as conn:
        rows = await conn.execute(
            "select args from procrastinate_jobs where task_name = %s order by id", [forgotten.MAIL]
        )
        return [args for (args,) in await rows.fetchall()]


async def test_a_link_sets_another_and_ends_all_that_was_open(world: World, post: Post) -> None:
    there = await enter(world, PASSWORD, minutes=1)
    await forgotten.ask(world.house, " ILSE@brinewick.example", "x", world.now)
    (job,) = await list_jobs(world)
    assert job == {"email": ILSE}
    token = await get_token(world, post)
    assert post.letters[-1].to == ILSE
    here = await use(world, token)
    now = world.after(minutes=10)
    assert (await sign_in.get_session(world.house, here.token, now)).email == ILSE
    with pytest.raises(SignInRefused):
        await sign_in.get_session(world.house, there.token, now)
    with pytest.raises(SignInRefused):
        await enter(world, PASSWORD)
    await enter(world, WORDS)


async def test_nobody_learns_who_has_an_account(world: World, post: Post) -> None:
    await forgotten.ask(world.house, "stranger@tidewater.example", "x", world.now)
    assert await list_jobs(world) == [{"email": "stranger@tidewater.example"}]
    assert await forgotten.mail_link(world.house, "stranger@tidewater.example", world.now) is False
    assert post.letters == []


@pytest.mark.parametrize("email", [ILSE, "stranger@tidewater.example"])
async def test_asking_without_end_has_to_wait(world: World, post: Post, email: str) -> None:
    for _ in range(forgotten.FREE_ADDRESS):
        await forgotten.ask(world.house, email, "x", world.now)
    with pytest.raises(TooManyTries):
        await forgotten.ask(world.house, email, "elsewhere", world.now)
    # One waiting letter is enough.
    assert len(await list_jobs(world)) == 1


async def test_one_place_cannot_ask_for_everybody(world: World, post: Post) -> None:
    for n in range(forgotten.FREE_FROM):
        await forgotten.ask(world.house, f"n{n}@tidewater.example", "x", world.now)
    with pytest.raises(TooManyTries):
        await forgotten.ask(world.house, "one.more@tidewater.example", "x", world.now)


@pytest.mark.parametrize("why", ["used", "late", "another one", "made up"])
async def test_what_leads_nowhere(world: World, post: Post, why: str) -> None:
    token, after = await get_token(world, post), {"minutes": 10.0}
    if why == "used":
        await use(world, token)
    elif why == "late":
        after = {"minutes": 31.0}
    elif why == "another one":
        await get_token(world, post, minutes=1)
    else:
        token = "x" * 43
    with pytest.raises(NotFound, match="leads nowhere"):
        await use(world, token, "lantern-herring-noon", **after)


async def test_two_at_once_set_one(world: World, post: Post) -> None:
    token = await get_token(world, post)
    both = await asyncio.gather(use(world, token), use(world, token, "lantern-herring-noon"), return_exceptions=True)
    assert sorted(type(one).__name__ for one in both) == ["Entered", "NotFound"]


async def test_a_weak_one_uses_nothing_up(world: World, post: Post) -> None:
    token = await get_token(world, post)
    for weak in ("password123", "ilse.person1", "short"):
        with pytest.raises(Invalid):
            await use(world, token, weak)
    await use(world, token)


async def test_without_mail_it_is_said_and_with_broken_mail_nothing_changes(world: World, post: Post) -> None:
    with pytest.raises(Impossible, match="sends no mail"):
        await forgotten.ask(replace(world.house, post=None), ILSE, "x", world.now)
    with pytest.raises(Invalid):
        await forgotten.ask(world.house, "no address", "x", world.now)
    post.problem = Unreachable("The mail server does not answer.")
    assert await forgotten.mail_link(world.house, ILSE, world.now) is False
    await enter(world, PASSWORD)
