"""What is sent is mail, and what comes from elsewhere is imported: tables and columns are called so."""

from django.db import migrations

from fieldtally.server.appendonly import set_once

FROZEN = ("id", "created_at", "origin")
BEFORE = set_once(
    "people_trial",
    ("sealed_at", "opened_at", "opened_by_id", "brought_at", "brought_by_id", "<started_at"),
    frozen=FROZEN,
)
AFTER = set_once(
    "people_trial",
    ("sealed_at", "opened_at", "opened_by_id", "imported_at", "imported_by_id", "<started_at"),
    frozen=FROZEN,
)


class Migration(migrations.Migration):
    dependencies = [("people", "0008_plan_seal")]
    operations = [
        migrations.RenameModel("Letter", "Mail"),
        migrations.RunSQL(BEFORE.reverse_sql or "", BEFORE.sql),
        migrations.RenameField("trial", "brought_at", "imported_at"),
        migrations.RenameField("trial", "brought_by", "imported_by"),
        AFTER,
    ]
