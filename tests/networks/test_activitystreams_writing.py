"""What is written as ActivityStreams 2.0 reads the same again, through JSON; and what is no such file is refused with its reason."""

import json
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Unreadable
from sorta.core.facts import SettledAs
from sorta.core.names import clean_name
from sorta.core.ports import (
    AccountRef,
    AttachmentSeen,
    EditSeen,
    IdentitySeen,
    Kind,
    MessageSeen,
    PostSeen,
    RemovalSeen,
)
from sorta.networks import activitystreams as streams
from sorta.networks.activitystreams_writing import (
    Written,
    list_collections,
    read_collection,
    read_written,
    write_collection,
    write_edit,
    write_message,
    write_removal,
)

US = AccountRef(external_id="https://page.example/us", handle="us", api_url="", token="")
WHEN = datetime(2026, 11, 20, 12, 30, 15, 250_000, tzinfo=UTC)

ids = st.integers(1, 10**6).map(lambda n: f"https://net.example/{n}")
words = st.text(st.characters(codec="utf-8", exclude_characters="\x00"), min_size=1, max_size=60)
said = words.map(str.strip).filter(bool)
names = words.map(clean_name).filter(lambda n: bool(n) and clean_name(n) == n)
times = st.datetimes(datetime(1990, 1, 1), datetime(2100, 1, 1), timezones=st.just(UTC))
identities = st.builds(
    IdentitySeen,
    external_id=ids,
    handle=names,
    name=names,
    reach=st.none() | st.integers(0, 100),
    automatic=st.booleans(),
)
posts = st.builds(
    PostSeen,
    external_id=ids,
    title=st.just("") | said,
    body=said,
    url=st.none() | ids,
    published_at=st.none() | times,
    author=st.none() | identities,
    is_ad=st.booleans(),
)
attachments = st.builds(
    AttachmentSeen, media_type=st.sampled_from(["", "image/png", "application/pdf"]), url=ids, name=said
)


@st.composite
def messages(draw: Callable[..., Any]) -> MessageSeen:
    """Messages as they are kept: private or public, by them or by us, of every kind."""
    by_us, kind = draw(st.booleans()), draw(st.sampled_from(Kind))
    # Reviews are given in public, and what is found was.
    public = kind in (Kind.FOUND, Kind.REVIEW) or draw(st.booleans())
    id, root = draw(ids), draw(ids)
    # What is found was said to nobody here; something of ours in public answers something, or it would be a post.
    by_us = by_us and kind is not Kind.FOUND
    answers = draw(ids) if by_us and public else draw(st.none() | ids)
    thread_root = root if answers else id
    return MessageSeen(
        external_id=id,
        kind=kind,
        public=public,
        by_us=by_us,
        partner=draw(identities),
        body=draw(said),
        sent_at=draw(times),
        thread_root=thread_root,
        in_reply_to=answers,
        url=draw(st.none() | ids),
        # Stars are theirs to give, with a review itself: what is said to one has none.
        rating=draw(st.none() | st.integers(1, 5)) if kind is Kind.REVIEW and not by_us and not answers else None,
        attachments=tuple(draw(st.lists(attachments, max_size=3))),
    )


def through(activity: Any) -> Any:
    return json.loads(json.dumps(activity))


@given(messages())
def test_a_message_reads_the_same_again(seen: MessageSeen) -> None:
    again = read_written(through(write_message(seen, US)), US)
    # Stars are read of reviews alone, by what the network called them.
    assert again == seen


@given(posts, messages())
def test_a_post_goes_along_with_what_hangs_on_it(post: PostSeen, seen: MessageSeen) -> None:
    hanging = MessageSeen(
        **{
            **vars(seen),
            "kind": Kind.COMMENT,
            "public": True,
            "thread_root": post.external_id,
            "external_id": f"{post.external_id}/c",
            "in_reply_to": post.external_id,
            "post": post,
            "rating": None,
        }
    )
    assert read_written(through(write_message(hanging, US)), US) == hanging


@given(ids, said, times)
def test_changes_and_removals_read_the_same_again(id: str, text: str, at: datetime) -> None:
    edit, gone = EditSeen(external_id=id, body=text, at=at), RemovalSeen(external_id=id, at=at)
    for actor in (US.external_id, "https://net.example/sally"):
        assert read_written(through(write_edit(edit, actor)), US) == edit
        assert read_written(through(write_removal(gone, actor)), US) == gone


SEEN = MessageSeen(
    external_id="https://net.example/1",
    kind=Kind.PRIVATE_MESSAGE,
    public=False,
    by_us=False,
    partner=IdentitySeen(external_id="https://net.example/sally", handle="sally", name="Sally"),
    body="Hello",
    sent_at=WHEN,
    thread_root="https://net.example/1",
)


def test_whoever_else_reads_activitystreams_reads_it_too() -> None:
    """Without our own properties it is what networks send: a Create of a Note from an actor, addressed to us."""
    activity = write_message(SEEN, US)
    assert streams.read_activity(activity, US) == SEEN
    assert activity["type"] == "Create"
    assert activity["object"]["to"] == [US.external_id]
    assert streams.get_id(activity["actor"]) == "https://net.example/sally"


def test_a_conversation_is_a_collection_and_a_file_holds_many_or_one() -> None:
    of = Written(
        id="urn:sorta:conversation:7",
        network="commonfold",
        account=US.external_id,
        activities=[write_message(SEEN, US)],
        settled_as=SettledAs.JUNK,
    )
    one = through(write_collection(of))
    assert (one["type"], one["totalItems"]) == ("OrderedCollection", 1)
    assert read_collection(one) == of
    assert list_collections(one) == [one]
    assert list_collections({"type": "Collection", "items": [one, one]}) == [one, one]
    assert list_collections({"type": "OrderedCollection", "orderedItems": one}) == [one]


@pytest.mark.parametrize("document", [[], "text", {}, {"orderedItems": []}, {"orderedItems": None}, 7])
def test_a_file_without_a_collection_is_refused(document: Any) -> None:
    with pytest.raises(Unreadable, match="holds"):
        list_collections(document)


@pytest.mark.parametrize(
    ("collection", "says"),
    [
        ("text", "not a collection"),
        ({"orderedItems": []}, "which account"),
        ({"attributedTo": US.external_id, "orderedItems": []}, "which account"),
        ({"attributedTo": US.external_id, "sorta:network": "x", "sorta:settled": "gone"}, "no way to settle"),
    ],
)
def test_a_conversation_that_lacks_something_says_what(collection: Any, says: str) -> None:
    with pytest.raises(Unreadable, match=says):
        read_collection(collection)


@pytest.mark.parametrize("activity", [None, "text", {}, {"type": "Create", "object": {"sorta:kind": "found"}}])
def test_what_is_no_activity_is_refused(activity: Any) -> None:
    with pytest.raises(Unreadable):
        read_written(activity, US)


def test_a_kind_that_nobody_knows_is_refused() -> None:
    activity = write_message(SEEN, US)
    activity["object"]["sorta:kind"] = "telegram"
    with pytest.raises(Unreadable, match="telegram"):
        read_written(activity, US)
