"""Mail read by its RFCs. Examples are RFC 5322's own (appendix A), RFC 3676's, RFC 3834's and RFC 3464's, from memory where
they are quoted; what mail programs write above a quotation is common practice, no source."""

from email.message import EmailMessage

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sorta.core.errors import Unreadable
from sorta.core.letters import list_answered, part_quoted, read_letter, thread
from sorta.core.markup import read_html
from tests.core.letters_table import LETTERS


def letter(text: str = "Hello", **heads: str) -> bytes:
    message = EmailMessage()
    given = {"From": "Sam Whitlock <Sam@Aquarium.example>", "Message-ID": "<1@x.example>", **heads}
    for name, value in given.items():
        message[name.replace("_", "-")] = value
    message.set_content(text)
    return bytes(message)


def test_the_thread_of_rfc_5322s_appendix() -> None:
    """RFC 5322, appendix A.2: a message, its reply, and the reply to that (from memory)."""
    first = b"From: John Doe <jdoe@machine.example>\r\nTo: Mary Smith <mary@example.net>\r\nSubject: Saying Hello\r\nDate: Fri, 21 Nov 1997 09:55:06 -0600\r\nMessage-ID: <1234@local.machine.example>\r\n\r\nThis is a message just to say hello.\r\nSo, \"Hello\".\r\n"  # fmt: skip
    read = read_letter(first)
    assert (read.sender, read.sender_name, read.subject) == ("jdoe@machine.example", "John Doe", "Saying Hello")
    assert read.recipients == ("mary@example.net",)
    assert read.own == 'This is a message just to say hello.\nSo, "Hello".'
    assert thread("<1234@local.machine.example>", ()) == "<1234@local.machine.example>"
    third = list_answered("<3456@example.net>", "<1234@local.machine.example> <3456@example.net>")
    assert third == ("<3456@example.net>", "<1234@local.machine.example>")
    chain = thread("<3456@example.net>", ("<1234@local.machine.example>",))
    assert chain == "<1234@local.machine.example> <3456@example.net>"


def test_folded_heads_comments_and_encoded_words() -> None:
    """RFC 5322, A.5 (white space and comments) and RFC 2047's encoded words, from memory."""
    raw = b'From: Pete(A nice \\) chap) <pete(his account)@silly.test(his host)>\r\nTo: =?ISO-8859-1?Q?Keld_J=F8rn_Simonsen?= <keld@dkuug.dk>\r\nSubject: =?utf-8?b?w5h2ZSBhdCBzdmFyZQ==?=\r\n  in two\r\n   lines\r\nMessage-ID: <testabcd.1234@silly.test>\r\n\r\nTesting.\r\n'  # fmt: skip
    read = read_letter(raw)
    assert read.sender == "pete@silly.test"
    assert read.subject == "Øve at svare in two lines"
    assert read.recipients == ("keld@dkuug.dk",)


@pytest.mark.parametrize(("text", "own"), [one[1:] for one in LETTERS], ids=[one[0] for one in LETTERS])
def test_own_words_are_parted_from_what_they_quote(text: str, own: str) -> None:
    found, quoted = part_quoted(text)
    assert found == own
    assert "".join(sorted(found + quoted)).strip() == "".join(sorted(text)).strip()


@pytest.mark.parametrize("text", [text for _, text, _ in LETTERS])
def test_lines_that_end_as_mail_has_them_change_nothing(text: str) -> None:
    assert read_letter(letter(text)).own == part_quoted(text)[0]


@given(st.text(alphabet=st.sampled_from("ab>:\n -"), max_size=80))
def test_nothing_of_a_letter_is_lost_in_parting(text: str) -> None:
    own, quoted = part_quoted(text)
    assert sorted((own + quoted).replace("\n", "").replace(" ", "")) == sorted(text.replace("\n", "").replace(" ", ""))


@pytest.mark.parametrize(
    ("heads", "why"),
    [
        ({"Auto_Submitted": "auto-replied"}, "an automatic reply"),
        ({"Auto_Submitted": "auto-generated; type=x"}, "sent by a program"),
        ({"Auto_Submitted": "no"}, None),
        ({"Precedence": "bulk"}, "sent to many at once"),
        ({"X_Autoreply": "yes"}, "an automatic reply"),
        ({"Return_Path": "<>"}, "a report that it could not be delivered"),
        ({"Return_Path": "<sam@aquarium.example>"}, None),
        ({}, None),
    ],
)
def test_automatic_replies_are_known(heads: dict[str, str], why: str | None) -> None:
    """RFC 3834, 5: any Auto-Submitted other than `no`."""
    assert read_letter(letter("I am away until Monday", **heads)).automatic == why


def test_a_report_of_delivery_is_no_answer() -> None:
    """RFC 3464, appendix E, shortened, from memory."""
    raw = b"From: Mail Delivery Subsystem <MAILER-DAEMON@CS.UTK.EDU>\r\nMIME-Version: 1.0\r\nContent-Type: multipart/report; report-type=delivery-status; boundary=\"x\"\r\n\r\n--x\r\n\r\nThe following addresses had delivery problems\r\n--x\r\nContent-Type: message/delivery-status\r\n\r\nReporting-MTA: dns; cs.utk.edu\r\n\r\nFinal-Recipient: rfc822;arathib@vnet.ibm.com\r\nAction: failed\r\nStatus: 5.0.0\r\n--x--\r\n"  # fmt: skip
    assert read_letter(raw).automatic == "a report that it could not be delivered"


def test_html_becomes_text_and_nothing_of_it_runs() -> None:
    html = "<p>It is <b>fine</b>.</p><script>alert(1)</script><img src=x onerror=alert(2)><style>p{}</style><div>Second<br>line &lt;3</div><blockquote><p>Is it bad?</p></blockquote>"
    text = read_html(html)
    assert text.split("\n") == ["It is fine.", "Second", "line <3", "> Is it bad?"]
    message = EmailMessage()
    message["From"] = "a@b.example"
    message.set_content(html, subtype="html")
    read = read_letter(bytes(message))
    assert read.own == "It is fine.\nSecond\nline <3"
    assert read.quoted == "> Is it bad?"


def test_hostile_letters_are_read_harmlessly_or_refused() -> None:
    read = read_letter(letter("hi \u202egnp.exe\x00\x1b[31m", Subject="a\u202eb"))
    assert read.own == "hi gnp.exe[31m"
    assert read.subject == "a b"
    latin = b"From: a@b.example\r\nContent-Type: text/plain; charset=iso-8859-1\r\nContent-Transfer-Encoding: 8bit\r\n\r\nSm\xf8r\r\n"
    assert read_letter(latin).own == "Smør"
    unknown = b"From: a@b.example\r\nContent-Type: text/plain; charset=x-klingon\r\n\r\nqapla\r\n"
    assert read_letter(unknown).own == "qapla"
    for bad in (b"", b"Subject: nobody\r\n\r\nhi", b"From: a@b.example\r\n\r\n   \r\n", b"\xff\xfe\x00" * 50):
        with pytest.raises(Unreadable):
            read_letter(bad)


@settings(max_examples=50)
@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(raw: bytes) -> None:
    for content in (raw, b"From: a@b.example\r\n" + raw, b"From: a@b.example\r\nContent-Type: text/html\r\n\r\n" + raw):
        try:
            read = read_letter(content)
        except Unreadable:
            continue
        assert "\x00" not in read.own + read.quoted + read.subject + read.sender_name
