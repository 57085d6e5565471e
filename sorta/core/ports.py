"""What the outside says in our words, and what an adapter to a network must be able to do.

Adapters (sorta.networks) turn a network's activities into the values here; services take them in.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import Any, Protocol


class Kind(StrEnum):
    """Kinds of message (docs/trade.md 1) that the connected networks send."""

    COMMENT = "comment"
    REPLY = "reply"
    MENTION = "mention"
    STORY_MENTION = "story_mention"
    VISITOR_POST = "visitor_post"
    REVIEW = "review"
    FORM_ENTRY = "form_entry"
    PRIVATE_MESSAGE = "private_message"
    FOUND = "found"


class Moderation(StrEnum):
    """What can be done on a network to what somebody else wrote, or to them."""

    LIKE = "like"
    UNLIKE = "unlike"
    HIDE = "hide"
    SHOW = "show"
    DELETE = "delete"
    REPOST = "repost"
    BLOCK = "block"
    UNBLOCK = "unblock"


#: The act that takes another back on the network; what is not here cannot be taken back once it is done.
OPPOSITES = {
    Moderation.LIKE: Moderation.UNLIKE,
    Moderation.UNLIKE: Moderation.LIKE,
    Moderation.HIDE: Moderation.SHOW,
    Moderation.SHOW: Moderation.HIDE,
    Moderation.BLOCK: Moderation.UNBLOCK,
    Moderation.UNBLOCK: Moderation.BLOCK,
}


@dataclass(frozen=True, kw_only=True)
class Abilities:
    """What one network can do; the interface, the API and the outbox all obey it.

    `length_limit` counts grapheme clusters, the handle in front included.
    `sign_off_apart`: what closes an answer stands on a line of its own, and not behind the last word, as is the custom where little fits.
    `reply_window_hours` runs from their last message; None means no limit; `private_reply_to_public_hours`
    is the same for writing privately to somebody who spoke publicly. `kinds` are what comes in from it. `per_minute`
    is how many requests an account may make in any 60 seconds.
    """

    network: str
    name: str
    letters: str
    public_reply: bool
    private_reply: bool
    private_reply_to_public: bool
    handle_in_front: bool
    length_limit: int
    sign_off_apart: bool = True
    reply_window_hours: int | None = None
    private_reply_to_public_hours: int | None = None
    kinds: tuple[Kind, ...] = ()
    like: bool = False
    hide: bool = False
    delete: bool = False
    delete_own_only: bool = False
    block: bool = False
    repost: bool = False
    attachments: bool = False
    one_public_reply: bool = False
    search: bool = False
    #: Whether a search finds a word by its beginning; otherwise whole words only.
    search_beginnings: bool = False
    per_minute: int = 120


@dataclass(frozen=True, kw_only=True)
class IdentitySeen:
    """Somebody's handle on a network, as the network tells it. `reach` is 0 to 100 or unknown; `automatic` is a program."""

    external_id: str
    handle: str
    name: str
    reach: int | None = None
    automatic: bool = False


@dataclass(frozen=True, kw_only=True)
class PostSeen:
    """Something published that comments hang on; `author` is None when it is ours, `is_ad` when it was paid for."""

    external_id: str
    title: str
    body: str
    url: str | None
    published_at: datetime | None
    author: IdentitySeen | None = None
    is_ad: bool = False


@dataclass(frozen=True, kw_only=True)
class AttachmentSeen:
    """Something sent along: its media type, address and name on the network, and what it shows if somebody said so."""

    media_type: str
    url: str
    name: str
    description: str = ""


@dataclass(frozen=True, kw_only=True)
class MessageSeen:
    """One thing said. `partner` is the person outside: its author, or whom we addressed.

    `rating` is the stars of a review, 1 to 5. `thread_root` is the external id of what the thread hangs on (a post, or its first message).
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
    rating: int | None = None
    attachments: tuple[AttachmentSeen, ...] = ()


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
    #: Seconds to wait for an answer; None for as long as the installation says.
    patience: float | None = None


@dataclass(frozen=True, kw_only=True)
class OutgoingFile:
    """A file that goes along, with what it shows for whoever cannot see it."""

    name: str
    media_type: str
    content: bytes
    description: str = ""


@dataclass(frozen=True, kw_only=True)
class OutgoingReply:
    """One reply on its way out. `target` is the external id answered; `to` the person's."""

    public: bool
    body: str
    target: str
    to: str
    files: tuple[OutgoingFile, ...] = ()


