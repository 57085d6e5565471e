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


def test_no_source_points_to_a_document_that_is_not_here() -> None:
    named: dict[str, set[str]] = {}
    for folder in ("sorta", "tests", "docs", "demo", "bench", "outside", "dev", "web/src", "texts"):
        for path in (ROOT / folder).rglob("*"):
            if path.suffix in (".py", ".md", ".ts", ".vue", ".css", ".sql"):
                for name in re.findall(r"(?<![\w/.-])((?:docs/)?[\w-]+\.md)\b", path.read_text()):
                    named.setdefault(name, set()).add(str(path.relative_to(ROOT)))
    there = {str(p.relative_to(ROOT)) for p in ROOT.glob("docs/**/*.md")} | {p.name for p in ROOT.glob("*.md")}
    beside = {
        name for name, where in named.items() if any((ROOT / one).parent.joinpath(name).exists() for one in where)
    }
    assert {name: where for name, where in named.items() if name not in there | beside} == {}


def test_a_name_is_one_class_in_the_core() -> None:
    """CONTRIBUTING.md: who reads a name in the core knows which class it is."""
    found: dict[str, list[str]] = {}
    for path in (ROOT / "sorta" / "core").glob("*.py"):
        for name in re.findall(r"^class (\w+)", path.read_text(), re.MULTILINE):
            found.setdefault(name, []).append(path.name)
    assert {name: where for name, where in found.items() if len(where) > 1} == {}
