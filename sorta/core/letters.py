"""Mail that comes back: read by RFC 5322 and MIME, its own words parted from what it quotes, automatic replies known by
RFC 3834. Used by services.advice.

Nothing of a letter is ever shown as HTML: where there is no plain text, its HTML is reduced to text (core.markup).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from email import message_from_bytes, policy
from email.errors import HeaderParseError
from email.header import decode_header
from email.headerregistry import HeaderRegistry
from email.message import EmailMessage
from email.utils import getaddresses, parseaddr
from typing import Any

import regex

from sorta.core.errors import Unreadable
from sorta.core.markup import read_html

LONGEST_TEXT = 20_000
LONGEST_SUBJECT = 300
#: Bytes of a letter that are read; its words come first, its files after them.
LARGEST_READ = 2**20
#: Characters of a header line's value that are read, and of the body.
LONGEST_HEAD = 8_000
LONGEST_BODY = 5 * LONGEST_TEXT
#: Parts that a letter has at most.
MOST_PARTS = 200


@dataclass(frozen=True, kw_only=True)
class LetterRead:
    """One letter. `own` is what its writer said now, `quoted` the rest; `automatic` says why it is none of a person's.

    `recipients` are the addresses it went to, `answers` the Message-IDs it names, the nearest first.
    """

    message_id: str
    sender: str
    sender_name: str
    subject: str
    recipients: tuple[str, ...]
    answers: tuple[str, ...]
    own: str
    quoted: str
    automatic: str | None


def read_letter(raw: bytes) -> LetterRead:
    """Read one letter, its first megabyte. Raises Unreadable when it has no sender, nothing in it, or is more tangled than a
    letter is."""
    try:
        return _read(raw)
    except RecursionError as error:
        raise Unreadable("The letter is nested more deeply than can be read.") from error


def _read(raw: bytes) -> LetterRead:
    raw = raw[:LARGEST_READ]
    if len(regex.findall(rb"(?m)^--", raw)) + len(regex.findall(rb"(?mi)^content-type:", raw)) > 2 * MOST_PARTS:
        raise Unreadable(f"The letter has more parts than the {MOST_PARTS} that are read.")
    message = message_from_bytes(raw, policy=_POLICY)
    assert isinstance(message, EmailMessage)
    name, sender = parseaddr(_head(message, "From"))
    if "@" not in sender:
        raise Unreadable("The letter does not say who wrote it.")
    text = _get_text(message)
    automatic = find_automatic(message)
    if not text.strip() and automatic is None:
        raise Unreadable("There is nothing in the letter that can be read.")
    own, quoted = part_quoted(text)
    to = [_head(message, one) for one in ("Delivered-To", "X-Original-To", "To", "Cc")]
    return LetterRead(
        message_id=_head(message, "Message-ID")[:500],
        sender=sender.lower(),
        sender_name=_tidy(name)[:120],
        subject=_tidy(_head(message, "Subject"))[:LONGEST_SUBJECT],
        recipients=tuple(dict.fromkeys(a.lower() for _, a in getaddresses([t for t in to if t]) if "@" in a)),
        answers=list_answered(_head(message, "In-Reply-To"), _head(message, "References")),
        own=own[:LONGEST_TEXT],
        quoted=quoted[:LONGEST_TEXT],
        automatic=automatic,
    )


class _Heads(HeaderRegistry):
    """The standard library's parser of structured headers takes time with the square of their length: it reads those that say
    how a part is written, and of them no more than people write. The others stay text."""

    def __call__(self, name: str, value: str) -> Any:
        value = value[:LONGEST_HEAD]
        return super().__call__(name, value[:_LONGEST_KIND]) if name.lower().startswith("content-") else value


_LONGEST_KIND = 300
_POLICY = policy.EmailPolicy(header_factory=_Heads())


def _head(message: EmailMessage, name: str) -> str:
    """A header's value in one line, its words decoded (RFC 2047). One that cannot be is taken as it stands."""
    # Bytes that are not ASCII come as surrogates: most who send them so mean UTF-8 (RFC 6532).
    value = str(message.get(name, "")).encode("utf-8", "surrogateescape").decode("utf-8", "replace")
    try:
        # What is not encoded comes back as the library's own escape of it.
        parts = [p if isinstance(p, str) else p.decode(how or "raw-unicode-escape") for p, how in decode_header(value)]
        value = "".join(parts)
    except (ValueError, LookupError, HeaderParseError):
        pass
    return " ".join(value.split())


def _tidy(text: str) -> str:
    """Without control characters and those that turn or hide what follows."""
    return " ".join(regex.sub(r"[\p{Cc}\p{Cf}]", " ", text).split())


def list_answered(in_reply_to: str, references: str) -> tuple[str, ...]:
    """The Message-IDs that a letter answers, the nearest first (RFC 5322, 3.6.4)."""
    direct = regex.findall(r"<[^<>\s]+>", in_reply_to)
    chain = regex.findall(r"<[^<>\s]+>", references)
    return tuple(dict.fromkeys([*direct, *reversed(chain)]))


def thread(message_id: str, answers: Sequence[str]) -> str:
    """The References of an answer to a letter: what that letter answers (nearest first, as `list_answered` has it), from the
    beginning, and its own Message-ID (RFC 5322, 3.6.4)."""
    return " ".join([*reversed(answers), message_id])


