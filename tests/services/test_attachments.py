"""Files that go along: kept beside the database, held by one answer, delivered once, gone when never sent."""

import errno
import os
from datetime import timedelta
from pathlib import Path

import pytest

from sorta.core.answers import Extras
from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.attachments import MOST_OF_WORKSPACE, MOST_PUT_BY, check_room
from sorta.core.errors import Impossible, Invalid, NoRoom, NotAllowed, NotFound, TooLate
from sorta.core.periods import Named
from sorta.core.reports import Chosen
from sorta.services import acts, answers, approvals, attachments, delivery, desk, library, policies, scheduling, streams
from sorta.services.reports import Ask
from sorta.store import files as disk
from tests.core.test_attachments import picture
from tests.world import World

pytestmark = pytest.mark.anyio


async def attach(world: World, id: int, name: str = "ray.png", by: str = "mara", kind: str = "PNG") -> int:
    kept = await attachments.add_attachment(
        world.house,
        world.scopes[by],
        id,
        content=picture(kind),
        declared=f"image/{kind.lower()}",
        name=name,
        now=world.now,
    )
    found: int = kept["id"]
    return found


async def send(world: World, id: int, files: tuple[int, ...], by: str = "mara") -> int:
    seen = (await world.row(id))["seq"]
    return await answers.reply(
        world.house,
        world.scopes[by],
        id,
        public=False,
        text="Here it is",
        seen_seq=seen,
        settle=False,
        now=world.now,
        extras=Extras(attachments=files),
    )


def list_files(world: World) -> list[Path]:
    assert world.files is not None
    return [p for p in world.files.rglob("*") if p.is_file()]


async def test_a_picture_goes_out_once_though_the_network_fails_in_between(world: World) -> None:
    id = await world.hear("Do you have a map?", network="hushline", kind="private")
    await send(world, id, (await attach(world, id), await attach(world, id, "map.gif", kind="GIF")))
    await world.control("mischief/hushline", fail=1)
    at = world.after(seconds=15)
    await delivery.deliver_due(world.house, world.workspace_id, at)
    assert (await world.things("hushline"))[0]["content"] == "Do you have a map?"
    await delivery.deliver_due(world.house, world.workspace_id, at + timedelta(minutes=10))
    [answer] = [t for t in await world.things("hushline") if t["content"] == "Here it is"]
    assert [(a["type"], a["mediaType"], a["name"]) for a in answer["attachment"]] == [
        ("Image", "image/png", "ray.png"),
        ("Image", "image/gif", "map.gif"),
    ]
    served = await world.outside.get(answer["attachment"][0]["url"])
    assert served.content == picture("PNG")
    sheet = await desk.get_sheet(world.house, world.scopes["mara"], id, at)
    shown = sheet["messages"][-1]["attachments"]
    assert [(a["name"], a["size"]) for a in shown] == [
        ("ray.png", len(picture("PNG"))),
        ("map.gif", len(picture("GIF"))),
    ]


async def test_only_where_the_network_takes_files_and_only_this_conversations(world: World) -> None:
    elsewhere = await world.hear("hi")
    with pytest.raises(Impossible, match="takes no files"):
        await attach(world, elsewhere)
    here = await world.hear("hi", network="hushline", kind="private")
    there = await world.hear("hi", network="hushline", kind="private", handle="tom")
    file = await attach(world, there)
    with pytest.raises(Invalid, match="not here any more"):
        await send(world, here, (file,))
    with pytest.raises(Invalid, match="not here any more"):
        await send(world, here, (file + 100,))
    with pytest.raises(Invalid, match="At most 4"):
        await send(world, here, tuple([await attach(world, here, f"{n}.png") for n in range(5)]))
    with pytest.raises(NotFound):
        await attach(world, here, by="otto")
    with pytest.raises(NotAllowed):
        await attach(world, here, by="lise")
    with pytest.raises(NotFound):
        await attachments.read_attachment(world.house, world.scopes["otto"], file)


