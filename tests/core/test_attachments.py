"""Files are what their bytes say. Signatures: PNG (W3C PNG 3rd edition, 5.2), GIF89a specification 17, JPEG (ITU-T T.81,
B.1.1.3), WebP (RFC 9649), PDF (ISO 32000-1, 7.5.2), ZIP (APPNOTE 4.3.7); the pictures themselves are made by Pillow."""

import io
import struct
import zipfile
import zlib

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from sorta.core.attachments import (
    LARGEST,
    LONGEST_DESCRIPTION,
    LONGEST_NAME,
    TYPES,
    check_description,
    check_file,
    check_kept,
    make_name,
)
from sorta.core.errors import Invalid


def picture(kind: str, size: tuple[int, int] = (40, 30)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (20, 86, 74)).save(out, kind)
    return out.getvalue()


def chunk(name: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def bomb(width: int, height: int) -> bytes:
    """A PNG of few bytes that unfolds to width times height white pixels."""
    head = struct.pack(">IIBBBBB", width, height, 1, 0, 0, 0, 0)
    rows = zlib.compress(b"\0" * ((width // 8 + 1) * min(height, 2000)), 9)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def nested_zip() -> bytes:
    """A kilobyte or so that unpacks to 16 MB, five times over."""
    inner = io.BytesIO()
    with zipfile.ZipFile(inner, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("zeros", b"\0" * 2**24)
    outer = io.BytesIO()
    with zipfile.ZipFile(outer, "w", zipfile.ZIP_DEFLATED) as archive:
        for n in range(5):
            archive.writestr(f"{n}.zip", inner.getvalue())
    return outer.getvalue()


@pytest.mark.parametrize(
    ("content", "declared", "name", "kind"),
    [
        (picture("PNG"), "image/png", "ray.png", "image/png"),
        (picture("JPEG"), "image/jpeg", "ray.JPG", "image/jpeg"),
        (picture("JPEG"), "image/jpg", "ray.jpeg", "image/jpeg"),
        (picture("GIF"), "image/gif", "seal.gif", "image/gif"),
        (picture("WEBP"), "", "ray.webp", "image/webp"),
        (b"%PDF-1.7\n%\xe2\xe3\xcf\xd3\n1 0 obj\n", "application/pdf", "map.pdf", "application/pdf"),
        ("Opening hours\r\nMonday 9–17 🦭".encode(), "text/plain; charset=utf-8", "hours.txt", "text/plain"),
        (b"a,b\r\n1,2\r\n", "text/csv", "prices.csv", "text/csv"),
        (b"a,b\r\n1,2\r\n", "application/octet-stream", "prices.csv", "text/csv"),
    ],
)
def test_what_is_taken_has_the_type_of_its_bytes(content: bytes, declared: str, name: str, kind: str) -> None:
    assert check_file(content, declared, name).media_type == kind


@pytest.mark.parametrize(
    ("content", "declared", "name", "why"),
    [
        (b"", "image/png", "x.png", "empty"),
        (b"\0" * (LARGEST + 1), "image/png", "x.png", "10 MB"),
        (picture("PNG"), "image/jpeg", "x.jpg", "but is a PNG picture"),
        (picture("GIF"), "application/octet-stream", "x.pdf", "ends in .pdf"),
        (b"<html><script>alert(1)</script>", "image/png", "x.png", "but is plain text"),
        (b"MZ\x90\0\3\0\0\0\4\0\0\0\xff\xff\0\0" + b"\0" * 64, "image/png", "x.png", "not sent"),
        (b"#!/bin/sh\x07rm -rf", "text/plain", "x.txt", "not sent"),
        (b"\xff\xfe\x00\x01\x02", "text/plain", "x.txt", "not sent"),
        (nested_zip(), "application/zip", "x.zip", "application/zip"),
        (nested_zip(), "image/png", "x.png", "application/zip"),
        (picture("PNG")[:40], "image/png", "x.png", "broken"),
        (bomb(30_000, 30_000), "image/png", "x.png", "too large to be shown"),
        (bomb(9_000, 9_000), "image/png", "x.png", "9000 by 9000"),
    ],
)
def test_lies_bombs_and_programs_are_refused_with_the_reason(
    content: bytes, declared: str, name: str, why: str
) -> None:
    with pytest.raises(Invalid, match=why):
        check_file(content, declared, name)


def test_a_picture_that_is_also_something_else_stays_a_picture() -> None:
    """A GIF may have a page of script behind it; it is sent and served as a GIF, which no browser runs."""
    both = picture("GIF") + b"<script>alert(1)</script>"
    assert check_file(both, "image/gif", "x.gif").media_type == "image/gif"
    with pytest.raises(Invalid):
        check_file(both, "text/html", "x.html")


@pytest.mark.parametrize(
    ("name", "made"),
    [
        ("../../etc/passwd", "passwd.png"),
        ("C:\\Users\\m\\ray.png", "ray.png"),
        ("ray\u202egnp.exe", "raygnp.png"),
        ('a"b\r\nX-Evil: 1.png', "abX-Evil 1.png"),
        ("", "file.png"),
        ("...", "file.png"),
        ("Prøve på 🦭.png", "Prøve på 🦭.png"),
    ],
)
def test_names_lose_what_hides_turns_or_leads_elsewhere(name: str, made: str) -> None:
    assert make_name(name, "image/png") == made


@given(st.text(), st.sampled_from(sorted(TYPES)))
def test_any_name_becomes_a_safe_one(name: str, kind: str) -> None:
    made = make_name(name, kind)
    assert made.endswith(TYPES[kind])
    assert len(made) <= LONGEST_NAME + 4
    assert not set(made) & set('/\\\r\n\0"')


def test_what_a_file_shows_is_one_line_of_bounded_length() -> None:
    assert check_description("  A seal\r\n\u202ewaves\x00 ") == "A seal waves"
    with pytest.raises(Invalid, match="1001"):
        check_description("x" * (LONGEST_DESCRIPTION + 1))
    assert check_kept("application/pdf", "") == ""
    with pytest.raises(Invalid, match="Say what the picture shows"):
        check_kept("image/png", " \n ")
