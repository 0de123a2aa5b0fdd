"""Append-only tables let rows go in one case alone: where somebody's whole account is erased, in a transaction that says so."""

from django.db import migrations

REFUSE = """
    CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
    BEGIN
      {erasing}
      RAISE EXCEPTION '% is append-only: % refused', TG_TABLE_NAME, TG_OP USING ERRCODE = 'integrity_constraint_violation';
    END $$;
"""
LET_GO = "IF TG_OP = 'DELETE' AND current_setting('fieldtally.erasing', true) = 'account' THEN RETURN OLD; END IF;"


class Migration(migrations.Migration):
    dependencies = [("people", "0004_access_token")]
    operations = [migrations.RunSQL(REFUSE.format(erasing=LET_GO), REFUSE.format(erasing=""))]
