"""The record's words, and its chain by tampering. Hashes are SHA-256 (FIPS 180-4), checked against OpenSSL's in the store's test."""

import hashlib
import json
import random
from typing import Any

import pytest

from sorta.core.record import MOST_LINES, THINGS, Chain, read


def say(n: int = 1, **more: Any) -> str:
    told = {
        "n": n,
        "at": "2026-11-20T12:00:00.000001Z",
        "member": 7,
        "from": "203.0.113.9",
        "what": "rule",
        "did": "update",
        "key": {"id": 3},
        "name": "Lost things",
        "before": {},
        "after": {},
    }
    return json.dumps({**told, **more})


def chain_of(said: list[str]) -> list[tuple[int, str, bytes]]:
    last, rows = b"", []
    for n, words in enumerate(said, 1):
        last = hashlib.sha256(last + words.encode()).digest()
        rows.append((n, words, last))
    return rows


def follow(rows: list[tuple[int, str, bytes]]) -> str | None:
    chain = Chain()
    for row in rows:
        chain.follow(*row)
    return chain.broken


def test_whatever_is_changed_taken_away_or_put_in_shows() -> None:
    chance = random.Random(5)
    rows = chain_of([say(n, after={"position": n}) for n in range(1, 30)])
    assert follow(rows) is None
    assert follow([]) is None
    for _ in range(200):
        at = chance.randrange(len(rows))
        n, said, chained = rows[at]
        place = chance.randrange(len(said))
        bent = {
            "words": [
                *rows[:at],
                (n, said[:place] + chr(ord(said[place]) ^ 1) + said[place + 1 :], chained),
                *rows[at + 1 :],
            ],
            "hash": [*rows[:at], (n, said, bytes([chained[0] ^ 1]) + chained[1:]), *rows[at + 1 :]],
            "gone": rows[:at] + rows[at + 1 :],
            "twice": [*rows[: at + 1], *rows[at:]],
            "turned": [*rows[:at], *rows[at + 1 : at + 2], rows[at], *rows[at + 2 :]],
        }[chance.choice(["words", "hash", "gone", "twice", "turned"])]
        if bent != rows and bent != rows[:-1]:
            assert follow(bent) is not None
    # One who writes all later hashes anew changes the end, which others may have.
    other, first = Chain(), Chain()
    for row in chain_of([say(1, name="Other"), *(words for _, words, _ in rows[1:])]):
        other.follow(*row)
    for row in rows:
        first.follow(*row)
    assert (other.broken, other.count) == (None, first.count)
    assert other.end != first.end


def test_a_change_is_told_where_it_is() -> None:
    entry = read(
        say(
            before={
                "body": {"name": "Lost", "when": {"any": [{"type": "words", "words": ["scarf", "hat"]}]}, "then": []}
            },
            after={
                "body": {"name": "Lost", "when": {"any": [{"type": "words", "words": ["scarf"]}]}, "then": [{"to": 4}]}
            },
        )
    )
    assert [(line.where, line.before, line.after) for line in entry.lines] == [
        ("body.when.any.1.words", "scarf, hat", "scarf"),
        ("body.then.1.to", None, "4"),
    ]
    assert (entry.did, entry.thing, entry.member_id, entry.came_from) == ("changed", "rule", 7, "203.0.113.9")


@pytest.mark.parametrize(
    ("did", "before", "after", "said"),
    [
        ("insert", {}, {"name": "x"}, "made"),
        ("delete", {"name": "x"}, {}, "removed"),
        ("update", {"removed_at": None}, {"removed_at": "2026"}, "removed"),
        ("update", {"archived_at": None}, {"archived_at": "2026"}, "archived"),
        ("update", {"archived_at": "2026"}, {"archived_at": None}, "brought back"),
        ("update", {"revoked_at": None}, {"revoked_at": "2026"}, "taken back"),
        ("update", {"switched_on": True}, {"switched_on": False}, "switched off"),
        ("update", {"switched_on": False}, {"switched_on": True}, "switched on"),
        ("update", {"name": "x"}, {"name": "y"}, "changed"),
    ],
)
def test_what_was_done_in_a_word(did: str, before: dict[str, Any], after: dict[str, Any], said: str) -> None:
    assert read(say(did=did, before=before, after=after)).did == said


def test_an_enormous_change_is_cut_and_says_so() -> None:
    entry = read(say(after={"body": [{"a": n} for n in range(5000)]}))
    assert (len(entry.lines), entry.more) == (MOST_LINES, 5000 - MOST_LINES)


def test_every_thing_has_a_name_of_its_own() -> None:
    assert len(set(THINGS.values())) == len(THINGS)
