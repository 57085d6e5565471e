"""An installation: made, upgraded, copied and brought back. Used by main.

Its folder (`/etc/sorta`) has what it is run with: `sorta.env` for everything, `web.env`, `worker.env` and `owner.env` with the address of
the database as each signs in to it, `keys`. systemd reads the `.env` files for the services; a command run by hand reads them here.
"""

import argparse
import contextlib
import os
import pwd
import re
import secrets
import shutil
import subprocess
import sys
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

import psycopg

from sorta.services.invitations import make_first
from sorta.settings import Settings
from sorta.store import backup
from sorta.store.backup import NoCopy
from sorta.store.keyring import Keyring, KeysUnfit, make_key
from sorta.store.migrate import SchemaNewer, apply_migrations
from sorta.store.provision import ROLES, write_script

FOLDER, STATE = Path("/etc/sorta"), Path("/var/lib/sorta")
#: Whom web and worker run as, where there is such a user.
USER = "sorta"
_SCRIPT = "database.sql"
#: Who needs which of the files, beside `sorta.env`.
_OWN = {
    "web": ("web.env",),
    **dict.fromkeys(("init", "migrate", "backup", "restore"), ("owner.env", "worker.env")),
}
_OTHERS = ("worker.env",)


def read_keys(settings: Settings) -> Keyring:
    """The installation's keys. Ends the process with a sentence where there are none."""
    try:
        return Keyring.read(settings.keys_file.read_text() if settings.keys_file else settings.keys)
    except (OSError, KeysUnfit) as error:
        raise SystemExit(f"Sorta cannot start without its keys. {error}") from None


def read_folder(folder: Path, command: str) -> bool:
    """Take the settings that a command needs from the installation's folder, where nobody has set them otherwise; whether there are
    any. Ends the process with a sentence where they may not be read."""
    if not (folder / "sorta.env").exists():
        return False
    for name in ("sorta.env", *_OWN.get(command, _OTHERS)):
        try:
            lines = (folder / name).read_text().splitlines()
        except FileNotFoundError:
            continue
        except PermissionError:
            raise SystemExit(f"{folder / name} cannot be read: run this as root.") from None
        for line in lines:
            key, is_set, value = line.partition("=")
            if is_set and not key.startswith("#"):
                os.environ.setdefault(key.strip(), value.strip())
    return True


def init(arguments: Sequence[str]) -> int:
    """Make an installation: its settings and keys in a folder, roles and database in a PostgreSQL, the schema, and the link by which the
    first Owner comes in. Safe to run again: what is there stays, and a new link takes the place of one that nobody has taken."""
    parser = argparse.ArgumentParser(prog="sorta init", description=init.__doc__)
    parser.add_argument("--folder", type=Path, default=FOLDER, help="where settings and keys are kept")
    parser.add_argument("--state", type=Path, default=STATE, help="where files that are sent along are kept")
    parser.add_argument("--address", help="where members will reach Sorta, such as https://desk.example.org")
    parser.add_argument("--postgres", default="127.0.0.1:5432", help="host and port of the PostgreSQL")
    parser.add_argument("--database", default="sorta", help="the name of the database")
    parser.add_argument("--by-hand", action="store_true", help="leave roles and database to an administrator")
    asked = parser.parse_args(arguments)
    if not (asked.folder / "sorta.env").exists():
        address = asked.address
        if address is None and sys.stdin.isatty():
            address = input("Where will members reach Sorta? (https://desk.example.org) ").strip()
        if not re.fullmatch(r"https?://[^\s/]+/?", address or ""):
            parser.error("--address says where members will reach Sorta, such as https://desk.example.org")
        _make_settings(asked.folder, asked.state, address or "", asked.postgres, asked.database)
        print(
            f"Settings and keys are in {asked.folder}. Keep a copy of both: without the keys no token can be read again."
        )
    if (asked.folder / _SCRIPT).exists() and not asked.by_hand:
        _make_database(asked.folder / _SCRIPT, asked.postgres)
    read_folder(asked.folder, "init")
    settings = Settings()
    owner = settings.owner_database
    assert owner is not None
    try:
        count = migrate(owner, settings)
    except psycopg.OperationalError as error:
        again = "" if asked.folder == FOLDER else f" --folder {asked.folder}"
        print(f"The database cannot be reached yet ({str(error).splitlines()[0]}).")
        print("An administrator of the PostgreSQL makes roles and database, and then this is run once more:")
        print(f"\n  sudo -u postgres psql -f - < {asked.folder / _SCRIPT}")
        print(f"  sorta init{again}\n")
        return 1
    (asked.folder / _SCRIPT).unlink(missing_ok=True)
    print(f"The database is ready ({count} migrations applied).")
    token = make_first(owner, datetime.now(UTC))
    if token is None:
        print("Somebody has an account already: who manages members invites others in Setup.")
        return 0
    print("Start Sorta, and open this link within a day, once, to make your organisation:")
    print(f"\n  {settings.address.rstrip('/')}/welcome/{token}\n")
    return 0


