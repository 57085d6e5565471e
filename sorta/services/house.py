"""What every use case needs, made once by main; and who is asking. Used by all services."""

from collections.abc import Awaitable, Callable, Mapping
from dataclasses import dataclass, field
from datetime import timedelta
from zoneinfo import ZoneInfo

from sorta.core.permissions import Permission, Role, check_permission
from sorta.core.ports import Network
from sorta.core.targets import Targets
from sorta.core.working_time import RoundTheClock, WorkingTime
from sorta.store.db import Database, Unavailable
from sorta.store.live import LiveHub
from sorta.store.queue import Queue

__all__ = ["House", "Scope", "Unavailable"]


@dataclass(frozen=True, kw_only=True)
class House:
    """The application's parts. `undo_for` is how long a reply is held back so that it can be undone;
    `lease` is after how long a delivery nobody has heard of again is taken up by another worker."""

    db: Database
    queue: Queue
    live: LiveHub
    networks: Mapping[str, Network]
    undo_for: timedelta = timedelta(seconds=10)
    lease: timedelta = timedelta(seconds=60)
    targets: Targets = field(default_factory=Targets)
    hours: WorkingTime = field(default_factory=RoundTheClock)
    close_networks: Callable[[], Awaitable[None]] | None = None

    async def open(self) -> None:
        """Open the database and the queue; the live connection is opened by who listens."""
        await self.db.open()
        await self.queue.app.open_async()

    async def close(self) -> None:
        """Close whatever `open` opened, and the connections to networks."""
        await self.queue.app.close_async()
        await self.db.close()
        if self.close_networks is not None:
            await self.close_networks()


@dataclass(frozen=True, kw_only=True)
class Scope:
    """Who asks, and in which workspace."""

    workspace_id: int
    member_id: int
    name: str
    role: Role
    zone: ZoneInfo
    csrf: str

    def check(self, permission: Permission) -> None:
        """Raise NotAllowed unless the member's role here holds it."""
        check_permission(self.role, permission)
