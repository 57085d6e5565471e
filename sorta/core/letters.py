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
    # The space behind two hyphens says that a signature begins.
    lines = "\n".join(line if line == "-- " else line.rstrip() for line in text.split("\n"))
    return regex.sub(r"\n{3,}", "\n\n", lines).strip("\n")


# What mail programs write, in eleven languages; common practice, no source.
#: Above a quotation: the verb at the end, or before who wrote.
_WROTE = (
    r"(?:wrote|geschrieben|a\s+écrit|escribi[oó]|escreveu|ha\s+scritto|napisał(?:a|\(a\))?|pisze|schreef|skrev|schrieb)"
)
_WROTE_BY = r"(?:schrieb|skrev|schreef|hat|heeft)"
_ON = r"(?:On|Am|Den|På|Op|Le|El|Em|A|Il(?:\s+giorno)?|W\s+dniu|Dnia)"
_TIME = r"\d{1,2}[:.]\d\d"
_LEAD_INS = [
    regex.compile(pattern, regex.IGNORECASE)
    for pattern in (
        rf"{_ON}\b(?=.*\d).{{4,200}}\b{_WROTE}\s*:",
        rf"{_ON}\b(?=.*\d).{{4,120}}\b{_WROTE_BY}\b.{{1,120}}:",
        rf"(?:\p{{L}}{{2,4}}\.?,?\s)?\d{{1,2}}\.?\s\p{{L}}+\.?\s\d{{4}}\b.{{0,120}}\b{_WROTE}(?:\s.{{0,120}})?\s*:",
        rf"\d{{4}}-\d\d-\d\d\s.{{0,20}}{_TIME}.{{0,120}}<[^<>\s]+@[^<>\s]+>\s*:",
    )
]
#: Who wrote before when; in one line, for it begins with any words.
_NAME_FIRST = regex.compile(
    rf".{{2,100}}\b{_WROTE}\s(?:on|am|den|op|le|el|il|em|dnia)\b.{{4,40}}\b{_TIME}\D{{0,8}}:", regex.IGNORECASE
)
#: What is above a quotation where lines below it begin with '>'.
_MAY_LEAD = regex.compile(rf"\b{_WROTE}\b.*:$|\b{_WROTE_BY}\b.*:$", regex.IGNORECASE)
_LONGEST_LEAD = 300
_DIVIDER = regex.compile(
    r"\s*-{2,}\s*(?:Original Message|Forwarded message|Ursprüngliche Nachricht|Weitergeleitete Nachricht|Oprindelig meddelelse"
    r"|Videresendt meddelelse|Ursprungligt meddelande|Vidarebefordrat meddelande|Opprinnelig melding|Videresendt melding"
    r"|Oorspronkelijk bericht|Doorgestuurd bericht|Message d['’]origine|Message original|Message transféré|Mensaje original|Mensaje reenviado"
    r"|Mensagem original|Mensagem encaminhada|Messaggio originale|Messaggio inoltrato|Oryginalna wiadomość|Wiadomość oryginalna"
    r"|Wiadomość przekazana)\s*-{2,}\s*",
    regex.IGNORECASE,
)
_RULE = regex.compile(r"\s*_{10,}\s*")


def _heads(*names: str) -> regex.Pattern[str]:
    return regex.compile(rf"\s*\*?(?:{'|'.join(names)})\s*:\*?\s*\S", regex.IGNORECASE)


_FROM = _heads("From", "Von", "Fra", "Från", "Van", "De", "Da", "Od")
_SENT = _heads(
    "Sent", "Date", "Gesendet", "Datum", "Sendt", "Dato", "Skickat", "Verzonden", "Envoyé", "Enviado", "Enviada", "Fecha", "Data", "Inviato",
    "Wysłano",
)  # fmt: skip
_SUBJECT = _heads("Subject", "Betreff", "Emne", "Ämne", "Onderwerp", "Objet", "Asunto", "Assunto", "Oggetto", "Temat")
#: So many lines a block of headers has, its copies and lists among them.
_HEADS_WITHIN = 6
_SENT_FROM = regex.compile(
    r"\s*(?:(?:Sent|Gesendet|Sendt|Skickat|Verzonden|Envoyé|Enviado|Enviada|Inviato|Wysłan[eoy])\s(?:from|von|fra|från|vanaf|met|de|depuis|desde|do"
    r"|da|dal|z|ze|with|mit|med|via)\b|(?:Von|Fra|Från|Vanaf)\s(?:meinem|min|mitt|mijn)\b.{1,30}\b(?:gesendet|sendt|skickat|verzonden)\b).{0,50}",
    regex.IGNORECASE,
)
_DISCLAIMS = [
    regex.compile(words, regex.IGNORECASE)
    for words in (
        r"mail|message|courriel|correo|mensa|messaggi|wiadomoś|nachricht|meddelande|meddelelse|bericht|melding",
        r"confiden|vertraulich|fortrolig|konfidentiell|vertrouwelijk|riservat|poufn",
        r"recipient|addressee|adressat|empfänger|modtager|mottagare|mottaker|geadresseerde|destinat|adresat|odbiorc",
    )
]
#: A signature is of so few, so short lines; what is longer below two hyphens is more of the letter.
_MOST_SIGNED, _WIDEST_SIGNED = 8, 70
_LONGEST_DISCLAIMER = 30


@dataclass(frozen=True)
class _Part:
    """Lines from `start` to `end`: a quotation with what stands above it (`has_lead`), or words of the writer's own up to `own_end`, with
    what a program put below them up to `end`."""

    start: int
    end: int
    own_end: int
    has_lead: bool = False

    @property
    def says(self) -> bool:
        return self.own_end > self.start


