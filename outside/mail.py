"""The stand-in mail server: takes mail by SMTP and shows it on the Outside's page. Used by outside.app."""

import asyncio
from email import message_from_bytes, policy
from email.message import EmailMessage
from typing import Any

from aiosmtpd.smtp import SMTP, Envelope, Session
from fastapi import FastAPI

from outside.state import State

#: The page shows so many letters, the newest first.
SHOWN = 60


class MailBox:
    """Keeps what it is given."""

    def __init__(self, state: State) -> None:
        self._state = state

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:
        """Take one letter for all it is addressed to; the same Message-ID is the same letter."""
        content = envelope.content or b""
        raw = content.encode() if isinstance(content, str) else content
        message = message_from_bytes(raw, policy=policy.default)
        body = message.get_body(("plain",)) if isinstance(message, EmailMessage) else None
        letter = {
            "id": str(message["Message-ID"] or ""),
            "from": str(message["From"] or ""),
            "to": ", ".join(envelope.rcpt_tos),
            "subject": str(message["Subject"] or ""),
            "date": str(message["Date"] or ""),
            "auto_submitted": str(message["Auto-Submitted"] or "no"),
            "text": body.get_content().strip() if body is not None else "",
        }
        self._state.add_letter(letter["id"], letter)
        return "250 Message accepted for delivery"


async def start_mail(state: State, port: int) -> asyncio.Server:
    """Listen on loopback, in the loop that runs, until closed."""
    loop = asyncio.get_running_loop()
    return await loop.create_server(lambda: SMTP(MailBox(state), hostname="outside", loop=loop), "127.0.0.1", port)


def add_mail(app: FastAPI, state: State) -> None:
    """What the page shows of it."""

    @app.get("/control/mail")
    async def list_mail() -> list[dict[str, Any]]:
        return state.list_letters(SHOWN)
