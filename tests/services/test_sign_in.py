"""Signing in: never says which part was wrong, and slows repeated tries."""

import asyncio
import json
import threading
from contextlib import AsyncExitStack
from pathlib import Path
from types import SimpleNamespace

import pytest

from sorta.core.errors import Busy, NotAllowed, NotFound, SignInRefused, TooManyTries
from sorta.services import sign_in
from sorta.store.live import LONGEST_QUEUE, STREAMS_OF_A_MEMBER, make_notice
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio


async def enter(
    world: World,
    email: str = "mara@brinewick.example",
    password: str = PASSWORD,
    seconds: float = 0,
    came_from: str = "a",
    device: str | None = None,
) -> str:
    entered = await sign_in.sign_in(
        world.house,
        email=email,
        password=password,
        came_from=came_from,
        now=world.after(seconds=seconds),
        device=device,
    )
    return entered.token


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


async def fail(world: World, times: int, **more: object) -> None:
    for _ in range(times):
        with pytest.raises(SignInRefused):
            await enter(world, password="wrong", **more)  # type: ignore[arg-type]


async def test_repeated_tries_are_slowed_even_with_the_right_password(world: World) -> None:
    await fail(world, sign_in.FREE_TRIES)
    with pytest.raises(TooManyTries) as slowed:
        await enter(world)
    assert slowed.value.retry_after == 2
    await fail(world, 1, seconds=3)
    with pytest.raises(TooManyTries) as slowed:
        await enter(world, seconds=4)
    assert slowed.value.retry_after == 3
    await enter(world, seconds=8)
    await enter(world, seconds=9)


async def test_tries_at_the_same_moment_count_too(world: World) -> None:
    """Counted before the password is looked at: thirty at once are five tries, and hold no connection while they are hashed."""
    told = await asyncio.gather(*(enter(world, password="wrong") for _ in range(30)), return_exceptions=True)
    kinds = [type(one) for one in told]
    assert kinds.count(SignInRefused) == sign_in.FREE_TRIES
    assert kinds.count(TooManyTries) == 30 - sign_in.FREE_TRIES


