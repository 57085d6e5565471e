"""Hosts of web addresses: read as the current standard has them (IDNA 2008, UTS #46; package idna), and told whether they lead inward.

Used by core.links and the one way out over HTTP.
"""

import contextlib
import ipaddress
import re

import idna

from sorta.core.names import find_borrowed

Address = ipaddress.IPv4Address | ipaddress.IPv6Address
#: Names that lead back into a house or this very machine, whatever stands before them (RFC 6761, 6762 appendix G, 8375).
_INSIDE = (
    "localhost", "localdomain", "local", "internal", "intranet", "private", "corp", "home", "lan", "home.arpa", "in-addr.arpa",
    "ip6.arpa",
)  # fmt: skip
#: Names that carry an address in them and lead there.
_CARRIES_ADDRESS = re.compile(r"(?:\d{1,3}[.-]){3}\d{1,3}")
#: IPv6 that stands for IPv4: translated (RFC 6052) and, long out of use, compatible (RFC 4291).
_TRANSLATED = (ipaddress.IPv6Network("64:ff9b::/96"), ipaddress.IPv6Network("::/96"))


class NoHost(ValueError):
    """It is no host's name; the sentence says why."""


def read_host(host: str) -> str:
    """The name as it is looked up: lower case, ASCII, without the full stop at its end. Raises NoHost."""
    if not host.strip("."):
        raise NoHost("it names no host")
    if host.isascii() and ":" in host:
        return host.lower()
    try:
        return idna.encode(host.rstrip("."), uts46=True, std3_rules=True).decode("ascii")
    except idna.IDNAError as error:
        raise NoHost("its host cannot be read") from error


def find_danger(host: str) -> str | None:
    """Why nobody should be led to a host; None for most. What is not said in its name is not known here."""
    try:
        name = read_host(host)
    except NoHost as error:
        return str(error)
    with contextlib.suppress(ValueError):
        return "it leads inside, not onto the open web" if leads_inside(ipaddress.ip_address(name)) else None
    if "." not in name or any(name == end or name.endswith(f".{end}") for end in _INSIDE):
        return "it leads inside, not onto the open web"
    if re.fullmatch(r"0x[0-9a-f]*|\d+", name.rsplit(".", 1)[-1]):
        return "its host is a number in disguise"
    if (carried := _CARRIES_ADDRESS.search(name)) is not None:
        with contextlib.suppress(ValueError):
            if leads_inside(ipaddress.ip_address(carried[0].replace("-", "."))):
                return "it leads inside, not onto the open web"
    for part in name.split("."):
        try:
            said = idna.ulabel(part)
        except idna.IDNAError:
            return "its host cannot be read"
        if find_borrowed(said):
            return "its host mixes alphabets so as to look like another"
    return None


def leads_inside(address: Address) -> bool:
    """Whether an address is not on the open web, or stands for one that is not."""
    if isinstance(address, ipaddress.IPv4Address):
        return not address.is_global or address.is_multicast
    carried = [address.ipv4_mapped, address.sixtofour, *(address.teredo or ())]
    if any(address in network for network in _TRANSLATED):
        carried.append(ipaddress.IPv4Address(int(address) & 0xFFFFFFFF))
    inner = [one for one in carried if one is not None]
    if address.ipv4_mapped is not None:
        return any(map(leads_inside, inner))
    return not address.is_global or address.is_multicast or any(map(leads_inside, inner))
