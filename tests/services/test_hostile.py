"""Hostile content on the real store: shown harmless, kept whole, never an error."""

import csv
import io

import pytest

from sorta.core.ports import Letter
from sorta.networks.mail import SmtpPost
from sorta.services import acts, cases, desk, finding, profiles
from tests.world import World

pytestmark = pytest.mark.anyio
SCRIPT = "<script>alert(1)</script><img src=x onerror=alert(2)>"


async def sheet(world: World, id: int) -> dict:
    return await desk.get_sheet(world.house, world.scopes["mara"], id, world.now)


async def test_scripts_and_turned_text_are_kept_as_words_and_names_cleaned(world: World) -> None:
    text = f"{SCRIPT} \u202etxt.exe"
    id = await world.hear(text, handle="eve", name="Eve\u202e\r\nnoor@brinewick.example")
    told = await sheet(world, id)
    assert told["messages"][0]["body"] == text
    assert told["conversation"]["person_name"] == "Eve noor@brinewick.example"


async def test_a_handle_that_looks_like_ours_is_named(world: World) -> None:
    id = await world.hear("I am the page", handle="br\u0456newick")
    (identity,) = (await sheet(world, id))["person"]["identities"]
    assert identity["caution"] == "The handle looks like brinewick, which is ours, and is another."
    (other,) = (await sheet(world, await world.hear("hi", handle="rolf")))["person"]["identities"]
    assert other["caution"] is None


async def test_a_handle_that_looks_like_one_who_was_here_before_is_named(world: World) -> None:
    first = await world.hear("hello", handle="sven.cope", name="Sven Cope")
    second = await world.hear("hello too", handle="\u0455ven.cope", name="Sven")
    assert await desk.note_looks(world.house, world.workspace_id, world.now) == 2
    assert await desk.note_looks(world.house, world.workspace_id, world.now) == 0
    (was,), (came,) = [(await sheet(world, id))["person"]["identities"] for id in (first, second)]
    assert was["caution"] is None
    assert came["caution"] == "The handle looks like sven.cope, which is that of Sven Cope, and is another."
    # One that is written otherwise from now on is looked at anew.
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute(
            "update identity set handle = 'quite.another' where handle like '_ven.cope' and handle <> 'sven.cope'"
        )
    assert await desk.note_looks(world.house, world.workspace_id, world.now) == 1
    (now,) = (await sheet(world, second))["person"]["identities"]
    assert now["caution"] is None


async def test_a_handle_that_looks_like_a_colleagues_name_is_named(world: World) -> None:
    id = await world.hear("I work with you", handle="m\u0430ra_person")
    (identity,) = (await sheet(world, id))["person"]["identities"]
    assert identity["caution"] == "The handle looks like Mara Person, which is the name of a colleague, and is another."


async def test_a_hundred_kilobytes_are_taken_shown_found_and_passed_on(world: World) -> None:
    text = "quokka " + "ä🐙" * 20_000
    assert len(text.encode()) > 100_000
    id = await world.hear(text)
    assert (await sheet(world, id))["messages"][0]["body"] == text
    rows = desk.read_rows(
        await desk.list_rows(
            world.house,
            world.scopes["mara"],
            filters={"move": "unsorted"},
            order="due",
            cursor=None,
            limit=10,
            now=world.now,
        )
    )
    assert len(rows[0]["preview"]) < 1000
    found = await finding.find(world.house, world.scopes["mara"], "quokka")
    assert [m["conversation_id"] for m in found["messages"]] == [id]
    await cases.hand_over(world.house, world.scopes["mara"], id, desk_id=world.desk_id, note=SCRIPT, now=world.now)
    (case,) = (await cases.list_cases(world.house, world.scopes["mara"]))["cases"]
    await cases.pass_on(world.house, world.workspace_id, case["id"], world.after(minutes=1))
    assert (await world.cases())[0]["messages"][0]["text"] == text


async def test_cells_of_an_export_run_nothing(world: World) -> None:
    for n, name in enumerate(("=HYPERLINK(0)", "+1+1", "-2", "@SUM(A1)", 'plain, with "quotes"')):
        await world.hear("hi", handle=f"h{n}", name=name)
    told = await profiles.export_persons(world.house, world.scopes["noor"], filters={}, order="name")
    cells = [cell for row in csv.reader(io.StringIO(told)) for cell in row]
    assert not [cell for cell in cells if cell.startswith(("=", "+", "-", "@", "\t", "\r"))]
    assert 'plain, with "quotes"' in cells


async def test_no_line_of_a_mails_head_can_be_added(world: World) -> None:
    letter = Letter(
        key="a\r\nBcc: x@x.example", to="noor@brinewick.example", to_name="Noor\r\nBcc: y@y.example",
        subject="Late\r\nBcc: z@z.example\r\n\r\nbody", text="words",
    )  # fmt: skip
    message = SmtpPost("mail.test:25", "desk@brinewick.example").write(letter)
    assert message["Bcc"] is None
    assert set(message.keys()) >= {"From", "To", "Subject", "Message-ID"}
    assert "\r" not in str(message["Subject"])


async def test_tags_and_notes_of_any_words_are_words(world: World) -> None:
    mara = world.scopes["mara"]
    id = await world.hear("hi")
    await acts.tag(world.house, mara, id, name="'; drop table tag; --", on=True, now=world.now)
    await acts.add_note(world.house, mara, id, text=SCRIPT, now=world.now)
    told = await sheet(world, id)
    assert [e["data"].text for e in told["trail"] if e["kind"] == "noted"] == [SCRIPT]
    assert len(told["conversation"]["tags"]) == 1


async def test_no_link_runs_anything(world: World) -> None:
    said = await world.say("look", handle="eve")
    said["object"]["url"] = "JavaScript:alert(1)"
    said["object"]["attachment"] = [
        {"type": "Document", "url": "data:text/html,<script>alert(1)</script>", "name": "x"},
        {"type": "Document", "url": "https://files.example/a.png", "name": "a.png", "mediaType": "image/png"},
    ]
    await world.take(said)
    id = (await world.find(said["object"]["id"])).conversation_id
    (message,) = (await sheet(world, id))["messages"]
    assert message["url"] is None
    assert [a["url"] for a in message["attachments"]] == ["https://files.example/a.png"]
