"""What the application's own database role may do: everything its work needs, and nothing that would undo a record.

The role is no superuser and owns nothing: it cannot switch triggers off, copy from a program, truncate, or make tables.  Of append-only
tables (those with the trigger of :mod:`.appendonly`) it may read and add rows; of those whose rows stay, change what is not set yet; of
tables that only the owner writes it may read.  The owner's role migrates, backs up and restores.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from psycopg import sql

from fieldtally.server.hosting.place import APPLICATION

if TYPE_CHECKING:
    import psycopg

OWNERS_OWN = ("django_migrations",)
GROWING = """
    SELECT c.relname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid
    WHERE t.tgname = %s ORDER BY c.relname
"""


class NotLess(Exception):
    """The application's role may do more than it should, and its owner may not take it away: a sentence."""


def grant(there: psycopg.Connection, password: str) -> None:
    """Make the application's role on the database ``there`` is connected to as its owner, and let it do its work.

    :raises NotLess: it may do more.
    """
    role = sql.Identifier(APPLICATION)
    told = there.execute(
        "SELECT rolsuper OR rolreplication OR rolbypassrls FROM pg_roles WHERE rolname = %s", [APPLICATION]
    ).fetchone()
    if told and told[0]:
        raise NotLess(
            f"The role {APPLICATION} may do more than serve; take superuser, replication and bypassrls from it."
        )
    if told is None:
        there.execute(sql.SQL("CREATE ROLE {} NOSUPERUSER NOREPLICATION NOBYPASSRLS").format(role))
    # An owner that is no superuser may change no more than this of a role.
    there.execute(
        sql.SQL("ALTER ROLE {} WITH LOGIN NOCREATEDB NOCREATEROLE NOINHERIT PASSWORD {}").format(
            role, sql.Literal(password)
        )
    )
    (name,) = there.execute("SELECT current_database()").fetchone() or ("",)
    growing, staying = (
        [table for (table,) in there.execute(GROWING, [trigger]).fetchall()] for trigger in ("append_only", "set_once")
    )
    steps: list[sql.Composable] = [
        sql.SQL("REVOKE ALL ON DATABASE {} FROM PUBLIC").format(sql.Identifier(name)),
        sql.SQL("GRANT CONNECT ON DATABASE {} TO {}").format(sql.Identifier(name), role),
        sql.SQL("REVOKE ALL ON SCHEMA public FROM PUBLIC"),
        sql.SQL("GRANT USAGE ON SCHEMA public TO {}").format(role),
        sql.SQL("REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {}").format(role),
        sql.SQL("GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {}").format(role),
        sql.SQL("GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {}").format(role),
        sql.SQL("REVOKE ALL ON ALL FUNCTIONS IN SCHEMA public FROM PUBLIC"),
        *[sql.SQL("REVOKE UPDATE, DELETE ON {} FROM {}").format(sql.Identifier(one), role) for one in growing],
        *[sql.SQL("REVOKE DELETE ON {} FROM {}").format(sql.Identifier(one), role) for one in staying],
        *[
            sql.SQL("REVOKE INSERT, UPDATE, DELETE ON {} FROM {}").format(sql.Identifier(one), role)
            for one in OWNERS_OWN
        ],
        *[
            sql.SQL("GRANT EXECUTE ON FUNCTION {}(bigint, uuid[]) TO {}").format(sql.Identifier(function), role)
            for function in ("only_ones_own", "erase_trials")
        ],
    ]
    for step in steps:
        there.execute(step.as_bytes(there))
