"""An account and a house for reading only: nothing in it can store or send."""

from types import SimpleNamespace
from typing import Any, cast

from sorta.core.ports import AccountRef, Network
from sorta.services.house import House
from sorta.services.sealing import TOKEN
from sorta.store.accounts import Account
from tests.world import KEYS


def fake_house_with(adapter: Network, ref: AccountRef) -> tuple[Account, House]:
    """Enough of both for intake.read_activity."""
    account = Account(
        id=1,
        workspace_id=1,
        network="n",
        name="",
        handle=ref.handle,
        external_id=ref.external_id,
        api_url="",
        token=KEYS.seal(TOKEN, 1, "tok"),
        hook_secret="",
        paused_reason=None,
        backfill_cursor=None,
    )
    return account, cast(House, cast(Any, SimpleNamespace(networks={"n": adapter}, keys=KEYS)))
