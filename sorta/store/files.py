"""Files beside the database, each under the hash of what is in it, one folder a workspace. Used by services.attachments."""

import errno
import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

#: What a file is called while it is being written, and bytes that are left free on the disk for everything else.
PART, KEPT_FREE = ".part-", 512 * 2**20


class DiskFull(OSError):
    """Nothing more can be written."""


class Files:
    """A folder of files that are written once and never changed. All of it blocks: call it in a thread."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def _find(self, workspace_id: int, sha256: str) -> Path:
        return self._folder / str(workspace_id) / sha256[:2] / sha256

    def add(self, workspace_id: int, content: bytes) -> str:
        """Keep it, whole or not at all; its name, the SHA-256 of the content in hex. Raises DiskFull."""
        sha256 = hashlib.sha256(content).hexdigest()
        path = self._find(workspace_id, sha256)
        if not path.exists():
            try:
                self._write(path, content)
            except OSError as error:
                if error.errno in (errno.ENOSPC, errno.EDQUOT):
                    raise DiskFull(str(error)) from error
                raise
        return sha256

    def _write(self, path: Path, content: bytes) -> None:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        if shutil.disk_usage(path.parent).free < KEPT_FREE + len(content):
            raise DiskFull(f"less than {KEPT_FREE // 2**20} MB would be left free")
        handle, part = tempfile.mkstemp(prefix=PART, dir=path.parent)
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(content)
                file.flush()
                os.fsync(file.fileno())
            Path(part).replace(path)
        except BaseException:
            Path(part).unlink(missing_ok=True)
            raise

    def read(self, workspace_id: int, sha256: str) -> bytes:
        """What is in it. Raises FileNotFoundError."""
        return self._find(workspace_id, sha256).read_bytes()

    def remove(self, workspace_id: int, sha256: str) -> None:
        """Take it away; nothing happens when it is gone already."""
        self._find(workspace_id, sha256).unlink(missing_ok=True)

    def _list(self, workspace_id: int, since: float, before: float) -> Iterator[Path]:
        for path in (self._folder / str(workspace_id)).glob("??/*"):
            try:
                if since <= path.stat().st_mtime < before:
                    yield path
            except FileNotFoundError:
                # Somebody took it away meanwhile.
                continue

    def list_kept(self, workspace_id: int, since: datetime, before: datetime) -> list[str]:
        """The names of what was kept from one time to another."""
        found = self._list(workspace_id, since.timestamp(), before.timestamp())
        return [path.name for path in found if not path.name.startswith(PART)]

    def remove_parts(self, workspace_id: int, before: datetime) -> int:
        """Take away what nobody went on writing; how many."""
        left = [path for path in self._list(workspace_id, 0, before.timestamp()) if path.name.startswith(PART)]
        for path in left:
            path.unlink(missing_ok=True)
        return len(left)
