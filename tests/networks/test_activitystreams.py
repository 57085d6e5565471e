"""Reading ActivityStreams 2.0 as the recommendation says, and refusing with a reason what cannot be read.

Examples marked [AS2 n] follow the numbered examples of W3C "Activity Streams 2.0" and "Activity Vocabulary"
(23 May 2017), written down from memory; their ids are the recommendation's placeholder names.
"""

from datetime import UTC, datetime
from typing import Any

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Unreadable
from sorta.core.ports import AccountRef, Echo, EditSeen, Kind, MessageSeen, PostSeen, ReactionSeen, RemovalSeen
from sorta.core.threading import get_thread_key
from sorta.networks import activitystreams as streams
from sorta.networks.commonfold import Commonfold
from sorta.services.intake import read_activity
from tests.fakes import fake_house_with

US = AccountRef(external_id="http://page.example/us", handle="us", api_url="", token="")
PUBLIC = "https://www.w3.org/ns/activitystreams#Public"
WHEN = "2026-11-20T12:00:00Z"
ADAPTER = Commonfold(httpx.AsyncClient())
T = datetime(2026, 11, 20, 12, tzinfo=UTC)


def create(note: dict[str, Any], **more: Any) -> dict[str, Any]:
    base = {"id": "http://x.example/n1", "type": "Note", "content": "Hello", "published": WHEN, "to": [PUBLIC]}
    return {
        "@context": "https://www.w3.org/ns/activitystreams",
        "type": "Create",
        "id": "http://x.example/c1",
        "actor": {"type": "Person", "id": "http://x.example/sally", "name": "Sally", "preferredUsername": "sally"},
        "object": {**base, **note},
        **more,
    }


POST = {"type": "Note", "id": "http://page.example/p1", "content": "Our post", "attributedTo": US.external_id}
COMMENT = {"inReplyTo": POST, "context": POST}


def read(activity: Any) -> Any:
    return streams.read_activity(activity, US)


def test_the_forms_a_property_may_take() -> None:
    """[AS2 1, 12 to 15] An actor as a string, as an object, as a list of either; a Link by its href."""
    assert streams.get_id("http://www.test.example/martin") == "http://www.test.example/martin"
    assert streams.get_id({"type": "Person", "id": "http://joe.example.org"}) == "http://joe.example.org"
    assert streams.get_id([{"type": "Link", "href": "http://example.org/abc"}, "x"]) == "http://example.org/abc"
    assert streams.get_id([]) is None
    assert streams.list_types({"type": ["Person", "http://schema.org/Person"]}) == ["Person", "//schema.org/Person"]
    assert streams.list_types({"@type": "as:Note"}) == ["Note"]


def test_natural_language_values() -> None:
    """[AS2 16, 17; vocabulary 114 to 120] `name` and `nameMap`; `content` is HTML unless `mediaType` says otherwise."""
    assert streams.get_words({"nameMap": {"es": "Una nota sencilla"}}, "name") == "Una nota sencilla"
    assert streams.get_text({"content": "A <em>simple</em> note"}) == "A simple note"
    assert streams.get_text({"content": "## A simple <note", "mediaType": "text/markdown"}) == "## A simple <note"
    assert streams.get_text({"contentMap": {"en": "A <b>simple</b> note"}}) == "A simple note"
    assert streams.get_text({"content": "<p>One</p><p>Two &amp; three<br>four</p>"}) == "One\nTwo & three\nfour"


def test_a_tombstone_has_a_former_type_as_a_string() -> None:
    """[vocabulary 60, Tombstone] `formerType` is a string; `deleted` is when."""
    gone = {
        "type": "Tombstone",
        "id": "http://image.example/2",
        "formerType": "Image",
        "deleted": "2016-03-17T00:00:00Z",
    }
    seen = read({"type": "Delete", "actor": "http://example.org/~alice", "object": gone})
    assert seen == RemovalSeen(external_id="http://image.example/2", at=datetime(2016, 3, 17, tzinfo=UTC))
    assert (
        read({"type": "Delete", "object": "http://x.example/9", "published": WHEN}).external_id == "http://x.example/9"
    )


