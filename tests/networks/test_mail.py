"""Mail as it leaves: one letter by RFC 5322, marked as automatic (RFC 3834), its headers safe from what people write;
handed over by SMTP to the stand-in, which knows the same letter twice by its Message-ID."""

import socket

import pytest

from outside.mail import start_mail
from outside.state import State
from sorta.core.ports import Letter, Unreachable
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
