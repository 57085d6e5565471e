"""Shapes of accounts, networks and what was kept aside."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.ports import Kind


class Network(BaseModel):
    """What a network can do."""

    network: str
    name: str
    letters: str
    public_reply: bool
    private_reply: bool
    private_reply_to_public: bool
    handle_in_front: bool
    length_limit: int
    reply_window_hours: int | None
    private_reply_to_public_hours: int | None
    kinds: list[Kind]
    like: bool
    hide: bool
    delete: bool
    delete_own_only: bool
    block: bool
    repost: bool
    search: bool
    search_beginnings: bool
    attachments: bool
    one_public_reply: bool
    asks: bool = Field(description="Whether it is asked for leave at a page of its own")


class Lacking(BaseModel):
    """What a network asks to be allowed besides, and where."""

    words: str
    address: str


class AskedNetwork(Asked):
    network: str = Field(max_length=40)


class AskAddress(BaseModel):
    """The network's page where its account's owner is asked for leave."""

    address: str


class GrantAnswer(Asked):
    """What a network sent somebody back with: the whole query of the address, and the state in it."""

    network: str = Field(max_length=40)
    response: str = Field(max_length=8000)
    state: str = Field(max_length=200)


class Granted(BaseModel):
    id: int
    name: str
    network_name: str
    is_new: bool
    lacking: list[Lacking]


class Account(BaseModel):
    id: int
    network: str
    network_name: str
    letters: str
    name: str
    handle: str
    paused_reason: str | None
    silent_since: datetime | None = Field(description="Since when its network does not answer")
    token_ends_at: datetime | None = Field(description="When its network's leave ends, where that is known")
    renews: bool = Field(description="Whether that is renewed by itself")
    lacking: list[Lacking]
    disconnected_at: datetime | None
    sign_off: str = Field(description="The line that closes its answers")
    asks: bool = Field(description="Whether its network is asked at a page of its own")


class NewAccount(Asked):
    """An account as its network knows it, and a token for it."""

    network: str = Field(max_length=40)
    name: str = Field(max_length=500)
    handle: str = Field(max_length=500)
    external_id: str = Field(max_length=500)
    api_url: str = Field(max_length=500)
    token: str = Field(max_length=500)


class NewToken(Asked):
    token: str = Field(max_length=4000)


class SignOff(Asked):
    """The line that closes an account's answers, with {initials} and {first name} of whoever writes; empty for none."""

    sign_off: str = Field(max_length=400)


class HookSecret(BaseModel):
    """A new signing secret; shown this once."""

    secret: str
    before_until: datetime = Field(description="Until when the secret before is taken too")


class SecurityEntry(BaseModel):
    """Something that happened around who may do what; `words` go on from the member's name."""

    id: int
    at: datetime
    name: str
    words: str
    came_from: str | None = Field(description="The address somebody signed in from")


class Aside(BaseModel):
    """Something that could not be taken in, whole, with the reason."""

    id: int
    account_id: int
    account_name: str
    network: str
    received_at: datetime
    source: str
    reason: str
    body: str


class TriedAgain(BaseModel):
    """Null reason: it has been taken in now."""

    reason: str | None


class Duty(BaseModel):
    """Something that runs by itself, for the workspace or for one account of it."""

    name: str
    says: str
    account_name: str | None
    network: str | None
    every: float = Field(description="Seconds from one round to the next")
    succeeded_at: datetime | None
    failed_at: datetime | None
    took_ms: int | None
    problem: str | None = Field(description="What went wrong since it last succeeded")
    stands_still: bool


class Period(BaseModel):
    """How long a kind of row is kept."""

    name: str
    says: str
    days: float | None = Field(description="Null: for good")
    usual: float | None
    may_choose: bool


class ReadEarlier(Asked):
    days: int = Field(ge=1, le=3_650)
    stays_open: bool = Field(description="What has no answer stays open; else all of it is settled")


class EarlierRun(BaseModel):
    """`seen` activities were looked at, of `expected` where the network says how many there are; `taken` messages were new."""

    id: int
    since: datetime
    until: datetime
    stays_open: bool
    seen: int
    expected: int | None
    taken: int
    state: Literal["waiting", "done", "stopped"]
    problem: str | None
    made_by: int
    made_at: datetime
    ended_at: datetime | None


class NewPeriod(Asked):
    days: int | None = Field(None, ge=1, le=36_500, description="Null: for good")


class PeriodPreview(BaseModel):
    """What would go with the next sweep; counted up to ten thousand."""

    count: int
    more: bool


class Clock(BaseModel):
    """What runs by itself, and what is swept after how long."""

    duties: list[Duty]
    periods: list[Period]


class Health(BaseModel):
    """`keys` is whether the database knows the key that this process signs with; `clock` whether the worker's rounds come by,
    `behind` by how many seconds they are late."""

    database: bool
    migrations: bool
    keys: bool
    clock: bool
    behind: float | None = None