def _make_database(script: Path, postgres: str) -> None:
    """On a PostgreSQL of this machine root can be its administrator. Where that is not so the script waits for one."""
    host, _, port = postgres.rpartition(":")
    psql = shutil.which("psql")
    if os.geteuid() != 0 or host not in ("127.0.0.1", "localhost") or psql is None:
        return
    with contextlib.suppress(KeyError):
        pwd.getpwnam("postgres")
        command = ["runuser", "-u", "postgres", "--", psql, "-q", "-p", port, "-d", "postgres", "-f", "-"]
        done = subprocess.run(command, input=script.read_text(), capture_output=True, text=True, cwd="/")
        if done.returncode == 0:
            print(f"Roles and database are made in the PostgreSQL at {postgres}.")
        else:
            print(f"Roles and database could not be made from here: {done.stderr.strip()}")


def migrate(conninfo: str, settings: Settings) -> int:
    """Apply what is missing; how many. Ends the process with a sentence where the database is ahead of this version."""
    try:
        return apply_migrations(conninfo, read_keys(settings))
    except SchemaNewer as error:
        raise SystemExit(str(error)) from None


def _make_settings(folder: Path, state: Path, address: str, postgres: str, database: str) -> None:
    """New settings, keys and the script for the database. Web and worker read what is for all and the keys, by the group of their user
    where there is one; the addresses of the database nobody but root, who starts them."""
    folder.mkdir(mode=0o750, parents=True, exist_ok=True)
    passwords = {role: secrets.token_urlsafe(24) for role in ROLES}

    def connect(role: str) -> str:
        return f"postgresql://{role}:{passwords[role]}@{postgres}/{database}"

    common = [
        "# Settings of Sorta; all there are stand in CONTRIBUTING.md.",
        f"SORTA_ADDRESS={address.rstrip('/')}",
        f"SORTA_KEYS_FILE={folder / 'keys'}",
        f"SORTA_FILES={state / 'files'}",
        "# The TLS proxy on this machine says where a request came from.",
        "SORTA_TRUSTED_PROXIES=127.0.0.1",
    ]
    owner = [f"SORTA_OWNER_DATABASE={connect('sorta_owner')}", f"SORTA_BACKUP_DATABASE={connect('sorta_backup')}"]
    for name, mode, lines in (
        ("keys", 0o640, [make_key()]),
        (_SCRIPT, 0o600, [write_script(passwords, database).rstrip()]),
        ("web.env", 0o600, [f"SORTA_DATABASE={connect('sorta_web')}"]),
        ("worker.env", 0o600, [f"SORTA_DATABASE={connect('sorta_worker')}"]),
        ("owner.env", 0o600, owner),
        ("sorta.env", 0o640, common),
    ):
        path = folder / name
        path.touch(mode=0o600)
        path.write_text("\n".join(lines) + "\n")
        path.chmod(mode)
    (state / "files").mkdir(mode=0o700, parents=True, exist_ok=True)
    _give(folder, group_only=True)
    for name in ("keys", "sorta.env"):
        _give(folder / name, group_only=True)
    for path in (state, state / "files"):
        _give(path)


