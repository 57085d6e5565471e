"""Mail by SMTP (RFC 5321), one letter a message by RFC 5322. Implements core.ports.MailPost."""

import asyncio
import smtplib
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import formatdate

from sorta.core.ports import Letter, LetterRefused, Unreachable


class SmtpPost:
    """Hands letters to one mail server, each in a thread, for smtplib waits."""

    def __init__(self, server: str, sender: str, *, timeout: float = 10) -> None:
        host, _, port = server.rpartition(":")
        self._host, self._port, self._timeout = host or server, int(port or 25), timeout
        self.sender = sender

    async def send(self, letter: Letter) -> None:
        """See core.ports.MailPost."""
        message = self.write(letter)
        try:
            await asyncio.to_thread(self._hand_over, message)
        except smtplib.SMTPRecipientsRefused as error:
            [(code, said), *_] = error.recipients.values()
            raise _judge(code, said) from error
        except smtplib.SMTPResponseException as error:
            raise _judge(error.smtp_code, error.smtp_error) from error
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
        return message

    def _hand_over(self, message: EmailMessage) -> None:
        with smtplib.SMTP(self._host, self._port, timeout=self._timeout) as server:
            server.send_message(message)


def _judge(code: int, said: bytes | str) -> Unreachable:
    """What a server's answer means: 5yz is for good, 4yz for now (RFC 5321, 4.2.1)."""
    words = said.decode("ascii", "replace") if isinstance(said, bytes) else said
    return LetterRefused(f"{code} {words}") if code >= 500 else Unreachable(f"{code} {words}")


def _one_line(text: str) -> str:
    return " ".join(text.split())
