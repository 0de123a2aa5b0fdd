"""Tables that only ever grow: the database itself refuses UPDATE, DELETE and TRUNCATE on them, whoever asks."""

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