def _give(path: Path, *, group_only: bool = False) -> None:
    """To the user that Sorta runs as, where there is one."""
    with contextlib.suppress(KeyError):
        if os.geteuid() == 0:
            shutil.chown(path, None if group_only else pwd.getpwnam(USER).pw_uid, pwd.getpwnam(USER).pw_gid)


def back_up(arguments: Sequence[str]) -> int:
    """Write a copy of the database and of the files into a folder, while people work. The keys are not in it: keep them elsewhere."""
    parser = argparse.ArgumentParser(prog="sorta backup", description=back_up.__doc__)
    parser.add_argument("to", type=Path, nargs="?", default=STATE / "copies", help="the folder")
    parser.add_argument("--keep", type=int, default=0, help="remove the oldest copies in it beyond so many")
    asked = parser.parse_args(arguments)
    settings = Settings()
    source = settings.backup_database
    if source is None:
        raise SystemExit("SORTA_BACKUP_DATABASE says as whom everything is read; `sorta init` sets it.")
    try:
        copy = backup.back_up(source, settings.files, read_keys(settings), asked.to, datetime.now(UTC))
    except (NoCopy, OSError, psycopg.Error) as error:
        raise SystemExit(f"No copy was made. {error}") from None
    print(f"{copy}: {copy.stat().st_size:,} bytes")
    for path in backup.prune(asked.to, asked.keep):
        print(f"removed {path}")
    return 0


def settle_in(arguments: Sequence[str]) -> int:
    """What `restore` does at its end, for a database that was brought back to an instant in another way, by its write-ahead log: everything that goes out is held until somebody lets it go, and
    everybody signs in again."""
    parser = argparse.ArgumentParser(prog="sorta settle-in", description=settle_in.__doc__)
    parser.add_argument("at", type=datetime.fromisoformat, help="the instant, as 2026-11-28T03:17+00:00")
    at = parser.parse_args(arguments).at
    if at.tzinfo is None:
        parser.error("say the instant with its zone, as 2026-11-28T03:17+00:00")
    settings = Settings()
    if settings.owner_database is None:
        raise SystemExit("SORTA_OWNER_DATABASE says whose the database is; `sorta init` sets it.")
    try:
        backup.settle_in(settings.owner_database, at.astimezone(UTC), datetime.now(UTC))
    except psycopg.Error as error:
        raise SystemExit(f"Nothing was changed. {error}") from None
    print("Everything that goes out is held until somebody lets it go in Outgoing; everybody signs in again.")
    return 0


def restore(arguments: Sequence[str]) -> int:
    """Bring a copy back into an empty database, and its files. What happened after it was made is not in it: nothing goes out until
    somebody who may has looked and lets it, in Outgoing; everybody signs in again."""
    parser = argparse.ArgumentParser(prog="sorta restore", description=restore.__doc__)
    parser.add_argument("copy", type=Path)
    asked = parser.parse_args(arguments)
    settings = Settings()
    owner, keys, now = settings.owner_database, read_keys(settings), datetime.now(UTC)
    if owner is None:
        raise SystemExit("SORTA_OWNER_DATABASE says whose the database is; `sorta init` sets it.")
    try:
        manifest = backup.restore(asked.copy, owner, settings.files, keys)
        count = migrate(owner, settings)
        backup.settle_in(owner, manifest.at, now)
    except (NoCopy, SchemaNewer, OSError, psycopg.Error) as error:
        raise SystemExit(f"The copy was not brought back. {error}") from None
    if settings.files is not None and settings.files.exists():
        for path in (settings.files, *settings.files.rglob("*")):
            _give(path)
    print(
        f"Brought back as of {manifest.at:%d %b %Y %H:%M:%S} UTC, with {manifest.files} files ({count} migrations applied)."
    )
    print(
        "What was done after that is not known here. Everything that goes out is held until somebody lets it go in Outgoing:"
    )
    print("what stands there as waiting may have gone out; a network that keeps our keys has each once all the same.")
    return 0
