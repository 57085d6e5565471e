"""Shapes of accounts, networks and what was kept aside."""

from datetime import datetime

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
    attachments: bool
    one_public_reply: bool


class Account(BaseModel):
    id: int
    network: str
    network_name: str
    letters: str
    name: str
    handle: str
    paused_reason: str | None


class NewToken(Asked):
    token: str = Field(max_length=4000)


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


class Health(BaseModel):
    database: bool
    migrations: bool
    worker: bool