@dataclass(frozen=True, kw_only=True)
class OutgoingAct:
    """One act on a network. `target` is the external id of the thing it is done to; `person` its author's."""

    what: Moderation
    target: str
    person: str


@dataclass(frozen=True, kw_only=True)
class Delivered:
    """The network took it; `external_id` names it there."""

    external_id: str


@dataclass(frozen=True, kw_only=True)
class Postponed:
    """Not now (no answer, an error in passing, or a limit): try again with the same key. `maybe_out` when nobody knows
    whether the network has taken it; `silent` when there was no answer at all."""

    reason: str
    retry_after: float | None = None
    silent: bool = False
    maybe_out: bool = False


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
    #: How many there are in the whole collection, where the network says so.
    total: int | None = None


class Network(Protocol):
    """An adapter: one network's ways, in our words."""

    abilities: Abilities

    def read(self, activity: Any, account: AccountRef) -> Seen:
        """Turn one activity into our words; raises Unreadable with the reason."""
        ...

    async def send(self, account: AccountRef, reply: OutgoingReply, key: str) -> Outcome:
        """Deliver once under the idempotency key; never raises for what a network may answer."""
        ...

    async def moderate(self, account: AccountRef, act: OutgoingAct, key: str) -> Outcome:
        """Do one act on the network once under the idempotency key; never raises, as `send`."""
        ...

    async def list_since(self, account: AccountRef, cursor: str | None) -> BackfillPage:
        """The next page of the account's activities after `cursor`; raises Unreachable."""
        ...

    async def list_range(
        self, account: AccountRef, since: datetime, until: datetime, cursor: str | None
    ) -> BackfillPage:
        """A page of what happened from `since` up to `until`; a network that knows no ranges gives more. Raises Unreachable."""
        ...

    async def search(self, account: AccountRef, words: str, cursor: str | None) -> BackfillPage:
        """The next page of what anybody said in public with these words, after `cursor`; raises Unreachable."""
        ...

    def read_found(self, activity: Any, account: AccountRef) -> MessageSeen | None:
        """Something a search found, in our words; None for what we said ourselves. Raises Unreadable."""
        ...


@dataclass(frozen=True, kw_only=True)
class Grant:
    """What a network grants a program for one account: tokens, and for how many seconds the first is taken (None: until it is taken back)."""

    token: str
    refresh_token: str | None
    lasts: float | None


@dataclass(frozen=True, kw_only=True)
class Lacking:
    """Something that a network asks to be allowed besides; what that is in its own words, and where one allows it."""

    words: str
    address: str


@dataclass(frozen=True, kw_only=True)
class PageSeen:
    """The account that a grant is for, as its network knows it, and what is still to be allowed."""

    external_id: str
    handle: str
    name: str
    api_url: str
    lacking: tuple[Lacking, ...] = ()


class ProgramPost(Protocol):
    """Tells programs what has happened."""

    async def tell(self, url: str, headers: Mapping[str, str], body: str) -> tuple[str | None, bool]:
        """What was wrong, None where it was taken, and whether it is there no more; never raises for what it may answer."""
        ...


class GrantRefused(Exception):
    """Who was asked for leave grants nothing, or nothing any more, with the reason."""


class Grantor(Protocol):
    """Asks networks, and those who own accounts there, for leave: OAuth 2.0 by authorization code with PKCE (RFC 6749, 7636)."""

    def list_networks(self) -> frozenset[str]:
        """The networks at which this installation is known as a program."""
        ...

    async def make_address(self, network: str, *, state: str, verifier: str) -> str:
        """Where somebody is asked for leave; raises Unreachable."""
        ...

    async def take_code(self, network: str, response: str, *, state: str, verifier: str) -> Grant:
        """What was granted, by the query that the network sent them back with; raises GrantRefused, Unreachable."""
        ...

    async def renew(self, network: str, refresh_token: str) -> Grant:
        """Fresh tokens; raises GrantRefused when nothing is granted any more, Unreachable."""
        ...

    async def look(self, network: str, token: str) -> PageSeen:
        """Which account a token is for; raises GrantRefused, Unreachable."""
        ...

    async def revoke(self, network: str, token: str) -> None:
        """Give a token back (RFC 7009); raises Unreachable."""
        ...


@dataclass(frozen=True, kw_only=True)
class SaidToBe:
    """Who somebody is by the word of a provider: its own name for them, which never changes; their address and whether it has verified that; and
    the groups they are in there."""

    subject: str
    email: str | None
    is_verified: bool
    name: str
    groups: tuple[str, ...]