def part_quoted(text: str) -> tuple[str, str]:
    """What the writer said now, and the rest: the quotation, the signature, what a program put below. Each character is in one of them.

    A quotation is made of lines that begin with '>' (RFC 3676, 4.5), or all that is below a line that divides or a block of headers. A
    signature begins at a line of two hyphens and a space (RFC 3676, 4.3), or without the space where what follows is as short as one. An
    answer above or below the quotation is parted from it; answers between quoted lines are kept with them. Where there are no words of
    the writer's own, all is taken for them. Work grows with the length.
    """
    lines = text.split("\n")
    parts = _list_parts(lines)
    said = [part for part in parts if part.says]
    if not said:
        return text.strip("\n"), ""
    begin = 0
    above = [part for part in parts if not part.says and part.start < said[0].start]
    if len(said) == 1 and above:
        # Right below a line that begins with '>', without a gap and nothing that says it is quoted: the sign is the writer's own.
        begin = said[0].start if above[0].has_lead or not lines[said[0].start].strip() else 0
    own = "\n".join(lines[begin : said[-1].own_end]).strip("\n")
    rest = "\n".join(lines[:begin]).strip("\n"), "\n".join(lines[said[-1].own_end :]).strip("\n")
    return own, "\n\n".join(one for one in rest if one)


def _list_parts(lines: list[str]) -> list[_Part]:
    """The letter as quotations and own words in turn."""
    parts: list[_Part] = []
    start = n = 0

    def end_own(at: int) -> None:
        if at > start:
            parts.append(_Part(start, at, _find_own_end(lines, start, at)))

    while n < len(lines):
        if _divides(lines, n):
            end_own(n)
            return [*parts, _Part(n, len(lines), n, has_lead=True)]
        lead, quotes = _measure_lead(lines, n)
        if lead and not quotes:
            end_own(n)
            return [*parts, _Part(n, len(lines), n, has_lead=True)]
        if not lead and not _is_quoted(lines[n]):
            n += 1
            continue
        end_own(n)
        begin, n = n, n + lead
        while n < len(lines) and (_is_quoted(lines[n]) or (not lines[n].strip() and _goes_on(lines, n))):
            n += 1
        parts.append(_Part(begin, n, begin, has_lead=bool(lead)))
        start = n
    end_own(len(lines))
    return parts


def _is_quoted(line: str) -> bool:
    return line.lstrip().startswith(">")


def _goes_on(lines: list[str], n: int) -> bool:
    """Whether an empty line stands between two that are quoted."""
    return any(_is_quoted(line) for line in lines[n + 1 : n + 2])


def _measure_lead(lines: list[str], n: int) -> tuple[int, bool]:
    """How many lines at `n` stand above a quotation, with the empty ones below: 0 for none; and whether what they stand above is quoted
    with '>'. The words may be broken in two or three lines."""
    if not lines[n].strip() or _is_quoted(lines[n]):
        return 0, False
    for length in (1, 2, 3):
        if n + length > len(lines) or not lines[n + length - 1].strip():
            break
        line = " ".join(x.strip() for x in lines[n : n + length])
        if len(line) > _LONGEST_LEAD:
            break
        if not line.endswith(":"):
            continue
        below = next((k for k in range(n + length, min(n + length + 3, len(lines))) if lines[k].strip()), None)
        quotes = below is not None and _is_quoted(lines[below])
        is_lead = any(lead.fullmatch(line) for lead in _LEAD_INS)
        if is_lead or (length == 1 and (_NAME_FIRST.fullmatch(line) or (quotes and _MAY_LEAD.search(line)))):
            return (below or n + length) - n if quotes else length, quotes
    return 0, False


def _divides(lines: list[str], n: int) -> bool:
    """Whether all from here on is quoted, though without '>'."""
    if _RULE.fullmatch(lines[n]):
        below = [k for k in range(n + 1, min(n + 3, len(lines))) if lines[k].strip()]
        return bool(below) and _is_head_block(lines, below[0])
    return _DIVIDER.fullmatch(lines[n]) is not None or _is_head_block(lines, n)


def _is_head_block(lines: list[str], n: int) -> bool:
    block = lines[n : n + _HEADS_WITHIN]
    return _FROM.match(lines[n]) is not None and any(_SENT.match(x) or _SUBJECT.match(x) for x in block[1:])


def _find_own_end(lines: list[str], start: int, end: int) -> int:
    """Where the writer's own words end in lines that are not quoted: before a signature, and what programs put below."""
    for n in range(start, end):
        if lines[n] == "-- " or (lines[n] == "--" and _is_signature(lines, n + 1, end)):
            end = n
            break
    while end > start:
        below = _find_last_paragraph(lines, start, end)
        if lines[end - 1].strip() and not _SENT_FROM.fullmatch(lines[end - 1]) and not _is_disclaimer(lines[below:end]):
            break
        end = below if lines[end - 1].strip() and not _SENT_FROM.fullmatch(lines[end - 1]) else end - 1
    return end


def _is_signature(lines: list[str], start: int, end: int) -> bool:
    if end - start > 3 * _MOST_SIGNED:
        return False
    said = [line for line in lines[start:end] if line.strip()]
    return len(said) <= _MOST_SIGNED and all(len(line) <= _WIDEST_SIGNED for line in said)


def _find_last_paragraph(lines: list[str], start: int, end: int) -> int:
    first = max(start, end - _LONGEST_DISCLAIMER)
    while end > first and lines[end - 1].strip():
        end -= 1
    return end


def _is_disclaimer(lines: list[str]) -> bool:
    said = " ".join(lines)
    return all(words.search(said) for words in _DISCLAIMS)
