"""What may be sent along with an answer: its real type, its size, its name. Used by services.attachments.

The type is read from the bytes, never believed. Archives are never taken, so nothing here is ever unpacked; an
image that would unfold to more than MOST_PIXELS is refused by its header, before it is decoded.
"""

from dataclasses import dataclass
from io import BytesIO

import filetype
import regex
from PIL import Image

from sorta.core.errors import Invalid, NoRoom

LARGEST = 10 * 2**20
MOST_PIXELS = 50_000_000
#: With one answer.
MOST = 4
#: Bytes that one member's files may have that no answer holds yet, and all files of a workspace.
MOST_PUT_BY, MOST_OF_WORKSPACE = 200 * 2**20, 20 * 2**30
LONGEST_NAME, LONGEST_DESCRIPTION = 120, 1000
#: Files that a workspace keeps to be sent again and again.
MOST_KEPT = 500

#: The types taken, each with the ending its name gets.
IMAGES = {"image/jpeg": ".jpg", "image/png": ".png", "image/gif": ".gif", "image/webp": ".webp"}
TYPES = {**IMAGES, "application/pdf": ".pdf", "text/plain": ".txt", "text/csv": ".csv"}
_NAMES = {
    "image/jpeg": "a JPEG picture",
    "image/png": "a PNG picture",
    "image/gif": "a GIF picture",
    "image/webp": "a WebP picture",
    "application/pdf": "a PDF",
    "text/plain": "plain text",
    "text/csv": "CSV",
}
_ENDINGS = {**{ending: kind for kind, ending in TYPES.items()}, ".jpeg": "image/jpeg"}
_TAKEN = "Images (JPEG, PNG, GIF, WebP), PDF, plain text and CSV can be sent."
_CONTROLS = regex.compile(r"[\p{Cc}\p{Cf}\p{Co}\p{Cs}/\\:*?\"<>|]")


@dataclass(frozen=True, kw_only=True)
class Checked:
    """A file as it will be sent: its type by its bytes, and a name that is safe everywhere."""

    media_type: str
    name: str


def check_room(size: int, *, put_by: int, in_workspace: int) -> None:
    """Raise NoRoom when a file of `size` bytes is one too many beside what the member has put by and what the workspace has."""
    if put_by + size > MOST_PUT_BY:
        raise NoRoom(
            f"You have {put_by // 2**20} MB of files beside answers that were not sent; {MOST_PUT_BY // 2**20} MB is the most. "
            "Send or take away some of them first."
        )
    if in_workspace + size > MOST_OF_WORKSPACE:
        raise NoRoom(
            f"The files of this workspace have come to {MOST_OF_WORKSPACE // 2**30} GB, the most that is kept. "
            "Tell whoever runs this installation."
        )


def check_file(content: bytes, declared: str, name: str) -> Checked:
    """The file's real type and a safe name.

    Raises Invalid (field `file`) when it is empty, too large, of a type that is not taken, or not what its declared
    type or its name's ending says.
    """
    if not content:
        raise Invalid("The file is empty.", "file")
    if len(content) > LARGEST:
        raise Invalid(f"A file can be {LARGEST // 2**20} MB large.", "file")
    told = declared.partition(";")[0].strip().lower()
    ending = (regex.search(r"\.\w+$", name) or [""])[0].lower()
    found = _sniff(content, told, ending)
    if found not in TYPES:
        raise Invalid(f"Files of this kind are not sent{f' ({found})' if found else ''}. {_TAKEN}", "file")
    if told not in ("", "application/octet-stream", found) and not (told == "image/jpg" and found == "image/jpeg"):
        raise Invalid(f"It calls itself {_NAMES.get(told, told)}, but is {_NAMES[found]}. Nothing was kept.", "file")
    if ending in _ENDINGS and _ENDINGS[ending] != found:
        raise Invalid(f"Its name ends in {ending}, but it is {_NAMES[found]}. Nothing was kept.", "file")
    if found in IMAGES:
        _check_image(content)
    return Checked(media_type=found, name=make_name(name, found))


def _sniff(content: bytes, told: str, ending: str) -> str:
    """The type by the bytes; text has no mark of its own and is text when nothing in it is not."""
    guessed = filetype.guess_mime(content)
    if guessed is not None:
        return str(guessed)
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return ""
    if regex.search(r"[\x00-\x08\x0e-\x1f\x7f]", text):
        return ""
    return "text/csv" if told == "text/csv" or ending == ".csv" else "text/plain"


def _check_image(content: bytes) -> None:
    """Raise Invalid for an image that cannot be read, or that is small as a file and enormous as a picture."""
    try:
        # Opening reads the header only; a picture is decoded by whoever shows it.
        with Image.open(BytesIO(content)) as image:
            width, height = image.size
            frames = getattr(image, "n_frames", 1)
    except Image.DecompressionBombError as error:
        raise Invalid("The picture is too large to be shown.", "file") from error
    except (OSError, ValueError, SyntaxError) as error:
        raise Invalid("The picture is broken: it cannot be read.", "file") from error
    # Small pictures may move for as long as they like: they are shown one frame at a time.
    if width * height * (frames if width * height > 4_000_000 else 1) > MOST_PIXELS:
        raise Invalid(f"The picture is too large to be shown: {width} by {height} pixels.", "file")


def make_name(name: str, media_type: str) -> str:
    """A name without folders, characters that file systems refuse, or ones that hide or turn others; its ending
    says what the file is."""
    last = regex.split(r"[/\\]", name)[-1]
    said = " ".join(_CONTROLS.sub("", last).split()).strip(". ")
    stem = regex.sub(r"\.\w{1,5}$", "", said)[:LONGEST_NAME].rstrip(". ")
    return (stem or "file") + TYPES[media_type]


def check_description(said: str) -> str:
    """What a file shows as it is kept, on one line; empty for nothing. Raises Invalid."""
    line = " ".join(regex.sub(r"\p{C}", " ", said).split())
    if len(line) > LONGEST_DESCRIPTION:
        raise Invalid(
            f"A description has at most {LONGEST_DESCRIPTION} characters; this one has {len(line)}.", "description"
        )
    return line


def check_kept(media_type: str, description: str) -> str:
    """The description of a file that is kept to be sent again and again: a picture has one. Raises Invalid."""
    line = check_description(description)
    if is_image(media_type) and not line:
        raise Invalid("Say what the picture shows: it goes along for whoever cannot see it.", "description")
    return line


def is_image(media_type: str) -> bool:
    """Whether it is shown as a picture."""
    return media_type in IMAGES
