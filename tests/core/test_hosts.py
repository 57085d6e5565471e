"""Hosts: read as UTS #46 and IDNA 2008 have them, and refused where they lead inward."""

import ipaddress

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.hosts import NoHost, find_danger, leads_inside, read_host


@pytest.mark.parametrize(
    ("host", "name"),
    [
        # docs/references.md 12, and examples of UTS #46, section 4 (from memory): ß is kept, width and case are folded, stops of other scripts.
        ("straße.de", "xn--strae-oqa.de"),
        ("xn--strae-oqa.de", "xn--strae-oqa.de"),
        ("faß.de", "xn--fa-hia.de"),
        ("Bücher.Example", "xn--bcher-kva.example"),
        ("ａｂｃ.example", "abc.example"),
        ("例え。テスト", "xn--r8jz45g.xn--zckzah"),
        ("ex\u00adample.com", "example.com"),
        ("brinewick.example.", "brinewick.example"),
        ("１２７.０.０.１", "127.0.0.1"),
    ],
)
def test_a_host_is_read_by_the_current_standard(host: str, name: str) -> None:
    assert read_host(host) == name


@pytest.mark.parametrize("host", ["", ".", "a..b", "-x.example", "a_b.example", "☃.example", "xn--a.example", "x" * 64 + ".de"])  # fmt: skip
def test_what_is_no_host_says_so(host: str) -> None:
    with pytest.raises(NoHost):
        read_host(host)
    assert find_danger(host) is not None


#: RFC 6761 (localhost), RFC 6762 appendix G, RFC 8375 (home.arpa); `localdomain` is common practice, no source.
@pytest.mark.parametrize(
    "host",
    [
        "localhost", "a.localhost", "nas.local", "db.internal", "x.intranet", "host.localdomain", "localhost.localdomain", "a.lan", "a.home",
        "router.home.arpa", "printer", "Printer.LOCAL.", "ｎａｓ.ｌｏｃａｌ", "127.0.0.1", "127.1", "0x7f.0x1", "2130706433", "１２７.０.０.１",
        "10.1.2.3", "192.168.0.1", "169.254.169.254", "100.64.0.1", "0.0.0.0", "224.0.0.1", "::1", "fe80::1", "::ffff:127.0.0.1",
        "::ffff:10.0.0.1", "64:ff9b::7f00:1", "2002:7f00:1::", "::127.0.0.1", "127.0.0.1.nip.example", "10-0-0-5.rebind.example",
        "pаypage.example", "xn--pypage-4ve.example",
    ],
)  # fmt: skip
def test_what_leads_inward_or_deceives_is_refused(host: str) -> None:
    assert find_danger(host) is not None


@pytest.mark.parametrize(
    "host",
    [
        "brinewick.example", "bücher.example", "xn--strae-oqa.de", "пример.example", "水族館tokyo.example", "8.8.8.8", "2606:4700::1111",
        "::ffff:8.8.8.8", "localhost.example", "home.example", "1-2-3.example", "3.14.15.example", "münchen-ny.example",
    ],
)  # fmt: skip
def test_what_is_on_the_open_web_is_not(host: str) -> None:
    assert find_danger(host) is None


@given(st.ip_addresses(v=4))
def test_an_address_leads_where_it_does_in_every_way_it_is_written(address: ipaddress.IPv4Address) -> None:
    """IPv4-mapped (RFC 4291) as it is; translated (RFC 6052) and 6to4 (RFC 3056) at least where it is inside."""
    inside = leads_inside(address)
    mapped = ipaddress.IPv6Address(b"\0" * 10 + b"\xff\xff" + address.packed)
    assert leads_inside(mapped) is inside
    for prefix in (b"\0\x64\xff\x9b" + b"\0" * 8 + address.packed, b"\x20\x02" + address.packed + b"\0" * 10):
        assert leads_inside(ipaddress.IPv6Address(prefix)) or not inside


@given(st.text(max_size=80))
def test_whatever_is_given_is_answered(host: str) -> None:
    assert find_danger(host) is None or find_danger(host)
