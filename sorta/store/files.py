"""Files beside the database, each under the hash of what is in it, one folder a workspace. Used by services.attachments."""

import hashlib
import os
import tempfile
from pathlib import Path


class Files:
    """A folder of files that are written once and never changed. All of it blocks: call it in a thread."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def _find(self, workspace_id: int, sha256: str) -> Path:
        return self._folder / str(workspace_id) / sha256[:2] / sha256

    def add(self, workspace_id: int, content: bytes) -> str:
        """Keep it, whole or not at all; its name, the SHA-256 of the content in hex."""
        sha256 = hashlib.sha256(content).hexdigest()
        path = self._find(workspace_id, sha256)
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            handle, part = tempfile.mkstemp(dir=path.parent)
            with os.fdopen(handle, "wb") as file:
                file.write(content)
                file.flush()
                os.fsync(file.fileno())
            Path(part).replace(path)
        return sha256

    def read(self, workspace_id: int, sha256: str) -> bytes:
        """What is in it. Raises FileNotFoundError."""
        return self._find(workspace_id, sha256).read_bytes()

    def remove(self, workspace_id: int, sha256: str) -> None:
        """Take it away; nothing happens when it is gone already."""
        self._find(workspace_id, sha256).unlink(missing_ok=True)
