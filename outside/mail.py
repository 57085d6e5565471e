"""The stand-in mail server: takes mail by SMTP, shows it on the Outside's page, and passes on what is answered there, as
a mail gateway would: the letter as it is, by signed webhook. Used by outside.app."""

import asyncio
import base64
import secrets
import ssl
from collections.abc import Mapping
from datetime import UTC, datetime
from email import message_from_bytes, policy
from email.message import EmailMessage
from email.utils import format_datetime, getaddresses, parseaddr
from typing import Annotated, Any

import httpx
from aiosmtpd.smtp import SMTP, AuthResult, Envelope, Session
from fastapi import Body, FastAPI
from fastapi.responses import JSONResponse

from outside.hooks import sign
from outside.state import State

#: The page shows so many letters, the newest first.
SHOWN = 60
#: Mailboxes that begin so are not there.
NOBODY = "nobody"
HOOK = "mailhook"


class MailBox:
    """Keeps what it is given."""

    def __init__(self, state: State) -> None:
        self._state = state

    async def handle_RCPT(
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        """There are all mailboxes but those of nobody."""
        if address.lower().startswith(NOBODY):
            return "550 5.1.1 There is no such mailbox"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:
        """Take one letter for all it is addressed to; the same Message-ID is the same letter."""
        content = envelope.content or b""
        raw = content.encode() if isinstance(content, str) else content
        letter = describe(raw, ", ".join(envelope.rcpt_tos))
        self._state.add_letter(letter["id"], letter)
        return "250 Message accepted for delivery"


def describe(raw: bytes, to: str) -> dict[str, Any]:
    """A letter as the page shows it."""
    message = message_from_bytes(raw, policy=policy.default)
    body = message.get_body(("plain",)) if isinstance(message, EmailMessage) else None
    return {
        "id": str(message["Message-ID"] or ""),
        "from": str(message["From"] or ""),
        "to": to,
        "to_name": parseaddr(str(message["To"] or ""))[0],
        "subject": str(message["Subject"] or ""),
        "date": str(message["Date"] or ""),
        "auto_submitted": str(message["Auto-Submitted"] or "no"),
        "reply_to": str(message["Reply-To"] or ""),
        "references": str(message["References"] or ""),
        "text": body.get_content().strip() if body is not None else "",
    }


async def start_mail(
    state: State, port: int, *, tls: ssl.SSLContext | None = None, users: Mapping[str, str] | None = None
) -> asyncio.Server:
    """Listen on loopback, in the loop that runs, until closed. With `tls` nothing goes on before STARTTLS (RFC 3207); with
    `users`, their passwords by their names, nothing before somebody signs in (RFC 4954)."""
    loop = asyncio.get_running_loop()

    def let_in(server: SMTP, session: Session, envelope: Envelope, mechanism: str, said: Any) -> AuthResult:
        name, word = said.login.decode(), said.password.decode()
        return AuthResult(success=users is not None and users.get(name) == word, handled=False)

    def make() -> SMTP:
        return SMTP(
            MailBox(state),
            hostname="outside",
            loop=loop,
            tls_context=tls,
            require_starttls=tls is not None,
            auth_required=users is not None,
            authenticator=let_in,
        )

    return await loop.create_server(make, "127.0.0.1", port)


def write_answer(letter: dict[str, Any], text: str, *, away: bool) -> EmailMessage:
    """What a mail program writes when somebody answers a letter, or answers by itself while they are away."""
    answer = EmailMessage()
    name = letter["to_name"] or letter["to"].partition("@")[0]
    answer["From"] = f'"{name}" <{letter["to"]}>'
    answer["To"] = letter["reply_to"] or letter["from"]
    subject = letter["subject"]
    answer["Subject"] = (
        f"Away: {subject}" if away else subject if subject.lower().startswith("re:") else f"Re: {subject}"
    )
    now = datetime.now(UTC)
    answer["Date"] = format_datetime(now)
    answer["Message-ID"] = f"<{secrets.token_hex(10)}@post.example>"
    answer["In-Reply-To"] = letter["id"]
    answer["References"] = f"{letter['references']} {letter['id']}".strip()
    if away:
        answer["Auto-Submitted"] = "auto-replied"
        answer.set_content(text)
        return answer
    asker = parseaddr(letter["from"])[0]
    quoted = "\n".join(f"> {line}".rstrip() for line in letter["text"].split("\n"))
    answer.set_content(f"{text}\n\nOn {now:%-d %B %Y at %H:%M}, {asker} wrote:\n{quoted}\n\n-- \n{name}\n")
    return answer


def add_mail(app: FastAPI, state: State) -> None:
    """What the page shows of it, and how it answers."""

    @app.get("/control/mail")
    async def list_mail() -> list[dict[str, Any]]:
        return state.list_letters(SHOWN)

    @app.post("/control/mailhook")
    async def set_mail_hook(body: Annotated[dict[str, str], Body()]) -> dict[str, str]:
        """Where letters are passed on to, and the secret they are signed with."""
        state.set_setting(HOOK, {"url": body["url"], "secret": body["secret"]})
        return {"url": body["url"]}

    @app.post("/control/mail/answer")
    async def answer_mail(body: Annotated[dict[str, Any], Body()]) -> JSONResponse:
        """Answer a letter: it is written, signed and passed on; how that ended."""
        letter = next((one for one in state.list_letters(1000) if one["id"] == body["id"]), None)
        if letter is None:
            return JSONResponse({"detail": "There is no such letter."}, 404)
        answer = write_answer(letter, str(body["text"]), away=bool(body.get("away")))
        if not body.get("tell", True):
            # The loading of history takes it along itself, at its time.
            return JSONResponse({"letter": bytes(answer).decode()})
        hook = state.get_setting(HOOK, None)
        if hook is None:
            return JSONResponse({"detail": "Nobody takes answers in."}, 409)
        state.add_letter(str(answer["Message-ID"]), describe(bytes(answer), getaddresses([str(answer["To"])])[0][1]))
        told = await pass_on(hook, bytes(answer))
        return JSONResponse(told, 200 if told["status"] == 202 else 502)


async def pass_on(hook: dict[str, str], raw: bytes) -> dict[str, Any]:
    """Pass one letter on as it is, signed; a gateway would give back to its sender what is not taken."""
    # The scheme signs text, and a letter may hold any byte.
    body = base64.b64encode(raw).decode()
    headers = {
        "Content-Type": "message/rfc822",
        "Content-Transfer-Encoding": "base64",
        **sign(hook["secret"], f"msg_{secrets.token_hex(8)}", body),
    }
    try:
        async with httpx.AsyncClient(timeout=10) as client:
            answer = await client.post(hook["url"], content=body, headers=headers)
    except httpx.HTTPError as error:
        return {"status": 0, "detail": f"Nobody answered there ({type(error).__name__})."}
    return {"status": answer.status_code, "detail": "" if answer.status_code == 202 else answer.text}
