"""Which of Debian's Chromiums drives the pages: the one without a window where it is installed, else the whole one."""

import shutil


def find_browser() -> str:
    """The program's path. Ends with a sentence where there is none."""
    found = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    if found is None:
        raise SystemExit("Chromium is not installed; run `make setup` first.")
    return found