def find_automatic(message: EmailMessage) -> str | None:
    """Why a letter is not a person's answer; None when it may be one.

    RFC 3834, 5: Auto-Submitted other than `no`. RFC 3464: a report of delivery. The rest is common practice, no source:
    an empty Return-Path, Precedence bulk, junk or list, and X-Autoreply.
    """
    said = _head(message, "Auto-Submitted").partition(";")[0].strip().lower()
    if message.get_content_type() == "multipart/report":
        return "a report that it could not be delivered"
    if said not in ("", "no"):
        return "an automatic reply" if said == "auto-replied" else "sent by a program"
    if message.get("Return-Path") is not None and _head(message, "Return-Path") == "<>":
        return "a report that it could not be delivered"
    if _head(message, "Precedence").lower() in ("bulk", "junk", "list", "auto_reply"):
        return "sent to many at once"
    if message.get("X-Autoreply") is not None or message.get("X-Autorespond") is not None:
        return "an automatic reply"
    return None


def _get_text(message: EmailMessage) -> str:
    body = message.get_body(("plain", "html"))
    if body is None:
        return ""
    try:
        content = str(body.get_content())
    except (LookupError, ValueError, AssertionError):
        # An encoding nobody knows, or that is no name at all: what can be read of it is better than nothing.
        payload = body.get_payload(decode=True)
        content = payload.decode("utf-8", "replace") if isinstance(payload, bytes) else ""
    text = read_html(content) if body.get_content_type() == "text/html" else content
    return _clean(text[:LONGEST_BODY])


def _clean(text: str) -> str:
    text = regex.sub(r"[^\P{C}\n\t\u200c\u200d]", "", text.replace("\r\n", "\n").replace("\r", "\n"))
    lines = "\n".join(line.rstrip() for line in text.split("\n"))
    return regex.sub(r"\n{3,}", "\n\n", lines).strip("\n")


#: What mail programs write above what they quote, in the languages of the demo; common practice, no source.
_ABOVE = regex.compile(
    r"^(?:On\b.{5,200}\bwrote|Am\b.{5,200}\bschrieb.{0,80}|Den\b.{5,200}\bskrev.{0,80}|El\b.{5,200}\bescribi[óo]|Le\b.{5,200}\ba écrit|"
    r"W dniu\b.{5,200}\bnapisa.{0,40})\s*:\s*$",
    regex.IGNORECASE | regex.DOTALL,
)
_DIVIDER = regex.compile(r"^\s*(?:-{2,}\s*(?:Original Message|Forwarded message|Ursprüngliche Nachricht|Oprindelig meddelelse)\s*-{2,}|_{10,})\s*$", regex.IGNORECASE)  # fmt: skip
_HEADS = regex.compile(r"^\s*(?:From|Von|Fra|De|Od)\s*:\s*\S", regex.IGNORECASE)
_MORE_HEADS = regex.compile(r"^\s*(?:Sent|Date|To|Subject|Gesendet|An|Betreff|Sendt|Til|Emne|Envoyé|Enviado|Para|Asunto)\s*:", regex.IGNORECASE)  # fmt: skip


def part_quoted(text: str) -> tuple[str, str]:
    """What the writer said now, and the quotation and signature below it.

    The signature begins at a line of two hyphens and a space (RFC 3676, 4.3), a quotation at a line that begins with '>'
    (RFC 3676, 4.5) or at what mail programs write above one. An answer between the quoted lines is kept whole: words
    that follow a quotation are the writer's own.
    """
    lines = text.split("\n")
    has_own = _list_own_below(lines)
    for n, line in enumerate(lines):
        above = _starts_quotation(lines, n)
        if line == "-- " or (line == "--" and n > 0) or above:
            if above and has_own[n + above]:
                continue
            own = "\n".join(lines[:n]).rstrip()
            return (own, "\n".join(lines[n:]).strip("\n")) if own.strip() else (text.strip("\n"), "")
        if line.lstrip().startswith(">") and not has_own[n]:
            own = "\n".join(lines[:n]).rstrip()
            return (own, "\n".join(lines[n:]).strip("\n")) if own.strip() else (text.strip("\n"), "")
    return text.strip("\n"), ""


def _starts_quotation(lines: list[str], n: int) -> int:
    """How many lines at `n` stand above a quotation: 0 for none. The line may be broken in two or three."""
    line = lines[n]
    if _DIVIDER.match(line):
        return 1
    if _HEADS.match(line) and any(_MORE_HEADS.match(x) for x in lines[n + 1 : n + 4]):
        return len(lines) - n
    for length in (1, 2, 3):
        if _ABOVE.match(" ".join(x.strip() for x in lines[n : n + length])):
            return length
    return 0


def _list_own_below(lines: list[str]) -> list[bool]:
    """For each line, and for the end, whether somebody wrote between or below quoted lines from there on: something stands
    there that is neither quoted nor signature, in a letter where lines are quoted with '>'. One pass from the end."""
    found = [False] * (len(lines) + 1)
    said = False  # Whether the first thing from here on that is no quotation is the writer's own.
    for n in range(len(lines) - 1, -1, -1):
        line = lines[n]
        is_quoted = line.lstrip().startswith(">")
        if line in ("-- ", "--"):
            said = False
        elif line.strip() and not is_quoted:
            said = True
        # From a quoted line on it counts; above the first one it is as below.
        found[n] = said if is_quoted else found[n + 1]
    return found
