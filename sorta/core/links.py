"""Links in what goes out: found, checked, given their UTM tags; and who opens them. Used by services.links.

Links are found as linkify-it finds them (https:// and http:// only: a bare `name.example` stays words). UTM tags are
common practice, no source; tags that a target has already are kept.
"""

import contextlib
import ipaddress
import re
import unicodedata
from urllib.parse import parse_qsl, quote, urlsplit, urlunsplit

from linkify_it import LinkifyIt

from sorta.core.errors import Invalid

LONGEST_TARGET = 2000
_FINDER = LinkifyIt({"mailto:": None, "ftp:": None, "//": None}, {"fuzzy_link": False, "fuzzy_email": False})
#: Names of hosts that lead back into a house, whatever stands at their end.
_INSIDE = (".localhost", ".local", ".internal", ".home", ".lan")
_PROGRAM = re.compile(
    r"bot\b|bot[/;_-]|crawl|spider|slurp|preview|unfurl|fetch|curl|wget|python|java/|go-http|headless|scan|monitor|^$", re.IGNORECASE
)  # fmt: skip


def find_links(text: str) -> tuple[tuple[int, int, str], ...]:
    """The links of a text as (start, end, address), in order."""
    return tuple((m.index, m.last_index, m.url) for m in _FINDER.match(text) or ())


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
        host, _ = (parts.hostname or "").rstrip("."), parts.port
    except ValueError:
        return "it is no address"
    if parts.scheme not in ("http", "https"):
        return "it must begin with https:// or http://"
    if parts.username is not None or parts.password is not None:
        return "what stands before the @ hides where it leads"
    if not host or "\\" in address:
        return "it names no host"
    return _find_danger_of_host(host)


def _find_danger_of_host(host: str) -> str | None:
    with contextlib.suppress(ValueError):
        return None if ipaddress.ip_address(host).is_global else "it leads inside, not onto the open web"
    if host == "localhost" or host.endswith(_INSIDE) or "." not in host:
        return "it leads inside, not onto the open web"
    if re.fullmatch(r"(0x[0-9a-f]+|\d+)", host.rsplit(".", 1)[-1]):
        return "its host is a number in disguise"
    for part in host.split("."):
        label = part
        if part.startswith("xn--"):
            try:
                label = part.encode("ascii").decode("idna")
            except UnicodeError:
                return "its host cannot be read"
        if len({_get_script(c) for c in label if c.isalpha()}) > 1:
            return "its host mixes alphabets so as to look like another"
    return None


def _get_script(letter: str) -> str:
    """Roughly the alphabet of a letter: the first word of its Unicode name."""
    name = unicodedata.name(letter, "?").split()[0]
    return "CJK" if name in ("HIRAGANA", "KATAKANA", "CJK", "HANGUL") else name


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
