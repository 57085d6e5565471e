"""`make audit`: what the product stands on, each with its version's date, the newest there is, and whether it was withdrawn.

No database of advisories can be had offline; `npm audit` is asked where the registry answers it. Ends with 1 when something in
use was withdrawn or has a known advisory.
"""

import asyncio
import json
import os
import re
import subprocess
import sys
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx
from packaging.utils import (
    InvalidSdistFilename,
    InvalidWheelFilename,
    parse_sdist_filename,
    parse_wheel_filename,
)
from packaging.version import InvalidVersion, Version
from pip._internal.models.index import PyPI

ROOT = Path(__file__).resolve().parent.parent
JSON = {"Accept": "application/vnd.pypi.simple.v1+json"}


def read_locked(path: Path) -> dict[str, str]:
    """Package and version of each line of a lock file."""
    return dict(re.findall(r"^([a-z0-9][\w.-]*)==([^\s\\]+)", path.read_text(), flags=re.MULTILINE))


def get_index() -> str:
    """The index that pip is set to."""
    asked = subprocess.run(
        [sys.executable, "-m", "pip", "config", "get", "global.index-url"], capture_output=True, text=True
    )
    return (os.environ.get("PIP_INDEX_URL") or asked.stdout.strip() or PyPI.simple_url).rstrip("/")


async def look_up(client: httpx.AsyncClient, index: str, name: str, version: str) -> tuple[str, bool]:
    """A line about one package, and whether this version was withdrawn (PEP 592, PEP 700)."""
    try:
        answer = await client.get(f"{index}/{name}/", headers=JSON)
        answer.raise_for_status()
        files: list[dict[str, Any]] = answer.json()["files"]
    except (httpx.HTTPError, ValueError, KeyError) as error:
        return f"{name} {version}: the index does not say ({type(error).__name__})", False
    found: dict[Version, dict[str, Any]] = {}
    for file in files:
        with suppress(InvalidVersion, InvalidWheelFilename, InvalidSdistFilename):
            name_of = file["filename"]
            read = parse_wheel_filename if name_of.endswith(".whl") else parse_sdist_filename
            found.setdefault(read(name_of)[1], file)
    mine = found.get(Version(version))
    newest = max((v for v in found if not v.is_prerelease), default=Version(version))
    since = "" if newest <= Version(version) else f"; newest is {newest} of {_get_date(found[newest])}"
    withdrawn = bool(mine and mine.get("yanked"))
    return f"{name} {version} of {_get_date(mine)}{' WITHDRAWN' if withdrawn else ''}{since}", withdrawn


def _get_date(file: dict[str, Any] | None) -> str:
    return str((file or {}).get("upload-time") or "an unknown day")[:10]


async def audit_python() -> bool:
    """Print the product's Python packages; whether all is well."""
    index, locked = get_index(), read_locked(ROOT / "requirements.txt")
    async with httpx.AsyncClient(timeout=30, follow_redirects=True, limits=httpx.Limits(max_connections=8)) as client:
        lines = await asyncio.gather(*(look_up(client, index, name, version) for name, version in locked.items()))
    print(f"Python, {len(lines)} packages of the product:")
    for line, _ in lines:
        print(f"  {line}")
    return not any(withdrawn for _, withdrawn in lines)


def audit_web() -> bool:
    """Print what ships with the pages, and what `npm audit` says of it; whether all is well."""
    web = ROOT / "web"
    packages = json.loads((web / "package-lock.json").read_text())["packages"]
    shipped = {
        path.removeprefix("node_modules/"): entry["version"]
        for path, entry in packages.items()
        if path.count("node_modules/") == 1 and not entry.get("dev") and not entry.get("optional")
    }
    print(f"Web, {len(shipped)} packages that ship with the pages:")
    for name, version in sorted(shipped.items()):
        print(f"  {name} {version}")
    asked = subprocess.run(["npm", "audit", "--omit=dev", "--json"], cwd=web, capture_output=True, text=True)
    try:
        found = json.loads(asked.stdout)["metadata"]["vulnerabilities"]["total"]
    except (ValueError, KeyError):
        print("  The registry does not answer `npm audit`; nothing is known of advisories.")
        return True
    print(f"  `npm audit` knows of {found} advisories.")
    return found == 0


if __name__ == "__main__":
    python_is_well, web_is_well = asyncio.run(audit_python()), audit_web()
    sys.exit(0 if python_is_well and web_is_well else 1)
