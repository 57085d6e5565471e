"""What the documents promise is there."""

import re
from pathlib import Path

from sorta.settings import Settings

ROOT = Path(__file__).parent.parent


def test_every_setting_is_documented() -> None:
    text = (ROOT / "CONTRIBUTING.md").read_text()
    for name in Settings.model_fields:
        assert f"`SORTA_{name.upper()}`" in text


def test_every_picture_is_linked_and_every_link_has_its_picture() -> None:
    text = (ROOT / "README.md").read_text()
    pictures = {f"docs/screenshots/{p.name}" for p in (ROOT / "docs" / "screenshots").glob("*.png")}
    linked = {part.split(")")[0] for part in text.split("](")[1:] if part.split(")")[0].endswith(".png")}
    assert pictures == linked


def test_every_test_that_the_threats_name_is_there() -> None:
    named = set(re.findall(r"`(tests/[^`]+)`", (ROOT / "docs" / "threats.md").read_text()))
    assert len(named) > 15
    assert [one for one in sorted(named) if not (ROOT / one).is_file()] == []
