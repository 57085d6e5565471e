"""What stands in sessions' cookies and in links: made by chance, and kept as its hash alone where it only has to be known again."""

import hashlib
import secrets


def make_token() -> str:
    """32 random bytes as they stand in a cookie or a link."""
    return secrets.token_urlsafe(32)


def hash_token(token: str) -> bytes:
    """By which it is found."""
    return hashlib.sha256(token.encode()).digest()