async def test_taken_away_until_an_answer_holds_it_and_given_back_with_the_words(world: World) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    first, second = await attach(world, id), await attach(world, id, "same.png")
    assert len(list_files(world)) == 1, "the same content lies there once"
    with pytest.raises(NotAllowed):
        await attachments.remove_attachment(world.house, world.scopes["ilse"], first)
    await attachments.remove_attachment(world.house, world.scopes["mara"], first)
    assert len(list_files(world)) == 1, "the other one still needs it"
    mara = world.scopes["mara"]
    await desk.set_draft(
        world.house, mara, id, mode="private", body="", shared=False, files=[second], rev=1, now=world.now
    )
    draft = (await desk.get_sheet(world.house, mara, id, world.now))["drafts"][0]
    assert [a["name"] for a in draft["attachments"]] == ["same.png"]
    seq = await send(world, id, (second,))
    with pytest.raises(TooLate):
        await attachments.remove_attachment(world.house, mara, second)
    back = await acts.undo(world.house, mara, id, seq=seq, now=world.now)
    assert back is not None
    assert [a["id"] for a in back.attachments] == [second]
    await send(world, id, (second,))


async def test_what_was_never_sent_goes_after_a_month(world: World) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    kept, lost = await attach(world, id), await attach(world, id, "seal.gif", kind="GIF")
    await send(world, id, (kept,))
    assert await attachments.sweep(world.house, world.workspace_id, world.after(days=29)) == 0
    assert await attachments.sweep(world.house, world.workspace_id, world.after(days=31)) == 1
    assert len(list_files(world)) == 1
    row, content = await attachments.read_attachment(world.house, world.scopes["mara"], kept)
    assert (row.name, content) == ("ray.png", picture("PNG"))
    with pytest.raises(NotFound):
        await attachments.read_attachment(world.house, world.scopes["mara"], lost)


async def test_a_file_that_is_lost_brings_the_answer_back_to_its_author(world: World) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    await send(world, id, (await attach(world, id),))
    list_files(world)[0].unlink()
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=15))
    sheet = await desk.get_sheet(world.house, world.scopes["mara"], id, world.now)
    assert sheet["messages"][-1]["delivery"] == "refused"
    assert "not in its place" in sheet["messages"][-1]["problem"]
    assert len(await world.things("hushline")) == 1


async def test_approvers_see_the_file_and_it_goes_with_the_approved_answer(world: World) -> None:
    ana, noor = world.scopes["ana"], world.scopes["noor"]
    policy = PolicyBody(name="Trainees", when=PolicyWhen(roles=("trainee",)), roles=("owner",))
    await policies.add_policy(world.house, world.scopes["mara"], policy, on=True, now=world.now)
    id = await world.hear("hi", network="hushline", kind="private")
    file = await attach(world, id, by="ana")
    proposal = await approvals.propose(
        world.house,
        ana,
        id,
        public=False,
        text="Here it is",
        seen_seq=1,
        settle=False,
        now=world.now,
        extras=Extras(attachments=(file,)),
    )
    [waiting] = await approvals.list_approvals(world.house, noor)
    assert [a["id"] for a in waiting["attachments"]] == [file]
    back = await approvals.withdraw(world.house, ana, proposal, world.now)
    assert [a["id"] for a in back.attachments] == [file]
    later = await scheduling.schedule(
        world.house,
        world.scopes["mara"],
        id,
        public=False,
        text="Later",
        seen_seq=(await world.row(id))["seq"],
        settle=False,
        send_at=world.after(hours=2),
        now=world.now,
        extras=Extras(attachments=(file,)),
    )
    assert later
    sheet = await desk.get_sheet(world.house, world.scopes["mara"], id, world.now)
    assert [a["id"] for a in sheet["scheduled"]["attachments"]] == [file]
    assert await scheduling.send_due(world.house, world.workspace_id, world.after(hours=3)) == 1
    await delivery.deliver_due(world.house, world.workspace_id, world.after(hours=3, seconds=11))
    assert (await world.things("hushline"))[0]["attachment"][0]["name"] == "ray.png"


