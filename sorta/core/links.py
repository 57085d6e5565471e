"""Links in what goes out: found, checked, given their UTM tags; and who opens them. Used by services.links.

Links are found as linkify-it finds them (https:// and http:// only: a bare `name.example` stays words), also right behind a word of
another script, and without the quotes and stops that close around them. UTM tags are common practice, no source; tags that a target has
already are kept.
"""

import re
import unicodedata
from urllib.parse import parse_qsl, quote, urlsplit, urlunsplit

from linkify_it import LinkifyIt

from sorta.core.errors import Invalid
from sorta.core.hosts import find_danger

LONGEST_TARGET = 2000
_FINDER = LinkifyIt({"mailto:": None, "ftp:": None, "//": None}, {"fuzzy_link": False, "fuzzy_email": False})
_BEGINS = re.compile(r"(?<![A-Za-z0-9_])(https?:)(?=//)", re.IGNORECASE)
#: No address holds these as they are: quotes that close, and the stops of scripts that put no space after them.
NO_LINK = "“”„«»‘’「」『』。、！？；：…"
_ENDS = str.maketrans(dict.fromkeys(NO_LINK, " "))
_PROGRAM = re.compile(
    r"bot\b|bot[/;_-]|crawl|spider|slurp|preview|unfurl|fetch|curl|wget|python|java/|go-http|headless|scan|monitor|^$", re.IGNORECASE
)  # fmt: skip


def find_links(text: str) -> tuple[tuple[int, int, str], ...]:
    """The links of a text as (start, end, address), in order."""
    found: list[tuple[int, int, str]] = []
    ended = text.translate(_ENDS)
    for begins in _BEGINS.finditer(ended):
        if found and begins.start() < found[-1][1]:
            continue
        # What is longer is no link anybody can follow; looked at whole, many that begin would take a square of their number.
        window = ended[begins.start() : begins.start() + LONGEST_TARGET + 1]
        length = _FINDER.test_schema_at(window, begins[1].lower(), len(begins[1]))
        if length:
            end = begins.end() + length
            found.append((begins.start(), end, text[begins.start() : end]))
    return tuple(found)


def check_target(address: str) -> str:
    """An address that a short link may lead to. Raises Invalid, saying why not, for an unsafe one."""
    why = _find_danger(address)
    if why is not None:
        raise Invalid(f"‘{address[:80]}’ cannot be linked to: {why}.", "text")
    return address


def _find_danger(address: str) -> str | None:
    if len(address) > LONGEST_TARGET:
        return f"it is longer than {LONGEST_TARGET} characters"
    if any(unicodedata.category(c) in ("Cc", "Cf") or c.isspace() for c in address):
        return "it holds characters that cannot be seen"
    try:
        parts = urlsplit(address)
        host, _ = parts.hostname or "", parts.port
    except ValueError:
        return "it is no address"
    if parts.scheme not in ("http", "https"):
        return "it must begin with https:// or http://"
    if parts.username is not None or parts.password is not None:
        return "what stands before the @ hides where it leads"
    if "\\" in address:
        return "it names no host"
    return find_danger(host)


def add_tags(address: str, *, source: str, campaign: str, medium: str = "social") -> str:
    """The address with UTM tags for where it was opened; its own stay, as do order and fragment."""
    parts = urlsplit(address)
    present = {key.lower() for key, _ in parse_qsl(parts.query, keep_blank_values=True)}
    tags = {"utm_source": source, "utm_medium": medium, "utm_campaign": campaign}
    more = [f"{key}={quote(value, safe='')}" for key, value in tags.items() if key not in present]
    query = "&".join(filter(None, [parts.query, *more]))
    return urlunsplit((parts.scheme, parts.netloc, parts.path, query, parts.fragment))


def replace_links(text: str, by: dict[str, str]) -> str:
    """The text with its links replaced; those not in `by` stay."""
    made, at = "", 0
    for start, end, address in find_links(text):
        made += text[at:start] + by.get(address, text[start:end])
        at = end
    return made + text[at:]


def is_program(user_agent: str, method: str = "GET") -> bool:
    """Whether it was a program that opened a link, by how it names itself (common practice, no source)."""
    return method != "GET" or bool(_PROGRAM.search(user_agent))
