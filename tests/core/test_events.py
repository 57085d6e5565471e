"""The trail's kinds: each is kept as JSON and read back as it was, and nothing else is read."""

import json
from dataclasses import fields
from datetime import UTC, datetime
from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core import events
from sorta.core.events import ByRule, Event, Evidence, What, read_event, write_data
from sorta.core.facts import Facts
from sorta.core.moves import UNDOABLE, apply

T = datetime(2026, 11, 20, 9, tzinfo=UTC)
for hint, strategy in (
    (datetime, st.datetimes(timezones=st.just(UTC))),
    (float, st.floats(-1e6, 1e6)),
    (int, st.integers(0, 2**53)),
):
    st.register_type_strategy(hint, strategy)
ANY = st.one_of([st.from_type(kind) for kind in get_args(What)])


@given(ANY, st.none() | st.from_type(ByRule))
def test_every_kind_is_read_back_as_it_was_written(what: What, rule: ByRule | None) -> None:
    kept = json.loads(json.dumps(write_data(what, rule), allow_nan=False))
    event = Event(seq=1, at=T, what=what, member_id=3, rule=rule)
    assert read_event(seq=1, kind=event.kind, at=T, member_id=3, data=kept) == event


@given(ANY)
def test_every_kind_can_follow_another(what: What) -> None:
    assert apply(Facts(), Event(seq=1, at=T, what=what)).seq == 1


def test_what_needs_no_saying_is_not_kept() -> None:
    assert write_data(events.Arrived(message=1)) == {"message": 1}
    assert write_data(events.Assigned(owner=None)) == {"owner": None}
    rule = ByRule(id=1, version=2, name="r", evidence=(Evidence(type="words", words=("a",)),))
    assert write_data(events.Kept(), rule) == {
        "rule": {"id": 1, "version": 2, "name": "r", "evidence": [{"type": "words", "words": ["a"]}]}
    }


@pytest.mark.parametrize(
    ("kind", "data", "says"),
    [
        ("sung", {}, "unknown kind"),
        ("kept", {"loud": True}, "nothing is known of 'loud'"),
        ("arrived", {}, "missing"),
        ("arrived", {"message": "1"}, "is not <class 'int'>"),
        ("arrived", {"message": True}, "is not <class 'int'>"),
        ("arrived", {"message": None}, "is not <class 'int'>"),
        ("parked", {"until": "tomorrow"}, "event 7, parked, cannot be read"),
        ("settled", {"how": "loudly"}, "loudly"),
        ("reopened", {"message": 1, "since": T.isoformat(), "waiting": [[1, 2]]}, "is not <class 'dict'>"),
        ("assigned", {"owner": 1, "choice": {"reason": "r", "passed": [[1]]}}, "cannot be read"),
        ("kept", {"rule": {"id": 1}}, "missing"),
    ],
)
def test_nothing_else_is_read(kind: str, data: dict[str, object], says: str) -> None:
    with pytest.raises(ValueError, match=says):
        read_event(seq=7, kind=kind, at=T, data=data)


def test_names_and_words_are_those_of_the_kinds() -> None:
    kinds = get_args(What)
    assert len(events.KINDS) == len(kinds) == len({kind.__name__ for kind in kinds})
    assert set(UNDOABLE) <= set(kinds)
    # What erasing blanks is text wherever it stands; whatever is text and not blanked is a name or a choice.
    texts = {f.name for kind in kinds for f in fields(kind) if f.type in ("str", "str | None", str, str | None)}
    assert texts - set(events.WORDS) == {"to", "desk", "by", "field"}
