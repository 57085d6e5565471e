"""Outside advice: asked by mail once, waited for, answered into the margin, never anywhere else."""

import base64
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from email import message_from_bytes, policy
from email.message import EmailMessage
from typing import Any

import pytest
from standardwebhooks import Webhook

from outside.mail import describe, write_answer
from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound, TooLate, Unreadable
from sorta.core.ports import Letter, LetterRefused, Unreachable
from sorta.networks.mail import SmtpPost
from sorta.services import acts, advice, alerts, answers, delivery, desk
from sorta.services.checking import find_differences
from tests.world import SECRET, World

pytestmark = pytest.mark.anyio


@dataclass
class PostBox:
    """Letters as they would be handed to a mail server; fails first as it is told."""

    sender: str = "desk@brinewick.example"
    failures: list[Exception] = field(default_factory=list)
    letters: list[EmailMessage] = field(default_factory=list)

    async def send(self, letter: Letter) -> None:
        if self.failures:
            raise self.failures.pop(0)
        raw = bytes(SmtpPost("127.0.0.1:1", self.sender).write(letter))
        self.letters.append(message_from_bytes(raw, policy=policy.default))


@pytest.fixture
async def box(world: World) -> PostBox:
    made = PostBox()
    world.house = replace(world.house, post=made, mail_secret=SECRET)
    await advice.set_domains(world.house, world.scopes["noor"], ["clinic.example", "law.example"])
    return made


async def ask(world: World, id: int, *, by: str = "mara", to: str = "vet@clinic.example", **more: Any) -> int:
    given = {"to_name": "Dr. Lund", "question": "Does the ray need stitches?", "wait_until": world.after(hours=4)}
    return await advice.ask(world.house, world.scopes[by], id, to_address=to, now=world.now, **{**given, **more})


async def send(world: World, at: datetime | None = None) -> None:
    await advice.send_due(world.house, world.workspace_id, at or world.after(seconds=11))


async def deliver(world: World, raw: bytes, *, secret: str = SECRET, at: datetime | None = None) -> None:
    body = base64.b64encode(raw).decode()
    now = datetime.now(UTC)
    headers = {
        "webhook-id": "msg_1",
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Webhook(secret).sign("msg_1", now, body),
    }
    await advice.take_letter(world.house, body.encode(), headers, at or world.after(hours=1))


def answer(letter: EmailMessage, text: str = "No, it heals by itself.", *, away: bool = False) -> EmailMessage:
    return write_answer(describe(bytes(letter), str(letter["To"].addresses[0].addr_spec)), text, away=away)


async def get(world: World, id: int) -> dict[str, Any]:
    return await desk.get_sheet(world.house, world.scopes["mara"], id, world.now)


async def test_the_question_goes_out_once_with_the_conversation_and_the_answer_lands_in_the_margin(
    world: World, box: PostBox
) -> None:
    id = await world.hear("The ray in the touch pool has a cut, is anybody looking after it?")
    await ask(world, id)
    assert (await world.row(id))["move"] == "their_move"
    await send(world, world.after(seconds=5))
    assert box.letters == []
    await send(world)
    await send(world, world.after(minutes=5))
    [letter] = box.letters
    text = letter.get_body(("plain",)).get_content()
    assert letter["To"] == '"Dr. Lund" <vet@clinic.example>'
    assert letter["From"].addresses[0].display_name == "Mara Person, Aquarium"
    assert "Auto-Submitted" not in letter
    assert text.index("Does the ray need stitches?") < text.index("has a cut, is anybody looking")
    assert "Petra" in text
    assert "never published" in text
    await deliver(world, bytes(answer(letter)))
    sheet = await get(world, id)
    assert sheet["conversation"]["move"] == "our_move"
    [asked] = sheet["advice"]
    [came] = asked["answers"]
    assert (asked["state"], came["own"], came["automatic"], came["other_sender"]) == (
        "given",
        "No, it heals by itself.",
        None,
        False,
    )
    assert "Does the ray need stitches?" in came["quoted"]
    assert [m["body"] for m in sheet["messages"]] == [
        "The ray in the touch pool has a cut, is anybody looking after it?"
    ]
    assert await world.kinds(id) == ["arrived", "advice_asked", "advice_given"]
    told = await alerts.list_alerts(world.house, world.scopes["mara"], 10)
    assert told["alerts"][0]["words"] == "Dr. Lund answered about Petra."
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_the_same_letter_twice_is_one_and_a_second_one_joins(world: World, box: PostBox) -> None:
    id = await world.hear("hi")
    await ask(world, id)
    await send(world)
    raw = bytes(answer(box.letters[0]))
    await deliver(world, raw)
    await deliver(world, raw)
    more = answer(box.letters[0], "And keep it out of the pool.")
    del more["To"]
    more["To"] = "desk@brinewick.example"  # Not the address it was to go to: found by what it answers.
    more.replace_header("From", "Assistant <assistant@clinic.example>")
    await deliver(world, bytes(more))
    [asked] = (await get(world, id))["advice"]
    assert [(a["own"], a["other_sender"]) for a in asked["answers"]] == [
        ("No, it heals by itself.", False),
        ("And keep it out of the pool.", True),
    ]
    assert await world.kinds(id) == ["arrived", "advice_asked", "advice_given"]