@pytest.mark.parametrize(
    ("note", "more", "kind", "key"),
    [
        (COMMENT, {}, Kind.COMMENT, "public:http://page.example/p1"),
        ({**COMMENT, "inReplyTo": "http://x.example/n0"}, {}, Kind.REPLY, "public:http://page.example/p1"),
        ({"tag": {"type": "Mention", "href": US.external_id}}, {}, Kind.MENTION, "public:http://x.example/n1"),
        (
            {
                "tag": [{"type": "Mention", "href": US.external_id}],
                "inReplyTo": "http://x.example/n0",
                "context": "http://x.example/n0",
            },
            {},
            Kind.MENTION,
            "public:http://x.example/n0",
        ),
        ({"target": US.external_id}, {}, Kind.VISITOR_POST, "public:http://x.example/n1"),
        ({}, {"target": {"type": "Group", "id": US.external_id}}, Kind.VISITOR_POST, "public:http://x.example/n1"),
        ({"to": US.external_id}, {}, Kind.PRIVATE_MESSAGE, "private"),
        ({"to": [{"id": US.external_id}]}, {"cc": []}, Kind.PRIVATE_MESSAGE, "private"),
        ({"to": ["as:Public"], **COMMENT}, {}, Kind.COMMENT, "public:http://page.example/p1"),
    ],
)
def test_kinds_and_threads(note: dict[str, Any], more: dict[str, Any], kind: Kind, key: str) -> None:
    seen = read(create(note, **more))
    assert isinstance(seen, MessageSeen)
    assert (seen.kind, get_thread_key(seen), seen.by_us) == (kind, key, False)
    assert (seen.partner.name, seen.partner.handle, seen.sent_at) == ("Sally", "sally", T)


def test_the_post_comes_along_with_the_comment() -> None:
    seen = read(create(COMMENT))
    assert seen.post == PostSeen(external_id=POST["id"], title="", body="Our post", url=None, published_at=None)


def test_our_own_words() -> None:
    mine = {"actor": US.external_id}
    assert isinstance(read(create({}, **mine)), PostSeen)
    answered = {
        "id": "http://x.example/n0",
        "type": "Note",
        "content": "?",
        "attributedTo": {"id": "http://x.example/sally"},
    }
    seen = read(create({"inReplyTo": answered, "context": POST}, **mine))
    assert (seen.by_us, seen.partner.external_id, seen.thread_root) == (True, "http://x.example/sally", POST["id"])
    private = read(create({"to": [{"id": "http://x.example/tom", "name": "Tom"}]}, **mine))
    assert (private.public, private.partner.name) == (False, "Tom")


def test_edits_and_likes() -> None:
    change = {
        "type": "Update",
        "actor": "http://x.example/s",
        "object": {"id": "a:1", "type": "Note", "content": "New", "updated": WHEN},
    }
    assert read(change) == EditSeen(external_id="a:1", body="New", at=T)
    like = read({"type": "Like", "id": "a:2", "actor": "http://x.example/sally", "object": "a:1", "published": WHEN})
    assert isinstance(like, ReactionSeen)
    assert (like.author.handle, like.object_id) == ("sally", "a:1")


@pytest.mark.parametrize(
    ("activity", "words"),
    [
        ([], "not an object"),
        ({}, "no type"),
        ({"type": "Arrive"}, "Arrive is not a kind"),
        ({"type": "Create"}, "not sent along"),
        (create({"content": " "}), "says nothing"),
        (create({**COMMENT, "published": "noon"}), "cannot be read"),
        (create({**COMMENT, "published": "2026-11-20T12:00:00"}), "no offset"),
        (create({**COMMENT, "published": None}), "when it happened"),
        (create({}), "neither answers"),
        (create({"to": ["http://x.example/tom"]}), "not to this account"),
        (create(COMMENT, actor=None), "who did it"),
        ({"type": "Delete"}, "what was deleted"),
        ({"type": "Update", "object": {"id": "a"}}, "no text"),
        ({"type": "Like", "object": "a"}, "own id"),
    ],
)
def test_reasons(activity: Any, words: str) -> None:
    with pytest.raises(Unreadable, match=words):
        read(activity)


JSON = st.recursive(
    st.none()
    | st.booleans()
    | st.integers()
    | st.text(max_size=8)
    | st.sampled_from([PUBLIC, US.external_id, WHEN, "Create", "Note"]),
    lambda inner: (
        st.lists(inner, max_size=3)
        | st.dictionaries(
            st.sampled_from(
                [
                    "type",
                    "id",
                    "object",
                    "actor",
                    "to",
                    "inReplyTo",
                    "context",
                    "content",
                    "published",
                    "tag",
                    "name",
                    "href",
                    "target",
                ]
            ),
            inner,
            max_size=6,
        )
    ),
    max_leaves=25,
)


@given(JSON)
def test_whatever_comes_is_read_or_refused_with_a_reason(activity: Any) -> None:
    account, house = fake_house_with(ADAPTER, US)
    try:
        seen = read_activity(house, account, activity)
    except Unreadable as refused:
        assert refused.message.endswith(".")
    else:
        assert seen.__class__.__module__ == "sorta.core.ports"


def test_what_our_own_client_sent_is_an_echo() -> None:
    assert ADAPTER.read(create({"clientKey": "k1"}), US) == Echo(external_id="http://x.example/n1")
