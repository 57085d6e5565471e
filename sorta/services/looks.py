"""How a workspace looks to those who look on from outside its team: its picture and colour. Used by the API and by shared reports."""

import base64
import hashlib
import io
from dataclasses import dataclass

from PIL import Image, UnidentifiedImageError

from sorta.core.colours import get_ink, make_visible
from sorta.core.errors import Invalid, NotFound
from sorta.core.security import Happening
from sorta.services.house import House, Scope
from sorta.services.security_log import note
from sorta.services.workspaces import check_owner
from sorta.store import looks as store
from sorta.store.db import Tx
from sorta.store.live import tell

#: Pixels of a picture that is taken, and how wide and high it is kept at most.
MOST_PIXELS, SIDE = 40_000_000, 256
_FORMATS = ("PNG", "JPEG", "WEBP", "GIF")
#: What reports stand on (pages/report.css), and their own colour.
PAPER, PINE = "#f4f1ea", "#1d5c4d"


def make_picture(content: bytes) -> bytes:
    """A picture made small, in PNG, with nothing but its points. Raises Invalid for what is none. Takes time, and is for a thread."""
    try:
        with Image.open(io.BytesIO(content), formats=_FORMATS) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise Invalid("The picture is too large: 40 million points at most.", "picture")
            opened.seek(0)
            small = opened.convert("RGBA")
        small.thumbnail((SIDE, SIDE))
        kept = io.BytesIO()
        small.save(kept, "PNG", optimize=True)
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, SyntaxError, ValueError, EOFError) as error:
        raise Invalid("That is no picture that can be read here: PNG, JPEG, WebP or GIF.", "picture") from error
    return kept.getvalue()


async def set_picture(house: House, scope: Scope, content: bytes) -> None:
    """Another picture from now on. For Owners. Raises NotAllowed, Invalid, Busy."""
    check_owner(scope)
    image = await house.workshop.do(make_picture, content)
    async with house.db.transact(scope.workspace_id) as tx:
        await store.set_picture(tx, image, hashlib.sha256(image).hexdigest())
        await note(tx, scope, Happening.LOOKS, "another picture")
        await tell(tx, "roles")


async def remove_picture(house: House, scope: Scope) -> None:
    """None from now on. For Owners. Raises NotAllowed, NotFound."""
    check_owner(scope)
    async with house.db.transact(scope.workspace_id) as tx:
        if not await store.remove_picture(tx):
            raise NotFound("There is no picture here (any more).")
        await note(tx, scope, Happening.LOOKS, "no picture")
        await tell(tx, "roles")


async def get_picture(house: House, scope: Scope) -> bytes:
    """The picture. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        found = await store.get_picture(tx)
    if found is None:
        raise NotFound("This workspace has no picture.")
    return found


@dataclass(frozen=True, kw_only=True)
class Looks:
    """How a page of a workspace looks: its colour, what is written in on it, the same where it has to stand out from paper, and its picture as an address that holds it."""

    colour: str
    ink: str
    shape: str
    picture: str | None


async def get_looks(tx: Tx, colour: str | None) -> Looks:
    """In a workspace's transaction: how its shared reports look."""
    found = await store.get_picture(tx)
    chosen = colour or PINE
    return Looks(
        colour=chosen,
        ink=get_ink(chosen),
        shape=make_visible(chosen, PAPER),
        picture=None if found is None else f"data:image/png;base64,{base64.b64encode(found).decode()}",
    )