async def test_an_automatic_reply_is_shown_and_does_not_end_the_waiting(world: World, box: PostBox) -> None:
    id = await world.hear("hi")
    await ask(world, id)
    await send(world)
    await deliver(world, bytes(answer(box.letters[0], "I am away until Monday.", away=True)))
    sheet = await get(world, id)
    assert sheet["conversation"]["move"] == "their_move"
    [asked] = sheet["advice"]
    assert (asked["state"], asked["answers"][0]["automatic"]) == ("asked", "an automatic reply")
    # Nothing is ever sent in answer to what came in.
    await send(world, world.after(hours=2))
    assert len(box.letters) == 1
    await send(world, world.after(hours=4, minutes=1))
    assert (await world.row(id))["move"] == "our_move"
    told = await alerts.list_alerts(world.house, world.scopes["mara"], 10)
    assert "has not answered" in told["alerts"][0]["words"]
    # What comes too late is kept all the same.
    await deliver(world, bytes(answer(box.letters[0])), at=world.after(days=3))
    assert (await get(world, id))["advice"][0]["state"] == "given"


async def test_undone_before_it_leaves_and_no_longer_waited_for_after(world: World, box: PostBox) -> None:
    mara = world.scopes["mara"]
    id = await world.hear("hi")
    seq = await ask(world, id)
    await acts.undo(world.house, mara, id, seq=seq, now=world.after(seconds=5))
    await send(world)
    assert box.letters == []
    assert (await world.row(id))["move"] == "unsorted"
    seq = await ask(world, id)
    await send(world)
    with pytest.raises(TooLate, match="has left already"):
        await acts.undo(world.house, mara, id, seq=seq, now=world.after(seconds=11))
    [asked] = (await get(world, id))["advice"]
    with pytest.raises(NotFound):
        await advice.stop_waiting(world.house, world.scopes["otto"], asked["id"], world.now)
    await advice.stop_waiting(world.house, mara, asked["id"], world.now)
    with pytest.raises(TooLate):
        await advice.stop_waiting(world.house, mara, asked["id"], world.now)
    assert (await world.row(id))["move"] == "our_move"
    seen = (await world.row(id))["seq"]
    given = {"public": True, "text": "All well", "settle": False, "now": world.now}
    with pytest.raises(Invalid, match="seen that much"):
        await answers.reply(world.house, mara, id, seen_seq=seen + 1, **given)
    await answers.reply(world.house, mara, id, seen_seq=seen, **given)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=15))
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_a_mail_server_that_is_away_is_asked_again_and_one_that_refuses_is_told(
    world: World, box: PostBox
) -> None:
    id = await world.hear("hi")
    await ask(world, id)
    box.failures = [Unreachable("connection refused"), Unreachable("451 try later")]
    await send(world)
    [asked] = (await get(world, id))["advice"]
    assert (asked["state"], asked["problem"]) == ("sending", "connection refused")
    for minutes in (1, 5, 30):
        await send(world, world.after(minutes=minutes))
    assert len(box.letters) == 1
    other = await world.hear("hi", handle="tom")
    await ask(world, other, to="nobody@clinic.example")
    box.failures = [LetterRefused("550 5.1.1 There is no such mailbox")]
    await send(world)
    [refused] = (await get(world, other))["advice"]
    assert (refused["state"], refused["problem"]) == ("refused", "550 5.1.1 There is no such mailbox")
    assert (await world.row(other))["move"] == "our_move"


