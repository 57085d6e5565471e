"""A workspace's colour, and what can be read on it and beside it: contrast by WCAG 2.2. Used by services.looks and services.report_page."""

import re

from sorta.core.errors import Invalid

_COLOUR = re.compile(r"#[0-9a-f]{6}")
#: What text needs at least (WCAG 2.2, 1.4.3), and what is no text (1.4.11).
TEXT, SHAPE = 4.5, 3.0
#: What stands on a colour. One of these two can be read on any: the worse case of the better one is 4.58.
BLACK, WHITE = "#000000", "#ffffff"
#: Bytes of a workspace's picture, as it is sent.
LARGEST_PICTURE = 4 * 2**20
#: By how much a colour goes towards black or white in one try.
_STEP = 0.04


def check_colour(said: str) -> str:
    """A colour as it is kept, #rrggbb. Raises Invalid."""
    colour = said.strip().lower()
    if not _COLOUR.fullmatch(colour):
        raise Invalid("A colour is written as #14564a: six digits of 0 to 9 and a to f.", "colour")
    return colour


def _read(colour: str) -> tuple[float, float, float]:
    return tuple(int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))  # type: ignore[return-value]


def get_luminance(colour: str) -> float:
    """Relative luminance, 0 to 1 (WCAG 2.2, definitions)."""
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in _read(colour))
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def get_contrast(one: str, other: str) -> float:
    """Contrast ratio, 1 to 21 (WCAG 2.2, definitions)."""
    darker, lighter = sorted((get_luminance(one), get_luminance(other)))
    return (lighter + 0.05) / (darker + 0.05)


def get_ink(colour: str) -> str:
    """What is written in on a colour: black or white, whichever is read better."""
    return max((BLACK, WHITE), key=lambda ink: get_contrast(ink, colour))


def make_visible(colour: str, ground: str, least: float = SHAPE) -> str:
    """The colour, or the nearest of it towards black or white that stands out from the ground by so much."""
    towards = get_ink(ground)
    found = colour
    share = 0.0
    while get_contrast(found, ground) < least:
        share = min(1.0, share + _STEP)
        mixed = (a + (b - a) * share for a, b in zip(_read(colour), _read(towards), strict=True))
        found = "#" + "".join(f"{round(part * 255):02x}" for part in mixed)
    return found
