"""Accounts by their network's leave: connected, renewed before the end, repaired with what waited, disconnected; and what is not granted."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from urllib.parse import parse_qs, urlencode, urlsplit

import pytest
from standardwebhooks.webhooks import Webhook

from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound
from sorta.core.ports import Moderation, Refused
from sorta.services import accounts, answers, delivery, desk, granting, intake, moderation
from sorta.services.accounts import make_ref
from sorta.store import accounts as store
from tests.world import World

pytestmark = pytest.mark.anyio


async def ask(world: World, network: str = "quillet", who: str = "noor", **more: float) -> tuple[str, str]:
    """The address that somebody is asked at, and the state in it."""
    address = await granting.ask(world.house, world.scopes[who], network, world.after(**more))
    return address, parse_qs(urlsplit(address).query)["state"][0]


async def allow(world: World, address: str, network: str = "quillet", **said: str) -> str:
    known = {"id": "desk", "secret": "s:cr%t", "name": "The desk", "redirects": [f"http://desk.test/connect/{network}"]}
    await world.control("client", **known)
    page = world.accounts[network].external_id
    form = urlencode({"page": page, "allow": "yes", **said})
    headers = {"Content-Type": "application/x-www-form-urlencoded"}
    answer = await world.outside.post(address, content=form, headers=headers)
    return str(urlsplit(answer.headers["Location"]).query)


async def connect(world: World, network: str = "quillet", **said: str) -> granting.Granted:
    address, state = await ask(world, network)
    response = await allow(world, address, network, **said)
    return await granting.take(world.house, world.scopes["noor"], network, response, state, world.now)


async def say(world: World, id: int, text: str) -> None:
    seen = (await world.row(id))["seq"]
    noor = world.scopes["noor"]
    await answers.reply(world.house, noor, id, public=True, text=text, seen_seq=seen, settle=False, now=world.now)


async def get(world: World, network: str = "quillet") -> store.Account:
    return await accounts.get_account(world.house, world.workspace_id, world.accounts[network].id)


async def test_an_account_that_was_paused_is_repaired_and_what_waited_goes_out(world: World) -> None:
    id = await world.hear("hello?", network="quillet", kind="mention")
    await world.control("expire", network="quillet", page="brinewick")
    await say(world, id, "Hello!")
    late = world.after(minutes=1)
    await delivery.deliver_due(world.house, world.workspace_id, late)
    assert "expired" in (await get(world)).paused_reason
    granted = await connect(world)
    assert (granted.is_new, granted.id, granted.lacking) == (False, world.accounts["quillet"].id, ())
    account = await get(world)
    assert account.paused_reason is None
    assert account.token_ends_at == world.now + timedelta(hours=1)
    # Sealed, both of them.
    assert account.token.startswith("sealed:")
    assert (account.refresh_token or "").startswith("sealed:")
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=2))
    said = [thing["content"] for thing in await world.things("quillet")]
    assert sum("Hello!" in text for text in said) == 1


async def test_it_is_renewed_before_its_end_once_and_again_after(world: World) -> None:
    await connect(world)
    house, place = world.house, world.workspace_id
    before = await get(world)
    assert await granting.renew_tokens(house, place, world.after(minutes=39)) == 0
    assert await granting.renew_tokens(house, place, world.after(minutes=41)) == 1
    assert await granting.renew_tokens(house, place, world.after(minutes=41)) == 0
    fresh = await get(world)
    assert fresh.token != before.token
    assert fresh.token_ends_at == world.after(minutes=101)
    assert (await house.networks["quillet"].list_since(make_ref(house, fresh), None)).activities == ()
    assert await granting.renew_tokens(house, place, world.after(minutes=82)) == 1


async def test_leave_that_was_taken_back_pauses_the_account_and_says_so_to_who_can_mend_it(world: World) -> None:
    await connect(world)
    await world.control("take-back", page=world.accounts["quillet"].external_id)
    assert await granting.renew_tokens(world.house, world.workspace_id, world.after(minutes=41)) == 0
    account = await get(world)
    assert "taken its leave back" in account.paused_reason
    assert account.refresh_token is None
    async with world.house.db.transact(world.workspace_id) as tx:
        told = await (await tx.execute("select member_id, words from alert where occasion = 'account'")).fetchall()
    assert [member for member, _ in told] == [world.scopes["noor"].member_id]
    assert "Connect it again" in told[0][1]
    await connect(world)
    assert (await get(world)).paused_reason is None


async def test_a_network_that_is_away_is_asked_again_later(world: World) -> None:
    await connect(world)
    working = world.house.grantor

    class Away:
        async def renew(self, network: str, refresh_token: str) -> None:
            raise granting.Unreachable("Quillet did not answer.")

        def list_networks(self) -> frozenset[str]:
            return frozenset({"quillet"})

    away = replace(world.house, grantor=Away())
    assert await granting.renew_tokens(away, world.workspace_id, world.after(minutes=41)) == 0
    assert (await get(world)).paused_reason is None
    assert await granting.renew_tokens(world.house, world.workspace_id, world.after(minutes=42)) == 0
    assert await granting.renew_tokens(world.house, world.workspace_id, world.after(minutes=44)) == 1
    assert working is world.house.grantor


async def test_a_token_that_is_not_taken_any_more_is_renewed_at_once(world: World) -> None:
    await connect(world)
    await world.control("take-back", page=world.accounts["quillet"].external_id, only="granted")
    id = await world.hear("hello?", network="quillet", kind="mention")
    await say(world, id, "Hello!")
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=1))
    assert (await get(world)).paused_reason is not None
    assert await granting.renew_tokens(world.house, world.workspace_id, world.after(minutes=2)) == 1
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=3))
    assert sum("Hello!" in thing["content"] for thing in await world.things("quillet")) == 1


async def test_only_who_asked_takes_it_once_in_time_for_that_network_and_workspace(world: World) -> None:
    house, noor = world.house, world.scopes["noor"]
    address, state = await ask(world)
    response = await allow(world, address)
    # Another Owner of this workspace, and one of the other.
    mara = replace(world.scopes["mara"], role=noor.role)
    otto = world.scopes["otto"]
    for scope, network, word, after in (
        (mara, "quillet", state, 0),
        (otto, "quillet", state, 0),
        (otto, "quillet", f"{otto.workspace_id}.{state.partition('.')[2]}", 0),
        (noor, "commonfold", state, 0),
        (noor, "quillet", f"{world.workspace_id}.made-up", 0),
        (noor, "quillet", state, 11),
    ):
        with pytest.raises(Invalid, match="not asked for here"):
            await granting.take(house, scope, network, response, word, world.after(minutes=after))
    assert (await granting.take(house, noor, "quillet", response, state, world.now)).name == "Brinewick Aquarium"
    with pytest.raises(Invalid, match="used up"):
        await granting.take(house, noor, "quillet", response, state, world.now)


async def test_what_is_not_granted_connects_nothing(world: World) -> None:
    before = await get(world)
    address, state = await ask(world)
    response = await allow(world, address, allow="no")
    with pytest.raises(Invalid, match=r"does not allow it.*Nothing was connected"):
        await granting.take(world.house, world.scopes["noor"], "quillet", response, state, world.now)
    assert await get(world) == before
    with pytest.raises(NotAllowed):
        await granting.ask(world.house, world.scopes["mara"], "quillet", world.now)
    with pytest.raises(Impossible, match="Connect with a token"):
        await granting.ask(replace(world.house, grantor=None), world.scopes["noor"], "quillet", world.now)


async def test_what_a_network_asks_besides_is_kept_and_gone_when_it_is_allowed(world: World) -> None:
    granted = await connect(world, "commonfold")
    assert "private messages" in granted.lacking[0].words
    shown = {a["network"]: a for a in await accounts.list_accounts(world.house, world.scopes["noor"])}
    assert shown["commonfold"]["lacking"][0]["address"].startswith("http://outside")
    await connect(world, "commonfold", messages="yes")
    assert (await get(world, "commonfold")).lacking == []


async def test_disconnected_nothing_goes_out_or_comes_in_and_what_was_said_stays(world: World) -> None:
    await connect(world)
    id = await world.hear("hello?", network="quillet", kind="mention")
    house, noor, now = world.house, world.scopes["noor"], world.now
    await say(world, id, "Too late!")
    account = await get(world)
    token = make_ref(house, account).token
    await granting.disconnect(house, noor, account.id, now)
    gone = await get(world)
    assert gone.disconnected_at == now
    assert gone.refresh_token is None
    assert make_ref(house, gone).token != token
    # What was queued comes back to its author with the reason; nothing of it is outside.
    await delivery.deliver_due(house, world.workspace_id, world.after(minutes=1))
    assert "refused" in await world.kinds(id)
    assert all("Too late" not in thing["content"] for thing in await world.things("quillet"))
    with pytest.raises(Impossible, match="is disconnected"):
        await say(world, id, "x")
    sheet = await desk.get_sheet(house, noor, id, now)
    assert {mode["obstacle"] for mode in sheet["modes"]} == {sheet["modes"][0]["obstacle"]}
    assert "disconnected" in sheet["modes"][0]["obstacle"]
    assert len(sheet["messages"]) == 2
    # Nothing else is asked of its network either, and the menu says why.
    theirs = sheet["messages"][0]
    assert {one["obstacle"] for one in theirs["offered"]} == {sheet["modes"][0]["obstacle"]}
    with pytest.raises(Impossible, match="is disconnected"):
        await moderation.moderate(house, noor, theirs["id"], what=Moderation.LIKE, now=now)
    secret = house.keys.open("account.hook_secret", world.workspace_id, gone.hook_secret)
    body, at = "{}", datetime.now(UTC)
    headers = {
        "webhook-id": "m",
        "webhook-timestamp": str(int(at.timestamp())),
        "webhook-signature": Webhook(secret).sign("m", at, body),
    }
    with pytest.raises(NotFound, match="stop delivering"):
        await intake.find_signed(house, world.workspace_id, gone.id, body.encode(), headers, at)
    assert await granting.renew_tokens(house, world.workspace_id, world.after(days=2)) == 0
    with pytest.raises(Impossible, match="already"):
        await granting.disconnect(house, noor, gone.id, now)
    # Connected again, it is the same account.
    assert (await connect(world)).id == gone.id
    await say(world, id, "Here again.")
    outcome = await delivery.deliver_due(house, world.workspace_id, world.after(minutes=3))
    assert not isinstance(outcome, Refused)
    assert sum("Here again" in thing["content"] for thing in await world.things("quillet")) == 1
