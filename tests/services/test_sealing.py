"""Secrets are kept sealed, opened where they are used, and sealed again with a newer key."""

from dataclasses import replace
from datetime import timedelta

import psycopg
import pytest

from sorta.core.errors import NotAllowed, NotFound
from sorta.services import accounts, cases, intake, sealing
from sorta.store import db
from sorta.store.keyring import MARK, Keyring, KeysUnfit, NotSealed, make_key
from tests.api.test_hooks import sign
from tests.world import SECRET, World

pytestmark = pytest.mark.anyio
#: Columns whose name says secret and that are none, or are kept otherwise.
OTHERWISE = {
    "session.token_hash": "a hash",
    "device.token_hash": "a hash",
    "shared_report.token_hash": "a hash",
    "invitation.token_hash": "a hash",
    "password_link.token_hash": "a hash",
    "member.password_hash": "a hash",
    "member.has_password": "whether there is one",
    "api_token.token_hash": "a hash",
    "web_hook.secret_until": "a time",
    "advice.token": "stands in the address of each letter that asks",
    "account.hook_secret_until": "a time",
    "account.token_ends_at": "a time",
    "support_desk.hook_secret_until": "a time",
}


async def test_no_secret_stands_in_the_database_as_it_is(world: World) -> None:
    token = world.accounts["quillet"].token
    async with world.house.db.transact(world.workspace_id) as tx:
        kept = await (await tx.execute("select a::text from account a")).fetchall()
        kept += await (await tx.execute("select d::text from support_desk d")).fetchall()
    plain = world.house.keys.open(sealing.TOKEN, world.workspace_id, token)
    assert plain.startswith("tok_")
    assert not [row for (row,) in kept for secret in (plain, SECRET, "tok_desk") if secret in row]


async def test_every_column_that_sounds_like_a_secret_is_sealed_or_said_to_be_none(world: World) -> None:
    async with world.house.db.connect() as conn:
        rows = await (
            await conn.execute(
                "select c.relname || '.' || a.attname from pg_attribute a join pg_class c on c.oid = a.attrelid"
                " where c.relkind = 'r' and c.relnamespace = 'public'::regnamespace and a.attnum > 0 and not a.attisdropped"
                " and a.attname ~ 'token|secret|csrf|password|verifier'"
            )
        ).fetchall()
    sealed = {f"{table}.{column}" for table, columns in sealing.TABLES.items() for column in columns}
    assert {name for (name,) in rows} == sealed | set(OTHERWISE) | {sealing.SECOND_SECRET}


async def test_what_is_sealed_opens_in_its_own_place_alone() -> None:
    keys = Keyring.read(make_key())
    kept = keys.seal("account.token", 1, "tok_é")
    assert keys.open("account.token", 1, kept) == "tok_é"
    for purpose, workspace_id, what in (
        ("account.token", 2, kept),
        ("account.hook_secret", 1, kept),
        ("account.token", 1, "tok_é"),
        ("account.token", 1, kept[:-4] + "AAA="),
        ("account.token", 1, MARK),
    ):
        with pytest.raises(NotSealed):
            keys.open(purpose, workspace_id, what)
    assert keys.seal("account.token", 1, "tok_é") != kept
    assert "tok" not in repr(keys)


@pytest.mark.parametrize("text", ["", " , ", "short", "ü" * 43, "A" * 42])
async def test_what_are_no_keys_is_said(text: str) -> None:
    with pytest.raises(KeysUnfit):
        Keyring.read(text)


