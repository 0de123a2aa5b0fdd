"""Tables that get another name: their rows, triggers and rights stay, and so do the functions of the database that name them."""

from collections.abc import Mapping

from django.db.migrations import RunSQL

NAMING = ("only_ones_own", "erase_trials")
"""Functions whose text names tables and columns."""


def renamed(tables: Mapping[str, str]) -> RunSQL:
    """The migration step that renames ``tables`` (old name to new), with what counts their rows and the functions that name them."""
    forth = "\n".join(_one(old, new) for old, new in tables.items())
    back = "\n".join(_one(new, old) for old, new in tables.items())
    return RunSQL(forth, back)


def retold(old: str, new: str) -> str:
    """SQL that writes the word ``new`` for ``old`` in the functions that name tables and columns; their owner and rights stay."""
    names = ", ".join(f"'{name}'" for name in NAMING)
    return f"""
    DO $do$
    DECLARE told text;
    BEGIN
      FOR told IN SELECT pg_get_functiondef(p.oid) FROM pg_proc p
        JOIN pg_namespace n ON n.oid = p.pronamespace WHERE n.nspname = 'public' AND p.proname IN ({names}) LOOP
        EXECUTE regexp_replace(told, '\\m{old}\\M', '{new}', 'g');
      END LOOP;
    END $do$;
    """  # noqa: S608 - made of names in this code alone


def _one(old: str, new: str) -> str:
    return f"""
    ALTER TABLE {old} RENAME TO {new};
    ALTER SEQUENCE IF EXISTS {old}_id_seq RENAME TO {new}_id_seq;
    {retold(old, new)}
    """
