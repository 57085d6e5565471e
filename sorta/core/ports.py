"""What the outside says in our words, and what an adapter to a network must be able to do.

Adapters (sorta.networks) turn a network's activities into the values here; services take them in.
"""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any, Protocol


class Kind(StrEnum):
    """Kinds of message (PRODUCT.md 1) that the connected networks send."""

    COMMENT = "comment"
    REPLY = "reply"
    MENTION = "mention"
    VISITOR_POST = "visitor_post"
    PRIVATE_MESSAGE = "private_message"


@dataclass(frozen=True, kw_only=True)
class Abilities:
    """What one network can do; the interface, the API and the outbox all obey it.

    `length_limit` counts grapheme clusters, the handle in front included.
    `reply_window_hours` runs from their last message; None means no limit.
    """

    network: str
    name: str
    letters: str
    public_reply: bool
    private_reply: bool
    private_reply_to_public: bool
    handle_in_front: bool
    length_limit: int
    reply_window_hours: int | None = None


@dataclass(frozen=True, kw_only=True)
class IdentitySeen:
    """Somebody's handle on a network, as the network tells it. `reach` is 0 to 100 or unknown."""

    external_id: str
    handle: str
    name: str
    reach: int | None = None


@dataclass(frozen=True, kw_only=True)
class PostSeen:
    """Something published that comments hang on; `author` is None when it is ours."""

    external_id: str
    title: str
    body: str
    url: str | None
    published_at: datetime | None
    author: IdentitySeen | None = None


@dataclass(frozen=True, kw_only=True)
class MessageSeen:
    """One thing said. `partner` is the person outside: its author, or whom we addressed.

    `thread_root` is the external id of what the thread hangs on (a post, or its first message).
    """

    external_id: str
    kind: Kind
    public: bool
    by_us: bool
    partner: IdentitySeen
    body: str
    sent_at: datetime
    thread_root: str
    in_reply_to: str | None = None
    post: PostSeen | None = None
    url: str | None = None


@dataclass(frozen=True, kw_only=True)
class EditSeen:
    """A message's text was changed outside at `at`."""

    external_id: str
    body: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class RemovalSeen:
    """A message was deleted outside at `at`."""

    external_id: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class ReactionSeen:
    """A like or other reaction to one of our posts or messages."""

    external_id: str
    author: IdentitySeen
    object_id: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Echo:
    """Something Sorta itself sent, told back by the network: nothing to take in."""

    external_id: str


Seen = MessageSeen | PostSeen | EditSeen | RemovalSeen | ReactionSeen | Echo


@dataclass(frozen=True, kw_only=True)
class AccountRef:
    """How to reach one connected account on its network."""

    external_id: str
    handle: str
    api_url: str
    token: str


@dataclass(frozen=True, kw_only=True)
class OutgoingReply:
    """One reply on its way out. `target` is the external id answered; `to` the person's."""

    public: bool
    body: str
    target: str
    to: str


@dataclass(frozen=True, kw_only=True)
class Delivered:
    """The network took it; `external_id` names it there."""

    external_id: str


@dataclass(frozen=True, kw_only=True)
class Postponed:
    """Not now (no answer, an error in passing, or a limit): try again with the same key."""

    reason: str
    retry_after: float | None = None


@dataclass(frozen=True, kw_only=True)
class TokenExpired:
    """The account's credentials are no longer taken; everything of the account waits."""

    reason: str


@dataclass(frozen=True, kw_only=True)
class Refused:
    """The network will never take it."""

    reason: str


Outcome = Delivered | Postponed | TokenExpired | Refused


@dataclass(frozen=True, kw_only=True)
class BackfillPage:
    """Activities in the order they happened, and where to go on from."""

    activities: tuple[Any, ...]
    cursor: str
    more: bool


class Network(Protocol):
    """An adapter: one network's ways, in our words."""

    abilities: Abilities

    def read(self, activity: Any, account: AccountRef) -> Seen:
        """Turn one activity into our words; raises Unreadable with the reason."""
        ...

    async def send(self, account: AccountRef, reply: OutgoingReply, key: str) -> Outcome:
        """Deliver once under the idempotency key; never raises for what a network may answer."""
        ...

    async def list_since(self, account: AccountRef, cursor: str | None) -> BackfillPage:
        """The next page of the account's activities after `cursor`; raises Unreachable."""
        ...


class Unreachable(Exception):
    """The network could not be read just now."""
