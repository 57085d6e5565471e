"""Reading W3C ActivityStreams 2.0 into our words, as leniently as the recommendation allows.

A property may be a string (a link to the thing), an object, a list of either, or a language map;
types may be lists. What cannot be understood raises Unreadable with a reason for a person.
Source: W3C Recommendation "Activity Streams 2.0" and "Activity Vocabulary", 23 May 2017.
"""

from datetime import datetime
from typing import Any

from sorta.core.errors import Unreadable
from sorta.core.markup import read_html
from sorta.core.names import clean_name
from sorta.core.ports import (
    AccountRef,
    AttachmentSeen,
    EditSeen,
    IdentitySeen,
    Kind,
    MessageSeen,
    PostSeen,
    ReactionSeen,
    RemovalSeen,
    Seen,
)

#: The vocabulary, and everybody as it names them; those who send it know other ways to write that.
CONTEXT = "https://www.w3.org/ns/activitystreams"
EVERYBODY = f"{CONTEXT}#Public"
PUBLIC = frozenset({EVERYBODY, "as:Public", "Public"})
_REACTIONS = frozenset({"Like", "Dislike", "Announce"})


def list_values(value: Any) -> list[Any]:
    """A property's values: none, one or several look alike to the caller."""
    if value is None:
        return []
    return list(value) if isinstance(value, list) else [value]


def get_first(value: Any) -> Any:
    """A property's first value, or None."""
    values = list_values(value)
    return values[0] if values else None


def get_id(value: Any) -> str | None:
    """The id of a thing that is named by a string, a Link or sent as an object."""
    first = get_first(value)
    if isinstance(first, str):
        return first or None
    if isinstance(first, dict):
        found = first.get("id") or first.get("@id") or first.get("href")
        return found if isinstance(found, str) and found else None
    return None


def get_object(value: Any) -> dict[str, Any]:
    """The thing itself when it was sent, else an empty object."""
    first = get_first(value)
    return first if isinstance(first, dict) else {}


def list_types(thing: dict[str, Any]) -> list[str]:
    """All types of a thing; `@type` is accepted."""
    values = list_values(thing.get("type", thing.get("@type")))
    return [v.rsplit("#", 1)[-1].rsplit(":", 1)[-1] for v in values if isinstance(v, str)]


def get_words(thing: dict[str, Any], name: str) -> str:
    """A natural-language property (`name`, `summary`, `content`), from its map when it has only that."""
    value = get_first(thing.get(name))
    if not isinstance(value, str):
        by_language = thing.get(f"{name}Map")
        values = [v for v in by_language.values() if isinstance(v, str)] if isinstance(by_language, dict) else []
        value = values[0] if values else ""
    return value


def get_text(thing: dict[str, Any]) -> str:
    """`content` as plain text: HTML unless its media type says otherwise (vocabulary, `content`)."""
    value = get_words(thing, "content")
    if thing.get("mediaType", "text/html") != "text/html":
        return value.strip()
    return read_html(value)


def get_instant(*candidates: Any) -> datetime:
    """The first usable time; it must say its offset, for otherwise it names no instant."""
    for value in candidates:
        if not isinstance(value, str):
            continue
        try:
            instant = datetime.fromisoformat(value)
        except ValueError as error:
            raise Unreadable(f"The time {value!r} cannot be read.") from error
        if instant.tzinfo is None:
            raise Unreadable(f"The time {value!r} has no offset.")
        return instant
    raise Unreadable("It does not say when it happened.")


def is_of_the_web(url: str) -> bool:
    """Whether an address can be followed without running anything here: javascript: and data: are addresses too."""
    return url.lower().startswith(("https://", "http://"))


def get_address(value: Any) -> str | None:
    """Where something can be looked at, if that is an address of the web."""
    url = get_id(value)
    return url if url is not None and is_of_the_web(url) else None


def read_identity(value: Any) -> IdentitySeen:
    """Who did it; a bare id is enough, then handle and name are the id's last part."""
    id = get_id(value)
    if id is None:
        raise Unreadable("It does not say who did it.")
    actor = get_object(value)
    tail = id.rstrip("/").rsplit("/", 1)[-1]
    handle = get_first(actor.get("preferredUsername"))
    called = clean_name(handle) if isinstance(handle, str) else ""
    called = called or clean_name(tail) or "somebody"
    reach = actor.get("reach")
    return IdentitySeen(
        external_id=id,
        handle=called,
        name=clean_name(get_words(actor, "name")) or called,
        reach=reach if isinstance(reach, int) and 0 <= reach <= 100 else None,
        # The vocabulary's actor types for what no person writes (section 3.2).
        automatic=not {"Application", "Service"}.isdisjoint(list_types(actor)),
    )