async def test_asked_again_it_goes_on_from_their_last_letter(world: World, box: PostBox) -> None:
    id = await world.hear("hi")
    await ask(world, id)
    await send(world)
    first = answer(box.letters[0])
    await deliver(world, bytes(first))
    await ask(world, id, question="And how long will it take?")
    await send(world)
    assert box.letters[1]["In-Reply-To"] == first["Message-ID"]
    assert box.letters[1]["References"].split() == [box.letters[0]["Message-ID"], first["Message-ID"]]
    await deliver(world, bytes(answer(box.letters[1], "About a week.")))
    await ask(world, id, question="May it stay in the pool?")
    await send(world)
    chain = box.letters[2]["References"].split()
    assert chain[:3] == [box.letters[0]["Message-ID"], first["Message-ID"], box.letters[1]["Message-ID"]]
    assert chain[3:] == [box.letters[2]["In-Reply-To"]]


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"to": "vet@clinic.example, boss@x.example"}, "to_address"),
        ({"to": "vet@clinic.example\r\nBcc: all@x.example"}, "to_address"),
        ({"to": "vet"}, "to_address"),
        ({"to": "v" * 65 + "@clinic.example"}, "to_address"),
        ({"question": "  "}, "question"),
        ({"question": "x" * 4001}, "question"),
        ({"wait_until": datetime(2026, 11, 20, 12, 10, tzinfo=UTC)}, "wait_until"),
        ({"wait_until": datetime(2027, 11, 20, tzinfo=UTC)}, "wait_until"),
        ({"wait_until": datetime(2026, 11, 20, 18)}, "wait_until"),
    ],
)
async def test_what_cannot_be_asked_is_refused(world: World, box: PostBox, more: dict[str, Any], field: str) -> None:
    id = await world.hear("hi")
    with pytest.raises(Invalid) as caught:
        await ask(world, id, **more)
    assert caught.value.field == field
    assert await world.kinds(id) == ["arrived"]


async def test_names_and_words_break_no_header(world: World, box: PostBox) -> None:
    id = await world.hear("Subject: evil\r\nBcc: all@x.example", handle="eve")
    await ask(world, id, to_name="Dr.\r\nBcc: all@x.example", question="Really?\nBcc: all@x.example")
    await send(world)
    [letter] = box.letters
    assert letter["Bcc"] is None
    assert letter["To"].addresses[0].addr_spec == "vet@clinic.example"
    assert letter["Subject"] == "Aquarium asks: Really? Bcc: all@x.example"


async def test_only_what_is_signed_and_answers_a_question_is_taken(world: World, box: PostBox) -> None:
    id = await world.hear("hi")
    await ask(world, id)
    await send(world)
    good = answer(box.letters[0])
    with pytest.raises(NotAllowed):
        await deliver(world, bytes(good), secret="whsec_" + "QUJD" * 8)
    stranger = EmailMessage()
    stranger["From"], stranger["To"] = "x@y.example", "desk+a1-aaaaaaaaaaaaaaaaaaaa@brinewick.example"
    stranger.set_content("Let me in")
    with pytest.raises(NotFound):
        await deliver(world, bytes(stranger))
    with pytest.raises(Unreadable):
        await deliver(world, b"")
    # Another workspace's number with this one's token answers nothing.
    moved = str(good["To"]).replace(f"+a{world.workspace_id}-", f"+a{world.other_workspace_id}-")
    good.replace_header("To", moved)
    del good["In-Reply-To"], good["References"]
    with pytest.raises(NotFound):
        await deliver(world, bytes(good))
    assert (await get(world, id))["advice"][0]["answers"] == []


async def test_without_mail_nobody_is_asked_and_observers_and_sorters_without_words_may_not(world: World) -> None:
    id = await world.hear("hi")
    with pytest.raises(Impossible):
        await ask(world, id)
    with pytest.raises(NotAllowed):
        await ask(world, id, by="lise")
    with pytest.raises(NotFound):
        await advice.take_letter(world.house, b"", {}, world.now)
