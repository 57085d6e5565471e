"""Lengths, handles in front, what a network cannot do, and what an author has not seen."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from sorta.core.answers import count_graphemes, get_obstacle, list_unseen, prepare_reply
from sorta.core.errors import Invalid
from sorta.core.events import Event, read_event
from sorta.networks.abilities import COMMONFOLD, HUSHLINE, QUILLET

T = datetime(2026, 11, 20, 12, tzinfo=UTC)


@pytest.mark.parametrize(
    ("text", "length"),
    [
        ("\U0001f468\u200d\U0001f469\u200d\U0001f467\u200d\U0001f466", 1),
        ("\U0001f1e9\U0001f1f0\U0001f1f5\U0001f1f1", 2),
        ("\U0001f44d\U0001f3fd", 1),
        ("e\u0301", 1),
        ("\u0915\u094d\u0937\u093f", 1),
        ("\r\n", 1),
        ("a\u0308b", 2),
        ("\u1100\u1161\u11a8", 1),
        ("", 0),
    ],
)
def test_graphemes(text: str, length: int) -> None:
    """UAX #29, extended grapheme clusters: the cases of docs/references.md 11, and Hangul L V T (GB6 to GB8) from memory."""
    assert count_graphemes(text) == length


def test_the_handle_is_in_front_once_however_it_was_typed() -> None:
    for text in ("Yes", "@tess Yes", "  @TESS   Yes "):
        assert prepare_reply(QUILLET, text, "@tess", public=True) == "@tess Yes"
    assert prepare_reply(QUILLET, "Yes", "tess", public=False) == "Yes"
    assert prepare_reply(COMMONFOLD, "Yes", "tess", public=True) == "Yes"


def test_the_limit_counts_the_handle_and_clusters() -> None:
    family = "\U0001f468\u200d\U0001f469\u200d\U0001f467"
    assert count_graphemes(prepare_reply(QUILLET, family * 294, "tess", public=True)) == 300
    with pytest.raises(Invalid, match="301 of 300"):
        prepare_reply(QUILLET, family * 295, "tess", public=True)


@pytest.mark.parametrize("text", ["", "  \n ", "@tess ", "@tess"])
def test_nothing_said_is_refused(text: str) -> None:
    with pytest.raises(Invalid):
        prepare_reply(QUILLET, text, "tess", public=True)


@pytest.mark.parametrize(
    ("text", "sign_off", "body"),
    [("", "", "@tess"), ("@tess ", " – IB", "@tess – IB"), (" – IB", " – IB", "@tess – IB")],
)
def test_files_may_go_without_a_word(text: str, sign_off: str, body: str) -> None:
    assert prepare_reply(QUILLET, text, "tess", public=True, sign_off=sign_off, has_files=True) == body
    assert prepare_reply(COMMONFOLD, "", "tess", public=True, has_files=True) == ""


def obstacle(abilities, public: bool, was_public: bool, hours: float = 1) -> str | None:
    return get_obstacle(
        abilities, public=public, conversation_public=was_public, last_inbound_at=T - timedelta(hours=hours), now=T
    )


def test_what_a_network_cannot_do_is_said() -> None:
    assert obstacle(COMMONFOLD, True, True) is None
    assert obstacle(COMMONFOLD, False, True) is None
    assert "private" in (obstacle(COMMONFOLD, True, False) or "")
    assert "write first" in (obstacle(QUILLET, False, True) or "")
    assert obstacle(QUILLET, False, False) is None
    assert obstacle(HUSHLINE, False, False, hours=24) is None
    assert "24 hours" in (obstacle(HUSHLINE, False, False, hours=24.01) or "")


@pytest.mark.parametrize(("was_public", "hours"), [(True, 7 * 24), (False, 24)])
def test_answering_a_comment_in_private_has_a_time_of_its_own(was_public: bool, hours: int) -> None:
    """Common practice, no source: a week for a first private answer to a comment, a day within a private conversation."""
    network = replace(
        HUSHLINE, private_reply_to_public=True, private_reply_to_public_hours=7 * 24, reply_window_hours=24
    )
    assert obstacle(network, False, was_public, hours=hours) is None
    assert f"{hours} hours" in (obstacle(network, False, was_public, hours=hours + 0.01) or "")
    assert obstacle(replace(network, private_reply_to_public_hours=None), False, True, hours=9999) is None


def test_what_the_author_has_not_seen() -> None:
    def event(seq: int, kind: str, member: int | None = None, **data: object) -> Event:
        return read_event(seq=seq, kind=kind, at=T, member_id=member, data=data)

    trail = [
        event(1, "arrived", message=1),
        event(2, "assigned", 8, owner=8),
        event(3, "arrived", message=2),
        event(4, "noted", 8, text="n"),
        event(5, "replied", 7, message=3, public=True, settle=False),
        event(6, "replied", 8, message=4, public=True, settle=False),
        event(7, "settled", 8, how="answered"),
        event(8, "undone", 8, of=7),
    ]
    assert list_unseen(trail, 1, member_id=7) == (3, 6)
    assert list_unseen(trail, 8, member_id=7) == ()
