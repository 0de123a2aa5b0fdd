"""A sealed plan stays as it is."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("plan", "0001_initial"), ("people", "0002_append_only")]
    operations = [
        append_only("plan_sealedplan"),
        append_only("plan_keyentry"),
        append_only("plan_prediction"),
        append_only("plan_amendment"),
        append_only("plan_shuffle"),
        append_only("plan_uncovered"),
    ]
