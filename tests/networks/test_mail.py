"""Mail as it leaves: one letter by RFC 5322, marked as automatic (RFC 3834), its headers safe from what people write;
handed over by SMTP to the stand-in, which knows the same letter twice by its Message-ID."""

import socket
import ssl
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from outside.mail import start_mail
from outside.state import State
from sorta.core.ports import Letter, LetterRefused, Unreachable
from sorta.networks.mail import SmtpPost

pytestmark = pytest.mark.anyio
EVIL = "Hello\r\nBcc: everybody@evil.example\n\n<script>"


def make_letter(**more: str) -> Letter:
    given = {
        "key": "alert-1",
        "to": "ilse@brinewick.example",
        "to_name": "Ilse",
        "subject": "Late",
        "text": "It is late.",
    }
    return Letter(**{**given, **more})


@pytest.mark.parametrize("field", ["subject", "to_name", "key"])
def test_no_line_break_gets_into_a_header(field: str) -> None:
    message = SmtpPost("127.0.0.1:1", "desk@brinewick.example").write(make_letter(**{field: EVIL}))
    assert "Bcc" not in message
    assert set(message.keys()) >= {"From", "To", "Subject", "Date", "Message-ID", "Auto-Submitted"}
    head = message.as_bytes().split(b"\n\n", 1)[0]
    assert not [line for line in head.splitlines() if line.lower().startswith(b"bcc")]


@pytest.mark.parametrize("to", ["weird@@x", "a b@c", "x", "", "@", "ü@x.example", "a@[1", '"a', "a,b@x", "a@x\x00"])
async def test_an_address_that_is_none_is_refused_and_not_tried_for_ever(to: str) -> None:
    with pytest.raises(LetterRefused, match="no address that a letter can go to"):
        await SmtpPost("127.0.0.1:1", "desk@brinewick.example").send(make_letter(to=to))


def test_it_says_that_it_is_automatic_and_which_letter_it_is() -> None:
    message = SmtpPost("127.0.0.1:1", "desk@brinewick.example").write(make_letter())
    assert message["Auto-Submitted"] == "auto-generated"
    assert message["Message-ID"] == "<alert-1@brinewick.example>"
    assert message["To"] == "Ilse <ilse@brinewick.example>"
    assert message.get_content().strip() == "It is late."


def find_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


async def test_the_stand_in_takes_a_letter_once_and_a_closed_door_is_told() -> None:
    state, port = State(":memory:"), find_port()
    post = SmtpPost(f"127.0.0.1:{port}", "desk@brinewick.example", timeout=5)
    with pytest.raises(Unreachable, match="did not take it"):
        await post.send(make_letter())
    server = await start_mail(state, port)
    try:
        await post.send(make_letter(subject="Øresund 🐙", text="Grüße\n.\nafter the dot"))
        await post.send(make_letter(subject="Øresund 🐙"))
    finally:
        server.close()
    (letter,) = state.list_letters(10)
    assert letter["subject"] == "Øresund 🐙"
    assert letter["text"].splitlines() == ["Grüße", ".", "after the dot"]
    assert letter["to"] == "ilse@brinewick.example"


def make_certificate(folder: Path, name: str) -> tuple[Path, ssl.SSLContext]:
    """A certificate that nobody signed but itself: the file to trust it by, and what a server shows it with."""
    key, who = ec.generate_private_key(ec.SECP256R1()), x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder(who, who, key.public_key(), x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + timedelta(hours=1))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName(name)]), critical=False)
        .sign(key, hashes.SHA256())
    )
    shown, hidden = folder / f"{name}.pem", folder / f"{name}.key"
    shown.write_bytes(made.public_bytes(serialization.Encoding.PEM))
    hidden.write_bytes(
        key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    )
    context = ssl.create_default_context(ssl.Purpose.CLIENT_AUTH)
    context.load_cert_chain(shown, hidden)
    return shown, context


async def test_a_letter_goes_by_starttls_and_by_who_signs_in(tmp_path: Path) -> None:
    """RFC 3207 and RFC 4954, against a mail server of somebody else's making that takes nothing without both."""
    trusted, shown = make_certificate(tmp_path, "localhost")
    state, port = State(":memory:"), find_port()
    server = await start_mail(state, port, tls=shown, users={"sorta": "tide"})
    at, sender = f"localhost:{port}", "desk@brinewick.example"
    good = {"security": "starttls", "user": "sorta", "password": "tide", "trusted": trusted, "timeout": 5}
    try:
        await SmtpPost(at, sender, **good).send(make_letter(key="first"))
        for wrong, words in (
            ({"password": "ebb"}, "did not let Sorta sign in: 535"),
            ({"trusted": None}, "CERTIFICATE_VERIFY_FAILED"),
            ({"security": "none", "user": None}, "."),
            ({"user": None}, "."),
        ):
            with pytest.raises(Unreachable, match=words) as raised:
                await SmtpPost(at, sender, **{**good, **wrong}).send(make_letter(key="second"))
            # The server's doing, and not the letter's: it waits, and is not given up.
            assert not isinstance(raised.value, LetterRefused), wrong
    finally:
        server.close()
    assert [letter["id"] for letter in state.list_letters(10)] == ["<first@brinewick.example>"]


async def test_a_certificate_for_somebody_else_is_not_taken(tmp_path: Path) -> None:
    trusted, shown = make_certificate(tmp_path, "elsewhere")
    state, port = State(":memory:"), find_port()
    server = await start_mail(state, port, tls=shown)
    try:
        with pytest.raises(Unreachable, match="CERTIFICATE_VERIFY_FAILED"):
            await SmtpPost(f"localhost:{port}", "d@b.example", security="starttls", trusted=trusted, timeout=5).send(
                make_letter()
            )
    finally:
        server.close()
    assert state.list_letters(10) == []


async def test_a_server_without_starttls_gets_no_letter_and_no_password() -> None:
    state, port = State(":memory:"), find_port()
    server = await start_mail(state, port)
    try:
        with pytest.raises(Unreachable, match="STARTTLS"):
            await SmtpPost(
                f"localhost:{port}", "d@b.example", security="starttls", user="sorta", password="tide", timeout=5
            ).send(make_letter())
    finally:
        server.close()
    assert state.list_letters(10) == []


def test_a_password_never_goes_out_for_everybody_to_read() -> None:
    with pytest.raises(ValueError, match="without TLS"):
        SmtpPost("localhost:25", "d@b.example", security="none", user="sorta", password="tide")
