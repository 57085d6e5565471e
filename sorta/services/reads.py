"""What one transaction has read of its workspace. Used by trail, consent, answers and roles."""

from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar

from sorta.store.db import Tx

T = TypeVar("T")


@dataclass(frozen=True)
class Reads:
    """What a workspace has of accounts, members, policies and the like, each read once in a transaction, however many acts go by it."""

    tx: Tx
    _kept: dict[Any, Any] = field(default_factory=dict)

    async def get(self, read: Callable[[Tx], Awaitable[T]]) -> T:
        """What `read` finds in the workspace."""
        if read not in self._kept:
            self._kept[read] = await read(self.tx)
        found: T = self._kept[read]
        return found

    def forget(self, read: Callable[[Tx], Awaitable[object]]) -> None:
        """An act has changed what `read` finds: who asks next reads it anew."""
        self._kept.pop(read, None)
