"""The second step at signing in: codes of an app by RFC 6238, and recovery codes. Used by services.second_step.

Checked against the values of RFC 6238, appendix B, in tests/core/test_second_step.py.
"""

import hmac
import re
from datetime import datetime

import pyotp

#: A code holds for so many seconds; one before and one after are taken, for clocks that differ (RFC 6238, 5.2).
SPAN, AROUND = 30, 1
DIGITS = 6
#: Recovery codes: how many, and of how many signs; without signs that look alike.
CODES, LENGTH = 10, 16
SIGNS = "abcdefghjkmnpqrstuvwxyz23456789"


def find_step(secret: str, code: str, at: datetime, last_step: int, digits: int = DIGITS) -> int | None:
    """The number of the span whose code this is; None for one that is wrong, of another time, or of a span whose code was taken."""
    said = re.sub(r"[\s-]", "", code)
    if not (said.isascii() and said.isdigit()):
        return None
    now = int(at.timestamp()) // SPAN
    maker = pyotp.TOTP(secret, digits=digits, interval=SPAN)
    for step in range(now - AROUND, now + AROUND + 1):
        if step > last_step and hmac.compare_digest(maker.at(step * SPAN), said):
            return step
    return None


def write_address(secret: str, email: str, issuer: str) -> str:
    """What stands in the picture that an app reads."""
    return pyotp.TOTP(secret, digits=DIGITS, interval=SPAN).provisioning_uri(name=email, issuer_name=issuer)


def tidy_recovery_code(code: str) -> str | None:
    """A recovery code as it was made, however it was typed; None for what cannot be one."""
    said = re.sub(r"[\s-]", "", code).lower()
    return said if len(said) == LENGTH and set(said) <= set(SIGNS) else None


def show_recovery_code(code: str) -> str:
    """In groups of four."""
    return "-".join(code[at : at + 4] for at in range(0, LENGTH, 4))


def say_browser(agent: str) -> str:
    """A session's browser and system, from what it says of itself: 'Firefox on Linux'; common practice, no source."""
    browsers = (
        ("Edg/", "Edge"),
        ("OPR/", "Opera"),
        ("Firefox/", "Firefox"),
        ("Chrome/", "Chrome"),
        ("Safari/", "Safari"),
    )
    systems = (("iPhone", "iPhone"), ("iPad", "iPad"), ("Android", "Android"), ("Windows", "Windows"), ("Mac OS", "Mac"), ("Linux", "Linux"))  # fmt: skip
    browser = next((name for sign, name in browsers if sign in agent), "")
    system = next((name for sign, name in systems if sign in agent), "")
    return " on ".join(part for part in (browser, system) if part) or "a program"
