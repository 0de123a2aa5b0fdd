"""Tables that only ever grow, and rows of which parts are set once: the database itself refuses the rest, whoever asks."""

from collections.abc import Sequence

from django.db.migrations import RunSQL

REFUSAL = RunSQL(
    """
    CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
    BEGIN
      RAISE EXCEPTION '% is append-only: % refused', TG_TABLE_NAME, TG_OP USING ERRCODE = 'integrity_constraint_violation';
    END $$;
    """,
    "DROP FUNCTION refuse_change();",
)
SET_ONCE = RunSQL(
    """
    CREATE FUNCTION refuse_rewriting() RETURNS trigger LANGUAGE plpgsql AS $$
    DECLARE
      was jsonb := to_jsonb(OLD);
      comes jsonb := to_jsonb(NEW);
      asked text;
      field text;
    BEGIN
      FOREACH asked IN ARRAY TG_ARGV LOOP
        field := ltrim(asked, '=<');
        CONTINUE WHEN was -> field IS NOT DISTINCT FROM comes -> field;
        CONTINUE WHEN left(asked, 1) <> '=' AND coalesce(was ->> field, '') = '';
        CONTINUE WHEN left(asked, 1) = '<' AND (comes ->> field)::timestamptz < (was ->> field)::timestamptz;
        RAISE EXCEPTION '%.% is set once: UPDATE refused', TG_TABLE_NAME, field USING ERRCODE = 'integrity_constraint_violation';
      END LOOP;
      RETURN NEW;
    END $$;
    """,
    "DROP FUNCTION refuse_rewriting();",
)


def append_only(table: str) -> RunSQL:
    """The migration step that makes ``table`` append-only; needs :data:`REFUSAL` before it."""
    return RunSQL(
        f"""
        CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON {table}
          FOR EACH ROW EXECUTE FUNCTION refuse_change();
        CREATE TRIGGER append_only_whole BEFORE TRUNCATE ON {table}
          FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
        """,
        f"DROP TRIGGER append_only ON {table}; DROP TRIGGER append_only_whole ON {table};",
    )


def set_once(table: str, once: Sequence[str], *, frozen: Sequence[str] = ()) -> RunSQL:
    """The migration step that lets the columns ``once`` of ``table`` be set once (``<column``: and moved to an earlier moment), its columns
    ``frozen`` never change, and none of its rows go; needs :data:`REFUSAL` and :data:`SET_ONCE` before it."""
    columns = ", ".join([f"'{name}'" for name in once] + [f"'={name}'" for name in frozen])
    return RunSQL(
        f"""
        CREATE TRIGGER set_once BEFORE UPDATE ON {table}
          FOR EACH ROW EXECUTE FUNCTION refuse_rewriting({columns});
        CREATE TRIGGER set_once_kept BEFORE DELETE ON {table}
          FOR EACH ROW EXECUTE FUNCTION refuse_change();
        CREATE TRIGGER set_once_whole BEFORE TRUNCATE ON {table}
          FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
        """,
        f"DROP TRIGGER set_once ON {table}; DROP TRIGGER set_once_kept ON {table}; DROP TRIGGER set_once_whole ON {table};",
    )