@pytest.mark.parametrize(
    ("put_by", "in_workspace", "fits"),
    [
        (0, 0, True),
        (MOST_PUT_BY - 10, MOST_PUT_BY, True),
        (MOST_PUT_BY - 9, MOST_PUT_BY, False),
        (0, MOST_OF_WORKSPACE - 10, True),
        (0, MOST_OF_WORKSPACE - 9, False),
    ],
)
def test_room_ends_where_it_is_said(put_by: int, in_workspace: int, fits: bool) -> None:
    if fits:
        check_room(10, put_by=put_by, in_workspace=in_workspace)
    else:
        with pytest.raises(NoRoom):
            check_room(10, put_by=put_by, in_workspace=in_workspace)


async def test_what_one_member_puts_by_is_bounded_and_what_is_sent_is_not_counted(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    size = len(picture("PNG"))
    monkeypatch.setattr("sorta.core.attachments.MOST_PUT_BY", 2 * size)
    id = await world.hear("hi", network="hushline", kind="private")
    first = await attach(world, id)
    await attach(world, id)
    with pytest.raises(NoRoom, match="Send or take away"):
        await attach(world, id)
    await attach(world, id, by="ilse")
    await send(world, id, (first,))
    await attach(world, id)


async def test_a_workspace_counts_each_content_once(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    monkeypatch.setattr("sorta.core.attachments.MOST_OF_WORKSPACE", 2 * len(picture("PNG")))
    for _ in range(3):
        await attach(world, id)
    await attach(world, id, "seal.gif", kind="GIF")
    with pytest.raises(NoRoom, match="workspace"):
        await attach(world, id, "seal.jpeg", kind="JPEG")


@pytest.mark.parametrize("how", ["nothing free", "full while writing"])
async def test_a_full_disk_is_said_and_leaves_nothing_half_written(
    world: World, monkeypatch: pytest.MonkeyPatch, how: str
) -> None:
    id = await world.hear("hi", network="hushline", kind="private")

    def fail(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    if how == "nothing free":
        monkeypatch.setattr(disk, "KEPT_FREE", 2**62)
    else:
        monkeypatch.setattr(os, "fsync", fail)
    with pytest.raises(NoRoom, match="nothing was kept"):
        await attach(world, id)
    assert list_files(world) == []
    monkeypatch.undo()
    await attach(world, id)


async def test_what_a_killed_process_left_is_swept_and_what_is_held_stays(world: World) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    await send(world, id, (await attach(world, id),))
    (held,) = list_files(world)
    folder = held.parent.parent
    part, unclaimed, young = held.parent / f"{disk.PART}x", folder / "aa" / ("a" * 64), folder / "bb" / ("b" * 64)
    for path in (held, part, unclaimed, young):
        if path is not held:
            path.parent.mkdir(exist_ok=True)
            path.write_bytes(b"left")
        at = world.after(days=-2 if path is not young else 0).timestamp()
        os.utime(path, (at, at))
    await attachments.sweep(world.house, world.workspace_id, world.now)
    assert set(list_files(world)) == {held, young}


async def say(world: World, id: int, text: str, files: tuple[int, ...], *, public: bool = False) -> int:
    return await answers.reply(
        world.house,
        world.scopes["mara"],
        id,
        public=public,
        text=text,
        seen_seq=(await world.row(id))["seq"],
        settle=False,
        now=world.now,
        extras=Extras(attachments=files),
    )


async def test_a_file_goes_out_alone_with_what_it_shows_and_comes_back_out_of_an_export(world: World) -> None:
    id = await world.hear("Do you have a map?", network="hushline", kind="private")
    mara, file = world.scopes["mara"], await attach(world, id, "map.png")
    with pytest.raises(Invalid, match="Write something"):
        await say(world, id, "  ", ())
    told = await attachments.describe_attachment(
        world.house, mara, file, " The way\nfrom the gate to the seals ", world.now
    )
    assert (told["id"], told["description"]) == (file, "The way from the gate to the seals")
    with pytest.raises(Invalid, match="at most 1000"):
        await attachments.describe_attachment(world.house, mara, file, "x" * 1001, world.now)
    await say(world, id, "  ", (file,))
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=15))
    [answer] = [t for t in await world.things("hushline") if t.get("attachment")]
    assert not answer.get("content")
    assert answer["attachment"][0]["summary"] == "The way from the gate to the seals"
    sheet = await desk.get_sheet(world.house, mara, id, world.now)
    assert (sheet["messages"][-1]["body"], sheet["messages"][-1]["delivery"]) == ("", "delivered")
    came_in = Chosen(figure="came_in", day=None, cell=None)
    blocks = await streams.export(world.house, mara, Ask(period=Named.DAYS_7), came_in, world.after(days=1))
    assert b"from the gate to the seals" in b"".join([block async for block in blocks])


async def test_what_an_answer_holds_keeps_its_description_and_another_takes_its_place(world: World) -> None:
    id = await world.hear("hi", network="hushline", kind="private")
    file = await attach(world, id)
    seq = await say(world, id, "Here", (file,))
    await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.now)
    other = await attachments.describe_attachment(world.house, world.scopes["mara"], file, "A ray", world.now)
    assert other["id"] != file
    assert len(list_files(world)) == 1
    colleagues = await attachments.describe_attachment(
        world.house, world.scopes["ilse"], other["id"], "No ray", world.now
    )
    assert colleagues["id"] != other["id"], "a colleague's file stays as it is"
    for who, why in (("lise", NotAllowed), ("otto", NotFound)):
        with pytest.raises(why):
            await attachments.describe_attachment(world.house, world.scopes[who], file, "x", world.now)


