"""Mail by SMTP (RFC 5321), one letter a message by RFC 5322. Implements core.ports.MailPost."""

import asyncio
import smtplib
import ssl
from email.errors import MessageError
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import formatdate
from pathlib import Path
from typing import Literal

from sorta.core.ports import Letter, LetterRefused, Unreachable

Security = Literal["starttls", "tls", "none"]


class SmtpPost:
    """Hands letters to one mail server, each in a thread, for smtplib waits."""

    def __init__(
        self,
        server: str,
        sender: str,
        *,
        security: Security = "none",
        user: str | None = None,
        password: str = "",
        trusted: Path | None = None,
        timeout: float = 10,
    ) -> None:
        """`security` is `starttls` (RFC 3207: nothing is said before it is private), `tls` from the first byte (RFC 8314, 3), or
        `none`. `user` signs in (RFC 4954). `trusted` holds certificates trusted beside the system's.

        Raises ValueError where a password would go out for everybody to read.
        """
        host, _, port = server.rpartition(":")
        self._host, self._port, self._timeout = host or server, int(port or 25), timeout
        self._security, self._user, self._password = security, user, password
        if user and security == "none":
            raise ValueError(
                "Nobody signs in to a mail server without TLS: set SORTA_MAIL_SECURITY to starttls or tls."
            )
        self._context = None if security == "none" else _make_context(trusted)
        self.sender = sender

    async def send(self, letter: Letter) -> None:
        """See core.ports.MailPost."""
        try:
            message = self.write(letter)
        except (ValueError, LookupError, AttributeError, MessageError) as error:
            # What the library raises for an address that it cannot read, by where in it it stumbles.
            raise LetterRefused(f"‘{letter.to[:80]}’ is no address that a letter can go to.") from error
        try:
            await asyncio.to_thread(self._hand_over, message)
        except smtplib.SMTPRecipientsRefused as error:
            [(code, said), *_] = error.recipients.values()
            raise _judge(code, said) from error
        except smtplib.SMTPDataError as error:
            raise _judge(error.smtp_code, error.smtp_error) from error
        except smtplib.SMTPAuthenticationError as error:
            # From here on it is not the letter that is refused, but we: it waits until that is put right.
            raise Unreachable(f"The mail server did not let Sorta sign in: {error.smtp_code}") from error
        except smtplib.SMTPResponseException as error:
            raise Unreachable(
                f"The mail server takes nothing from us: {_say(error.smtp_code, error.smtp_error)}"
            ) from error
        except (OSError, smtplib.SMTPException) as error:
            raise Unreachable(f"The mail server did not take it: {error}") from error

    def write(self, letter: Letter) -> EmailMessage:
        """The letter as a message. What would break a header line is taken out; one nobody wrote is marked as automatic
        (RFC 3834, 5), one that goes on from another names it (RFC 5322, 3.6.4)."""
        message = EmailMessage()
        domain = self.sender.rpartition("@")[2]
        message["From"] = Address(display_name=_one_line(letter.sender_name), addr_spec=self.sender)
        message["To"] = Address(display_name=_one_line(letter.to_name), addr_spec=_one_line(letter.to))
        message["Subject"] = _one_line(letter.subject)
        message["Date"] = formatdate()
        message["Message-ID"] = f"<{_one_line(letter.key)}@{domain}>"
        if letter.reply_to:
            message["Reply-To"] = Address(addr_spec=_one_line(letter.reply_to))
        if letter.references:
            message["References"] = _one_line(letter.references)
            message["In-Reply-To"] = letter.references.split()[-1]
        if letter.by_program:
            message["Auto-Submitted"] = "auto-generated"
        message.set_content(letter.text)
        if letter.html is not None:
            message.add_alternative(letter.html, subtype="html")
        return message

    def _hand_over(self, message: EmailMessage) -> None:
        with self._connect() as server:
            if self._security == "starttls":
                server.starttls(context=self._context)
            if self._user:
                server.login(self._user, self._password)
            server.send_message(message)

    def _connect(self) -> smtplib.SMTP:
        if self._security == "tls":
            return smtplib.SMTP_SSL(self._host, self._port, timeout=self._timeout, context=self._context)
        return smtplib.SMTP(self._host, self._port, timeout=self._timeout)


def _make_context(trusted: Path | None) -> ssl.SSLContext:
    context = ssl.create_default_context()
    if trusted is not None:
        context.load_verify_locations(trusted)
    return context


def _judge(code: int, said: bytes | str) -> Unreachable:
    """What a server's answer means: 5yz is for good, 4yz for now (RFC 5321, 4.2.1)."""
    words = _say(code, said)
    return LetterRefused(words) if code >= 500 else Unreachable(words)


def _say(code: int, said: bytes | str) -> str:
    return f"{code} {said.decode('ascii', 'replace') if isinstance(said, bytes) else said}"


def _one_line(text: str) -> str:
    return " ".join(text.split())
