"""What every use case needs, made once by main; and who is asking. Used by all services."""

import asyncio
from collections.abc import Awaitable, Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sorta.core import names
from sorta.core.own_reading import Teacher
from sorta.core.permissions import HeldRole, Permission, check_permission
from sorta.core.ports import (
    CaseDesk,
    Grantor,
    IdentityProvider,
    MailPost,
    Network,
    ProgramPost,
    Reader,
    TextPost,
    Translator,
)
from sorta.core.replay import Replayer
from sorta.core.suggesting import Suggester
from sorta.core.targets import Promise, PromiseHistory
from sorta.services.workshop import Workshop
from sorta.store.db import Conflict, Database, Unavailable, Unstorable, act_as, see_as, seen_by
from sorta.store.files import Files
from sorta.store.keyring import Keyring
from sorta.store.live import LiveHub
from sorta.store.queue import Queue

__all__ = ["Conflict", "House", "Scope", "Unavailable", "Unstorable", "act_as", "see_as", "seen_by"]


#: A member nobody has heard of for this long has left the desk.
PRESENT_FOR = timedelta(seconds=25)


@dataclass(frozen=True, kw_only=True)
class House:
    """The application's parts. `undo_for` is how long a reply is held back so that it can be undone;
    `lease` is after how long a delivery nobody has heard of again is taken up by another worker."""

    db: Database
    keys: Keyring
    queue: Queue
    live: LiveHub
    networks: Mapping[str, Network]
    reader: Reader
    #: Learns workspaces' own reading; without it all read as everybody does.
    teacher: Teacher | None = None
    #: Plays days again; without it nobody can ask what would have been.
    replayer: Replayer | None = None
    translator: Translator | None = None
    case_desk: CaseDesk | None = None
    #: Asks networks for leave at their own page; without it accounts are connected with a token.
    grantor: Grantor | None = None
    #: Knows who members are; without it they sign in by what they have here.
    identity: IdentityProvider | None = None
    #: Tells programs what happens; without it none are told.
    program_post: ProgramPost | None = None
    #: Where messages are read, never on the event loop: one thread, for two that want the interpreter at once cost a third more
    #: than one after the other.
    reading: Workshop = field(default_factory=lambda: Workshop(threads=1, name="reading"))
    #: Where else is learned and parsed, and where passwords are hashed: two at once.
    workshop: Workshop = field(default_factory=Workshop)
    hashing: Workshop = field(default_factory=lambda: Workshop(waiting=30, name="hashing"))
    #: Where reports are worked out and tables written: what takes long there holds up no reading.
    reporting: Workshop = field(default_factory=lambda: Workshop(waiting=20, name="reporting"))
    undo_for: timedelta = timedelta(seconds=10)
    lease: timedelta = timedelta(seconds=60)
    #: What workspaces promise, each with when it was read; services.hours keeps it.
    promises: dict[int, tuple[float, Promise]] = field(default_factory=dict)
    #: What they promised when, each with when it was read; services.hours keeps it.
    promise_histories: dict[int, tuple[float, PromiseHistory]] = field(default_factory=dict)
    #: The rules of workspaces as of their version; services.ruling keeps them.
    books: dict[int, object] = field(default_factory=dict)
    #: Workspaces' own reading; services.own_reading keeps it.
    readers: dict[int, object] = field(default_factory=dict)
    #: What suggests saved replies in each workspace, to those who are limited from what they see, with how much it has learned from; services.texts keeps it.
    suggesters: dict[tuple[int, int | None], tuple[int, Suggester]] = field(default_factory=dict)
    #: Whether words stand in most messages, with when that was asked; services.desk keeps it.
    common_words: dict[str, tuple[datetime, bool]] = field(default_factory=dict)
    #: Sends mail; without it alerts stay in the application. `address` is where Sorta is reached: by members, and by those who open its short links.
    post: MailPost | None = None
    #: Sends text messages; without it nobody is told so.
    texting: TextPost | None = None
    #: What whoever passes mail on to us signs with; without it no answers come in by mail.
    mail_secret: str | None = None
    #: Where files lie that go along with answers; without it none do.
    files: Files | None = None
    address: str = ""
    close_networks: Callable[[], Awaitable[None]] | None = None

    async def open(self) -> None:
        """Begin to connect, and get ready what reads and compares; the live connection is opened by who listens, the queue's own
        by the worker."""
        # The engine may load its models with the first text; that must not hold up the event loop later.
        await asyncio.to_thread(self.reader.judge, "Ready when you are.")
        await asyncio.to_thread(names.prepare)
        await self.db.open()

    async def close(self) -> None:
        """Close whatever `open` opened, and the connections to networks."""
        await self.db.close()
        self.reading.close()
        self.workshop.close()
        self.hashing.close()
        self.reporting.close()
        if self.close_networks is not None:
            await self.close_networks()


@dataclass(frozen=True, kw_only=True)
class Scope:
    """Who asks, and in which workspace."""

    workspace_id: int
    member_id: int
    name: str
    role: HeldRole
    zone: ZoneInfo
    csrf: str
    #: Sees the accounts of their groups only, by the database itself (migration 0047).
    limited: bool = False

    @property
    def seer(self) -> int | None:
        """For whom the database is asked: who is limited; None is everything."""
        return self.member_id if self.limited else None

    def check(self, permission: Permission) -> None:
        """Raise NotAllowed unless the member's role here holds it."""
        check_permission(self.role, permission)
