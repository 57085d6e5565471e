"""What is taken for a password: NIST's and zxcvbn's own examples of weak ones (from memory), strong phrases, and hostile lengths."""

import time

import pytest

from sorta.core.errors import Invalid
from sorta.core.passwords import LONGEST, check_password, normalise


@pytest.mark.parametrize(
    "weak",
    [
        "password",
        "password123",
        "qwertyuiop1",
        "1234567890",
        "aaaaaaaaaaaa",
        "letmein2026",
        "Tr0ub4dour",
        "iloveyou11",
        "abcdefghij",
        "monkeymonkey",
    ],
)
def test_what_would_be_guessed_soon_is_refused(weak: str) -> None:
    with pytest.raises(Invalid):
        check_password(weak)


@pytest.mark.parametrize(
    "strong", ["correct horse battery staple", "turnstile-otter-eleven", "Šest žab na růžovém poli"]
)
def test_a_few_words_will_do(strong: str) -> None:
    assert check_password(strong) == normalise(strong)


def test_ones_own_name_and_address_do_not_count() -> None:
    with pytest.raises(Invalid):
        check_password("petra.holmgren", ("Petra Holmgren", "petra.holmgren@tidewater.example"))


def test_too_short_and_too_long_say_so() -> None:
    with pytest.raises(Invalid, match="at least 10"):
        check_password("x9!kQ")
    with pytest.raises(Invalid, match="at most"):
        check_password("turnstile otter " * 20)


def test_the_longest_takes_no_time_to_speak_of() -> None:
    began = time.perf_counter()
    for sign in ("a1", "qwe", "19", "l33t", "z"):
        try:
            check_password((sign * LONGEST)[:LONGEST])
        except Invalid:
            continue
    assert time.perf_counter() - began < 5


def test_the_same_signs_written_otherwise_are_the_same() -> None:
    assert normalise("café ﬁve") == normalise("café five")