def read_post(thing: dict[str, Any], account: AccountRef) -> PostSeen | None:
    """Something comments hang on, when it was sent and not only named."""
    id = get_id(thing)
    if id is None or not (thing.get("content") or thing.get("name") or thing.get("contentMap")):
        return None
    author = thing.get("attributedTo", thing.get("actor"))
    ours = get_id(author) == account.external_id
    return PostSeen(
        external_id=id,
        title=get_words(thing, "name"),
        body=get_text(thing),
        url=get_address(thing.get("url")),
        published_at=get_instant(thing["published"]) if thing.get("published") else None,
        author=None if ours or get_id(author) is None else read_identity(author),
        is_ad=thing.get("sponsored") is True,
    )


def is_public(*things: dict[str, Any]) -> bool:
    """Whether anyone is addressed (`as:Public` in to, cc or audience)."""
    names = [n for thing in things for key in ("to", "cc", "audience") for n in list_values(thing.get(key))]
    return any(get_id(name) in PUBLIC for name in names)


def read_activity(activity: Any, account: AccountRef) -> Seen:
    """One activity in our words. Raises Unreadable."""
    if not isinstance(activity, dict):
        raise Unreadable("It is not an object.")
    types = list_types(activity)
    if not types:
        raise Unreadable("It has no type.")
    if "Create" in types:
        return _read_create(activity, account)
    if "Update" in types:
        return _read_update(activity, account)
    if "Delete" in types:
        gone = get_id(activity.get("object"))
        if gone is None:
            raise Unreadable("It does not say what was deleted.")
        tombstone = get_object(activity.get("object"))
        at = get_instant(tombstone.get("deleted"), activity.get("published"), activity.get("updated"))
        return RemovalSeen(external_id=gone, at=at)
    if _REACTIONS.intersection(types):
        return _read_reaction(activity)
    raise Unreadable(f"{types[0]} is not a kind of activity that is taken in.")


def _read_reaction(activity: dict[str, Any]) -> ReactionSeen:
    id, target = get_id(activity), get_id(activity.get("object"))
    if id is None or target is None:
        raise Unreadable("A reaction needs its own id and what it is about.")
    author = read_identity(activity.get("actor"))
    return ReactionSeen(external_id=id, author=author, object_id=target, at=get_instant(activity.get("published")))


def _read_update(activity: dict[str, Any], account: AccountRef) -> Seen:
    thing = get_object(activity.get("object"))
    id = get_id(thing)
    if id is None:
        raise Unreadable("What was changed is not sent along.")
    author = get_id(thing.get("attributedTo", activity.get("actor")))
    if author == account.external_id and not thing.get("inReplyTo") and is_public(activity, thing):
        post = read_post({"attributedTo": activity.get("actor"), **thing}, account)
        if post is not None:
            return post
    if not (thing.get("content") or thing.get("contentMap")):
        raise Unreadable("The change carries no text.")
    at = get_instant(thing.get("updated"), activity.get("published"))
    return EditSeen(external_id=id, body=get_text(thing), at=at)


def _read_create(activity: dict[str, Any], account: AccountRef) -> Seen:
    thing = get_object(activity.get("object"))
    id = get_id(thing)
    if id is None:
        raise Unreadable("What was created is not sent along.")
    actor = activity.get("actor") or thing.get("attributedTo")
    by_us = get_id(actor) == account.external_id
    public = is_public(activity, thing)
    parent = thing.get("inReplyTo")
    if by_us and public and not get_id(parent):
        post = read_post({"attributedTo": actor, **thing}, account)
        if post is None:
            raise Unreadable("The post says nothing.")
        return post
    body = get_text(thing)
    if not body and not list_values(thing.get("attachment")):
        raise Unreadable("The message says nothing.")
    root_thing = get_object(thing.get("context")) or get_object(parent)
    root = get_id(thing.get("context")) or get_id(parent) or id
    kind = _get_kind(activity, thing, account, root=root, root_thing=root_thing, public=public, by_us=by_us)
    return MessageSeen(
        external_id=id,
        kind=kind,
        public=public,
        by_us=by_us,
        partner=read_identity(_get_addressee(activity, thing, account) if by_us else actor),
        body=body,
        sent_at=get_instant(thing.get("published"), activity.get("published")),
        thread_root=root,
        in_reply_to=get_id(parent),
        post=read_post(root_thing, account) if public and root != id else None,
        url=get_address(thing.get("url")),
        rating=_get_rating(thing) if kind is Kind.REVIEW else None,
        attachments=_list_attachments(thing),
    )


