"""Runs the migrations, forward only, and knows whether they are all there. Used by main."""

from pathlib import Path

import psycopg
from yoyo import get_backend, read_migrations

from sorta.store.keyring import Keyring

FOLDER = Path(__file__).parent / "migrations"


def apply_migrations(conninfo: str, keys: Keyring) -> int:
    """Apply what is missing, as the owning role, and let the database know what checks the passes that `keys` sign; the number
    of files applied."""
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


#: The names of all migrations in this version.
EXPECTED = sorted(path.stem for path in FOLDER.glob("*.sql"))