async def test_the_library_s_files_go_along_and_stay_with_answers_when_they_are_taken_out(world: World) -> None:
    mara = world.scopes["mara"]
    with pytest.raises(Invalid, match="Say what the picture shows"):
        await library.add_file(
            world.house,
            mara,
            content=picture("GIF"),
            declared="image/gif",
            name="seal.gif",
            description=" ",
            now=world.now,
        )
    assert list_files(world) == []

    async def keep(kind: str = "GIF", by: str = "mara") -> int:
        return await library.add_file(
            world.house,
            world.scopes[by],
            content=picture(kind),
            declared=f"image/{kind.lower()}",
            name=f"seal.{kind.lower()}",
            description="A seal waves",
            now=world.now,
        )

    kept = await keep()
    with pytest.raises(Invalid, match=r"already, as seal\.gif"):
        await keep()
    with pytest.raises(NotAllowed):
        await keep("PNG", "ilse")
    await library.set_file(world.house, mara, kept, name="waving.png", description="A seal waves a flipper")
    id = await world.hear("hi", network="hushline", kind="private")
    along = await attachments.add_from_library(world.house, world.scopes["ilse"], id, kept, world.now)
    assert (along["name"], along["description"]) == ("waving.gif", "A seal waves a flipper")
    await say(world, id, "", (along["id"],))
    assert [(f["name"], f["uses"]) for f in await library.list_files(world.house, mara)] == [("waving.gif", 1)]
    await library.remove_file(world.house, mara, kept)
    assert len(list_files(world)) == 1, "the answer holds it"
    with pytest.raises(NotFound):
        await attachments.add_from_library(world.house, mara, id, kept, world.now)
    other = await keep("PNG")
    assert (await library.read_file(world.house, world.scopes["lise"], other))[1] == picture("PNG")
    assert await attachments.sweep(world.house, world.workspace_id, world.after(days=31)) == 0
    await library.remove_file(world.house, mara, other)
    assert len(list_files(world)) == 1
    for who, number in (("otto", kept), ("otto", other)):
        with pytest.raises(NotFound):
            await library.read_file(world.house, world.scopes[who], number)


async def test_a_library_has_an_end(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(library, "MOST_KEPT", 1)
    mara = world.scopes["mara"]
    for kind in ("PNG", "GIF"):
        adding = library.add_file(
            world.house,
            mara,
            content=picture(kind),
            declared=f"image/{kind.lower()}",
            name="x",
            description="A seal",
            now=world.now,
        )
        if kind == "PNG":
            await adding
        else:
            with pytest.raises(Invalid, match="the most there can be"):
                await adding