def read_found(activity: Any, account: AccountRef) -> MessageSeen | None:
    """Something said in public that a search found; None when we said it. Raises Unreadable."""
    if not isinstance(activity, dict):
        raise Unreadable("It is not an object.")
    thing = get_object(activity.get("object"))
    id, actor = get_id(thing), activity.get("actor") or thing.get("attributedTo")
    if id is None:
        raise Unreadable("What was found is not sent along.")
    if get_id(actor) == account.external_id:
        return None
    body = get_text(thing)
    if not is_public(activity, thing) or not body:
        raise Unreadable("It is not public or says nothing.")
    return MessageSeen(
        external_id=id,
        kind=Kind.FOUND,
        public=True,
        by_us=False,
        partner=read_identity(actor),
        body=body,
        sent_at=get_instant(thing.get("published"), activity.get("published")),
        thread_root=get_id(thing.get("context")) or id,
        in_reply_to=get_id(thing.get("inReplyTo")),
        url=get_address(thing.get("url")),
        attachments=_list_attachments(thing),
    )


def _get_rating(thing: dict[str, Any]) -> int | None:
    """Stars, 1 to 5 (`reviewRating`, as schema.org names it)."""
    value = get_first(thing.get("reviewRating"))
    stars = value.get("ratingValue") if isinstance(value, dict) else value
    return stars if isinstance(stars, int) and 1 <= stars <= 5 else None


def _list_attachments(thing: dict[str, Any]) -> tuple[AttachmentSeen, ...]:
    """Things sent along that have an address of the web."""
    found = []
    for one in list_values(thing.get("attachment")):
        url = get_id(one.get("url")) if isinstance(one, dict) and one.get("url") else get_id(one)
        if url is None or not is_of_the_web(url):
            continue
        about = one if isinstance(one, dict) else {}
        media = get_first(about.get("mediaType"))
        name = get_words(about, "name") or url.rsplit("/", 1)[-1]
        found.append(
            AttachmentSeen(
                media_type=media if isinstance(media, str) else "",
                url=url,
                name=name,
                description=get_words(about, "summary") or "",
            )
        )
    return tuple(found)


def _get_addressee(activity: dict[str, Any], thing: dict[str, Any], account: AccountRef) -> Any:
    """Whom something of ours was said to: the author of what it answers, else the first person named."""
    answered = get_object(thing.get("inReplyTo")).get("attributedTo")
    if get_id(answered) not in (None, account.external_id):
        return answered
    named = [n for t in (thing, activity) for n in list_values(t.get("to"))]
    for name in named:
        if get_id(name) not in PUBLIC and get_id(name) != account.external_id:
            return name
    raise Unreadable("It does not say whom we answered.")


def _get_kind(
    activity: dict[str, Any],
    thing: dict[str, Any],
    account: AccountRef,
    *,
    root: str,
    root_thing: dict[str, Any],
    public: bool,
    by_us: bool,
) -> Kind:
    us = account.external_id
    if not public:
        named = [get_id(n) for t in (activity, thing) for key in ("to", "cc") for n in list_values(t.get(key))]
        if not by_us and us not in named:
            raise Unreadable("It is private, but not to this account.")
        return Kind.FORM_ENTRY if "FormEntry" in list_types(thing) else Kind.PRIVATE_MESSAGE
    parent = get_id(thing.get("inReplyTo"))
    mentioned = any(
        "Mention" in list_types(tag) and get_id(tag.get("href")) == us
        for tag in list_values(thing.get("tag"))
        if isinstance(tag, dict)
    )
    if parent is None:
        if "Review" in list_types(thing):
            return Kind.REVIEW
        if mentioned and "Story" in list_types(thing):
            return Kind.STORY_MENTION
        if get_id(activity.get("target")) == us or get_id(thing.get("target")) == us:
            return Kind.VISITOR_POST
        if mentioned:
            return Kind.MENTION
        raise Unreadable("It neither answers, names nor addresses this account.")
    if get_id(root_thing.get("attributedTo")) == us:
        return Kind.COMMENT if parent == root else Kind.REPLY
    return Kind.MENTION if mentioned else Kind.REPLY
