"""A workspace's picture, colour and languages: what is taken, what is kept of it, and who sees it."""

import io
from typing import Any

import pytest
from PIL import Image, PngImagePlugin

from sorta.core.colours import SHAPE, TEXT, get_contrast
from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.services import looks, sign_in, workspaces
from tests.services.test_report_sharing import read, share
from tests.world import PASSWORD, World

pytestmark = pytest.mark.anyio


def draw(kind: str = "PNG", size: tuple[int, int] = (600, 300), **more: Any) -> bytes:
    made = io.BytesIO()
    Image.new("RGB", size, "#14564a").save(made, kind, **more)
    return made.getvalue()


async def set_about(world: World, who: str = "noor", **other: Any) -> None:
    said = {"name": "Aquarium", "description": "", "languages": ["en"], "colour": None, **other}
    await workspaces.set_about(world.house, world.scopes[who], **said)


async def test_a_picture_is_kept_small_and_with_nothing_but_its_points(world: World) -> None:
    noor = world.scopes["noor"]
    about = PngImagePlugin.PngInfo()
    about.add_text("Comment", "taken at 55.7, 12.6")
    for content in (draw(pnginfo=about), draw("JPEG"), draw("WEBP"), draw("GIF")):
        await looks.set_picture(world.house, noor, content)
        image = await looks.get_picture(world.house, world.scopes["lise"])
        assert b"55.7" not in image
        with Image.open(io.BytesIO(image)) as kept:
            assert (kept.format, kept.size) == ("PNG", (256, 128))
    first = (await workspaces.get_about(world.house, noor))["picture"]
    await looks.set_picture(world.house, noor, draw(size=(40, 40)))
    assert (await workspaces.get_about(world.house, noor))["picture"] not in (None, first)
    await looks.remove_picture(world.house, noor)
    assert (await workspaces.get_about(world.house, noor))["picture"] is None
    with pytest.raises(NotFound):
        await looks.get_picture(world.house, noor)
    with pytest.raises(NotFound):
        await looks.remove_picture(world.house, noor)


@pytest.mark.parametrize(
    "content",
    [b"", b"not a picture", draw()[:200], b"<svg xmlns='http://www.w3.org/2000/svg'/>", draw("BMP")],
    ids=["nothing", "words", "cut off", "drawing", "another kind"],
)
async def test_what_is_no_picture_is_refused_and_leaves_the_one_there_was(world: World, content: bytes) -> None:
    noor = world.scopes["noor"]
    await looks.set_picture(world.house, noor, draw())
    before = await looks.get_picture(world.house, noor)
    with pytest.raises(Invalid, match="no picture"):
        await looks.set_picture(world.house, noor, content)
    assert await looks.get_picture(world.house, noor) == before


def test_an_enormous_one_is_refused_before_it_is_unfolded() -> None:
    with pytest.raises(Invalid, match="too large"):
        looks.make_picture(draw(size=(10_000, 5_000)))


async def test_only_an_owner_changes_how_it_looks(world: World) -> None:
    for who in ("mara", "ilse", "lise"):
        with pytest.raises(NotAllowed):
            await looks.set_picture(world.house, world.scopes[who], draw())
        with pytest.raises(NotAllowed):
            await looks.remove_picture(world.house, world.scopes[who])
        with pytest.raises(NotAllowed):
            await set_about(world, who, colour="#ff0000")
    for other in ({"languages": []}, {"languages": ["en", "xx"]}, {"colour": "red"}, {"colour": "#fff"}):
        with pytest.raises(Invalid):
            await set_about(world, **other)


async def test_members_are_told_the_colour_with_what_can_be_read_on_it(world: World) -> None:
    for colour in ("#ffe100", "#123456", "#777777"):
        await set_about(world, colour=colour, languages=["da", "en", "da"])
        entered = await sign_in.sign_in(
            world.house, email="lise@brinewick.example", password=PASSWORD, came_from=colour, now=world.now
        )
        session = await sign_in.get_session(world.house, entered.token, world.now)
        (mine,) = await sign_in.list_workspaces(world.house, session.member_id)
        assert (mine["colour"], mine["languages"]) == (colour, ["da", "en"])
        assert get_contrast(str(mine["ink"]), colour) >= TEXT


async def test_a_shared_report_carries_them_and_its_shapes_stand_out(world: World) -> None:
    await set_about(world, colour="#ffe100")
    await looks.set_picture(world.house, world.scopes["noor"], draw())
    _, token = await share(world, parts=["days"])
    page = await read(world, token)
    assert 'src="data:image/png;base64,' in page
    async with world.house.db.transact(world.workspace_id) as tx:
        told = await looks.get_looks(tx, "#ffe100")
    assert f'fill="{told.shape}"' in page
    assert told.shape != "#ffe100"
    assert get_contrast(told.shape, looks.PAPER) >= SHAPE
