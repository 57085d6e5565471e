"""A copy of everything but the keys in one file, and the way back from it. PostgreSQL's own programs do the database's part. Used by
installing.

The file is a tar: `manifest.json` says what it is, `database.dump` is the database at one instant, `files/` what was sent along.
"""

import hashlib
import json
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

import psycopg
from psycopg import sql
from psycopg.conninfo import conninfo_to_dict

from sorta.store.keyring import Keyring
from sorta.store.migrate import EXPECTED, SchemaNewer

MANIFEST, DUMP, FILES = "manifest.json", "database.dump", "files"
_FORM = 1
_AT_ONCE = 1 << 20
#: What libpq's programs read from their surroundings: an address on a command line can be read by everybody on the machine.
_PG = {"host": "PGHOST", "port": "PGPORT", "user": "PGUSER", "password": "PGPASSWORD", "dbname": "PGDATABASE"}


class NoCopy(Exception):
    """The copy cannot be made or brought back; the message says why. Nothing was changed."""


@dataclass(frozen=True, kw_only=True)
class Manifest:
    """What a copy is: of when, by which migrations it was made, whose keys open what is in it, and what it must add up to."""

    at: datetime
    migrations: list[str]
    #: What each key is called (see `Keyring.list_pads`): a key is known by it and cannot be had from it.
    keys: list[str]
    sha256: str
    files: int

    @classmethod
    def read(cls, told: Mapping[str, Any]) -> "Manifest":
        """From its JSON. Raises NoCopy."""
        try:
            if told["form"] != _FORM:
                raise NoCopy("This copy was made by a newer Sorta. Bring it back with that one.")
            return cls(
                at=datetime.fromisoformat(told["at"]),
                migrations=[str(name) for name in told["migrations"]],
                keys=[str(key) for key in told["keys"]],
                sha256=str(told["sha256"]),
                files=int(told["files"]),
            )
        except (KeyError, TypeError, ValueError) as error:
            raise NoCopy(f"Its manifest cannot be read ({error}).") from error

    def write(self) -> bytes:
        """As JSON."""
        told = {
            "form": _FORM,
            "at": self.at.isoformat(),
            "migrations": self.migrations,
            "keys": self.keys,
            "sha256": self.sha256,
            "files": self.files,
        }
        return json.dumps(told, indent=1).encode()


def name_keys(keys: Keyring) -> list[str]:
    """What a copy calls these keys."""
    return [name for name, *_ in keys.list_pads()]


def _run(program: str, conninfo: str, *arguments: str) -> None:
    told = conninfo_to_dict(conninfo)
    environment = {**os.environ, **{_PG[name]: str(value) for name, value in told.items() if name in _PG}}
    if shutil.which(program) is None:
        raise NoCopy(f"{program} is not installed; Debian's package postgresql-client has it.")
    done = subprocess.run([program, "--no-password", *arguments], env=environment, capture_output=True, text=True)
    if done.returncode:
        raise NoCopy(f"{program} says: {done.stderr.strip() or done.returncode}")


