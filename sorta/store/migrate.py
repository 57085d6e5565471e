"""Runs the migrations, forward only, and knows whether they are all there. Used by main."""

from pathlib import Path

import psycopg
from yoyo import get_backend, read_migrations

FOLDER = Path(__file__).parent / "migrations"


def apply_migrations(conninfo: str) -> int:
    """Apply what is missing, as the owning role; the number of files applied."""
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
    return count


#: The names of all migrations in this version.
EXPECTED = sorted(path.stem for path in FOLDER.glob("*.sql"))
