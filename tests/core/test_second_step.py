"""Codes of an app by the values of RFC 6238, appendix B (from memory), and what is taken of them; recovery codes as people type them."""

import base64
from datetime import UTC, datetime, timedelta

import pytest

from sorta.core.second_step import (
    LENGTH,
    SIGNS,
    SPAN,
    find_step,
    say_browser,
    show_recovery_code,
    tidy_recovery_code,
    write_address,
)

#: The shared secret of RFC 6238's table for HMAC-SHA-1: twenty ASCII digits.
SECRET = base64.b32encode(b"12345678901234567890").decode()


@pytest.mark.parametrize(
    ("seconds", "code"),
    [
        (59, "94287082"),
        (1111111109, "07081804"),
        (1111111111, "14050471"),
        (1234567890, "89005924"),
        (2000000000, "69279037"),
        (20000000000, "65353130"),
    ],
)
def test_the_values_of_the_standard(seconds: int, code: str) -> None:
    at = datetime.fromtimestamp(seconds, UTC)
    assert find_step(SECRET, code, at, 0, digits=8) == seconds // 30
    # What an app shows has six digits: the last ones of those.
    assert find_step(SECRET, code[2:], at, 0) == seconds // 30
    wrong = f"{(int(code) + 1) % 10**8:08}"
    assert find_step(SECRET, wrong, at, 0, digits=8) is None


def test_one_span_before_and_after_are_taken_and_none_twice() -> None:
    at = datetime.fromtimestamp(1111111111, UTC)
    step = 1111111111 // SPAN
    for late in (-1, 0, 1):
        assert find_step(SECRET, "050471", at + timedelta(seconds=SPAN * late), 0) == step
    for late in (-2, 2):
        assert find_step(SECRET, "050471", at + timedelta(seconds=SPAN * late), 0) is None
    assert find_step(SECRET, "050471", at, step - 1) == step
    assert find_step(SECRET, "050471", at, step) is None
    assert find_step(SECRET, "050471", at, step + 1) is None


@pytest.mark.parametrize(
    "code", ["", " ", "05047", "0504711", "05047x", "٠٥٠٤٧١", "０５０４７１", "0" * 5000, "-1", "+50471"]
)
def test_what_is_no_code_is_none(code: str) -> None:
    assert find_step(SECRET, code, datetime.fromtimestamp(1111111111, UTC), 0) is None


def test_codes_may_be_typed_with_spaces() -> None:
    assert find_step(SECRET, " 050 471 ", datetime.fromtimestamp(1111111111, UTC), 0) is not None


def test_a_recovery_code_is_read_however_it_is_typed() -> None:
    code = (SIGNS * 2)[:LENGTH]
    shown = show_recovery_code(code)
    assert len(shown.split("-")) == 4
    for typed in (shown, code, shown.upper(), shown.replace("-", " "), f"  {shown}\n"):
        assert tidy_recovery_code(typed) == code
    for wrong in ("", code[:-1], code + "a", code.replace("a", "0"), "l" * LENGTH, "é" * LENGTH):
        assert tidy_recovery_code(wrong) is None


def test_the_address_an_app_reads_names_whose_it_is() -> None:
    address = write_address(SECRET, "ilse+desk@brinewick.example", "Sorta")
    assert address.startswith("otpauth://totp/Sorta:ilse%2Bdesk%40brinewick.example?")
    assert f"secret={SECRET}" in address
    assert "issuer=Sorta" in address


def test_a_browser_is_called_by_its_name() -> None:
    firefox = "Mozilla/5.0 (X11; Linux x86_64; rv:130.0) Gecko/20100101 Firefox/130.0"
    phone = "Mozilla/5.0 (iPhone; CPU iPhone OS 17_5 like Mac OS X) AppleWebKit/605.1.15 Version/17.5 Mobile/15E148 Safari/604.1"
    assert say_browser(firefox) == "Firefox on Linux"
    assert say_browser(phone) == "Safari on iPhone"
    assert say_browser("curl/8.0") == say_browser("") == "a program"
