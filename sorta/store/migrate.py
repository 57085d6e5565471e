"""Runs the migrations, forward only, and knows whether they are all there. Used by main."""

from pathlib import Path

import psycopg
from yoyo import get_backend, read_migrations

from sorta.store.keyring import Keyring

FOLDER = Path(__file__).parent / "migrations"


class SchemaNewer(Exception):
    """The database was changed by a newer version than this one; the message says so."""


def apply_migrations(conninfo: str, keys: Keyring) -> int:
    """Apply what is missing, as the owning role, and let the database know what checks the passes that `keys` sign; the number
    of files applied. One process at a time does it; the others wait. Raises SchemaNewer before anything is touched."""
    _check_not_newer(conninfo)
    backend = get_backend(conninfo.replace("postgresql://", "postgresql+psycopg://"))
    try:
        with backend.lock():
            missing = backend.to_apply(read_migrations(str(FOLDER)))
            backend.apply_migrations(missing)
            count = len(missing)
    finally:
        backend.connection.close()
    with psycopg.connect(conninfo, autocommit=True) as conn:
        conn.execute("grant select on _yoyo_migration to sorta_app")
        with conn.transaction():
            conn.execute("delete from pass_key")
            conn.cursor().executemany("insert into pass_key values (%s, %s, %s)", keys.list_pads())
    return count


def _check_not_newer(conninfo: str) -> None:
    with psycopg.connect(conninfo) as conn:
        if conn.execute("select to_regclass('_yoyo_migration')").fetchone() == (None,):
            return
        applied = {id for (id,) in conn.execute("select migration_id from _yoyo_migration")}
    if unknown := sorted(applied - set(EXPECTED)):
        raise SchemaNewer(
            f"The database was made ready by a newer Sorta (it has {unknown[-1]}, which this one does not know). Nothing was changed;"
            " start the newer one, or bring back the copy that was made before it."
        )


#: The names of all migrations in this version.
EXPECTED = sorted(path.stem for path in FOLDER.glob("*.sql"))
