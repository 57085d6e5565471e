"""How large and how old what a network says may be before it is stored. Used by services.intake and services.listening, for
every adapter alike.

A text is cut, and says so: the rest of a novel helps nobody, and full text holds so many words. An id is refused: cut, it
would be another's. The figures are ours, well above what people write; an index of PostgreSQL takes 2,700 bytes.
"""

from dataclasses import replace
from datetime import UTC, datetime

from sorta.core.attachments import LONGEST_DESCRIPTION
from sorta.core.errors import Unreadable
from sorta.core.ports import (
    AttachmentSeen,
    EditSeen,
    IdentitySeen,
    MessageSeen,
    PostSeen,
    ReactionSeen,
    RemovalSeen,
    Seen,
)

LONGEST_TEXT = 100_000
LONGEST_TITLE = 1_000
LONGEST_ID = 1_000
LONGEST_ADDRESS = 4_000
MOST_ATTACHMENTS = 50
#: Nothing on a network was said before there were any, nor after what a calendar of four digits can be offset from.
EARLIEST, LATEST = datetime(1990, 1, 1, tzinfo=UTC), datetime(9998, 1, 1, tzinfo=UTC)


def bound(seen: Seen) -> Seen:
    """The same thing within bounds. Raises Unreadable for an id or a time that is beyond them."""
    match seen:
        case MessageSeen():
            _check_id(seen.external_id, seen.thread_root, seen.in_reply_to)
            _check_time(seen.sent_at)
            return replace(
                seen,
                body=cut(seen.body),
                partner=_bound_identity(seen.partner),
                post=_bound_post(seen.post) if seen.post else None,
                url=_drop_long(seen.url),
                attachments=tuple(a for a in map(_bound_attachment, seen.attachments[:MOST_ATTACHMENTS]) if a),
            )
        case PostSeen():
            return _bound_post(seen)
        case EditSeen():
            _check_id(seen.external_id)
            _check_time(seen.at)
            return replace(seen, body=cut(seen.body))
        case RemovalSeen():
            _check_id(seen.external_id)
            _check_time(seen.at)
            return seen
        case ReactionSeen():
            _check_id(seen.external_id, seen.object_id)
            _check_time(seen.at)
            return replace(seen, author=_bound_identity(seen.author))
        case _:
            return seen


def cut(text: str) -> str:
    """The first hundred thousand characters, with what was left out said."""
    left_out = len(text) - LONGEST_TEXT
    return text if left_out <= 0 else f"{text[:LONGEST_TEXT]}\n[… {left_out:,} more characters were left out]"


def _check_id(*ids: str | None) -> None:
    for id in ids:
        if id is not None and len(id.encode("utf-8", "replace")) > LONGEST_ID:
            raise Unreadable(f"An id is longer than {LONGEST_ID:,} bytes: {id[:60]}…")


def _check_time(at: datetime | None) -> None:
    if at is not None and not EARLIEST <= at <= LATEST:
        raise Unreadable(f"It is said to be of the year {at.year}.")


def _bound_identity(identity: IdentitySeen) -> IdentitySeen:
    _check_id(identity.external_id)
    return identity


def _bound_post(post: PostSeen) -> PostSeen:
    _check_id(post.external_id)
    _check_time(post.published_at)
    return replace(
        post,
        title=post.title[:LONGEST_TITLE],
        body=cut(post.body),
        url=_drop_long(post.url),
        author=_bound_identity(post.author) if post.author else None,
    )


def _bound_attachment(one: AttachmentSeen) -> AttachmentSeen | None:
    if len(one.url) > LONGEST_ADDRESS:
        return None
    return replace(
        one,
        media_type=one.media_type[:200],
        name=one.name[:LONGEST_TITLE],
        description=one.description[:LONGEST_DESCRIPTION],
    )


def _drop_long(url: str | None) -> str | None:
    return url if url is None or len(url) <= LONGEST_ADDRESS else None
