"""What a PostgreSQL needs before Sorta's tables can be made: roles, and a database of their own. Used by main and by the project's own
clusters.

The owner migrates; the web process and the worker have what `sorta_app` has, which nobody signs in as and which row-level security binds;
`sorta_search` owns what has to look past it. `sorta_backup` reads everything, for copies, and changes nothing.
"""

from collections.abc import Mapping

from psycopg import sql

#: Those who sign in.
ROLES = ("sorta_owner", "sorta_web", "sorta_worker", "sorta_backup")


def list_role_statements(passwords: Mapping[str, str]) -> list[sql.Composed]:
    """Make the roles where they are not there, with these passwords; safe to run again, as an administrator of the cluster."""
    made = [
        sql.SQL("do {}").format(
            sql.Literal(
                f"begin if not exists (select from pg_roles where rolname = '{role}') then create role {role}; end if; end"
            )
        )
        for role in ("sorta_app", "sorta_search", *ROLES)
    ]
    given = [
        sql.SQL("alter role {} login password {}").format(sql.Identifier(role), sql.Literal(passwords[role]))
        for role in ROLES
    ]
    bound = [
        sql.SQL(text).format()
        for text in (
            "alter role sorta_app nologin",
            "alter role sorta_search nologin bypassrls",
            "grant sorta_app to sorta_web, sorta_worker",
            "grant sorta_search to sorta_owner",
            "alter role sorta_backup bypassrls",
            "grant pg_read_all_data to sorta_backup",
        )
    ]
    return made + given + bound


def list_database_statements() -> list[sql.Composed]:
    """What a new database of the owner's needs, run in it as an administrator."""
    return [
        sql.SQL("create extension if not exists btree_gin").format(),
        sql.SQL("alter schema public owner to sorta_owner").format(),
    ]


def write_script(passwords: Mapping[str, str], database: str) -> str:
    """All of it as a script for psql."""
    name = sql.Identifier(database)
    create = sql.SQL("create database {} owner sorta_owner encoding 'UTF8' locale 'C.UTF-8' template template0").format(
        name
    )
    lines = [
        "-- Run once by an administrator of the PostgreSQL: sudo -u postgres psql -f - < database.sql",
        "\\set ON_ERROR_STOP on",
        *(f"{statement.as_string(None)};" for statement in list_role_statements(passwords)),
        # psql runs what a query gives back: there is no 'if not exists' for databases.
        f"select {sql.Literal(create.as_string(None)).as_string(None)} where not exists "
        f"(select from pg_database where datname = {sql.Literal(database).as_string(None)})\\gexec",
        f"\\connect {name.as_string(None)}",
        *(f"{statement.as_string(None)};" for statement in list_database_statements()),
    ]
    return "\n".join(lines) + "\n"