async def test_keys_are_changed_without_losing_a_secret(world: World) -> None:
    old, new = world.house.keys, make_key()
    both = replace(world.house, keys=Keyring([*Keyring.read(new)._keys, *old._keys]))
    only_new = replace(world.house, keys=Keyring.read(new))
    before = world.accounts["pixfern"]
    plain = accounts.make_ref(world.house, before).token
    assert accounts.make_ref(both, before).token == plain
    with pytest.raises(NotSealed):
        accounts.make_ref(only_new, before)
    assert await sealing.seal_again(both, world.workspace_id) == 2 * len(world.accounts) + 2
    after = await accounts.get_account(both, world.workspace_id, before.id)
    assert accounts.make_ref(only_new, after).token == plain
    # Once more with the same key is no change, and none is recorded.
    count = "select count(*) from record"
    async with world.house.db.transact(world.workspace_id) as tx:
        recorded = await db.fetch_value(tx, count, {})
    await sealing.seal_again(both, world.workspace_id)
    assert await accounts.get_account(both, world.workspace_id, before.id) == after
    async with world.house.db.transact(world.workspace_id) as tx:
        assert await db.fetch_value(tx, count, {}) == recorded
    # With a key that is not there nothing is touched, and nothing is half done.
    with pytest.raises(NotSealed):
        await sealing.seal_again(world.house, world.workspace_id)
    assert await accounts.get_account(both, world.workspace_id, before.id) == after


async def test_what_was_kept_before_anything_was_sealed_is_sealed(world: World, pg) -> None:
    name = world.house.db.conninfo.rpartition("/")[2]
    with psycopg.connect(pg.conninfo("sorta_worker", name), autocommit=True) as conn:
        conn.execute("select set_config('app.workspace_id', %s, false)", [str(world.workspace_id)])
        conn.execute("update account set token = 'tok_plain'")
    account = await accounts.get_account(world.house, world.workspace_id, world.accounts["pixfern"].id)
    with pytest.raises(NotSealed):
        accounts.make_ref(world.house, account)
    await sealing.seal_again(world.house, world.workspace_id)
    account = await accounts.get_account(world.house, world.workspace_id, account.id)
    assert accounts.make_ref(world.house, account).token == "tok_plain"


async def test_while_a_signing_secret_is_changed_both_are_taken(world: World) -> None:
    house, body = world.house, '{"type": "Create"}'
    account_id, now = world.accounts["quillet"].id, world.now
    fresh, until = await accounts.change_hook_secret(house, world.scopes["noor"], account_id, now)

    async def takes(secret: str, at) -> bool:
        try:
            await intake.find_signed(
                house, world.workspace_id, account_id, body.encode(), sign(body, secret=secret), at
            )
        except NotAllowed:
            return False
        return True

    assert until == now + timedelta(days=3)
    assert await takes(SECRET, now)
    assert await takes(fresh, now)
    assert not await takes(SECRET, until)
    assert await takes(fresh, until)
    # A second change ends the first secret: two at a time.
    fresher, _ = await accounts.change_hook_secret(house, world.scopes["noor"], account_id, now)
    assert [await takes(s, now) for s in (SECRET, fresh, fresher)] == [False, True, True]


async def test_a_desks_signing_secret_is_changed_the_same_way(world: World) -> None:
    body, who = '{"type": "case.updated", "id": "1", "data": {}}', world.scopes["noor"]
    fresh, until = await cases.change_hook_secret(world.house, who, world.desk_id, world.now)
    for secret, at, is_taken in (
        (SECRET, world.now, True),
        (fresh, world.now, True),
        (SECRET, until, False),
        (fresh, until, True),
    ):
        headers = sign(body, secret=secret)
        error: type[Exception] = Exception if is_taken else NotAllowed
        with pytest.raises(error) as raised:
            await cases.take_told(world.house, world.workspace_id, world.desk_id, body.encode(), headers, at)
        assert isinstance(raised.value, NotAllowed) is not is_taken


async def test_only_who_may_manage_accounts_changes_a_secret(world: World) -> None:
    for change, id in (
        (accounts.change_hook_secret, world.accounts["quillet"].id),
        (cases.change_hook_secret, world.desk_id),
    ):
        for name in ("ilse", "ana", "lise"):
            with pytest.raises(NotAllowed):
                await change(world.house, world.scopes[name], id, world.now)
        with pytest.raises(NotFound):
            await change(world.house, world.scopes["noor"], 10**9, world.now)
