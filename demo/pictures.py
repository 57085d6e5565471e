"""The Aquarium's library in the demo: two pictures that are drawn here, and a list of prices. Used by demo.stories."""

from datetime import datetime
from io import BytesIO

from PIL import Image, ImageDraw

from demo.load import Loader
from sorta.services import library
from sorta.services.house import Scope

WATER, DEEP, SAND, STONE, INK = "#cfe3e6", "#2f6f7e", "#ecdfc2", "#8a8f86", "#22251f"
PRICES = """Brinewick Aquarium, day tickets
Adult 14, child 4 to 15 7, under 4 free
Family (two adults, up to four children) 41
Group from 10: 6 each, one adult in six free
Evenings at the reef 16, with a pass 8
"""


def draw_map() -> bytes:
    """The way in without steps."""
    image = Image.new("RGB", (640, 400), SAND)
    draw = ImageDraw.Draw(image)
    draw.rectangle((0, 300, 640, 400), fill=WATER)
    for place, (x, y, w, h) in {
        "Reef": (60, 60, 150, 110),
        "Seals": (230, 60, 130, 150),
        "Café": (380, 60, 110, 80),
        "Jellyfish": (380, 160, 190, 90),
    }.items():
        draw.rounded_rectangle((x, y, x + w, y + h), 12, fill="white", outline=STONE, width=3)
        draw.text((x + 14, y + 12), place, fill=INK)
    draw.line([(600, 320), (600, 275), (215, 275), (215, 120)], fill=DEEP, width=9, joint="curve")
    draw.ellipse((588, 308, 612, 332), fill=DEEP)
    draw.text((470, 330), "Side entrance, lift", fill=INK)
    return _write(image, "PNG")


def draw_seal() -> bytes:
    """A seal that waves, in four pictures."""
    frames = []
    for lift in (0, 14, 26, 14):
        frame = Image.new("RGB", (240, 180), WATER)
        draw = ImageDraw.Draw(frame)
        draw.rectangle((0, 120, 240, 180), fill=DEEP)
        draw.ellipse((70, 60, 190, 200), fill=STONE)
        draw.ellipse((90, 30, 160, 100), fill=STONE)
        draw.ellipse((105, 55, 113, 63), fill=INK)
        draw.ellipse((135, 55, 143, 63), fill=INK)
        draw.ellipse((118, 70, 132, 80), fill=INK)
        draw.ellipse((170, 100 - lift, 215, 122 - lift), fill=STONE)
        frames.append(frame)
    return _write(frames[0], "GIF", save_all=True, append_images=frames[1:], duration=160, loop=0)


def _write(image: Image.Image, form: str, **more: object) -> bytes:
    out = BytesIO()
    image.save(out, form, **more)
    return out.getvalue()


async def add_library(loader: Loader, scope: Scope, now: datetime) -> None:
    """Three files, each with what it shows."""
    for content, declared, name, description in (
        (draw_map(), "image/png", "Step-free map", "The way without steps: from the side entrance with the lift past the jellyfish to the reef"),
        (draw_seal(), "image/gif", "Waving seal", "A grey seal looks out of the water and waves a flipper"),
        (PRICES.encode(), "text/plain", "Prices", "Day tickets, families, groups and evenings"),
    ):  # fmt: skip
        await library.add_file(
            loader.house, scope, content=content, declared=declared, name=name, description=description, now=now
        )
