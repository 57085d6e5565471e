"""Connecting an account: what the network takes is kept, sealed and written down; what it does not take changes nothing."""

from dataclasses import replace
from typing import Any

import pytest

from sorta.core.errors import Invalid, NotAllowed
from sorta.core.ports import Unreachable
from sorta.services import accounts, intake, security_log
from sorta.services.accounts import NewAccount
from tests.world import OUTSIDE, World

pytestmark = pytest.mark.anyio


@pytest.fixture
async def new(world: World) -> NewAccount:
    """A page that nobody has connected."""
    page = await world.control("actors", network="quillet", handle="lighthouse", name="Lighthouse", page=True)
    return NewAccount(
        network="quillet",
        name="Lighthouse",
        handle=" @lighthouse ",
        external_id=page["id"],
        api_url=f"{OUTSIDE}/api/quillet/",
        token=page["token"],
    )


async def connect(world: World, new: NewAccount, who: str = "noor") -> int:
    return await accounts.connect(world.house, world.scopes[who], new, world.now)


async def list_names(world: World) -> list[str]:
    rows: list[dict[str, Any]] = await accounts.list_accounts(world.house, world.scopes["noor"])
    return [row["name"] for row in rows]


async def test_what_was_said_there_comes_in_and_it_stands_in_the_log(world: World, new: NewAccount) -> None:
    await world.control(
        "say",
        network="quillet",
        kind="mention",
        handle="ada",
        name="Ada",
        text="Is it open?",
        page="lighthouse",
        tell=False,
    )
    id = await connect(world, new)
    account = await accounts.get_account(world.house, world.workspace_id, id)
    assert (account.handle, account.api_url) == ("lighthouse", f"{OUTSIDE}/api/quillet")
    assert new.token not in account.token
    assert accounts.make_ref(world.house, account).token == new.token
    assert await intake.backfill(world.house, world.workspace_id, id, world.now) > 0
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (await tx.execute("select body from message where account_id = %s", [id])).fetchall()
    assert ("Is it open?",) in rows
    told = await security_log.list_entries(world.house, world.scopes["noor"])
    assert any("connected Lighthouse on Quillet" in entry["words"] for entry in told)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"network": "nowhere"}, "no such network"),
        ({"name": "  "}, "name has 1"),
        ({"external_id": "x\n"}, "does not let it in"),
        ({"token": "tok_wrong"}, "does not let it in"),
        ({"api_url": "ftp://x.example"}, "begins with https"),
        ({"api_url": "javascript:alert(1)"}, "begins with https"),
        ({"handle": "h" * 501}, "handle has 1"),
    ],
)
async def test_what_is_wrong_is_said_and_nothing_is_connected(
    world: World, new: NewAccount, change: dict[str, str], says: str
) -> None:
    before = await list_names(world)
    if "external_id" in change:
        # Trimmed it is an id like any other; the network decides by the token, so a wrong one is given as well.
        change = {**change, "token": "tok_wrong"}
    with pytest.raises(Invalid, match=says):
        await connect(world, replace(new, **change))
    assert await list_names(world) == before


async def test_twice_is_once(world: World, new: NewAccount) -> None:
    await connect(world, new)
    with pytest.raises(Invalid, match="connected here already"):
        await connect(world, new)
    assert (await list_names(world)).count("Lighthouse") == 1


async def test_a_network_that_is_away_connects_nothing(
    world: World, new: NewAccount, monkeypatch: pytest.MonkeyPatch
) -> None:
    async def away(*_: object) -> None:
        raise Unreachable("Quillet did not answer (ConnectTimeout).")

    monkeypatch.setattr(type(world.house.networks["quillet"]), "list_since", away)
    with pytest.raises(Invalid, match=r"did not answer.*Nothing was connected"):
        await connect(world, new)


async def test_who_may(world: World, new: NewAccount) -> None:
    with pytest.raises(NotAllowed):
        await connect(world, new, who="mara")