async def test_hashing_is_done_by_two_and_holds_no_connection(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    go, at_once = threading.Event(), []

    def verify(*_: object) -> bool:
        at_once.append(1)
        go.wait(10)
        at_once.pop()
        return False

    monkeypatch.setattr(sign_in, "_hasher", SimpleNamespace(verify=verify))
    trying = [asyncio.create_task(enter(world, f"m{n}@brinewick.example", came_from=f"p{n}")) for n in range(40)]
    for _ in range(200):
        await asyncio.sleep(0.05)
        if len(at_once) == 2 and any(one.done() for one in trying):
            break
    assert len(at_once) == 2
    # The others' requests are answered meanwhile, by a pool of six connections.
    assert await asyncio.wait_for(sign_in.list_workspaces(world.house, world.scopes["mara"].member_id), 2)
    refused = [one for one in trying if one.done()]
    assert {type(one.exception()) for one in refused} == {Busy}
    go.set()
    assert {type(one) for one in await asyncio.gather(*trying, return_exceptions=True)} == {Busy, SignInRefused}


async def test_nobody_locks_a_colleague_out(world: World) -> None:
    """Neither from elsewhere nor from the same office, on a device that is known; a stranger's is slowed."""
    entered = await sign_in.sign_in(
        world.house, email="mara@brinewick.example", password=PASSWORD, came_from="office", now=world.now
    )
    for n in range(sign_in.FREE_ACCOUNT // sign_in.FREE_TRIES):
        await fail(world, sign_in.FREE_TRIES, came_from=f"bot{n}")
    with pytest.raises(TooManyTries):
        await enter(world, came_from="hotel")
    await enter(world, came_from="hotel", device=entered.device)
    for n in range(sign_in.FREE_FROM // sign_in.FREE_TRIES):
        await fail(world, sign_in.FREE_TRIES, came_from="office", email=f"guess{n}@brinewick.example")
    with pytest.raises(TooManyTries):
        await enter(world, came_from="office", email="noor@brinewick.example")
    await enter(world, came_from="office", device=entered.device)
    # A device is known for whoever signed in on it, and is itself slowed when it guesses.
    with pytest.raises(TooManyTries):
        await enter(world, came_from="office", email="noor@brinewick.example", device=entered.device)
    await fail(world, sign_in.FREE_TRIES, device=entered.device)
    with pytest.raises(TooManyTries):
        await enter(world, device=entered.device)


async def test_a_good_try_does_not_forgive_the_guesses_of_its_neighbours(world: World) -> None:
    for n in range(sign_in.FREE_FROM - 1):
        await fail(world, 1, email=f"guess{n}@brinewick.example")
    await enter(world)
    await fail(world, 1, email="another@brinewick.example")
    with pytest.raises(TooManyTries):
        await enter(world, email="new@brinewick.example")


async def test_a_session_nobody_uses_ends(world: World) -> None:
    token = await enter(world)
    for hours in (60, 120, 180):
        await sign_in.get_scope(world.house, token, world.workspace_id, world.after(hours=hours))
    # A page that only listens is nobody who uses it.
    await sign_in.get_scope(world.house, token, world.workspace_id, world.after(hours=250), touch=False)
    with pytest.raises(SignInRefused):
        await sign_in.get_scope(world.house, token, world.workspace_id, world.after(hours=253))


async def test_a_stream_ends_with_its_right(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sign_in, "LOOKED_AT_EVERY", 0.05)
    await world.house.live.open()
    try:
        for end in ("signed out", "removed"):
            token = await enter(world)
            scope = await sign_in.get_scope(world.house, token, world.workspace_id, world.now)
            notices = sign_in.stream_notices(world.house, token, scope, lambda: world.now)
            assert "hello" in await anext(notices)
            waiting = asyncio.create_task(anext(notices, "ended"))
            await asyncio.sleep(0.2)
            assert not waiting.done()
            if end == "signed out":
                await sign_in.sign_out(world.house, token)
            else:
                async with world.house.db.transact(world.workspace_id) as tx:
                    await tx.execute("delete from membership where member_id = %s", [scope.member_id])
            assert await asyncio.wait_for(waiting, 3) == "ended"
        assert world.house.live.count() == (0, 0)
    finally:
        await world.house.live.close()


async def test_streams_are_so_many_and_their_queues_so_long(world: World) -> None:
    live, mara = world.house.live, world.scopes["mara"]
    async with AsyncExitStack() as stack:
        queues = [
            await stack.enter_async_context(live.subscribe(world.workspace_id, mara.member_id))
            for _ in range(STREAMS_OF_A_MEMBER)
        ]
        with pytest.raises(Busy):
            await anext(sign_in.stream_notices(world.house, "x", mara, lambda: world.now))
        await stack.enter_async_context(live.subscribe(world.workspace_id, world.scopes["noor"].member_id))
        for n in range(LONGEST_QUEUE + 5):
            live._tell(make_notice(world.workspace_id, "conversations", ids=[n]))
        assert queues[0].qsize() <= LONGEST_QUEUE
        # Who has not read is told to fetch everything, then what came after.
        assert json.loads(queues[0].get_nowait())["kind"] == "everything"
        assert json.loads(queues[0].get_nowait())["ids"] == [LONGEST_QUEUE + 1]
    assert live.count() == (0, 0)


async def test_the_sessions_own_word(world: World) -> None:
    sign_in.check_csrf("abc", "abc")
    for sent in (None, "", "abd", "äöü", "\udc80"):
        with pytest.raises(NotAllowed):
            sign_in.check_csrf(sent, "abc")


def test_passwords_are_hashed_as_slowly_as_is_advised() -> None:
    """OWASP, Password Storage Cheat Sheet: Argon2id with at least 19 MiB, two passes and one thread (from memory)."""
    from argon2 import extract_parameters
    from pwdlib import PasswordHash

    used = extract_parameters(PasswordHash.recommended().hash("correct horse"))
    assert used.type.name == "ID"
    assert used.memory_cost >= 19 * 1024
    assert used.time_cost >= 2
    assert "PasswordHash.recommended()" in Path(sign_in.__file__).read_text()
