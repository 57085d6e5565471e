"""The installation's keys: they seal what is kept of others' secrets, and sign which workspace a connection may see.

Used by store.db, services and main. Everything is made from the keys by HKDF (RFC 5869), one key for each purpose and workspace,
so that what is sealed for one place opens in no other.
"""

import base64
import contextlib
import functools
import hashlib
import hmac
from collections.abc import Sequence

from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

KEY_BYTES = 32
#: What stands before a sealed text, and before no other.
MARK = "sealed:"
_BLOCK = 64


class NotSealed(RuntimeError):
    """What is kept was not sealed with any of the keys, or for another place."""


class KeysUnfit(ValueError):
    """The setting does not hold keys."""


def make_key() -> str:
    """A new key, as the setting takes it: 32 random bytes in base64url."""
    return Fernet.generate_key().decode()


class Keyring:
    """Keys, newest first: the first seals and signs, each of them opens."""

    def __init__(self, keys: Sequence[bytes]) -> None:
        self._keys = tuple(keys)
        self._make = functools.lru_cache(maxsize=4096)(self._derive)

    @classmethod
    def read(cls, text: str) -> "Keyring":
        """Keys with commas or line ends between. Raises KeysUnfit."""
        parts = text.replace(",", " ").split()
        if not parts:
            raise KeysUnfit("There is no key. Make one with `python -m sorta.main make-key` and set it as SORTA_KEYS.")
        keys = []
        for number, part in enumerate(parts, 1):
            try:
                key = base64.urlsafe_b64decode(part)
            except ValueError:
                key = b""
            if len(key) != KEY_BYTES:
                raise KeysUnfit(f"Key {number} of SORTA_KEYS is not {KEY_BYTES} bytes in base64url.")
            keys.append(key)
        return cls(keys)

    def __repr__(self) -> str:
        return f"Keyring of {len(self._keys)}"

    def _derive(self, purpose: str, workspace_id: int) -> MultiFernet:
        return MultiFernet([_make_fernet(key, purpose, workspace_id) for key in self._keys])

    def seal(self, purpose: str, workspace_id: int, text: str) -> str:
        """The text as it is kept, with the newest key; `purpose` says what it is, as `account.token`."""
        return MARK + self._make(purpose, workspace_id).encrypt(text.encode()).decode()

    def open(self, purpose: str, workspace_id: int, kept: str) -> str:
        """What was sealed. Raises NotSealed."""
        if not kept.startswith(MARK):
            raise NotSealed(f"{purpose} of workspace {workspace_id} is not sealed: run `python -m sorta.main seal`.")
        try:
            return self._make(purpose, workspace_id).decrypt(kept[len(MARK) :].encode()).decode()
        except InvalidToken:
            raise NotSealed(f"{purpose} of workspace {workspace_id} was sealed with a key that is not here.") from None

    def seal_again(self, purpose: str, workspace_id: int, kept: str) -> str:
        """What is kept, sealed with the newest key; as it is where it was, so that nothing looks changed that is not. Also what was kept before
        anything was sealed. Raises NotSealed."""
        if not kept.startswith(MARK):
            return self.seal(purpose, workspace_id, kept)
        with contextlib.suppress(InvalidToken):
            _make_fernet(self._keys[0], purpose, workspace_id).decrypt(kept[len(MARK) :].encode())
            return kept
        return self.seal(purpose, workspace_id, self.open(purpose, workspace_id, kept))

    def sign_pass(self, workspace_id: int, now: float, seer: int | None = None) -> str:
        """What a connection shows to see the workspace within the hour of `now` (seconds of the epoch), or what `seer`, a member who
        is limited, sees of it, as the database's `chosen_workspace` checks it: HMAC-SHA256 (RFC 2104) over the numbers, 8 bytes each."""
        hour = int(now // 3600)
        said = b"".join(
            number.to_bytes(8, "big", signed=True) for number in (workspace_id, hour, seer) if number is not None
        )
        key = self._pass_keys[0]
        return f"{_name(key)}.{hour}.{hmac.new(key, said, hashlib.sha256).hexdigest()}"

    @functools.cached_property
    def _pass_keys(self) -> list[bytes]:
        return [_expand(key, "workspace pass") for key in self._keys]

    def list_pads(self) -> list[tuple[str, bytes, bytes]]:
        """What the database needs of each key to check a pass: a name, and the two padded keys of HMAC."""
        return [
            (
                _name(key),
                bytes(b ^ 0x36 for b in key.ljust(_BLOCK, b"\0")),
                bytes(b ^ 0x5C for b in key.ljust(_BLOCK, b"\0")),
            )
            for key in self._pass_keys
        ]


def _make_fernet(key: bytes, purpose: str, workspace_id: int) -> Fernet:
    return Fernet(base64.urlsafe_b64encode(_expand(key, f"{purpose}/{workspace_id}")))


def _name(key: bytes) -> str:
    return hashlib.sha256(key).hexdigest()[:16]


def _expand(key: bytes, purpose: str) -> bytes:
    return HKDF(algorithm=SHA256(), length=KEY_BYTES, salt=None, info=purpose.encode()).derive(key)
