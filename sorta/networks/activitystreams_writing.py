"""Writing what was said as W3C ActivityStreams 2.0, so that `activitystreams` reads the same from it; and reading it back.

A message is a Create of a Note; a text that was changed later carries an Update, a removed one a Delete. A conversation is an
OrderedCollection of these activities in the order in which they happened, and what an export holds is an OrderedCollection of such
collections. Three properties of our own, which others pass over, stand under the prefix `sorta`: the kind of a message, for networks
know more kinds than the vocabulary; how a conversation was settled; and the network that an account is on.
Source: W3C Recommendation "Activity Streams 2.0" and "Activity Vocabulary", 23 May 2017.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from sorta.core.errors import Unreadable
from sorta.core.facts import SettledAs
from sorta.core.ports import AccountRef, EditSeen, IdentitySeen, Kind, MessageSeen, PostSeen, RemovalSeen, Seen
from sorta.networks import activitystreams
from sorta.networks.activitystreams import EVERYBODY, get_first, get_id, list_values, read_activity, read_found

CONTEXT = [activitystreams.CONTEXT, {"sorta": "urn:sorta:ns#"}]
_TEXT = "text/plain"
#: What the vocabulary, or what networks send of it, calls these.
_TYPES = {Kind.REVIEW: "Review", Kind.STORY_MENTION: "Story", Kind.FORM_ENTRY: "FormEntry"}


def _leave_out(thing: dict[str, Any]) -> dict[str, Any]:
    """The same without what is not known."""
    return {name: value for name, value in thing.items() if value is not None and value != []}


def write_identity(who: IdentitySeen) -> dict[str, Any]:
    """Somebody outside as an actor."""
    return _leave_out(
        {
            "type": "Service" if who.automatic else "Person",
            "id": who.external_id,
            "preferredUsername": who.handle,
            "name": who.name,
            "reach": who.reach,
        }
    )


def write_post(post: PostSeen, account: AccountRef) -> dict[str, Any]:
    """What comments hang on."""
    return _leave_out(
        {
            "type": "Note",
            "id": post.external_id,
            "name": post.title or None,
            "content": post.body or None,
            "mediaType": _TEXT,
            "url": post.url,
            "published": post.published_at and post.published_at.isoformat(),
            "attributedTo": account.external_id if post.author is None else write_identity(post.author),
            "sponsored": post.is_ad or None,
        }
    )


def write_message(seen: MessageSeen, account: AccountRef) -> dict[str, Any]:
    """Something said, by them or by us, as `read_written` reads it."""
    us = account.external_id
    mentions = seen.kind in (Kind.MENTION, Kind.STORY_MENTION)
    # Whom it is addressed to tells whom we answered, and that something private is between them and us.
    to: list[Any] = [write_identity(seen.partner)] if seen.by_us else [us]
    note = {
        "type": ["Note", _TYPES[seen.kind]] if seen.kind in _TYPES else "Note",
        "id": seen.external_id,
        "sorta:kind": seen.kind.value,
        "content": seen.body,
        "mediaType": _TEXT,
        "published": seen.sent_at.isoformat(),
        "inReplyTo": seen.in_reply_to,
        "context": seen.thread_root if seen.post is None else write_post(seen.post, account),
        "url": seen.url,
        "to": to,
        "cc": [EVERYBODY] if seen.public else None,
        "tag": [{"type": "Mention", "href": us}] if mentions else None,
        # What neither answers nor names us was said to us in another way, or the reading would not know why it is here.
        "target": us if seen.public and seen.in_reply_to is None and not mentions else None,
        "reviewRating": seen.rating,
        "attachment": [
            _leave_out(
                {
                    "type": "Document",
                    "mediaType": a.media_type,
                    "url": a.url,
                    "name": a.name,
                    "summary": a.description or None,
                }
            )
            for a in seen.attachments
        ],
    }
    return {
        "type": "Create",
        "actor": us if seen.by_us else write_identity(seen.partner),
        "published": seen.sent_at.isoformat(),
        "object": _leave_out(note),
    }


def write_edit(seen: EditSeen, actor: str) -> dict[str, Any]:
    """That a text was changed."""
    changed = {
        "type": "Note",
        "id": seen.external_id,
        "content": seen.body,
        "mediaType": _TEXT,
        "updated": seen.at.isoformat(),
        # A change of ours that answers nothing would be read as one of a post.
        "attributedTo": actor,
        "inReplyTo": seen.external_id,
    }
    return {"type": "Update", "actor": actor, "published": seen.at.isoformat(), "object": changed}


def write_removal(seen: RemovalSeen, actor: str) -> dict[str, Any]:
    """That something was taken back."""
    gone = {"type": "Tombstone", "id": seen.external_id, "deleted": seen.at.isoformat()}
    return {"type": "Delete", "actor": actor, "published": seen.at.isoformat(), "object": gone}


def read_written(activity: Any, account: AccountRef) -> Seen:
    """An activity as an export has it, in our words. Raises Unreadable."""
    thing = get_first(activity.get("object")) if isinstance(activity, dict) else None
    kind = thing.get("sorta:kind") if isinstance(thing, dict) else None
    if kind == Kind.FOUND:
        found = read_found(activity, account)
        if found is not None:
            return found
    seen = read_activity(activity, account)
    if kind is None or not isinstance(seen, MessageSeen):
        return seen
    if kind not in tuple(Kind):
        raise Unreadable(f"{kind!r} is no kind of message.")
    return replace(seen, kind=Kind(kind))


@dataclass(frozen=True, kw_only=True)
class Written:
    """A conversation of a file: the account it was had on, its activities, and how it was settled."""

    id: str
    network: str
    account: str
    activities: Sequence[Any]
    settled_as: SettledAs | None


def write_collection(of: Written) -> dict[str, Any]:
    """A conversation as an OrderedCollection."""
    return _leave_out(
        {
            "type": "OrderedCollection",
            "id": of.id,
            "attributedTo": of.account,
            "sorta:network": of.network,
            "sorta:settled": of.settled_as and of.settled_as.value,
            "totalItems": len(of.activities),
            "orderedItems": list(of.activities),
        }
    )


def list_collections(document: Any) -> list[Any]:
    """The conversations of a file, which is a collection of them, or one of them. Raises Unreadable."""
    if not isinstance(document, dict):
        raise Unreadable("The file holds no collection.")
    items = list_values(document.get("orderedItems", document.get("items")))
    if not items:
        raise Unreadable("The collection holds nothing.")
    if all(isinstance(item, dict) and ("orderedItems" in item or "items" in item) for item in items):
        return items
    return [document]


def read_collection(collection: Any) -> Written:
    """One conversation of a file, its activities not read yet. Raises Unreadable."""
    if not isinstance(collection, dict):
        raise Unreadable("It is not a collection.")
    account = get_id(collection.get("attributedTo"))
    network = collection.get("sorta:network")
    if account is None or not isinstance(network, str):
        raise Unreadable("It does not say on which account, and which network, it was had.")
    settled = collection.get("sorta:settled")
    if settled is not None and settled not in tuple(SettledAs):
        raise Unreadable(f"{settled!r} is no way to settle.")
    return Written(
        id=get_id(collection) or "",
        network=network,
        account=account,
        activities=list_values(collection.get("orderedItems", collection.get("items"))),
        settled_as=None if settled is None else SettledAs(settled),
    )