class IdentityProvider(Protocol):
    """Knows who our members are: OpenID Connect Core 1.0 by authorization code with PKCE."""

    @property
    def name(self) -> str:
        """What members see it called."""
        ...

    @property
    def issuer(self) -> str:
        """How it calls itself."""
        ...

    async def make_address(self, *, state: str, nonce: str, verifier: str) -> str:
        """Where somebody says who they are; raises Unreachable."""
        ...

    async def take_code(self, response: str, *, state: str, nonce: str, verifier: str, now: datetime) -> SaidToBe:
        """Who they are, by the query that the provider sent them back with; raises GrantRefused, Unreachable."""
        ...


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """What an engine makes of a text: the language's code or None; the chance of each of core.reading.ReadsAs, by itself; that of each
    Tone, together 1; and the words of the text that weighed most for each of both. Without letters there may be no chances."""

    language: str | None
    chances: Mapping[str, float] = field(default_factory=dict)
    tones: Mapping[str, float] = field(default_factory=dict)
    words: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


class Reader(Protocol):
    """The engine behind reading; a better one replaces it without a change to any caller."""

    @property
    def learned_from(self) -> str:
        """A hash of the texts it was learned from."""
        ...

    def judge(self, text: str) -> Judgement:
        """Judge one text: links, handles, hashtags and emoji are the engine's to leave out."""
        ...


@dataclass(frozen=True, kw_only=True)
class Translated:
    """A text in another language. `source` is the language it was in; `rough` that the engine says it is unsure."""

    text: str
    source: str | None
    rough: bool
    engine: str


class Translator(Protocol):
    """A service that translates; a better one replaces it without a change to any caller."""

    async def translate(self, text: str, *, source: str | None, target: str) -> Translated:
        """One text into the language `target` (ISO 639-1); raises Unreachable."""
        ...


@dataclass(frozen=True, kw_only=True)
class Letter:
    """One mail. `key` makes its Message-ID, so that the same letter sent twice is known as one. `by_program` when nobody
    wrote it; `references` are the Message-IDs of the letters it goes on from, the one it answers last."""

    key: str
    to: str
    to_name: str
    subject: str
    text: str
    #: The same for those who read mail as a page.
    html: str | None = None
    sender_name: str = "Sorta"
    reply_to: str | None = None
    references: str | None = None
    by_program: bool = True


class TextPost(Protocol):
    """Sends text messages to phones."""

    async def send(self, *, key: str, to: str, text: str) -> None:
        """Hand one message to the gateway; the same `key` is the same message. `to` is a number by E.164. Raises Unreachable, and
        LetterRefused when it will never be taken."""
        ...


class MailPost(Protocol):
    """Sends letters, all from one address: `sender`."""

    sender: str

    async def send(self, letter: Letter) -> None:
        """Hand one letter to the mail server; raises Unreachable, and LetterRefused when it will never be taken."""
        ...


@dataclass(frozen=True, kw_only=True)
class DeskRef:
    """How a support desk is reached."""

    api_url: str
    token: str


@dataclass(frozen=True, kw_only=True)
class NewCase:
    """What a desk is asked to take on; `address` leads its people back to the conversation."""

    subject: str
    person: str
    handle: str
    network: str
    address: str
    note: str
    by: str


@dataclass(frozen=True, kw_only=True)
class CaseOpened:
    """The desk's own names for the case."""

    external_id: str
    reference: str
    url: str


@dataclass(frozen=True, kw_only=True)
class CaseMessage:
    """One message passed on; `ours` when we wrote it."""

    id: int
    by: str
    ours: bool
    text: str
    at: datetime


class CaseDesk(Protocol):
    """A support desk's system. Both raise Unreachable, and DeskRefused when it will not have it; asked again under
    the same key it does nothing twice."""

    async def open(self, desk: DeskRef, case: NewCase, key: str) -> CaseOpened:
        """Open a case."""
        ...

    async def add(self, desk: DeskRef, external_id: str, message: CaseMessage, key: str) -> None:
        """Pass one message on."""
        ...


class DeskRefused(Exception):
    """The desk will not have it, with its reason; asking again changes nothing."""


class Unreachable(Exception):
    """A network, the mail server, a desk or the translator could not be asked just now."""


class Silent(Unreachable):
    """There was no answer at all."""


class LetterRefused(Unreachable):
    """The mail server will never take this letter, or the gateway this text message, with what it said."""