def _sum(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def back_up(conninfo: str, files: Path | None, keys: Keyring, folder: Path, now: datetime) -> Path:
    """Write a copy into a folder, to be read by nobody else, as the role that may read everything; its path. A file half written is
    never called by its name. Raises NoCopy, OSError."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    target = folder / f"sorta-{now:%Y%m%dT%H%M%SZ}.tar"
    with tempfile.TemporaryDirectory(dir=folder, prefix=".making-") as making:
        dump, whole = Path(making) / DUMP, Path(making) / "whole.tar"
        _run("pg_dump", conninfo, "--format=custom", f"--file={dump}")
        with psycopg.connect(conninfo) as conn:
            migrations = [name for (name,) in conn.execute("select migration_id from _yoyo_migration order by 1")]
        # What is added while this is written belongs to nothing in the dump; what goes meanwhile was let go.
        sent = sorted(path for path in files.rglob("*") if path.is_file()) if files and files.is_dir() else []
        whole.touch(mode=0o600)
        with tarfile.open(whole, "w") as tar:
            kept = 0
            tar.add(dump, DUMP)
            for path in sent:
                try:
                    tar.add(path, f"{FILES}/{path.relative_to(files or path)}", recursive=False)
                except FileNotFoundError:
                    continue
                kept += 1
            manifest = Manifest(
                at=now, migrations=migrations, keys=name_keys(keys), sha256=_sum(dump), files=kept
            ).write()
            told = Path(making) / MANIFEST
            told.write_bytes(manifest)
            tar.add(told, MANIFEST)
        with whole.open("rb+") as file:
            os.fsync(file.fileno())
        whole.rename(target)
    return target


def prune(folder: Path, keep: int) -> list[Path]:
    """Remove the oldest copies beyond so many; which."""
    gone = sorted(folder.glob("sorta-*T*Z.tar"))[: -keep or None] if keep > 0 else []
    for path in gone:
        path.unlink()
    return gone


def _open(copy: Path) -> tarfile.TarFile:
    try:
        return tarfile.open(copy, "r:")
    except (OSError, tarfile.TarError) as error:
        raise NoCopy(f"{copy} cannot be read as a copy: {error}") from error


def read_manifest(copy: Path) -> Manifest:
    """What a copy is. Raises NoCopy."""
    with _open(copy) as tar:
        try:
            member = tar.extractfile(MANIFEST)
        except (KeyError, tarfile.TarError) as error:
            raise NoCopy(f"{copy} is no copy of Sorta, or only part of one: it has no {MANIFEST}.") from error
        if member is None:
            raise NoCopy(f"{copy} is no copy of Sorta: its {MANIFEST} is no file.")
        try:
            return Manifest.read(json.loads(member.read()))
        except ValueError as error:
            raise NoCopy(f"Its manifest cannot be read ({error}).") from error


def check_fits(manifest: Manifest, keys: Keyring) -> None:
    """Whether this version and these keys can use a copy. Raises SchemaNewer, NoCopy."""
    if unknown := sorted(set(manifest.migrations) - set(EXPECTED)):
        raise SchemaNewer(
            f"The copy was made by a newer Sorta (it has {unknown[-1]}, which this one does not know). Nothing was changed."
        )
    if not set(manifest.keys) & set(name_keys(keys)):
        raise NoCopy(
            "The copy was made with other keys: without them no token in it can be read. Put them into the keys file, below the new"
            " one if there is one, and run `sorta seal` afterwards."
        )


def restore(copy: Path, conninfo: str, files: Path | None, keys: Keyring) -> Manifest:
    """Bring a copy back into a database that is empty, as its owner, and its files into their folder. The database is filled in one
    transaction. Raises NoCopy, SchemaNewer, OSError."""
    manifest = read_manifest(copy)
    check_fits(manifest, keys)
    with psycopg.connect(conninfo) as conn:
        row = conn.execute("select count(*) from pg_tables where schemaname = 'public'").fetchone()
    if row != (0,):
        raise NoCopy("The database is not empty. A copy is brought back into a new one; nothing was changed.")
    place = Path(tempfile.mkdtemp(prefix="sorta-restore-"))
    try:
        with _open(copy) as tar:
            tar.extract(DUMP, place, filter="data")
        if _sum(place / DUMP) != manifest.sha256:
            raise NoCopy("The copy is damaged: its database does not add up to what its manifest says.")
        with _let_search_own(conninfo):
            _run(
                "pg_restore",
                conninfo,
                "--single-transaction",
                "--exit-on-error",
                "--no-comments",
                f"--dbname={conninfo_to_dict(conninfo).get('dbname')}",
                str(place / DUMP),
            )
        _bring_back_files(copy, files)
    except tarfile.TarError as error:
        raise NoCopy(f"The copy is damaged: {error}") from error
    finally:
        shutil.rmtree(place, ignore_errors=True)
    return manifest


def settle_in(conninfo: str, at: datetime, now: datetime) -> None:
    """What has to be done in a database that has just been brought back, as its owner: it knows nothing of what came after its
    instant. Nothing goes out until a member has looked; nobody is signed in, and no link of a letter leads anywhere: sessions that
    were ended since, and links that were taken, would be alive again."""
    reason = f"brought back from a copy of {at:%d %b %Y %H:%M} UTC: what was done after it is not known here"
    with psycopg.connect(conninfo) as conn:
        conn.execute(
            "update workspace set held_at = %s, held_reason = %s where held_at is null",
            [now, reason],
        )
        for table in ("session", "password_link"):
            conn.execute(sql.SQL("delete from {}").format(sql.Identifier(table)))


@contextmanager
def _let_search_own(conninfo: str) -> Iterator[None]:
    """What looks past row-level security belongs to a role that may make nothing; it may while it is made."""
    with psycopg.connect(conninfo, autocommit=True) as conn:
        conn.execute("grant create on schema public to sorta_search")
        try:
            yield
        finally:
            conn.execute("revoke create on schema public from sorta_search")


def _bring_back_files(copy: Path, files: Path | None) -> None:
    with _open(copy) as tar:
        for member in tar:
            if member.name.startswith(f"{FILES}/") and member.isfile():
                if files is None:
                    raise NoCopy(
                        "The copy has files, and no folder is set for them: set SORTA_FILES, and bring it back into an empty database."
                    )
                member.name = member.name.removeprefix(f"{FILES}/")
                tar.extract(member, files, filter="data")
