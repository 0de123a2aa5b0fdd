"""Looks at the key, and all that is noted while preparing, stay on record."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("prepare", "0001_initial"), ("people", "0002_append_only")]
    operations = [
        append_only("prepare_keylook"),
        append_only("prepare_heldtick"),
        append_only("prepare_cycle"),
        append_only("prepare_pack"),
        append_only("prepare_mixtick"),
        append_only("prepare_application"),
    ]
